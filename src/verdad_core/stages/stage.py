"""What a ready stage is: parts with their nets, goal figures, and closed forms that turn goals into values."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from verdad_core.document.parts import Capacitor, Generic, Inductor, Modelled, ModelReference, Part, Resistor
from verdad_core.errors import BoardError, VerdadError
from verdad_core.handcalc.series import nearest
from verdad_core.units import format_value, parse_value, plain_value

Figures = Mapping[str, float]
Formula = Callable[[Figures], float]

_UNITS = {"R": "Ω", "C": "F", "L": "H"}
_VALUED: Mapping[str, Callable[..., Part]] = {"R": Resistor, "C": Capacitor, "L": Inductor}
#: The generic part that stands for an op-amp until a model is chosen.
OP_AMP = "opamp"


@dataclass(frozen=True)
class Goal:
    """A figure that is asked for: its symbol in the formulas, what it is, its unit, and where it starts."""

    symbol: str
    title: str
    unit: str
    default: str


@dataclass(frozen=True)
class Size:
    """How a part gets its value: the closed form as text and as a function of goals and of values found before it.

    A resistor of zero is a wire, and an infinite one is left out.
    """

    part: str
    formula: str
    function: Formula
    series: str


@dataclass(frozen=True)
class Result:
    """What the values that were chosen come to: the goal it is compared with, and the closed form."""

    symbol: str
    formula: str
    function: Formula

    @property
    def typed(self) -> str:
        """What it comes to, as one types a hand value: "1/(2*pi*R1*C1)" of "f = 1 / (2π R1 C1)"."""
        right = self.formula.split("=", 1)[1].strip().replace("2π", "2*pi").replace("√(", "sqrt(").replace("²", "^2")
        return re.sub(r"(?<=[\w)]) +(?=[\w(])", "*", right).replace(" / ", "/").replace(" · ", "*")


@dataclass(frozen=True)
class Switched:
    """A stage that sources switch: goals of input, output, load current and frequency by their symbols.

    `gates` are nets, each with whether it is high in the part of the period that the output is of the input, or in the
    rest. `shows` are measurements of the period that it settles to: of what, and by hand in goals and parts.
    """

    supply: str
    input: str
    output: str
    current: str
    frequency: str
    gates: tuple[tuple[str, bool], ...]
    #: Volts that are lost where a diode carries the current in the rest of the period.
    drop: float
    shows: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True)
class Stage:
    """A ready stage. `parts` are lines such as "R1 in fb" or "U1 opamp in+=p in-=out out=out v+=+5V v-=-5V",
    with settings as in "S1 smooth-switch a=in b=out control=on ron:10m".
    """

    key: str
    title: str
    group: str
    purpose: str
    parts: tuple[str, ...]
    goals: tuple[Goal, ...] = ()
    sizes: tuple[Size, ...] = ()
    results: tuple[Result, ...] = ()
    source: str = "any text on circuits"
    #: Where the signal comes in and goes out.
    input: str = "in"
    output: str = "out"
    #: What drives it, and which measurements of its frequency response show it: each with the goal that it is held to,
    #: "" for none. A stage without any has no bench.
    driven_by: Literal["voltage", "current"] = "voltage"
    shows: tuple[tuple[str, str], ...] = ()
    #: How it is switched, where it is.
    switched: Switched | None = None


@dataclass(frozen=True)
class Chosen:
    """A part's value: what the closed form gives, the nearest preferred value, and how far off that is in per cent."""

    part: str
    formula: str
    exact: float
    value: float
    deviation: float
    series: str
    unit: str


@dataclass(frozen=True)
class Reached:
    """A goal, what the chosen values make of it, and the difference in per cent."""

    symbol: str
    title: str
    formula: str
    unit: str
    wanted: float
    reached: float
    error: float


@dataclass(frozen=True)
class Computed:
    """A stage with its values; designators and nets are the stage's own."""

    parts: tuple[Part, ...]
    chosen: tuple[Chosen, ...]
    reached: tuple[Reached, ...]


