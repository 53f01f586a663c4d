"""The device families. Their order is the order of the rows in Structure.heads, and engine/load.py relies on it."""

from __future__ import annotations

from verdad_core.devices import bipolar, capacitor, controlled, diode, inductor, resistor, sources
from verdad_core.devices.base import Control, Element, Family, Parameter

FAMILIES: tuple[Family, ...] = (
    resistor.FAMILY,
    capacitor.FAMILY,
    inductor.FAMILY,
    sources.VOLTAGE,
    sources.CURRENT,
    controlled.VOLTAGE,
    controlled.CURRENT,
    diode.FAMILY,
    bipolar.FAMILY,
)

FAMILY_OF: dict[str, Family] = {family.name: family for family in FAMILIES}

__all__ = ["FAMILIES", "FAMILY_OF", "Control", "Element", "Family", "Parameter"]
