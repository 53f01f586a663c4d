"""Subcircuits expanded: cards of a scope to flat elements with names such as `u1.q3` and nodes such as `u1.12`."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from importlib import resources
from itertools import pairwise

from verdad_core.devices.base import NOMINAL_CELSIUS, ZERO_CELSIUS, Control, Element
from verdad_core.devices.trade import TRADE
from verdad_core.devices.transfer import Polynomials
from verdad_core.devices.waveforms import PWL, Waveform, completed
from verdad_core.errors import NetlistError
from verdad_core.netlist.around import around, written_for
from verdad_core.netlist.behaviour import compile_program
from verdad_core.netlist.cards import Card
from verdad_core.netlist.cards.card import Behaviour, Tabulated, Transfer, Wave
from verdad_core.netlist.expressions import DELAY, INTEGRAL, Call, Expression, Name, Node, Number, Probe, Value
from verdad_core.netlist.following import following, varies, with_meters
from verdad_core.netlist.merging import merge
from verdad_core.netlist.models import ModelCard, is_none, with_base
from verdad_core.netlist.parameters import Parameters, apply, evaluate, reduce
from verdad_core.netlist.reader import GROUND, read
from verdad_core.netlist.scope import Netlist, Scope
from verdad_core.netlist.transfers import is_rational, rational, sampled, without_delay

#: What else ground is called, where it is no pin of the subcircuit.
_GROUND_NAMES = (GROUND, "gnd")

#: A circuit may expand to this many elements, and to this depth of instances and of models based on models.
MAX_ELEMENTS = 100_000
MAX_DEPTH = 30

#: Instances that one statement may put side by side.
MAX_COPIES = 1000


@dataclass
class Flat:
    """A circuit without subcircuits: its elements, and node voltages to search from and to start from."""

    elements: list[Element] = field(default_factory=list)
    nodesets: dict[str, float] = field(default_factory=dict)
    initial: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class _Setting:
    """What holds everywhere in a circuit: nodes that need no pin, the temperature, and a transient's times."""

    everywhere: frozenset[str] = frozenset()
    celsius: float = NOMINAL_CELSIUS
    #: The step and the end of a transient that the netlist asks for, in s.
    step: float | None = None
    stop: float | None = None


@dataclass(frozen=True)
class _Frame:
    """A scope that is being expanded: the scopes around its definition, its parameters, and where its pins lead."""

    scope: Scope
    parameters: Parameters
    prefix: str
    pins: Mapping[str, str]
    setting: _Setting
    #: The frame that the scope's definition stands in.
    around: _Frame | None = None

    def node(self, name: str) -> str:
        if name in self.pins:
            return self.pins[name]
        if name in _GROUND_NAMES:
            return GROUND
        return name if name in self.setting.everywhere else self.prefix + name

    def of(self, scope: Scope) -> _Frame:
        """The frame of a scope at or around this one."""
        frame: _Frame | None = self
        while frame is not None and frame.scope is not scope:
            frame = frame.around
        return frame or self

    def control(self, control: Control) -> Control:
        if control.source:
            return Control(source=self.prefix + control.source)
        return Control(self.node(control.plus), self.node(control.minus))

    def look(self, probe: Probe) -> Node:
        """A probe in the flat circuit's names."""
        if probe.kind == "i":
            return Probe("i", self.prefix + probe.plus)
        return Probe("v", self.node(probe.plus), self.node(probe.minus))


def flatten(netlist: Netlist) -> Flat:
    """The whole circuit of a netlist.

    Raises NetlistError, at the statement, for a model, subcircuit or parameter that is not defined, an expression
    without a value, a node count that does not match, a subcircuit that contains itself, and a circuit that grows
    too large.
    """
    top = Parameters(netlist.top.parameters, netlist.top.functions)
    setting = _Setting(
        frozenset(netlist.everywhere),
        _constant(netlist.celsius, top, NOMINAL_CELSIUS),
        *_transient(netlist, top),
    )
    return _flattened(netlist.top, "", {}, setting)


def _transient(netlist: Netlist, top: Parameters) -> tuple[float | None, float | None]:
    """Step and end of the first `.tran`."""
    for command in netlist.commands:
        if command.span is not None:
            step, end = command.span
            stop = _constant(end, top, 0.0)
            return (_constant(step, top, stop / 50.0), stop) if stop > 0.0 else (None, None)
    return None, None


