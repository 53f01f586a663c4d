"""What differs from unit to unit in a check: the board's spreads, resolved to quantities of the check."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from verdad_core.checks.elaborate import Models
from verdad_core.checks.error_sources import amount_of, errors_of
from verdad_core.checks.quantities import TEMPERATURE, Quantity, quantities, quantity
from verdad_core.document.board import Board, Circuit
from verdad_core.document.checks import Check
from verdad_core.document.parts import Modelled, Valued
from verdad_core.errors import BoardError, Place
from verdad_core.qualification.datasheet import DataSheetLine
from verdad_core.spreads.amount import Amount
from verdad_core.spreads.spread import Spread
from verdad_core.spreads.variation import Variation
from verdad_core.units import PER_DEGREE


def spreads_of(board: Board, check: str) -> list[Spread]:
    """The spreads of parts of the check's circuit that have a value, and of what its own fixtures have.

    A source may have a waveform in one check and none in another: what a check's fixture has not does not vary there.
    Raises BoardError for what no check's fixture has.
    """
    circuit, own = board.check(check)
    valued = {part.designator for part in circuit.parts if getattr(part, "value", "given")}
    fixtures = {fixture.name for fixture in own.fixtures}
    found = []
    for spread in board.spreads:
        if spread.owner in valued or (spread.owner in fixtures and _has(circuit, own, spread.of)):
            found.append(spread)
        elif spread.owner in fixtures and not any(_has(*each, spread.of) for each in board.checks()):
            raise BoardError(
                f"a spread is given for {spread.of}, which no check has any more", place=Place(part=spread.owner),
                remedy="Take it away under Spreads, or give the fixture that quantity again.",
            )  # fmt: skip
    return found


def _has(circuit: Circuit, check: Check, name: str) -> bool:
    try:
        quantity(circuit, check, name)
    except BoardError:
        return False
    return True


def amounts_of(board: Board, check: str) -> list[tuple[Spread, tuple[Amount, ...]]]:
    """The same, each with how far it goes for every contribution. Raises ValueTextError for another unit's amount."""
    circuit, own = board.check(check)
    return [(spread, spread.amounts(_unit(circuit, own, spread.of))) for spread in spreads_of(board, check)]


def _unit(circuit: Circuit, check: Check, name: str) -> str:
    """The unit of a quantity; a model's parameters have none."""
    try:
        return quantity(circuit, check, name).unit
    except BoardError:
        return ""


def variations(board: Board, check: str, models: Models) -> list[Variation]:
    """The quantities of a check that vary. Raises BoardError for one that its part does not have."""
    circuit, own = board.check(check)
    found = [(spread, quantity(circuit, own, spread.of, models)) for spread in spreads_of(board, check)]
    return [Variation(spread, each.value, spread.amounts(each.unit)) for spread, each in found]


def variable(board: Board, models: Models) -> list[tuple[Circuit, Quantity]]:
    """All that can vary besides the values of parts: of fixtures and models, with the circuit where it is found."""
    found: dict[str, tuple[Circuit, Quantity]] = {}
    for circuit, check in board.checks():
        valued = {part.designator for part in circuit.parts if isinstance(part, Valued)}
        for each in quantities(circuit, check, models):
            if each.name not in valued and each.name != TEMPERATURE and each.value != 0.0:
                found.setdefault(each.name, (circuit, each))
        for part in circuit.parts:
            for name in errors_of(part) if isinstance(part, Modelled) else ():
                of = f"{part.designator}.{name}"
                found.setdefault(of, (circuit, quantity(circuit, check, of)))
        # A coefficient that nobody gave is none, and lies as far from it as the grade allows.
        for name in sorted(valued):
            found.setdefault(f"{name}.tempco", (circuit, quantity(circuit, check, f"{name}.tempco")))
    return list(found.values())


#: What a spread begins with where nothing says how far: per cent of a value, and about none what is to be changed.
_USUAL = {PER_DEGREE: "100ppm", "V": "±1mV", "A": "±1nA"}


def usual_amount(circuit: Circuit, varied: Quantity, sheets: Mapping[str, Sequence[DataSheetLine]]) -> str:
    """What the spread of a quantity begins with: by its model's data sheet, of lines by model, where that says so."""
    designator, _, error = varied.name.partition(".")
    part = next((part for part in circuit.parts if part.designator == designator), None)
    found = ""
    if isinstance(part, Modelled) and error in (known := errors_of(part)):
        found = amount_of(known[error], sheets.get(part.model.id, ()))
    around_none = varied.value == 0.0 or varied.unit == PER_DEGREE
    return found or (_USUAL.get(varied.unit, "5") if around_none else "5")
