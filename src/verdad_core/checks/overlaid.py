"""What was measured, over what a check computes: its traces at the run's own frequencies, and curves for both."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping

import numpy as np

from verdad_core.checks.analyser import ports_of
from verdad_core.checks.cards import cards_of
from verdad_core.checks.kind import kind_of
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CardCurve, CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.overlays import Overlay
from verdad_core.errors import BoardError
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import HERTZ, NONE
from verdad_core.units import parse_value

#: What is no larger than this was measured as nothing.
_NOTHING = 1e-20

#: How tall a card becomes whose curves have measured ones beside them, in pixels.
_TALL = 440.0


def overlaid(check: Check, axis: Axis | None, others: Mapping[str, Trace]) -> dict[str, Trace]:
    """Traces of the check's overlays along an axis of frequencies, each called like lab.s21; none along another one.

    Between its points decibels and degrees go straight over the logarithm of the frequency, as those of tables in the
    engine do; beyond them it has no numbers. Its unit is that of the trace which it was measured of.
    """
    if axis is None or axis.unit != HERTZ:
        return {}
    found = {}
    for overlay in check.overlays:
        x, own = np.log(np.maximum(axis.values, 1e-300)), np.log(overlay.frequency)
        for name in overlay.real:
            values = overlay.values(name)
            logarithm = np.log(np.maximum(np.abs(values), _NOTHING)), np.unwrap(np.angle(values))
            size, angle = (np.interp(x, own, part, left=np.nan, right=np.nan) for part in logarithm)
            unit = others[name].unit if name in others else NONE
            found[f"{overlay.name}.{name}"] = Trace(np.exp(size + 1j * angle), unit, axis)
    return found


def with_overlay(circuit: Circuit, check: Check, overlay: Overlay) -> Check:
    """The check with a measured response, its curves on the cards beside what they are measured of.

    Raises BoardError for a check that does not run over frequency.
    """
    axis = kind_of(check).axis(circuit, check)
    if axis is None or axis.unit != HERTZ:
        raise BoardError(
            f"'{check.title}' does not run over frequency", remedy="Lay it over a response, a loop or S-parameters."
        )
    ports = ports_of(check)
    ohms = {str(port.number): parse_value(port.impedance) for port in ports if not parse_value(port.reactance)}
    cards = tuple(_with_curves(card, overlay, ohms) for card in cards_of(circuit, check))
    return check.model_copy(update={"overlays": (*check.overlays, overlay), "cards": cards})


def without_overlay(check: Check, name: str) -> Check:
    """The check without a measured response, and without the curves that speak of it."""
    cards = None if check.cards is None else tuple(
        card.model_copy(update={"curves": tuple(c for c in card.curves if not speaks_of(c.expression, name))})
        for card in check.cards
    )  # fmt: skip
    overlays = tuple(each for each in check.overlays if each.name != name)
    return check.model_copy(update={"overlays": overlays, "cards": cards})


def _with_curves(card: CheckCard, overlay: Overlay, ohms: Mapping[str, float]) -> CheckCard:
    """A card with the measured curve beside each of which there is one, and below them how far these lie apart.

    On the chart of impedances each curve is told in ohms at its own place in the second pane: `ohms` are those of the
    ports by their numbers. Where not all are told so already, or a port has a reactance, the measured ones are not.
    """
    if card.shape == "smith":
        names = [c.expression for c in card.curves if c.pane == 0 and c.expression in overlay.real]
        drawn = [CardCurve(expression=f"{overlay.name}.{name}") for name in names]
        paired = len(names) * 2 == len(card.curves) and all(name[-1] in ohms for name in names)
        seen = [
            CardCurve(expression=f"{ohms[name[-1]]:g}*(1+{overlay.name}.{name})/(1-{overlay.name}.{name})", pane=1)
            for name in (names if paired else ())
        ]
        return _grown(card, [*drawn, *seen])
    if card.shape != "axis":
        return card
    both = [(c, _measured(c.expression, overlay)) for c in card.curves]
    known = [(c, m) for c, m in both if m != c.expression]
    beside = [CardCurve(expression=m, pane=c.pane) for c, m in known]
    last = max((c.pane for c in card.curves), default=0)
    apart = [CardCurve(expression=f"{c.expression}-{m}", pane=last + 1) for c, m in known if "db(" in c.expression]
    taller = card.model_copy(update={"height": card.height or _TALL}) if beside else card
    return _grown(taller, [*beside, *(apart if last < 7 else [])])


def _grown(card: CheckCard, curves: Iterable[CardCurve]) -> CheckCard:
    return card.model_copy(update={"curves": (*card.curves, *curves)})


def _measured(expression: str, overlay: Overlay) -> str:
    """The expression with what was measured in the place of what is simulated."""
    names = "|".join(sorted(map(re.escape, overlay.real), key=len, reverse=True))
    return re.sub(rf"(?<![\w.])({names})(?![\w.(])", rf"{overlay.name}.\1", expression)


def speaks_of(expression: str, name: str) -> bool:
    """Whether an expression looks at an overlay of that name."""
    return re.search(rf"(?<![\w.]){re.escape(name)}\.", expression) is not None
