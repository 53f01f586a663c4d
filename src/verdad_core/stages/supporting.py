"""References, sources, thresholds, converter drivers, protection."""

from __future__ import annotations

import math

from verdad_core.stages.amplifiers import amplifier
from verdad_core.stages.stage import Goal, Result, Size, Stage

SUPPORTING = (
    Stage(
        "mid-supply", "Mid-supply reference", "reference", "Half the supply behind a follower.",
        ("R1 vcc mid", "R2 mid gnd", "C1 mid gnd", "U1 opamp in+=mid in-=out out=out v+=vcc v-=gnd"),
        (Goal("V", "Supply", "V", "5"), Goal("I", "Current in the divider", "A", "50u"),
         Goal("f", "Supply noise rejected from", "Hz", "1")),
        (
            Size("R1", "R1 = V / (2 I)", lambda f: f["V"] / (2 * f["I"]), "E24"),
            Size("R2", "R2 = R1", lambda f: f["R1"], "E24"),
            Size("C1", "C1 = (R1 + R2) / (2π f R1 R2)",
                 lambda f: (f["R1"] + f["R2"]) / (2 * math.pi * f["f"] * f["R1"] * f["R2"]), "E6"),
        ),
        (
            Result("I", "I = V / (R1 + R2)", lambda f: f["V"] / (f["R1"] + f["R2"])),
            Result("f", "f = (R1 + R2) / (2π R1 R2 C1)",
                   lambda f: (f["R1"] + f["R2"]) / (2 * math.pi * f["R1"] * f["R2"] * f["C1"])),
        ), input="vcc",
    ),
    Stage(
        "current-source", "Current source", "reference", "Draws a constant current, in volts over R1, from its load.",
        (amplifier("U1", "in", "e", "b"), "Q1 npn collector=out base=b emitter=e", "R1 e gnd"),
        (Goal("I", "Current", "A", "1m"), Goal("V", "Control voltage", "V", "1")),
        (Size("R1", "R1 = V / I", lambda f: f["V"] / f["I"], "E96"),),
        (Result("I", "I = V / R1", lambda f: f["V"] / f["R1"]),),
    ),
    Stage(
        "capacitance-multiplier", "Capacitance multiplier", "reference", "A small capacitor that acts as a large one.",
        ("R1 in p", "C1 p gnd", amplifier("U1", "p", "out", "out"), "R2 in out"),
        (Goal("Ce", "Effective capacitance", "F", "100n"), Goal("C", "Size of C1", "F", "100p"),
         Goal("R", "Size of R1", "Ω", "1M")),
        (
            Size("C1", "C1 = C", lambda f: f["C"], "E12"), Size("R1", "R1 = R", lambda f: f["R"], "E96"),
            Size("R2", "R2 = R1 / (Ce / C1 − 1)", lambda f: f["R1"] / (f["Ce"] / f["C1"] - 1), "E96"),
        ),
        (Result("Ce", "Ce = C1 (1 + R1 / R2)", lambda f: f["C1"] * (1 + f["R1"] / f["R2"])),),
    ),
    Stage(
        "schmitt", "Schmitt comparator", "threshold", "Inverting threshold with hysteresis around ref.",
        ("R1 ref p", "R2 p out", "U1 comparator in+=p in-=in out=out"),
        (Goal("W", "Width of the hysteresis", "V", "0.1"), Goal("S", "Swing of the output", "V", "5"),
         Goal("R", "Size of R1", "Ω", "1k")),
        (
            Size("R1", "R1 = R", lambda f: f["R"], "E24"),
            Size("R2", "R2 = (S / W − 1) R1", lambda f: (f["S"] / f["W"] - 1) * f["R1"], "E24"),
        ),
        (Result("W", "W = S R1 / (R1 + R2)", lambda f: f["S"] * f["R1"] / (f["R1"] + f["R2"])),),
    ),
    Stage(
        "converter-driver", "Converter driver with RC", "converter",
        "A follower and the RC that feeds a sampling converter: it settles to half an LSB within the acquisition.",
        (amplifier("U1", "in", "drive", "drive"), "R1 drive out", "C1 out gnd"),
        (Goal("N", "Bits", "", "16"), Goal("t", "Acquisition time", "s", "500n"),
         Goal("C", "Sample capacitor", "F", "30p")),
        (
            # Fifty sample capacitors take up the kick-back to 2 %.
            Size("C1", "C1 = 50 C", lambda f: 50 * f["C"], "E12"),
            Size("R1", "R1 = t / ((N + 1) ln 2 · C1)",
                 lambda f: f["t"] / ((f["N"] + 1) * math.log(2) * f["C1"]), "E24"),
        ),
        (Result("t", "t = (N + 1) ln 2 · R1 C1", lambda f: (f["N"] + 1) * math.log(2) * f["R1"] * f["C1"]),),
        "settling of a first-order section to 2^-(N+1)",
    ),
    Stage(
        "rectifier", "Bridge rectifier", "supply", "Four diodes into a capacitor.",
        (
            "D1 diode anode=in cathode=out", "D2 diode anode=in2 cathode=out", "D3 diode anode=gnd cathode=in",
            "D4 diode anode=gnd cathode=in2", "C1 out gnd",
        ),
        (Goal("I", "Load current", "A", "100m"), Goal("f", "Mains frequency", "Hz", "50"),
         Goal("U", "Ripple", "V", "1")),
        (Size("C1", "C1 = I / (2 f U)", lambda f: f["I"] / (2 * f["f"] * f["U"]), "E6"),),
        (Result("U", "U = I / (2 f C1)", lambda f: f["I"] / (2 * f["f"] * f["C1"])),),
        "discharge over half a period; any text on supplies",
    ),
    Stage(
        "clamp", "Clamp to the supplies", "protection",
        "A resistor and two diodes that keep a pin within the supplies.",
        ("R1 in out", "D1 diode anode=out cathode=+5V", "D2 diode anode=gnd cathode=out"),
        (Goal("V", "Largest input beyond the supply", "V", "24"), Goal("I", "Largest current", "A", "5m")),
        (Size("R1", "R1 = V / I", lambda f: f["V"] / f["I"], "E24"),),
        (Result("I", "I = V / R1", lambda f: f["V"] / f["R1"]),),
    ),
    Stage(
        "snubber", "Snubbed switch", "switching",
        "Takes up the energy of a stray inductance L1 when its switch opens: E = ½ L I².",
        ("R2 vcc l", "L1 l out", "S1 smooth-switch a=out b=gnd control=in", "R1 out s", "C1 s gnd"),
        (Goal("L", "Inductance", "H", "1m"), Goal("I", "Current switched off", "A", "1.2"),
         Goal("U", "Rise that is allowed", "V", "24"), Goal("V", "Supply", "V", "12")),
        (
            Size("L1", "L1 = L", lambda f: f["L"], "E24"), Size("R2", "R2 = V / I", lambda f: f["V"] / f["I"], "E24"),
            Size("C1", "C1 = 2 E / U² = L1 I² / U²", lambda f: f["L1"] * f["I"] ** 2 / f["U"] ** 2, "E24"),
            Size("R1", "R1 = U / I", lambda f: f["U"] / f["I"], "E24"),
        ),
        (Result("U", "U = I √(L1 / C1)", lambda f: f["I"] * math.sqrt(f["L1"] / f["C1"])),),
        "balance of energy; common practice, no source",
    ),
)  # fmt: skip
