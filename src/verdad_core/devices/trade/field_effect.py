"""Transistors with a gate."""

from __future__ import annotations

from collections.abc import Mapping

from verdad_core.devices.base import Element
from verdad_core.devices.trade.entry import Placed, Region, Trade, Word


def _stands(
    given: Mapping[str, float], volts: Mapping[str, float], amperes: Mapping[str, float], celsius: float
) -> Region | None:
    """By its threshold, which a JFET's parameters give for an N channel whatever its polarity is."""
    return _placed(given, volts, given["polarity"] * given["vto"])


def _jfet_stands(
    given: Mapping[str, float], volts: Mapping[str, float], amperes: Mapping[str, float], celsius: float
) -> Region | None:
    return _placed(given, volts, given["vto"])


def _placed(given: Mapping[str, float], volts: Mapping[str, float], threshold: float) -> Region | None:
    sign = given["polarity"]
    vgs, vds = (sign * (volts[pin] - volts["source"]) for pin in ("gate", "drain"))
    shown = {"VGS": sign * vgs, "VDS": sign * vds}
    if vgs < threshold:
        return Region("cut off", shown)
    return Region("in its linear region", shown) if 0 <= vds < vgs - threshold else None


def _bulk_at_source(designator: str, nodes: tuple[str, ...], values: Mapping[str, float]) -> list[Element]:
    return [Element(designator, "mosfet", (*nodes, nodes[2]), dict(values))]


_P = {"polarity": -1.0}
_N = {"polarity": 1.0}
_THRESHOLD = {"vt0": "vto", "vth0": "vto"}

JFET = Trade(
    "jfet", "j", "J",
    (Placed("n-jfet", "N-channel JFET", ("j",)), Placed("p-jfet", "P-channel JFET", fixed=_P)),
    words=(Word("njf", _N), Word("pjf", _P)), aliases={"vt0": "vto"},
    parallel=(("area", 1),), kind="jfet", stands=_jfet_stands,
)  # fmt: skip

MOSFET = Trade(
    "mosfet", "m", "M",
    (Placed("nmos", "N-channel MOSFET", ("m", "nmos")), Placed("pmos", "P-channel MOSFET", ("pmos",), _P)),
    words=(Word("nmos", _N), Word("pmos", _P)), aliases=_THRESHOLD, more=frozenset({"rg", "rb", "rds"}),
    levels=(1.0, 2.0, 3.0), parallel=(("m", 1),), kind="mosfet", build=_bulk_at_source, stands=_stands,
)  # fmt: skip

POWER_MOSFET = Trade(
    "power mosfet", "m", "M",
    (Placed("power-nmos", "N-channel power MOSFET"), Placed("power-pmos", "P-channel power MOSFET", fixed=_P)),
    words=(Word("vnmos", _N), Word("vpmos", _P)), aliases=_THRESHOLD,
    parallel=(("m", 1),), kind="mosfet", stands=_stands,
)  # fmt: skip