def flatten_subcircuit(
    scope: Scope,
    prefix: str = "",
    pins: Mapping[str, str] | None = None,
    given: Mapping[str, float] | None = None,
) -> Flat:
    """One subcircuit, and all instances inside it; raises as `flatten`.

    `prefix` (such as "u1.") goes before every name, `pins` maps the scope's own nodes to nodes outside, `given` are
    values of its parameters that differ from their defaults.
    """
    if unknown := sorted(set(given or {}) - set(scope.parameters)):
        raise NetlistError(
            f"subcircuit {scope.name} has no parameter {unknown[0]}",
            remedy=f"It has {', '.join(scope.parameters) or 'none'}.",
        )
    return _flattened(scope, prefix, pins or {}, _Setting(), given)


def _flattened(
    scope: Scope, prefix: str, pins: Mapping[str, str], setting: _Setting, given: Mapping[str, float] | None = None
) -> Flat:
    known: dict[int, int] = {}
    for card in scope.cards:
        if _size(scope, card, known) > MAX_ELEMENTS:
            raise _at(card, f"the circuit expands to more than {MAX_ELEMENTS:,} elements", "Simplify it.")
    flat = Flat()
    _expand(_frame(scope, dict(given or {}), prefix, pins, setting), flat, ())
    flat.elements = with_meters(flat.elements)
    return flat


def _size(scope: Scope, card: Card, known: dict[int, int]) -> int:
    """How many elements a card of `scope` expands to; `known` keeps those of subcircuits, by identity."""
    inner = scope.subcircuit(card.subcircuit) if card.subcircuit else None
    if inner is None:
        return 1
    if id(inner) not in known:
        # A subcircuit that contains itself is found when it is expanded.
        known[id(inner)] = 0
        known[id(inner)] = sum(_size(inner, each, known) for each in inner.cards)
    return known[id(inner)]


@cache
def blocks() -> Scope:
    """The built-in subcircuits, which every netlist may use: devices/blocks.lib."""
    text = resources.files("verdad_core.devices").joinpath("blocks.lib").read_text()
    return read(text).require().top


def _constant(value: Value | None, parameters: Parameters, default: float) -> float:
    if value is None:
        return default
    return evaluate(value, parameters) if isinstance(value, Expression) else value


def _frame(
    scope: Scope, given: Mapping[str, Value], prefix: str, pins: Mapping[str, str], setting: _Setting,
    caller: _Frame | None = None,
) -> _Frame:  # fmt: skip
    around = None
    if scope.parent is not None:
        inside = caller is not None and any(frame is scope.parent for frame in caller.scope.outwards())
        around = caller.of(scope.parent) if caller and inside else _frame(scope.parent, {}, "", {}, setting)
    outer = around.parameters if around else None
    parameters = Parameters({**scope.parameters, **given}, scope.functions, outer, setting.celsius)
    return _Frame(scope, parameters, prefix, pins, setting, around)


def _expand(frame: _Frame, flat: Flat, inside: tuple[Scope, ...]) -> None:
    for nodes, found in ((frame.scope.nodesets, flat.nodesets), (frame.scope.initial, flat.initial)):
        for node, value in nodes.items():
            found[frame.node(node)] = _constant(value, frame.parameters, 0.0)
    for card in frame.scope.cards:
        if any((evaluate(condition, frame.parameters) != 0.0) != wanted for condition, wanted in card.when):
            continue
        if card.refusal is not None:
            raise card.refusal
        if varies(card):
            flat.elements += _varying(frame, card)
            continue
        values = {name: _number(card, value, frame.parameters) for name, value in card.values.items()}
        if card.subcircuit:
            inner = _definition(frame.scope, card)
            copies = _copies(card, values.pop("m", 1.0)) if "m" not in inner.parameters else 1
            if any(inner is outer for outer in inside) or len(inside) >= MAX_DEPTH:
                raise _at(card, f"subcircuit {card.subcircuit} contains itself", "Remove the recursion.")
            if unknown := sorted(set(values) - set(inner.parameters)):
                raise _at(
                    card,
                    f"subcircuit {card.subcircuit} has no parameter {unknown[0]}",
                    f"It has {', '.join(inner.parameters) or 'none'}.",
                )
            pins = dict(zip(inner.pins, map(frame.node, card.nodes), strict=True))
            for copy in range(1, copies + 1):
                prefix = f"{frame.prefix}{card.name}{f'#{copy}' if copy > 1 else ''}."
                _expand(_frame(inner, values, prefix, pins, frame.setting, frame), flat, (*inside, inner))
            continue
        flat.elements += _elements(frame, card, values)
        if len(flat.elements) > MAX_ELEMENTS:
            raise _at(card, f"the circuit expands to more than {MAX_ELEMENTS:,} elements", "Simplify it.")


