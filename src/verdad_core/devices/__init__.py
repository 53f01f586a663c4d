"""The device families, those with linear equations first. To add one, add its module's FAMILY here."""

from __future__ import annotations

from verdad_core.devices import bipolar, capacitor, controlled, diode, inductor, resistor, sources
from verdad_core.devices.base import Control, Element, Family, Parameter

FAMILIES: tuple[Family, ...] = (
    resistor.FAMILY,
    capacitor.FAMILY,
    inductor.FAMILY,
    # A coupling reads its windings' inductances, so it comes after them.
    inductor.COUPLING,
    sources.VOLTAGE,
    sources.CURRENT,
    controlled.VOLTAGE,
    controlled.CURRENT,
    diode.FAMILY,
    bipolar.FAMILY,
)

#: How many families, the first ones, have linear equations.
LINEAR = sum(family.linear for family in FAMILIES)

FAMILY_OF: dict[str, Family] = {family.name: family for family in FAMILIES}

__all__ = ["FAMILIES", "FAMILY_OF", "LINEAR", "Control", "Element", "Family", "Parameter"]
