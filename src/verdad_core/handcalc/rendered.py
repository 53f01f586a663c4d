"""A formula as it is written on paper: MathML Core (W3C)."""

from __future__ import annotations

import re
from collections.abc import Callable
from html import escape

from lark import Token, Tree

from verdad_core.measure.expressions import Expression

#: How tightly an operation holds together what stands beside it; the others are atoms.
_TIGHT = {"add": 0, "sub": 0, "mul": 1, "par": 2, "neg": 2, "pow": 3}
_ATOM = 4
_SIGNS = {"add": "+", "sub": "−", "mul": "·", "par": "∥"}
_ROW: dict[str, Callable[[str, str], str]] = {
    "div": lambda a, b: f"<mfrac>{a}{b}</mfrac>",
    "pow": lambda a, b: f"<msup>{a}{b}</msup>",
}
#: A designator or a symbol with a number behind it.
_INDEXED = re.compile(r"([A-Za-z]{1,8})(\d{1,6})")


def rendered(formula: Expression) -> str:
    """The formula as a <math> element; all that was typed is escaped in it."""
    return f'<math displaystyle="true">{_written(formula.tree)}</math>'


def _written(node: Tree[Token] | Token) -> str:
    assert isinstance(node, Tree)
    kind, children = str(node.data), node.children
    if kind == "number":
        return f"<mn>{escape(str(children[0]))}</mn>"
    if kind in ("name", "probe"):
        return _name(str(children[0]))
    if kind == "call":
        name, operands = str(children[0]).lower(), "<mo>,</mo>".join(_written(child) for child in children[1:])
        if name == "sqrt":
            return f"<msqrt>{operands}</msqrt>"
        return f"<mrow><mi>{escape(name)}</mi><mo>(</mo>{operands}<mo>)</mo></mrow>"
    if kind == "neg":
        return f"<mrow><mo>−</mo>{_held(children[0], 2)}</mrow>"
    if kind == "div":
        return _ROW[kind](_written(children[0]), _written(children[1]))
    if kind == "pow":
        return _ROW[kind](_held(children[0], _ATOM), _written(children[1]))
    tight = _TIGHT[kind]
    # What is taken away in brackets keeps them.
    right = _held(children[1], tight + 1 if kind == "sub" else tight)
    return f"<mrow>{_held(children[0], tight)}<mo>{_SIGNS[kind]}</mo>{right}</mrow>"


def _held(node: Tree[Token] | Token, tight: int) -> str:
    """An operand, in brackets where it would fall apart."""
    assert isinstance(node, Tree)
    within = _written(node)
    own = _TIGHT.get(str(node.data), _ATOM if str(node.data) != "div" or tight < _ATOM else 0)
    return within if own >= tight else f"<mrow><mo>(</mo>{within}<mo>)</mo></mrow>"


def _name(text: str) -> str:
    if text.lower() == "pi":
        return "<mi>π</mi>"
    if text.startswith('"'):
        return f"<mtext>{escape(text.strip(chr(34)))}</mtext>"
    if match := _INDEXED.fullmatch(text):
        return f"<msub><mi>{match[1]}</mi><mn>{match[2]}</mn></msub>"
    return f"<mi>{escape(text)}</mi>"
