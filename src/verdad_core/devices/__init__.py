"""The device families, those with linear equations first. To add one, add its module's FAMILY here."""

from __future__ import annotations

from verdad_core.devices import (
    behavioural,
    bipolar,
    capacitor,
    controlled,
    diode,
    inductor,
    jfet,
    line,
    mosfet,
    nullor,
    power_mosfet,
    resistor,
    sources,
    switch,
    tabulated,
    transfer,
)
from verdad_core.devices.base import Control, Element, Family, Parameter

FAMILIES: tuple[Family, ...] = (
    resistor.FAMILY,
    capacitor.FAMILY,
    inductor.FAMILY,
    # A coupling reads its windings' inductances, so it comes after them.
    inductor.COUPLING,
    sources.VOLTAGE,
    sources.CURRENT,
    nullor.FAMILY,
    controlled.VOLTAGE,
    controlled.CURRENT,
    transfer.VOLTAGE,
    transfer.CURRENT,
    tabulated.VOLTAGE,
    tabulated.CURRENT,
    line.FAMILY,
    controlled.POLYNOMIAL_VOLTAGE,
    controlled.POLYNOMIAL_CURRENT,
    behavioural.VOLTAGE,
    behavioural.CURRENT,
    behavioural.QUANTITY,
    behavioural.DERIVATIVE,
    behavioural.INTEGRAL,
    switch.FAMILY,
    switch.SMOOTH_FAMILY,
    diode.FAMILY,
    bipolar.FAMILY,
    jfet.FAMILY,
    mosfet.FAMILY,
    power_mosfet.FAMILY,
)

#: How many families, the first ones, have linear equations.
LINEAR = sum(family.linear for family in FAMILIES)

FAMILY_OF: dict[str, Family] = {family.name: family for family in FAMILIES}

__all__ = ["FAMILIES", "FAMILY_OF", "LINEAR", "Control", "Element", "Family", "Parameter"]
