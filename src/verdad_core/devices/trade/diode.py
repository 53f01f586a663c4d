"""Diodes."""

from __future__ import annotations

from verdad_core.devices.trade.entry import Placed, Trade, Word

DIODE = Trade(
    "diode", "d", "D", (Placed("diode", "diode", ("d",)),),
    words=(Word("d"),),
    aliases={"cj0": "cjo", "cj": "cjo", "pb": "vj", "mj": "m", "jo": "is", "js": "is", "ik": "ikf", "vb": "bv"},
    parallel=(("area", 1),), kind="diode",
)  # fmt: skip
