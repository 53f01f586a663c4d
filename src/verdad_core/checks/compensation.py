"""Ways to give a loop more phase margin: what each adds to the circuit, and the values with which it is enough.

The ways are common practice of board design, no source; which of them serves, and with what values, is not taken from a
rule of thumb but found by running the loop, as drawn and with its real bias and load, at preferred values (IEC 60063).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import count
from typing import Any

import numpy as np

from verdad_core.analyses.loop_gain import margins_of
from verdad_core.arrays import Floats
from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import Models
from verdad_core.checks.experiment import prepare
from verdad_core.checks.feedback import amplifiers
from verdad_core.checks.kinds.loop import LOOP, Loop
from verdad_core.checks.quantities import engine_key
from verdad_core.document.board import Board, Circuit
from verdad_core.document.parts import PART_UNITS, pins_of
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, Place
from verdad_core.handcalc.series import SERIES
from verdad_core.units import format_value, plain_value

#: Decades of values that are tried, from and to: ohms and farads.
_DECADES = {"resistor": (0, 4), "capacitor": (-12, -6)}
_LETTERS = {"resistor": "R", "capacitor": "C"}

#: What all that leads away from an amplifier's output is called, seen from its inside.
DRIVEN = "driven"
#: A net of the newcomers' own.
INNER = "inner"


@dataclass(frozen=True)
class Way:
    """One way: the parts that it adds, each with the two nets that it goes between.

    These are nets of the amplifier ("out", "in-", "in+"), "gnd", INNER, or DRIVEN, which takes the amplifier's output
    and, where `feedback` goes along, what leads from there to its inputs. `apart` where it needs something between
    output and inverting input. `spared` is the part with whose value one is sparing, and whether that means a large
    one.
    """

    key: str
    title: str
    meaning: str
    adds: tuple[tuple[str, str, str], ...]
    feedback: bool = False
    apart: bool = True
    spared: tuple[int, bool] = (0, False)


WAYS: dict[str, Way] = {
    way.key: way
    for way in (
        Way("series", "resistor between the output and its load",
            "The load's capacitance cannot turn the loop's phase any more; volts are lost on the resistor.",
            (("resistor", DRIVEN, "out"),), feedback=True, apart=False),
        Way("inner", "resistor at the output, capacitor from the output to in-",
            "As before, but feedback is taken behind the resistor: no volts are lost at low frequencies.",
            (("resistor", DRIVEN, "out"), ("capacitor", DRIVEN, "in-"))),
        Way("lead", "capacitor across the feedback",
            "Phase lead at the crossover, where a capacitance at in- has taken it; less bandwidth.",
            (("capacitor", "out", "in-"),)),
        Way("snubber", "resistor and capacitor from the output to ground",
            "Damps what an output and its load do together at high frequencies; takes power there.",
            (("resistor", "out", INNER), ("capacitor", INNER, "gnd")), apart=False, spared=(1, False)),
        Way("lag", "resistor and capacitor between the inputs",
            "Less loop gain at high frequencies, so that it crosses earlier; more noise there.",
            (("resistor", "in+", INNER), ("capacitor", INNER, "in-")), spared=(0, True)),
    )
}  # fmt: skip


@dataclass(frozen=True)
class Compensated:
    """The board with a way in it, what that is in words, and the phase margin in degrees that it leaves."""

    board: Board
    words: str
    margin: float


def ways_for(circuit: Circuit, around: str) -> list[Way]:
    """The ways that fit a loop opened at a pin of an amplifier."""
    nets = _nets(circuit, around)
    return [way for way in WAYS.values() if nets and (nets["out"] != nets["in-"] or not way.apart)]


def compensated(board: Board, check_id: str, around: str, wanted: float, key: str, models: Models) -> Compensated:
    """The board with a way in it, at the most sparing values that leave the wanted phase margin in degrees.

    Of two parts the other one has the value that leaves most. Where none is enough, those that leave most are taken.
    Raises BoardError where the way does not fit, or no value makes the loop stable.
    """
    circuit, _ = board.check(check_id)
    way = next((way for way in ways_for(circuit, around) if way.key == key), None)
    if way is None:
        raise BoardError(f"there is no such way at {around}", remedy="Choose another one.")
    loop = Loop(around=around)
    taken = {part.designator for each in board.circuits for part in each.parts}
    added = _added(circuit, around, way, taken)
    changed, grid = _with(board, circuit, way, added), _grid(added)
    # What the check itself adds for its run stays out: the loop as it is loaded is to be mended.
    changed_circuit, changed_check = changed.check(check_id)
    asked = changed_check.model_copy(update={"analysis": loop, "measurements": (), "cards": ()})
    experiment = prepare(changed_circuit, asked, models, nets=())
    columns = {engine_key(changed_circuit, asked, each.name): grid[:, k] for k, each in enumerate(added)}
    margins = np.array([
        _margin(result.signals.others[LOOP].along().values, result.signals.others[LOOP].values)
        if result.cause is Cause.NUMBER and result.signals is not None else np.nan
        for result in experiment.rows(ParameterMatrix.varied(experiment.structure, columns))
    ])  # fmt: skip
    if not np.any(np.isfinite(margins)):
        raise BoardError(
            "no value of it leaves a margin", place=Place(part=around.partition(".")[0]), remedy="Try another way."
        )
    best = _best(grid, margins, wanted, *way.spared)
    values = [plain_value(float(value)) for value in grid[best]]
    words = ", ".join(
        f"{each.name} = {format_value(float(value), PART_UNITS[each.kind], 3)} from {each.nets[0]} to {each.nets[1]}"
        for each, value in zip(added, grid[best], strict=True)
    )
    if margins[best] < wanted:
        words += f"; no value leaves the {wanted:g}° that are wanted"
    return Compensated(_with(board, circuit, way, added, values), words, float(margins[best]))


@dataclass(frozen=True)
class _Added:
    """A part that is to come, and the pins of others that move to its first net."""

    name: str
    kind: str
    nets: tuple[str, str]
    moves: frozenset[str] = frozenset()


def _nets(circuit: Circuit, around: str) -> dict[str, str] | None:
    """The nets of the amplifier whose pin that is."""
    designator, _, pin = around.partition(".")
    part = next((part for part in circuit.parts if part.designator == designator), None)
    unit = pin.rpartition(".")[0]
    return amplifiers(part).get(designator + unit) if part is not None else None


def _added(circuit: Circuit, around: str, way: Way, taken: set[str]) -> list[_Added]:
    """What a way adds, under designators that are not `taken` and with nets of their own."""
    nets = dict(_nets(circuit, around) or {})
    used = {net for part in circuit.parts for net in pins_of(part).values()}
    fresh = (f"n{k}" for k in count(1) if f"n{k}" not in used)
    found, driven = [], ""
    for kind, first, second in way.adds:
        for own in (first, second):
            if own not in nets and own != "gnd":
                nets[own] = next(fresh)
        name = next(f"{_LETTERS[kind]}{k}" for k in count(1) if f"{_LETTERS[kind]}{k}" not in taken)
        taken.add(name)
        moves = frozenset[str]()
        if DRIVEN in nets and not driven:
            driven = nets[DRIVEN]
            moves = _moving(circuit, around, nets, way.feedback)
        found.append(_Added(name, kind, (nets.get(first, "gnd"), nets.get(second, "gnd")), moves))
    return found


def _moving(circuit: Circuit, around: str, nets: dict[str, str], feedback: bool) -> frozenset[str]:
    """The pins that stay at the amplifier's side of a resistor: its output, and what leads back to its inputs."""
    designator, _, pin = around.partition(".")
    unit = pin.rpartition(".")[0]
    dotted = f"{designator}.{unit}." if unit else f"{designator}."
    moving = {f"{dotted}out"}
    if not feedback:
        return frozenset(moving)
    if nets["in-"] == nets["out"]:
        moving.add(f"{dotted}in-")
    leads = _leading(circuit, nets["in-"], {nets["out"], "gnd"})
    for part in circuit.parts:
        pins = pins_of(part)
        if len(pins) == 2 and nets["out"] in pins.values() and leads & set(pins.values()):
            moving |= {f"{part.designator}.{name}" for name, net in pins.items() if net == nets["out"]}
    return frozenset(moving)


