"""Amplifier stages. Closed forms are those of the ideal op-amp."""

from __future__ import annotations

import math

from verdad_core.stages.stage import Goal, Result, Size, Stage

_SUPPLIES = "v+=+5V v-=-5V"
_IDEAL = "ideal op-amp; any text on op-amps"


def amplifier(name: str, plus: str, minus: str, out: str) -> str:
    return f"{name} opamp in+={plus} in-={minus} out={out} {_SUPPLIES}"


_R1 = Goal("R", "Size of R1", "Ω", "10k")

AMPLIFIERS = (
    Stage(
        "follower", "Follower", "amplifier", "Drives a load without loading its source; its gain is one.",
        (amplifier("U1", "in", "out", "out"),), source=_IDEAL,
        shows=(("passband_gain", ""), ("upper_cutoff", "")),
    ),
    Stage(
        "non-inverting", "Non-inverting amplifier", "amplifier", "Gain above one, high input resistance.",
        (amplifier("U1", "in", "fb", "out"), "R2 fb out", "R1 fb gnd"),
        (Goal("A", "Gain", "", "10"), _R1),
        (
            Size("R1", "R1 = R", lambda f: f["R"], "E96"),
            Size("R2", "R2 = (A − 1) R1", lambda f: (f["A"] - 1) * f["R1"], "E96"),
        ),
        (Result("A", "A = 1 + R2 / R1", lambda f: 1 + f["R2"] / f["R1"]),), _IDEAL,
        shows=(("passband_gain", "A"), ("upper_cutoff", "")),
    ),
    Stage(
        "inverting", "Inverting amplifier", "amplifier", "Gain with a change of sign; R1 is the input resistance.",
        ("R1 in fb", amplifier("U1", "gnd", "fb", "out"), "R2 fb out"),
        (Goal("A", "Size of the gain", "", "10"), Goal("R", "Input resistance", "Ω", "10k")),
        (Size("R1", "R1 = R", lambda f: f["R"], "E96"), Size("R2", "R2 = A R1", lambda f: f["A"] * f["R1"], "E96")),
        (Result("A", "A = R2 / R1", lambda f: f["R2"] / f["R1"]),), _IDEAL,
        shows=(("passband_gain", "A"), ("upper_cutoff", "")),
    ),
    Stage(
        "summing", "Summing amplifier", "amplifier", "Minus the sum of three inputs, each with the same gain.",
        ("R1 in1 fb", "R2 in2 fb", "R3 in3 fb", amplifier("U1", "gnd", "fb", "out"), "R4 fb out"),
        (Goal("A", "Size of the gain", "", "1"), Goal("R", "Input resistance", "Ω", "10k")),
        (
            *(Size(part, f"{part} = R", lambda f: f["R"], "E96") for part in ("R1", "R2", "R3")),
            Size("R4", "R4 = A R1", lambda f: f["A"] * f["R1"], "E96"),
        ),
        (Result("A", "A = R4 / R1", lambda f: f["R4"] / f["R1"]),), _IDEAL, input="in1",
        shows=(("passband_gain", "A"), ("upper_cutoff", "")),
    ),
    Stage(
        "difference", "Difference amplifier", "amplifier", "Amplifies in+ − in−; matched resistors reject the rest.",
        ("R1 inn fb", "R3 inp p", amplifier("U1", "p", "fb", "out"), "R2 fb out", "R4 p gnd"),
        (Goal("A", "Gain", "", "10"), _R1),
        (
            Size("R1", "R1 = R", lambda f: f["R"], "E96"), Size("R2", "R2 = A R1", lambda f: f["A"] * f["R1"], "E96"),
            Size("R3", "R3 = R1", lambda f: f["R1"], "E96"), Size("R4", "R4 = R2", lambda f: f["R2"], "E96"),
        ),
        (Result("A", "A = R2 / R1", lambda f: f["R2"] / f["R1"]),), _IDEAL, input="inp",
    ),
    Stage(
        "instrumentation", "Instrumentation amplifier", "amplifier",
        "Amplifies a difference with high input resistance on both sides; one resistor sets the gain.",
        (
            amplifier("U1", "inp", "a", "o1"), amplifier("U2", "inn", "b", "o2"), "R1 a o1", "R2 b o2", "R3 a b",
            "R4 o2 m", "R6 o1 p", amplifier("U3", "p", "m", "out"), "R5 m out", "R7 p gnd",
        ),
        (Goal("A", "Gain", "", "100"), Goal("R", "Size of the other resistors", "Ω", "10k")),
        (
            *(Size(part, f"{part} = R", lambda f: f["R"], "E96") for part in ("R1", "R2", "R4", "R5", "R6", "R7")),
            Size("R3", "R3 = 2 R1 / (A − 1)",
                 lambda f: 2 * f["R1"] / (f["A"] - 1) if f["A"] != 1 else math.inf, "E96"),
        ),
        (Result("A", "A = 1 + 2 R1 / R3", lambda f: 1 + 2 * f["R1"] / f["R3"]),), _IDEAL, input="inp",
    ),
    Stage(
        "integrator", "Integrator", "amplifier", "Integrates its input; R2 keeps its offset from running away.",
        ("R1 in fb", amplifier("U1", "gnd", "fb", "out"), "C1 fb out", "R2 fb out"),
        (
            Goal("f", "Frequency of unity gain", "Hz", "1k"), Goal("R", "Input resistance", "Ω", "10k"),
            Goal("A", "Gain at direct current", "", "100"),
        ),
        (
            Size("R1", "R1 = R", lambda f: f["R"], "E24"),
            Size("R2", "R2 = A R1", lambda f: f["A"] * f["R1"], "E24"),
            Size("C1", "C1 = √((R2 / R1)² − 1) / (2π f R2)",
                 lambda f: math.sqrt((f["R2"] / f["R1"]) ** 2 - 1) / (2 * math.pi * f["f"] * f["R2"]), "E12"),
        ),
        (
            Result("f", "f = √((R2 / R1)² − 1) / (2π R2 C1)",
                   lambda f: math.sqrt((f["R2"] / f["R1"]) ** 2 - 1) / (2 * math.pi * f["R2"] * f["C1"])),
            Result("A", "A = R2 / R1", lambda f: f["R2"] / f["R1"]),
        ), _IDEAL,
    ),
    Stage(
        "transimpedance", "Transimpedance amplifier", "amplifier", "Turns a current, of a photodiode say, into volts.",
        (amplifier("U1", "gnd", "in", "out"), "R1 in out", "C1 in out"),
        (Goal("Z", "Volts per ampere", "Ω", "1M"), Goal("f", "Bandwidth", "Hz", "10k")),
        (
            Size("R1", "R1 = Z", lambda f: f["Z"], "E96"),
            Size("C1", "C1 = 1 / (2π f R1)", lambda f: 1 / (2 * math.pi * f["f"] * f["R1"]), "E12"),
        ),
        (
            Result("Z", "Z = R1", lambda f: f["R1"]),
            Result("f", "f = 1 / (2π R1 C1)", lambda f: 1 / (2 * math.pi * f["R1"] * f["C1"])),
        ), _IDEAL,
        shows=(("passband_gain", "Z"), ("upper_cutoff", "")), driven_by="current",
    ),
)  # fmt: skip
