"""The bench of a ready stage: what stands around it, the check that shows its goals, and limits on them."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from verdad_core.checks.kinds.frequency_response import FrequencyResponse
from verdad_core.checks.kinds.steady_state import SteadyStateCheck
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Load, Source, Supply
from verdad_core.document.measurements import RESPONSE, HandValue, Measurement
from verdad_core.document.parts import nets_of
from verdad_core.document.waveforms import Pulse
from verdad_core.measure.expressions import read_expression
from verdad_core.stages.stage import Computed, Stage, Switched
from verdad_core.units import parse_value, plain_value

#: Rails that say their own volts.
_RAIL = re.compile(r"([+-]\d+(?:\.\d+)?)V?")
#: How long an edge of a gate is, as a part of the period.
EDGE = 1e-3
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
    """A frequency response with supplies and a source, or the steady state of a stage that is switched.

    None for a stage that is shown otherwise.
    """
    asked = {goal.symbol: goals.get(goal.symbol, goal.default) for goal in stage.goals}
    if stage.switched is not None:
        return _switched(stage, stage.switched, asked)
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
    titles = {goal.symbol: goal.title for goal in stage.goals}
    limits = tuple(_held(key, titles[symbol], asked[symbol]) for key, symbol in stage.shows if symbol)
    return Bench(check, limits)


def _switched(stage: Stage, switched: Switched, asked: Mapping[str, str]) -> Bench:
    """The period that it settles to, with its supply, its load, and pulses that turn its switches over at once."""
    given = {symbol: parse_value(text) for symbol, text in asked.items()}
    volts, output = given[switched.input], given[switched.output]
    period = 1.0 / given[switched.frequency]
    duty = (output + switched.drop) / (volts + switched.drop)
    edge = _text(EDGE * period)
    times = {"rise": edge, "fall": edge, "width": _text((duty - EDGE) * period), "every": _text(period)}

    def gate(net: str, first: bool) -> Source:
        wave = Pulse(level="1" if first else "0", **times)
        return Source(name=f"{net}-gate", plus=net, dc="0" if first else "1", resistance="0", waveform=wave)

    load = Load(name="load", plus=stage.output, resistance=_text(output / given[switched.current]))
    fixtures = (
        Supply(name="supply", plus=switched.supply, volts=asked[switched.input]), load,
        *(gate(net, first) for net, first in switched.gates),
    )  # fmt: skip
    units = {goal.symbol: goal.unit for goal in stage.goals}
    measurements = tuple(
        Measurement(
            id=f"shown-{k}", key=key, of=of, hand=HandValue(formula=_filled_in(form, given, units), source=stage.source)
        )
        for k, (key, of, form) in enumerate(switched.shows, 1)
    )
    check = Check(
        id="bench", title=SteadyStateCheck.title, fixtures=fixtures, analysis=SteadyStateCheck(output=stage.output),
        measurements=measurements,
    )  # fmt: skip
    title = next(goal.title for goal in stage.goals if goal.symbol == switched.output)
    return Bench(check, (_held("shown-1", title, asked[switched.output]),))


def _text(number: float) -> str:
    """A number as one types it, to six digits."""
    return plain_value(float(f"{number:.6g}"))


def _filled_in(form: str, given: Mapping[str, float], units: Mapping[str, str]) -> str:
    """A formula with the goals' figures in it, and their units."""
    return re.sub(r"[A-Za-z]\w*", lambda m: f"{plain_value(given[m[0]])}{units[m[0]]}" if m[0] in given else m[0], form)


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
