"""A model put through the bench of its kind, experiment by experiment; one that fails does not stop the others."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial

from verdad_core.errors import ConvergenceError, Finding, Severity, VerdadError
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.model import Model
from verdad_core.qualification import bipolar, comparator, diode, field_effect, op_amp, passive, three_terminal
from verdad_core.qualification.conditions import conditions_for
from verdad_core.qualification.experiment import Experiment, Subject
from verdad_core.qualification.figures import Card, Figure, FigureType, Outcome

BENCHES: dict[str, tuple[Experiment, ...]] = {
    "op-amp": op_amp.EXPERIMENTS, "comparator": comparator.EXPERIMENTS, "diode": diode.EXPERIMENTS,
    "clamp": diode.EXPERIMENTS, "bipolar": bipolar.EXPERIMENTS, "jfet": field_effect.JFET,
    "mosfet": field_effect.MOSFET, "reference": three_terminal.EXPERIMENTS,
    "regulator": three_terminal.EXPERIMENTS, "switch": passive.SWITCH, "transformer": passive.TRANSFORMER,
}  # fmt: skip


def figure_types(kind: str) -> dict[str, FigureType]:
    """The figures that a kind's bench measures, by key."""
    return {figure.key: figure for experiment in BENCHES.get(kind, ()) for figure in experiment.figures}


@dataclass(frozen=True)
class Measured:
    """All that a bench brought, in the order of its experiments."""

    figures: tuple[Figure, ...]
    cards: tuple[Card, ...]
    findings: tuple[Finding, ...]

    def figure(self, key: str) -> Figure | None:
        return next((figure for figure in self.figures if figure.key == key), None)


#: Counts up when a bench measures otherwise than before.
BENCH_VERSION = 2

#: Seconds that one experiment may take.
PATIENCE = 20.0


class _Look:
    """Ends an experiment that takes too long, or that nobody waits for any more."""

    def __init__(self, report: Callable[[], None]) -> None:
        self.report = report
        self.began = time.monotonic()

    def __call__(self, _: float) -> None:
        self.report()
        if time.monotonic() - self.began > PATIENCE:
            raise ConvergenceError(
                f"it was ended after {PATIENCE:g} s",
                remedy="A model with very fast and very slow parts, or one that oscillates, takes this long.",
            )


#: Told before each experiment, and at the end: how many are done, of how many, and what comes next.
Progress = Callable[[int, int, str], None]


def measure(
    model: Model, kind: str, given: Mapping[str, float] | None = None, progress: Progress = lambda *_: None
) -> Measured:
    """Run the bench of a kind. An experiment that cannot be carried out leaves a finding and what it had found.

    Raises BoardError for conditions that are out of bounds and for pins that the kind needs and the model lacks; what
    `progress` raises ends the bench.
    """
    missing = [role for role in KINDS[kind].roles if role not in model.roles]
    conditions = conditions_for(kind, given or {})
    experiments = BENCHES.get(kind, ())
    figures: list[Figure] = []
    cards: list[Card] = []
    findings: list[Finding] = []
    if missing and experiments:
        findings.append(
            Finding(
                Severity.ERROR,
                f"the bench of a {KINDS[kind].title} needs the pin {missing[0]}, which {model.name} does not have",
                remedy="Give that role to one of its nodes, or choose another kind.",
            )
        )
        experiments = ()
    try:
        model.check()
    except VerdadError as error:
        findings.append(Finding.of(error))
        experiments = ()
    for done, experiment in enumerate(experiments):
        progress(done, len(experiments), experiment.title)
        outcome, look = Outcome(), _Look(partial(progress, done, len(experiments), experiment.title))
        try:
            experiment.run(Subject(model, kind, conditions, look), outcome)
        except VerdadError as error:
            message = f"{experiment.title}: {error.message}"
            findings.append(Finding(Severity.WARNING, message, error.place, error.remedy))
        except ArithmeticError:
            message = f"{experiment.title}: the model gives values with which nothing can be computed"
            remedy = "Look for zeros and for very large numbers in its text, and at its pins."
            findings.append(Finding(Severity.WARNING, message, remedy=remedy))
        for figure in experiment.figures:
            if not any(found.key == figure.key for found in outcome.figures):
                outcome.failed(figure.key, f"the experiment on {experiment.title} did not get there")
        figures += outcome.figures
        cards += outcome.cards
        findings += outcome.findings
    progress(len(experiments), len(experiments), "")
    return Measured(tuple(figures), tuple(cards), tuple(findings))
