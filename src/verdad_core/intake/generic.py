"""Generic parts: what can be placed without a maker's model, with the defaults of the devices and built-in blocks."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from verdad_core.devices import FAMILY_OF, Element
from verdad_core.devices.base import Control
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.symbols import SHAPES, Symbol, default_symbol
from verdad_core.netlist.flatten import blocks, flatten_subcircuit
from verdad_core.netlist.reader import GROUND
from verdad_core.netlist.scope import Scope


@dataclass(frozen=True)
class Setting:
    """One parameter of a generic part: its default as text, its unit and what it means."""

    name: str
    default: str
    unit: str
    meaning: str


@dataclass(frozen=True)
class GenericPart:
    """A part by its key: what it is, its pins with their symbol, and its parameters."""

    key: str
    title: str
    meaning: str
    symbol: Symbol
    settings: tuple[Setting, ...]
    #: The family of devices; a built-in block has none.
    family: str = ""

    @property
    def pins(self) -> tuple[str, ...]:
        return tuple(pin.role for pin in self.symbol.pins)


#: Key, title, family of devices, pins, and the kind whose symbol it has.
_DEVICES: tuple[tuple[str, str, str, tuple[str, ...], str], ...] = (
    ("resistor", "resistor", "resistor", ("1", "2"), ""),
    ("capacitor", "capacitor", "capacitor", ("1", "2"), ""),
    ("inductor", "inductor", "inductor", ("1", "2"), ""),
    ("coupled-inductors", "coupled inductors", "coupling", KINDS["transformer"].roles, "transformer"),
    ("diode", "diode", "diode", KINDS["diode"].roles, "diode"),
    ("npn", "NPN transistor", "bipolar", KINDS["bipolar"].roles, "bipolar"),
    ("pnp", "PNP transistor", "bipolar", KINDS["bipolar"].roles, "bipolar"),
    ("n-jfet", "N-channel JFET", "jfet", KINDS["jfet"].roles, "jfet"),
    ("p-jfet", "P-channel JFET", "jfet", KINDS["jfet"].roles, "jfet"),
    ("nmos", "N-channel MOSFET", "mosfet", KINDS["mosfet"].roles, "mosfet"),
    ("pmos", "P-channel MOSFET", "mosfet", KINDS["mosfet"].roles, "mosfet"),
    ("power-nmos", "N-channel power MOSFET", "power mosfet", KINDS["mosfet"].roles, "mosfet"),
    ("power-pmos", "P-channel power MOSFET", "power mosfet", KINDS["mosfet"].roles, "mosfet"),
    ("switch", "switch with hysteresis", "switch", KINDS["switch"].roles, "switch"),
    ("smooth-switch", "smooth switch", "smooth switch", KINDS["switch"].roles, "switch"),
    ("line", "transmission line", "line", ("1+", "1-", "2+", "2-"), ""),
)

#: Devices whose family is that of another one, turned round.
_INVERTED = ("pnp", "p-jfet", "pmos", "power-pmos")

#: Parameters that a family keeps elsewhere than in its table.
_MORE = {
    "line": (Setting("z0", "50", "Ω", "characteristic impedance"), Setting("td", "1e-9", "s", "delay")),
    "coupling": (Setting("primary", "1e-3", "H", "inductance of the primary"),
                 Setting("secondary", "1e-3", "H", "inductance of the secondary")),
}  # fmt: skip

#: What the pins of built-in blocks are called on a symbol.
_PINS = {"inp": "in+", "inn": "in-", "vcc": "v+", "vee": "v-"}

_TITLES = {"ideal_opamp": "ideal op-amp", "opamp": "op-amp from data-sheet figures", "pwm": "PWM modulator"}

#: Built-in blocks that have the symbol of a kind.
_LIKE = {"ideal_opamp": "op-amp", "opamp": "op-amp", "comparator": "comparator"}


def _device(key: str, title: str, family: str, pins: tuple[str, ...], kind: str) -> GenericPart:
    symbol = default_symbol(kind, pins, pins if kind else ())
    own = [
        Setting(p.name, f"{p.default:g}", p.unit, p.meaning)
        for p in FAMILY_OF[family].parameters
        if p.name != "polarity"
    ]
    return GenericPart(key, title, "", symbol, (*_MORE.get(family, ()), *own), family)


def _block(scope: Scope) -> GenericPart:
    pins = [_PINS.get(pin, pin) for pin in scope.pins]
    symbol = default_symbol("other", pins)
    if scope.name in _LIKE:
        symbol = symbol.model_copy(update={"shape": SHAPES[_LIKE[scope.name]]})
    # What is an expression of other parameters is the block's own affair.
    settings = tuple(
        Setting(name, f"{value:g}", "", "") for name, value in scope.parameters.items() if isinstance(value, float)
    )
    return GenericPart(
        scope.name.replace("_", "-"),
        _TITLES.get(scope.name) or scope.name.replace("_", " "),
        _meaning(scope),
        symbol,
        settings,
    )


def _meaning(scope: Scope) -> str:
    """The comment right above a block."""
    above = {comment.line: comment.text for comment in (scope.parent.comments if scope.parent else [])}
    lines: list[str] = []
    line = scope.line - 1
    while line in above:
        lines.insert(0, above[line])
        line -= 1
    return " ".join(lines)


#: All of them by key: devices first, then the built-in blocks.
GENERIC_PARTS: dict[str, GenericPart] = {
    part.key: part for part in (*(_device(*row) for row in _DEVICES), *map(_block, blocks().subcircuits.values()))
}


def generic_elements(key: str, designator: str, nets: Mapping[str, str], values: Mapping[str, float]) -> list[Element]:
    """The elements of a generic part: its device named as the part, those inside a block `U1.name`.

    `nets` by pin, `values` of the parameters that differ from their defaults. Raises NetlistError for values that a
    block cannot have.
    """
    part = GENERIC_PARTS[key]
    nodes = tuple(nets[pin] for pin in part.pins)
    if not part.family:
        return _block_elements(part, designator, nodes, values)
    if part.family == "coupling":
        return _windings(designator, nodes, values)
    given = dict(values)
    if key in _INVERTED:
        given["polarity"] = -1.0
    controls: tuple[Control, ...] = ()
    if part.family in ("switch", "smooth switch"):
        nodes, controls = nodes[:2], (Control(nodes[2], GROUND),)
    if part.family == "mosfet":
        nodes = (*nodes, nodes[2])
    if part.family == "line":
        given = {"z0": 50.0, "td": 1e-9} | given
    return [Element(designator, part.family, nodes, given, controls)]


def _windings(designator: str, nodes: tuple[str, ...], values: Mapping[str, float]) -> list[Element]:
    first, second = f"{designator}.primary", f"{designator}.secondary"
    rest = {name: value for name, value in values.items() if name not in ("primary", "secondary")}
    return [
        Element(first, "inductor", nodes[:2], {"inductance": values.get("primary", 1e-3)}),
        Element(second, "inductor", nodes[2:], {"inductance": values.get("secondary", 1e-3)}),
        Element(designator, "coupling", (), rest, (Control(source=first), Control(source=second))),
    ]


def _block_elements(
    part: GenericPart, designator: str, nodes: tuple[str, ...], values: Mapping[str, float]
) -> list[Element]:
    scope = blocks().subcircuits[part.key.replace("-", "_")]
    return flatten_subcircuit(scope, f"{designator}.", dict(zip(scope.pins, nodes, strict=True)), values).elements
