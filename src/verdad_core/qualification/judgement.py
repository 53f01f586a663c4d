"""The bench's figures beside the data sheet's: which lines agree, which do not, and what the model leaves out."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from verdad_core.qualification.datasheet import DataSheetLine
from verdad_core.qualification.figures import Figure, FigureType, Standing


class Agreement(StrEnum):
    """How a figure of the model stands to the line of its data sheet."""

    AGREES = "agrees"
    OFF = "off"
    ABSENT = "absent from the model"
    UNKNOWN = "not found out"


@dataclass(frozen=True)
class Judgement:
    """One line judged: the deviation from the typical value in per cent (dB for a figure in dB), and why."""

    figure: str
    agreement: Agreement
    deviation: float | None
    reason: str


class Badge(StrEnum):
    """What the shelf says of a model in one line."""

    QUALIFIED = "qualified"
    NOT_QUALIFIED = "not qualified"
    CONTRADICTS = "contradicts its data sheet"


@dataclass(frozen=True)
class Summary:
    """The badge: how many lines of the data sheet agree, of how many."""

    badge: Badge
    agreeing: int
    lines: int

    @property
    def text(self) -> str:
        counted = f" ({self.agreeing} of {self.lines})" if self.lines else ""
        return f"{self.badge}{counted if self.badge is not Badge.NOT_QUALIFIED else ''}"


def judge(line: DataSheetLine, figure: Figure | None, kind: FigureType) -> Judgement:
    """One line: within its bounds where it has them, else near its typical value, as near as the figure's kind asks."""
    if figure is not None and figure.standing is Standing.ABSENT:
        return Judgement(line.figure, Agreement.ABSENT, None, figure.remark)
    if figure is None or figure.value is None:
        return Judgement(line.figure, Agreement.UNKNOWN, None, figure.remark if figure else "not measured")
    value = abs(figure.value) if kind.size else figure.value
    least, typical, most = (
        abs(bound) if kind.size and bound is not None else bound for bound in (line.least, line.typical, line.most)
    )
    if kind.size and least is not None and most is not None and least > most:
        least, most = most, least
    deviation = _deviation(value, typical, kind)
    if least is not None and value < least * (1 - 1e-9) - 1e-30:
        return Judgement(line.figure, Agreement.OFF, deviation, "below the data sheet's least value")
    if most is not None and value > most * (1 + 1e-9) + 1e-30:
        return Judgement(line.figure, Agreement.OFF, deviation, "above the data sheet's largest value")
    if deviation is not None and not (least is not None and most is not None):
        allowed = kind.decibels if kind.unit == "dB" else 100 * kind.share
        if abs(deviation) > allowed:
            unit = "dB" if kind.unit == "dB" else "%"
            return Judgement(
                line.figure, Agreement.OFF, deviation, f"more than {allowed:g} {unit} from the typical value"
            )
    return Judgement(line.figure, Agreement.AGREES, deviation, "")


def _deviation(value: float, typical: float | None, kind: FigureType) -> float | None:
    if typical is None:
        return None
    if kind.unit == "dB":
        return value - typical
    return 100 * (value / typical - 1) if typical else None


def judge_all(
    lines: Iterable[DataSheetLine], figures: Iterable[Figure], kinds: Mapping[str, FigureType]
) -> tuple[Judgement, ...]:  # fmt: skip
    """Every line whose figure the bench knows."""
    measured = {figure.key: figure for figure in figures}
    return tuple(judge(line, measured.get(line.figure), kinds[line.figure]) for line in lines if line.figure in kinds)


def summary(judgements: Iterable[Judgement] | None) -> Summary:
    """The badge for a model's judgements; None where the bench has not measured it as it now is.

    A model is qualified where nothing contradicts its data sheet and at least one line agrees.
    """
    every = list(judgements or ())
    agreeing = sum(judgement.agreement is Agreement.AGREES for judgement in every)
    if any(judgement.agreement is Agreement.OFF for judgement in every):
        return Summary(Badge.CONTRADICTS, agreeing, len(every))
    return Summary(Badge.QUALIFIED if agreeing else Badge.NOT_QUALIFIED, agreeing, len(every))
