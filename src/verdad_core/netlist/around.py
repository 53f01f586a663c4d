"""What models say beyond their family's equations, as elements around a transistor: resistances, quasi-saturation."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from verdad_core.devices.base import BOLTZMANN_OVER_CHARGE, ZERO_CELSIUS, Element
from verdad_core.devices.trade import TRADE
from verdad_core.errors import Place
from verdad_core.netlist.expressions import Apply, Call, Expression, Node, Number, Probe
from verdad_core.netlist.parameters import TEMPERATURE

#: Turns an element and an expression's tree into elements.
Follow = Callable[[Element, Node], list[Element]]

#: The families of which something is realised here.
_AROUND = ("mosfet", "bipolar")


def around(element: Element, follow: Follow) -> list[Element]:
    """The element without what its family does not know, and the elements that stand for it."""
    more = TRADE[element.family].more if element.family in _AROUND else ()
    own = {name: value for name, value in element.values.items() if name in more}
    if not own:
        return [element]
    inner = replace(element, values={name: value for name, value in element.values.items() if name not in own})
    if element.family == "mosfet":
        return _mosfet(inner, own)
    return _quasi_saturated(inner, own, follow) if own.get("rco", 0.0) > 0.0 else [inner]


def _mosfet(element: Element, own: Mapping[str, float]) -> list[Element]:
    """RG and RB in series with gate and bulk, RDS from drain to source; of m transistors side by side, m of each."""
    nodes, found = list(element.nodes), []
    count = element.values.get("m", 1.0)
    warm = {name: element.values[name] for name in ("rise", "temp") if name in element.values}
    for pin, name in ((1, "rg"), (3, "rb")):
        if own.get(name, 0.0) > 0.0:
            outer, nodes[pin] = nodes[pin], f"{element.name}:{name}.inner"
            values = {"resistance": own[name] / count, **warm}
            found.append(Element(f"{element.name}:{name}", "resistor", (outer, nodes[pin]), values, line=element.line))
    if own.get("rds", 0.0) > 0.0:
        ends, values = (element.nodes[0], element.nodes[2]), {"resistance": own["rds"] / count, **warm}
        found.append(Element(f"{element.name}:rds", "resistor", ends, values, line=element.line))
    return [*found, replace(element, nodes=tuple(nodes))]


def _quasi_saturated(element: Element, own: Mapping[str, float], follow: Follow) -> list[Element]:
    """The epitaxial collector: a current between the collector's resistance and the intrinsic collector.

    Kull, Nagel, Lee, Lloyd, Prendergast, Dirks, "A unified circuit model for bipolar transistors including
    quasi-saturation effects", IEEE Trans. Electron Devices 32, 1985 (from memory):

        i = (VO (Vt (K(bc) - K(bx) - ln((1 + K(bc)) / (1 + K(bx)))) + v(xc))) / (RCO (VO + |v(xc)|)),
        K(v) = sqrt(1 + GAMMA exp(v / Vt))

    with x the node at the collector's resistance and c the intrinsic collector; QCO (K - 1 - GAMMA / 2) is stored at
    either end.
    """
    sign, area = element.values.get("polarity", 1.0), element.values.get("area", 1.0)
    collector, base, *others = element.nodes
    middle, inner = f"{element.name}:epitaxy", f"{element.name}:epi"
    values = dict(element.values)
    found: list[Element] = []
    if values.get("rc", 0.0) > 0.0:
        ohms = {"resistance": values.pop("rc") / area, "tc1": values.pop("trc", 0.0)}
        found.append(Element(f"{element.name}:rc", "resistor", (collector, middle), ohms, line=element.line))
    else:
        middle = collector
    transistor = replace(element, nodes=(inner, base, *others), values=values)
    intrinsic = f"{element.name}:base" if values.get("rb", 0.0) > 0.0 else base
    vt = Apply("mul", (Number(BOLTZMANN_OVER_CHARGE), Apply("add", (TEMPERATURE, Number(ZERO_CELSIUS)))))
    gamma, vo = Number(own.get("gamma", 1e-11)), Number(own.get("vo", 10.0))

    def between(plus: str, minus: str) -> Node:
        return Probe("v", plus, minus) if sign > 0 else Probe("v", minus, plus)

    def k(node: str) -> Node:
        grown = Apply("exp", (Apply("div", (between(intrinsic, node), vt)),))
        return Apply("sqrt", (Apply("add", (Number(1.0), Apply("mul", (gamma, grown)))),))

    def one_more(node: Node) -> Node:
        return Apply("add", (Number(1.0), node))

    across = between(middle, inner)
    spread = Apply("sub", (Apply("sub", (k(inner), k(middle))),
                           Apply("ln", (Apply("div", (one_more(k(inner)), one_more(k(middle)))),))))  # fmt: skip
    driven = Apply("mul", (vo, Apply("add", (Apply("mul", (vt, spread)), across))))
    resisting = Apply("mul", (Number(own["rco"] / area), Apply("add", (vo, Apply("abs", (across,))))))
    ends = (middle, inner) if sign > 0 else (inner, middle)
    found += follow(Element(f"{element.name}:current", "behavioural current", ends, line=element.line),
                    Apply("div", (driven, resisting)))  # fmt: skip
    for word, node in (("qw", middle), ("qo", inner)) if own.get("qco", 0.0) > 0.0 else ():
        stored = Apply("mul", (Number(own["qco"] * area), Apply("sub", (k(node), Number(1.0)))))
        pins = (intrinsic, node) if sign > 0 else (node, intrinsic)
        charge = Element(f"{element.name}:{word}", "behavioural current", pins, line=element.line)
        found += follow(charge, Call("ddt", (stored,)))
    return [*found, transistor]


def written_for(element: Element, root: Node) -> Expression:
    """An expression that nobody has written, for what goes wrong with it."""
    return Expression(element.name, Place(line=element.line, part=element.name), root)
