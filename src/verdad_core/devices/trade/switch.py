"""Switches, controlled by a voltage or by a source's current."""

from __future__ import annotations

from collections.abc import Mapping

from verdad_core.devices.base import Control, Element
from verdad_core.devices.trade.entry import Build, Placed, Trade, Word


def _from_ground(family: str) -> Build:
    """What controls a placed switch counts from ground."""

    def build(designator: str, nodes: tuple[str, ...], values: Mapping[str, float]) -> list[Element]:
        return [Element(designator, family, nodes[:2], dict(values), (Control(nodes[2], "0"),))]

    return build


_ALIASES = {
    "vt": "threshold", "it": "threshold", "vh": "hysteresis", "ih": "hysteresis", "von": "on", "ion": "on",
    "voff": "off", "ioff": "off",
}  # fmt: skip
_PARALLEL = (("ron", -1), ("roff", -1))

SWITCH = Trade(
    "switch", "sw", "S", (Placed("switch", "switch with hysteresis", ("s",)),),
    words=(Word("sw"), Word("csw", by_current=True)), aliases=_ALIASES, more=frozenset({"on", "off"}),
    parallel=_PARALLEL, kind="switch", build=_from_ground("switch"),
)  # fmt: skip

SMOOTH_SWITCH = Trade(
    "smooth switch", "sw", "S", (Placed("smooth-switch", "smooth switch"),),
    words=(Word("vswitch"), Word("iswitch", by_current=True)), aliases=_ALIASES,
    more=frozenset({"threshold", "hysteresis"}),
    parallel=_PARALLEL, kind="switch", build=_from_ground("smooth switch"),
)  # fmt: skip
