"""Fresh checks: settings and measurements for a circuit as it is drawn, ready to run."""

from __future__ import annotations

from dataclasses import dataclass

from verdad_core.checks.kind import CheckKind
from verdad_core.checks.kinds import KINDS
from verdad_core.checks.outputs import outputs
from verdad_core.document.board import Board, Circuit
from verdad_core.document.checks import Check
from verdad_core.document.measurements import Measurement
from verdad_core.errors import VerdadError
from verdad_core.names import free_name

#: Questions of one kind that are listed.
MOST = 8


def fresh_measurements(kind: CheckKind) -> tuple[Measurement, ...]:
    """What a fresh check of the kind measures."""
    return tuple(
        Measurement(id=first.key.replace("_", "-"), key=first.key, of=first.of, settings=dict(first.settings))
        for first in kind.begins_with
    )


def fresh_check(board: Board, circuit: Circuit, kind: str, like: Check | None, which: int = 0) -> Check:
    """A new check of the kind, with the fixture and the temperature of another one where there is one.

    `which` is the question's number among those of its kind. Raises BoardError where the circuit cannot be asked that,
    with what is missing.
    """
    proposals = CheckKind.called(kind).proposals(circuit, like.fixtures if like else ())
    settings = proposals[min(which, len(proposals) - 1)]
    taken = {check.id for _, check in board.checks()}
    return Check(
        id=free_name(f"{circuit.id[:40]}-{kind.replace(' ', '-')}", taken, "-"),
        title=free_name(settings.title, {check.title for check in circuit.checks}, " "),
        fixtures=like.fixtures if like else (), temperature=like.temperature if like else "27", analysis=settings,
        measurements=fresh_measurements(settings),
    )  # fmt: skip


def of_kind(circuit: Circuit, check: Check, kind: str) -> Check:
    """The check given another kind; what only the former one could measure goes. Raises BoardError as a fresh one."""
    settings = CheckKind.called(kind).proposed(circuit, check.fixtures)
    lost = check.analysis.brings - settings.brings
    kept = tuple(measurement for measurement in check.measurements if measurement.of not in lost)
    taken = {measurement.id for measurement in kept}
    more = tuple(measurement for measurement in fresh_measurements(settings) if measurement.id not in taken)
    return check.model_copy(update={"analysis": settings, "measurements": (*kept, *more), "cards": None})


@dataclass(frozen=True)
class Question:
    """What a circuit can be asked, or what is missing for it; `which` counts those of one kind from 0."""

    kind: type[CheckKind]
    which: int
    words: str
    missing: str = ""


def questions(circuit: Circuit, check: Check | None) -> list[Question]:
    """Every question that this circuit can be asked, and of every kind at least one."""
    fixtures = check.fixtures if check else ()
    likely = next(iter(outputs(circuit, fixtures)), "")
    found: list[Question] = []
    for kind in KINDS:
        try:
            proposals = kind.proposals(circuit, fixtures)
            found += [Question(kind, k, kind.asked(settings, likely)) for k, settings in enumerate(proposals[:MOST])]
        except VerdadError as error:
            found.append(Question(kind, 0, kind.asked(None, likely), str(error)))
    return found