def _copies(card: Card, count: float) -> int:
    """How many instances stand side by side."""
    if count != int(count) or not 1 <= count <= MAX_COPIES:
        raise _at(
            card, f"{card.name} has m = {count:g}; subcircuits stand side by side in whole numbers",
            f"Write a whole number from 1 to {MAX_COPIES}.",
        )  # fmt: skip
    return int(count)


def _varying(frame: _Frame, card: Card) -> list[Element]:
    """An R, C or L whose value follows voltages or currents, as a source: of v / R, C dv/dt, or L di/dt."""
    family, expression = following(card)
    nodes = tuple(map(frame.node, card.nodes))
    line = card.statement.line if card.statement.file is None else None
    return _behavioural(frame, Element(frame.prefix + card.name, family, nodes, line=line), expression)


def _number(card: Card, value: Value, parameters: Parameters) -> float:
    if not isinstance(value, Expression):
        return value
    try:
        return evaluate(value, parameters)
    except NetlistError as error:
        raise NetlistError(
            f"{card.name}: {error.message}", place=replace(error.place, file=card.statement.file), remedy=error.remedy
        ) from None


def _definition(scope: Scope, card: Card) -> Scope:
    inner = scope.subcircuit(card.subcircuit)
    if inner is None and scope.outermost() is not blocks():
        inner = blocks().subcircuit(card.subcircuit)
    if inner is None:
        raise _at(card, f"subcircuit {card.subcircuit} is not defined", "Add the file that defines it.")
    if len(inner.pins) != len(card.nodes):
        raise _at(
            card,
            f"{card.name} has {len(card.nodes)} nodes, subcircuit {card.subcircuit} has {len(inner.pins)}",
            f"Its nodes are: {' '.join(inner.pins)} (line {inner.line}).",
        )
    return inner


def _elements(frame: _Frame, card: Card, values: dict[str, float]) -> list[Element]:
    """The element of a card, after those that it needs: derivatives and integrals in its expression."""
    family, nodes = card.family, tuple(map(frame.node, card.nodes))
    merged: Mapping[str, float] = values
    if card.model or family in ("resistor", "capacitor", "inductor", "line"):
        family, merged = _with_model(frame, card, values)
    if family == "mosfet" and len(nodes) == 3:
        nodes = (*nodes, nodes[2])
    if family == "power mosfet" and len(nodes) == 4:
        raise _at(
            card, "a vertical MOSFET has three nodes: drain, gate, source", "Leave the fourth out: it is the source."
        )
    if family == "line" and len(nodes) == 3:
        # Two ends over one common node.
        nodes = (nodes[0], nodes[2], nodes[1], nodes[2])
    element = Element(
        name=frame.prefix + card.name,
        family=family,
        nodes=nodes,
        values=merged,
        controls=tuple(map(frame.control, card.controls)),
        line=card.statement.line if card.statement.file is None else None,
    )
    match card.form:
        case None:
            return around(element, lambda each, root: _programmed(frame, each, written_for(each, root), root))
        case Wave(kind, given, repeat):
            return [replace(element, extra=_waveform(frame, card, kind, given, repeat))]
        case Behaviour(expression):
            return _behavioural(frame, element, expression)
        case Transfer(what, transfer):
            scope = Parameters({}, outer=frame.parameters, arguments={"s": Name("s")})
            seconds, root = without_delay(transfer, reduce(transfer, scope, frame.look))
            if is_rational(transfer, root):
                numerator, denominator = rational(transfer, root)
                return _following(frame, replace(element, extra=Polynomials(numerator, denominator)), what, seconds)
            tabulated = replace(element, family=family.replace("transfer", "tabulated"), extra=sampled(transfer, root))
            return _following(frame, tabulated, what, seconds)
        case Tabulated(what, points):
            numbers = tuple(_number(card, point, frame.parameters) for point in points)
            frequencies = numbers[::3]
            if frequencies[0] < 0 or any(b <= a for a, b in pairwise(frequencies)):
                raise _at(card, f"{card.name}: the frequencies must rise", "Sort the points by frequency.")
            return _following(frame, replace(element, extra=numbers), what)


def _waveform(frame: _Frame, card: Card, kind: int, given: tuple[Value, ...], repeat: Value | None) -> Waveform:
    numbers = tuple(_number(card, value, frame.parameters) for value in given)
    if kind == PWL:
        return Waveform(kind, (math.nan if repeat is None else _number(card, repeat, frame.parameters), *numbers))
    values = completed(kind, numbers, frame.setting.step, frame.setting.stop)
    if values is None:
        raise _at(
            card, f"{card.name}: what the waveform leaves out follows from a .tran, and there is none",
            "Write all of its values, or a .tran.",
        )  # fmt: skip
    waveform = Waveform(kind, values)
    for parameter in waveform.parameters(""):
        if refusal := parameter.refusal(parameter.default):
            raise _at(card, f"{card.name}: {refusal} ({parameter.meaning})", "Correct the waveform.")
    return waveform


