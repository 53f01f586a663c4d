"""Bipolar transistors."""

from __future__ import annotations

import math
from collections.abc import Mapping

from verdad_core.devices.base import BOLTZMANN_OVER_CHARGE, ZERO_CELSIUS
from verdad_core.devices.trade.entry import Placed, Region, Trade, Word

#: A junction conducts from so many amperes on; a transistor is saturated where its collector junction carries this part
#: of its base current.
CONDUCTS, SATURATES = 1e-9, 0.01


def _stands(
    given: Mapping[str, float], volts: Mapping[str, float], amperes: Mapping[str, float], celsius: float
) -> Region | None:
    """By what flows across its junctions, by its own saturation current at its temperature: 0.5 V is much at 27 °C and
    little at 125 °C.
    """
    own = given["temp"] if not math.isnan(given["temp"]) else celsius + given["rise"]
    kelvin, nominal = own + ZERO_CELSIUS, given["tnom"] + ZERO_CELSIUS
    thermal = BOLTZMANN_OVER_CHARGE * kelvin
    # The temperature of a saturation current (Antognetti and Massobrio 1988, chapter 2).
    saturation = given["area"] * given["is"] * (kelvin / nominal) ** given["xti"]
    saturation *= math.exp((kelvin / nominal - 1.0) * given["eg"] / thermal)
    conducts = given["nf"] * thermal * math.log1p(CONDUCTS / saturation)
    borne = max(SATURATES * abs(amperes.get("base", 0.0)), CONDUCTS)
    fills = given["nr"] * thermal * math.log1p(given["br"] * borne / saturation)
    sign = given["polarity"]
    vbe = sign * (volts["base"] - volts["emitter"])
    vbc = sign * (volts["base"] - volts["collector"])
    shown = {"VBE": sign * vbe, "VCE": sign * (vbe - vbc)}
    if vbe > conducts and vbc > fills:
        return Region("saturated", shown)
    if vbe < conducts and vbc < conducts:
        return Region("cut off", shown)
    return Region("works in reverse", shown) if vbc > vbe else None


BIPOLAR = Trade(
    "bipolar", "q", "Q",
    (Placed("npn", "NPN transistor", ("q", "npn")), Placed("pnp", "PNP transistor", ("pnp",), {"polarity": -1.0})),
    words=(
        Word("npn", {"polarity": 1.0}), Word("pnp", {"polarity": -1.0}),
        Word("lpnp", {"polarity": -1.0, "lateral": 1.0}),
    ),
    aliases={
        "va": "vaf", "vb": "var", "ik": "ikf", "bfm": "bf", "pe": "vje", "me": "mje", "pc": "vjc", "mc": "mjc",
        "ccs": "cjs", "ps": "vjs", "ms": "mjs", "trb1": "trb", "trm1": "trm", "tre1": "tre", "trc1": "trc", "v0": "vo",
    },
    more=frozenset({"rco", "qco", "vo", "gamma"}),
    parallel=(("area", 1),), kind="bipolar", stands=_stands,
)  # fmt: skip
