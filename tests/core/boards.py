"""Small boards of the core's tests."""

from __future__ import annotations

from typing import Any

from verdad_core.document.analysis import Analysis
from verdad_core.document.board import Board, Circuit
from verdad_core.document.checks import Check


def two(kind: str, designator: str, value: str, *pins: str) -> dict[str, Any]:
    return {"kind": kind, "designator": designator, "value": value, "pins": list(pins)}


def r(designator: str, value: str, *pins: str) -> dict[str, Any]:
    return two("resistor", designator, value, *pins)


def c(designator: str, value: str, *pins: str) -> dict[str, Any]:
    return two("capacitor", designator, value, *pins)


def generic(designator: str, part: str, pins: dict[str, str], **settings: str) -> dict[str, Any]:
    return {"kind": "generic", "designator": designator, "part": part, "pins": pins, "settings": settings}


def amplifier(designator: str, plus: str, minus: str, out: str) -> dict[str, Any]:
    """An op-amp from data-sheet figures on ±5 V."""
    return generic(designator, "opamp", {"in+": plus, "in-": minus, "v+": "+5V", "v-": "-5V", "out": out})


def supply(net: str, volts: str) -> dict[str, Any]:
    return {
        "kind": "supply",
        "name": "s" + net.lower().replace("+", "p").replace("-", "n"),
        "plus": net,
        "volts": volts,
    }


def source(net: str, **more: Any) -> dict[str, Any]:
    return {"kind": "source", "name": "vin", "plus": net, "resistance": "0", **more}


RAILS = [supply("+5V", "5"), supply("-5V", "-5")]


def board(parts: list[dict[str, Any]], fixtures: list[dict[str, Any]], kind: str, **check: Any) -> Board:
    """A board with one circuit and one check, called k."""
    given = {name: check.pop(name) for name in ("output", "source") if name in check}
    named = {name: value for name, value in given.items() if name in Analysis.kinds()[kind].model_fields}
    analysis = {"kind": kind, **check.pop("analysis", {}), **named}
    one = {"id": "k", "title": "k", "fixtures": fixtures, "analysis": analysis, **check}
    return Board.model_validate(
        {"title": "b", "circuits": [{"id": "c", "title": "c", "parts": parts, "checks": [one]}]}
    )


def pair(of: Board) -> tuple[Circuit, Check]:
    return of.check("k")
