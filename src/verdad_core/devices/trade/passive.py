"""Resistors, capacitors, inductors, and windings that are coupled."""

from __future__ import annotations

from collections.abc import Mapping

from verdad_core.devices.base import Control, Element
from verdad_core.devices.trade.entry import Placed, Setting, Trade, Word

RESISTOR = Trade(
    "resistor", "r", "R", (Placed("resistor", "resistor"),),
    words=(Word("r"), Word("res")), aliases={"r": "scale"}, more=frozenset({"scale", "rsh", "defw", "narrow"}),
    parallel=(("resistance", -1),), pins=("1", "2"),
)  # fmt: skip

CAPACITOR = Trade(
    "capacitor", "c", "C", (Placed("capacitor", "capacitor"),),
    words=(Word("c"), Word("cap")), aliases={"c": "scale"}, more=frozenset({"scale", "cj", "cjsw", "defw", "narrow"}),
    parallel=(("capacitance", 1),), pins=("1", "2"),
)  # fmt: skip

INDUCTOR = Trade(
    "inductor", "l", "L", (Placed("inductor", "inductor"),),
    words=(Word("l"), Word("ind")), aliases={"l": "scale", "il1": "ic1", "il2": "ic2"}, more=frozenset({"scale"}),
    parallel=(("inductance", -1),), pins=("1", "2"),
)  # fmt: skip

_PRIMARY = Setting("primary", "1e-3", "H", "inductance of the primary")
_SECONDARY = Setting("secondary", "1e-3", "H", "inductance of the secondary")


def _windings(designator: str, nodes: tuple[str, ...], values: Mapping[str, float]) -> list[Element]:
    own = {name: values.get(name, float(setting.default)) for name, setting in _WINDINGS.items()}
    rest = {name: value for name, value in values.items() if name not in own}
    names = [f"{designator}.{name}" for name in own]
    return [
        Element(names[0], "inductor", nodes[:2], {"inductance": own["primary"]}),
        Element(names[1], "inductor", nodes[2:], {"inductance": own["secondary"]}),
        Element(designator, "coupling", (), rest, tuple(Control(source=name) for name in names)),
    ]


_WINDINGS = {setting.name: setting for setting in (_PRIMARY, _SECONDARY)}

COUPLING = Trade(
    "coupling", "k", "T", (Placed("coupled-inductors", "coupled inductors"),), kind="transformer",
    settings=(_PRIMARY, _SECONDARY), build=_windings,
)  # fmt: skip
