"""A check's circuit compiled for the engine; where only values were turned, what was compiled before serves again."""

from __future__ import annotations

from collections.abc import Callable, Collection

from verdad_core.checks.elaborate import Models, elaborate, value_key
from verdad_core.checks.kind import kind_of
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Supply
from verdad_core.document.parts import Valued
from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.units import parse_value

#: Makes the structure of a check, with meters in some pins.
Compiler = Callable[[Circuit, Check, Models, Collection[str]], Structure]


def compiled(circuit: Circuit, check: Check, models: Models, metered: Collection[str] = ()) -> Structure:
    """The circuit of a check at its temperature, `metered` as in `elaborate`. Raises a VerdadError."""
    kind = kind_of(check)
    elements = kind.changed(elaborate(circuit, check, models, metered))
    return turned(compile_structure(elements, lenient=kind.moves), circuit, check)


def turned(structure: Structure, circuit: Circuit, check: Check) -> Structure:
    """What was compiled for an equal `keys.shape_key`, with the values that parts, supplies and the check have now."""
    values = {value_key(part): parse_value(part.value) for part in circuit.parts if isinstance(part, Valued)}
    supplies = (fixture for fixture in check.fixtures if isinstance(fixture, Supply))
    values |= {(supply.name, "dc"): parse_value(supply.volts) for supply in supplies}
    return structure.with_values(values | {AMBIENT_KEY: parse_value(check.temperature)})