def compute(
    stage: Stage, goals: Mapping[str, str], op_amp: ModelReference | None = None, roles: Sequence[str] = ()
) -> Computed:
    """The values of a stage for its goals, as typed; those not given start from their defaults.

    `op_amp` is a model with `roles` that takes the place of the generic one. Raises BoardError for a goal that is
    unknown or not above zero, and for goals that cannot be reached together.
    """
    figures: dict[str, float] = {}
    for goal in stage.goals:
        figures[goal.symbol] = _figure(goal, goals.get(goal.symbol, goal.default))
    if unknown := sorted(set(goals) - set(figures)):
        raise BoardError(f"{stage.title} has no goal '{unknown[0]}'", remedy=f"It has {', '.join(figures) or 'none'}.")
    chosen = []
    for size in stage.sizes:
        exact = _evaluated(size.function, figures)
        if size.part[0] == "R" and exact in (0.0, math.inf):
            figures[size.part] = exact
            continue
        if exact is None or not 0 < exact < math.inf:
            raise BoardError(
                f"{stage.title}: {size.formula} has no value above zero for these goals",
                remedy="They cannot be reached together: ask for less.",
            )
        preferred = nearest(exact, size.series)
        figures[size.part] = preferred.value
        unit = _UNITS[size.part[0]]
        chosen.append(
            Chosen(size.part, size.formula, exact, preferred.value, preferred.deviation, size.series, unit)
        )  # fmt: skip
    reached = []
    titles = {goal.symbol: goal for goal in stage.goals}
    for result in stage.results:
        value, goal = _evaluated(result.function, figures), titles[result.symbol]
        if value is None or not value > 0:
            raise BoardError(
                f"{stage.title}: with values that can be bought, {result.formula} has no value above zero",
                remedy="Ask for less, or build it from parts of a closer series.",
            )
        wanted = figures[goal.symbol]
        error = 100.0 * (value / wanted - 1.0)
        reached.append(Reached(goal.symbol, goal.title, result.formula, goal.unit, wanted, value, error))
    values = {size.part: plain_value(figures[size.part]) for size in stage.sizes if size.part in _bought(chosen)}
    lines = _connected(stage, {size.part: figures[size.part] for size in stage.sizes})
    return Computed(tuple(_part(line, values, op_amp, roles) for line in lines), tuple(chosen), tuple(reached))


def _bought(chosen: Sequence[Chosen]) -> set[str]:
    return {each.part for each in chosen}


def _connected(stage: Stage, values: Figures) -> list[str]:
    """The parts without resistors that are wires, whose nets become one, and without those that are left out."""
    lines, joined = [], dict[str, str]()
    for line in stage.parts:
        designator, *nets = line.split()
        if values.get(designator) == 0.0:
            one, other = nets[:2]
            joined |= {one: other} if other in (stage.input, stage.output, "gnd") else {other: one}
        elif values.get(designator) != math.inf:
            lines.append(line)
    return [" ".join(_renamed(word, joined) for word in line.split(" ")) for line in lines]


def _renamed(word: str, joined: Mapping[str, str]) -> str:
    pin, equals, net = word.rpartition("=")
    return f"{pin}{equals}{joined.get(net, net)}"


def _figure(goal: Goal, text: str) -> float:
    try:
        value = parse_value(text, goal.unit)
    except VerdadError as error:
        raise BoardError(f"{goal.title}: {error.message}", remedy=error.remedy) from error
    if not value > 0:
        raise BoardError(f"{goal.title} is {format_value(value, goal.unit)}; it must be above zero")
    return value


def _evaluated(function: Formula, figures: Figures) -> float | None:
    try:
        value = function(figures)
    except (ValueError, ZeroDivisionError, OverflowError):
        return None
    return float(value) if isinstance(value, float | int) and not math.isnan(value) else None


def _part(line: str, values: Mapping[str, str], op_amp: ModelReference | None, roles: Sequence[str]) -> Part:
    designator, *words = line.split()
    if designator[0] in _VALUED and "=" not in line:
        value = values.get(designator) or words[2]
        return _VALUED[designator[0]](designator=designator, pins=tuple(words[:2]), value=value)
    pins = dict(word.split("=") for word in words[1:] if "=" in word)
    if words[0] == OP_AMP and op_amp is not None:
        lonely = {role: f"{designator.lower()}-{role}" for role in roles if role not in pins}
        kept = {role: net for role, net in pins.items() if role in roles}
        return Modelled(designator=designator, model=op_amp, pins=kept | lonely)
    settings = dict(word.split(":") for word in words[1:] if ":" in word)
    return Generic(designator=designator, part=words[0], pins=pins, settings=settings)
