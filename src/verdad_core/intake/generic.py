"""Generic parts: what can be placed without a maker's model, with the defaults of the devices and built-in blocks."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from verdad_core.devices import FAMILY_OF, Element
from verdad_core.devices.trade import TRADE, Placed, Setting, Trade
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.symbols import SHAPES, Symbol, default_symbol
from verdad_core.netlist.flatten import blocks, flatten_subcircuit
from verdad_core.netlist.scope import Scope


@dataclass(frozen=True)
class GenericPart:
    """A part by its key: what it is, its pins with their symbol, and its parameters."""

    key: str
    title: str
    meaning: str
    symbol: Symbol
    settings: tuple[Setting, ...]
    #: The family of devices, and what is fixed of them; a built-in block has none.
    family: str = ""
    fixed: Mapping[str, float] = field(default_factory=dict)

    @property
    def pins(self) -> tuple[str, ...]:
        return tuple(pin.role for pin in self.symbol.pins)


#: What the pins of built-in blocks are called on a symbol.
_PINS = {"inp": "in+", "inn": "in-", "vcc": "v+", "vee": "v-"}

_TITLES = {"ideal_opamp": "ideal op-amp", "opamp": "op-amp from data-sheet figures", "pwm": "PWM modulator"}

#: Built-in blocks that have the symbol of a kind.
_LIKE = {"ideal_opamp": "op-amp", "opamp": "op-amp", "comparator": "comparator"}


def _device(trade: Trade, placed: Placed) -> GenericPart:
    pins = KINDS[trade.kind].roles if trade.kind else trade.pins
    symbol = default_symbol(trade.kind, pins, pins if trade.kind else (), inverted=placed.fixed.get("polarity") == -1.0)
    own = [
        Setting(p.name, f"{p.default:g}", p.unit, p.meaning)
        for p in FAMILY_OF[trade.family].parameters
        if p.name != "polarity"
    ]
    return GenericPart(placed.key, placed.title, "", symbol, (*trade.settings, *own), trade.family, placed.fixed)


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
    part.key: part
    for part in (
        *(_device(trade, placed) for trade in TRADE.values() for placed in trade.placed),
        *map(_block, blocks().subcircuits.values()),
    )
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
    return TRADE[part.family].elements(designator, nodes, {**part.fixed, **values})


def _block_elements(
    part: GenericPart, designator: str, nodes: tuple[str, ...], values: Mapping[str, float]
) -> list[Element]:
    scope = blocks().subcircuits[part.key.replace("-", "_")]
    return flatten_subcircuit(scope, f"{designator}.", dict(zip(scope.pins, nodes, strict=True)), values).elements