def _leading(circuit: Circuit, start: str, ends: set[str]) -> set[str]:
    """The nets from which parts with two pins lead to a net, without going through any of `ends`."""
    found, pending = set[str](), [start]
    while pending:
        net = pending.pop()
        if net in ends or net in found:
            continue
        found.add(net)
        for part in circuit.parts:
            on = list(pins_of(part).values())
            if len(on) == 2 and net in on:
                pending += on
    return found


def _grid(added: Sequence[_Added]) -> Floats:
    """The values that are tried [rows, parts]: closer together for one part than for two."""
    series = SERIES["E12" if len(added) == 1 else "E3"]
    axes = [
        np.array([float(f"{value:g}e{decade}") for decade in range(*_DECADES[each.kind]) for value in series])
        for each in added
    ]  # fmt: skip
    return np.stack([axis.ravel() for axis in np.meshgrid(*axes, indexing="ij")], axis=1)


def _margin(frequency: Floats, values: Any) -> float:
    smallest = margins_of(frequency, np.asarray(values, complex)).phase_margin
    # A loop whose gain never comes to 1 cannot turn against itself.
    return smallest.margin if smallest is not None else 180.0


def _best(grid: Floats, margins: Floats, wanted: float, spared: int, large: bool) -> int:
    """Of the rows that leave enough those with the most sparing value, and of these the one that leaves most."""
    known = np.where(np.isfinite(margins), margins, -np.inf)
    enough = np.flatnonzero(known >= wanted)
    if not len(enough):
        return int(np.argmax(known))
    values = grid[enough, spared]
    sparing = enough[values == (values.max() if large else values.min())]
    return int(max(sparing, key=lambda row: known[row]))


def _with(
    board: Board, circuit: Circuit, way: Way, added: Sequence[_Added], values: Iterable[str] | None = None
) -> Board:  # fmt: skip
    """The board with the parts in it; its drawing is left out, as it does not show them."""
    moves = {pin: each.nets[0] for each in added for pin in each.moves}

    def moved(document: dict[str, Any]) -> dict[str, Any]:
        name, pins = document["designator"], document["pins"]
        if isinstance(pins, dict):
            return document | {"pins": {role: moves.get(f"{name}.{role}", net) for role, net in pins.items()}}
        return document | {"pins": [moves.get(f"{name}.{k}", net) for k, net in enumerate(pins, 1)]}

    starting = [plain_value(10.0 ** _DECADES[each.kind][0]) for each in added]
    newcomers = [
        {"kind": each.kind, "designator": each.name, "value": value, "pins": list(each.nets)}
        for each, value in zip(added, values or starting, strict=True)
    ]
    document = board.model_dump(mode="json")
    for told in document["circuits"]:
        if told["id"] == circuit.id:
            told["parts"] = [*map(moved, told["parts"]), *newcomers]
            told["drawing"] = None
    return Board.model_validate(document)
