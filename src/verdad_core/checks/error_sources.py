"""Errors of real parts that a maker's typical model does not have, written around it and leaving its text alone.

A part has each only where it is given (`Modelled.errors`): as an independent source whose value can be turned and
varied, handed to the pins by linear controlled sources. Signs are those of data sheets (common practice, no source): an
offset voltage adds to what is between in+ and in-, input currents flow into the pins, and an output's error adds to
what it gives.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from verdad_core.devices import Element
from verdad_core.devices.base import Control
from verdad_core.document.parts import Modelled, unit_names, unit_pins
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, Place
from verdad_core.qualification.datasheet import DataSheetLine
from verdad_core.units import format_value, parse_value

_INPUTS = frozenset({"in+", "in-"})


@dataclass(frozen=True)
class ErrorSource:
    """An error by its unit, where it belongs: volts in series with a pin, amperes out of the nets of some, each times a
    factor; and which line of a data sheet bounds it.
    """

    unit: str
    figure: str
    pins: Mapping[str, float]
    #: Pins without which, and pins with which, a part has no such error.
    needs: frozenset[str]
    without: frozenset[str] = frozenset()


ERROR_SOURCES: dict[str, ErrorSource] = {
    "offset-voltage": ErrorSource("V", "offset_voltage", {"in+": 1.0}, _INPUTS),
    "bias-current": ErrorSource("A", "bias_current", {"in+": 1.0, "in-": 1.0}, _INPUTS),
    "offset-current": ErrorSource("A", "offset_current", {"in+": 0.5, "in-": -0.5}, _INPUTS),
    "output-error": ErrorSource("V", "output_voltage", {"out": 1.0}, frozenset({"in", "out"}), _INPUTS),
}


def errors_of(part: Modelled) -> dict[str, ErrorSource]:
    """The errors that a part can have, by name; those of a unit in a package begin with its letter."""
    found = {}
    for unit in unit_names(part.units):
        roles = unit_pins(part.pins, unit).keys()
        for name, error in ERROR_SOURCES.items():
            if error.needs <= roles and not error.without & roles:
                found[f"{unit}.{name}" if unit else name] = error
    return found


def error_key(part: Modelled, name: str) -> tuple[str, str]:
    """The element and parameter that hold an error which the part is given."""
    return f"{part.designator}:{name}", "dc"


def amount_of(error: ErrorSource, lines: Sequence[DataSheetLine]) -> str:
    """How far an error lies by a data sheet, as a spread writes it; empty where no line bounds it."""
    line = next((line for line in lines if line.figure == error.figure), None)
    bounds = [bound for bound in (line.least, line.most) if bound is not None] if line is not None else []
    if line is None or not bounds:
        return ""
    if error.figure != "output_voltage":
        # Data sheets give the size of what may have either sign.
        return f"±{format_value(max(map(abs, bounds)), error.unit, 6)}"
    middle = line.typical if line.typical is not None else sum(bounds) / len(bounds)
    low, high = min(bounds) - middle, max(bounds) - middle
    return f"{low:+.6g}V {high:+.6g}V" if low < high else ""


def with_errors(part: Modelled, unit: str, nodes: Mapping[str, str]) -> tuple[dict[str, str], list[Element]]:
    """The nodes at which a unit's model is, by role, and the sources between them and the nets.

    Raises BoardError for an error that the part cannot have.
    """
    known = errors_of(part)
    if unknown := sorted(set(part.errors or ()) - known.keys()):
        raise BoardError(
            f"{part.designator} has no {unknown[0]}", place=Place(part=part.designator), remedy="Take it away."
        )
    inner, elements = dict(nodes), []
    for name, text in (part.errors or {}).items():
        if name.rpartition(".")[0] != unit:
            continue
        own, error = error_key(part, name)[0], known[name]
        elements.append(Element(own, "voltage source", (own, GROUND), {"dc": parse_value(text, error.unit)}))
        control = (Control(own, GROUND),)
        for pin, factor in error.pins.items():
            if error.unit == "A":
                ends = (inner[pin], GROUND)
                elements.append(Element(f"{own}:{pin}", "controlled current", ends, {"p1": factor}, control))
                continue
            behind = f"{own}:{pin}"
            # What the part gives lies above what its model gives, and what its model gets above what comes to its pin.
            ends = (inner[pin], behind) if pin == "out" else (behind, inner[pin])
            elements.append(Element(f"{behind}:volts", "controlled voltage", ends, {"p1": factor}, control))
            inner[pin] = behind
    return inner, elements
