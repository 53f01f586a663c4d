"""Transmission lines."""

from __future__ import annotations

from collections.abc import Mapping

from verdad_core.devices.base import Element
from verdad_core.devices.trade.entry import Placed, Setting, Trade, Word

_OWN = (Setting("z0", "50", "Ω", "characteristic impedance"), Setting("td", "1e-9", "s", "delay"))


def _build(designator: str, nodes: tuple[str, ...], values: Mapping[str, float]) -> list[Element]:
    defaults = {setting.name: float(setting.default) for setting in _OWN}
    return [Element(designator, "line", nodes, defaults | dict(values))]


_PER_LENGTH = frozenset({"r", "l", "g", "c", "len"})

LINE = Trade(
    "line", "tou", "T", (Placed("line", "transmission line", ("t",)),),
    words=(Word("ltra"), Word("urc")), aliases={"rperl": "r", "cperl": "c"}, more=_PER_LENGTH,
    pins=("1+", "1-", "2+", "2-"), settings=_OWN, build=_build,
)  # fmt: skip
