"""The bench of a ready stage: what stands around it, the check that shows its goals, and limits on them."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from verdad_core.checks.kinds.frequency_response import FrequencyResponse
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Source, Supply
from verdad_core.document.measurements import RESPONSE, HandValue, Measurement
from verdad_core.document.parts import nets_of
from verdad_core.measure.expressions import read_expression
from verdad_core.stages.stage import Computed, Stage
from verdad_core.units import parse_value, plain_value

#: Rails that say their own volts.
_RAIL = re.compile(r"([+-]\d+(?:\.\d+)?)V?")
#: How far from its goal a stage may be, as a part of it.
WITHIN = 0.05


@dataclass(frozen=True)
class Held:
    """Bounds on a measurement of the bench's check, and the reason."""

    measurement: str
    lower: str
    upper: str
    reason: str


@dataclass(frozen=True)
class Bench:
    """A check around a stage, on its own nets, and what is held of it."""

    check: Check
    limits: tuple[Held, ...]


def bench_of(stage: Stage, computed: Computed, goals: Mapping[str, str]) -> Bench | None:
    """A frequency response with supplies and a source; None for a stage that is shown otherwise."""
    if not stage.shows:
        return None
    nets = dict.fromkeys(net for part in computed.parts for net in nets_of(part))
    rails = [(net, found[1]) for net in nets if (found := _RAIL.fullmatch(net))]
    supplies = [
        Supply(name="supply" if k == 1 else f"supply-{k}", plus=net, volts=volts)
        for k, (net, volts) in enumerate(rails, 1)
    ]
    source = Source(
        name="source", plus=stage.input, quantity=stage.driven_by, resistance="0",
        ac="1" if stage.driven_by == "voltage" else "1u",
    )  # fmt: skip
    fixtures: tuple[Fixture, ...] = (*supplies, source)
    forms = {result.symbol: result.typed for result in stage.results}
    measurements = tuple(
        Measurement(id=key.replace("_", "-"), key=key, of=RESPONSE, hand=_by_hand(stage, computed, forms.get(symbol)))
        for key, symbol in stage.shows
    )
    check = Check(
        id="bench", title=FrequencyResponse.title, fixtures=fixtures,
        analysis=FrequencyResponse(source="source", output=stage.output), measurements=measurements,
    )  # fmt: skip
    asked = {goal.symbol: (goal.title, goals.get(goal.symbol, goal.default)) for goal in stage.goals}
    limits = tuple(_held(key, *asked[symbol]) for key, symbol in stage.shows if symbol)
    return Bench(check, limits)


def _by_hand(stage: Stage, computed: Computed, formula: str | None) -> HandValue | None:
    """The closed form of a goal; None where there is none, or where a part of it became a wire or was left out."""
    if formula is None:
        return None
    placed = {part.designator for part in computed.parts}
    names = {probe.name for probe in read_expression(formula).probes}
    return HandValue(formula=formula, source=stage.source) if names <= placed else None


def _held(key: str, title: str, text: str) -> Held:
    goal = parse_value(text)
    lower, upper = (plain_value(float(f"{goal * side:.4g}")) for side in (1.0 - WITHIN, 1.0 + WITHIN))
    reason = f"the stage's goal, {title[0].lower()}{title[1:]} {text}, {100 * WITHIN:.0f} % either way"
    return Held(key.replace("_", "-"), lower, upper, reason)