def _behavioural(frame: _Frame, element: Element, expression: Expression) -> list[Element]:
    return _programmed(frame, element, expression, reduce(expression, frame.parameters, frame.look))


def _programmed(frame: _Frame, element: Element, expression: Expression, root: Node) -> list[Element]:
    """`element` with its program, after the elements for the derivatives and integrals in it."""
    before: list[Element] = []

    def realise(call: Call) -> Control:
        argument, *rest = call.arguments
        numbers = [each.value for each in rest if isinstance(each, Number)]
        if call.name == DELAY:
            return delayed(argument, numbers[0])
        word, values = "derivative", dict[str, float]()
        if call.name == INTEGRAL:
            word, values = "integral", dict(zip(("start",), numbers, strict=False))
        inner = Element(f"{element.name}:{word}{len(before) + 1}", word, (), values, line=element.line)
        before.extend(_programmed(frame, inner, expression, argument))
        return Control(source=before[-1].name)

    def delayed(argument: Node, seconds: float) -> Control:
        """A matched line, which halves what is sent: so twice of it is sent. Its ends have no noise at 0 K."""
        name = f"{element.name}:delay{len(before) + 1}"
        sent, near, far = (f"{name}.{end}" for end in ("sent", "near", "far"))
        cold = {"resistance": 1.0, "temp": -ZERO_CELSIUS}
        source = Element(name, "behavioural voltage", (sent, GROUND), line=element.line)
        before.extend(_programmed(frame, source, expression, apply("mul", Number(2.0), argument)))
        before.append(Element(f"{name}:from", "resistor", (sent, near), cold, line=element.line))
        before.append(Element(f"{name}:to", "resistor", (far, GROUND), cold, line=element.line))
        line = {"z0": 1.0, "td": seconds}
        before.append(Element(f"{name}:line", "line", (near, GROUND, far, GROUND), line, line=element.line))
        return Control(far, GROUND)

    program, controls = compile_program(expression, root, realise)
    return [*before, replace(element, controls=controls, extra=program)]


def _following(frame: _Frame, element: Element, what: Expression, delay: float = 0.0) -> list[Element]:
    """`element` controlled by an expression, `delay` s late.

    Directly where it is one voltage or current, else through a source.
    """
    root = reduce(what, frame.parameters, frame.look)
    if delay > 0.0:
        root = Call(DELAY, (root, Number(delay)))
    if isinstance(root, Probe):
        control = Control(source=root.plus) if root.kind == "i" else Control(root.plus, root.minus)
        return [replace(element, controls=(control,))]
    inner = Element(f"{element.name}:input", "quantity", (), line=element.line)
    elements = _programmed(frame, inner, what, root)
    return [*elements, replace(element, controls=(Control(source=inner.name),))]


def _with_model(frame: _Frame, card: Card, own: dict[str, float]) -> tuple[str, dict[str, float]]:
    family, given = card.family, dict[str, float]()
    if card.model:
        model, owner = _model(frame, card, card.model, 0)
        expected = [row.family for row in TRADE.values() if card.name[0] in row.letters]
        if model.refusal is not None:
            raise model.refusal
        if model.family not in expected:
            raise _at(
                card,
                f"model {card.model} is for a {model.family}, not for a {expected[0]}",
                "Correct the model's name.",
            )
        family = model.family
        parameters = frame.of(owner).parameters
        given = {name: _number(card, value, parameters) for name, value in model.values.items()}
        given = {name: value for name, value in given.items() if not is_none(name, value)} | dict(model.fixed)
    try:
        return family, merge(family, own, given)
    except ValueError as error:
        raise _at(card, f"{card.name} {error}", "Complete the statement or its model.") from None


def _model(frame: _Frame, card: Card, name: str, depth: int) -> tuple[ModelCard, Scope]:
    """A model by its name, with what it is based on filled in, and the scope that its values stand in."""
    owner = next((scope for scope in frame.scope.outwards() if name in scope.models), None)
    if owner is None:
        raise _at(card, f"model {name} is not defined", f"Add .model {name}, or correct the name.")
    if depth > MAX_DEPTH:
        raise _at(card, f"model {name} is based on itself", "Remove the recursion.")
    model = owner.models[name]
    if not model.base:
        return model, owner
    base, _ = _model(frame, card, model.base, depth + 1)
    return with_base(model, base), owner


def _at(card: Card, message: str, remedy: str) -> NetlistError:
    return card.statement.error(f"{card.name}: {message}" if card.name not in message else message, remedy)
