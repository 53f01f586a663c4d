"""The catalogue's op-amps, in the dialects and with the flaws that occur."""

from __future__ import annotations

from verdad.catalogue.listing import Line, Listing
from verdad.catalogue.recipes.op_amp import OpAmp, boyle_text, sources_text

OVENNA, QUILLMARK, PADDOCK = "Ovenna Silicon", "Quillmark Devices", "Paddock model collection"

_LADDER = ("NON-INVERTING INPUT", "INVERTING INPUT", "POSITIVE SUPPLY", "NEGATIVE SUPPLY", "OUTPUT")


def _ladder(labels: tuple[str, ...] = _LADDER) -> list[str]:
    lines = [f"* CONNECTIONS:   {labels[0]}"]
    lines += [f"*                {'| ' * k}{label}" for k, label in enumerate(labels) if k]
    return [*lines, f"*                {'| ' * len(labels)}".rstrip()]


def _text(*blocks: list[str], end: str = "\n", encoding: str = "ascii") -> bytes:
    return (end.join(line for block in blocks for line in block) + end).encode(encoding)


def _lines(f: OpAmp, **off: float) -> tuple[Line, ...]:
    """What the data sheet of an op-amp made from figures says; `off` replaces what the file does not keep to."""
    said = {
        "gain": f.gain, "gain_bandwidth": f.gain_bandwidth, "slew": f.slew, "bias": f.bias, "supply": f.supply,
        "noise": f.noise, "phase_margin": f.phase_margin, **off,
    }  # fmt: skip
    volts = f"±{f.volts / 2:g} V"
    lines = [
        Line("Open-loop gain", "V/mV", said["gain"] / 1e3, said["gain"] / 2e3, conditions=volts),
        Line("Gain-bandwidth product", "MHz", said["gain_bandwidth"] / 1e6, conditions=volts),
        Line("Slew rate", "V/µs", said["slew"] / 1e6, conditions="gain of 1"),
        Line("Input bias current", "nA", said["bias"] * 1e9, most=said["bias"] * 3e9),
        Line("Supply current", "mA", said["supply"] * 1e3, most=said["supply"] * 1.4e3),
        Line("Phase margin", "°", said["phase_margin"], conditions="gain of 1"),
        Line("Short-circuit current", "mA", f.short_circuit * 1e3),
    ]
    if said["noise"]:
        lines.append(Line("Voltage noise density", "nV/√Hz", said["noise"] * 1e9, conditions="1 kHz"))
    return tuple(lines)


OVN4183 = OpAmp(1e6, 8e6, 4e6, 30e-9, 1e6, 25e-3, 4.1e-3, 10, 1.1, 100, 66)
OVN2201 = OpAmp(2e5, 1.2e6, 0.6e6, 80e-9, 3e4, 20e-3, 1.8e-3, 10, 1.2, 75, 62, 18e-9, 60, 1e-3)
OVN3310 = OpAmp(1e6, 2.5e6, 1.5e6, 1e-12, 1e5, 30e-3, 0.75e-3, 5, 0.05, 120, 60, 14e-9, 400, 0.3e-3)
OVN7702 = OpAmp(1.5e5, 3e6, 2.2e6, 45e-9, 3e4, 30e-3, 1.4e-3, 10, 1.0, 80, 60, 12e-9, 40, 0.8e-3)
OVN6050 = OpAmp(1e5, 20e6, 14e6, 120e-9, 1e5, 40e-3, 5.5e-3, 10, 1.1, 50, 88, 6e-9, 100, 0.5e-3)
OVN9001 = OpAmp(5e5, 5e6, 3e6, 20e-9, 1e5, 25e-3, 2.6e-3, 10, 1.0, 90, 63, 8e-9, 20, 0.2e-3)
QMD1120 = OpAmp(2e6, 1e6, 0.4e6, 2e-9, 1e6, 15e-3, 0.9e-3, 10, 1.2, 90, 65, 18e-9, 5, 30e-6)
QMD1900 = OpAmp(4e5, 6e6, 3.5e6, 5e-12, 1e6, 35e-3, 1.1e-3, 5, 0.08, 100, 60)
QMD5100 = OpAmp(3e5, 4e6, 2e6, 60e-9, 1e5, 25e-3, 2.2e-3, 10, 1.0, 90, 62, 9e-9, 30, 0.4e-3)

_FREE = ["* Terms of use: free to copy, change and simulate."]

#: Between the input pair and the gain stage: (1 - sRC) / (1 + sRC), a zero in the right half-plane at 6 MHz.
_ALL_PASS = [
    "EX1 X1 0 A1 A2 1",
    "RX X1 X2 50",
    "CX X2 0 530P",
    "EX3 X3 0 POLY(2) (X2,0) (X1,0) 0 2 -1",
]

_SLOW_START = [
    "* start-up: a bias loop with two states, and a decision that is steeper than any amplifier",
    "QS1 KB KB 0 QIN",
    "QS2 KC KB KE QIN 8",
    "RS KE 0 4.7K",
    "QS3 KB KC 4A QPB",
    "QS4 KC KC 4A QPB",
    "VST 4A 0 5",
    "ESTART ST 0 VALUE={1/(1+EXP(LIMIT(-2E4*(V(KB)-0.35),-200,200)))}",
    "RST ST 0 1K",
    "GST 0 KB VALUE={1E-4*(1-V(ST))*(EXP(LIMIT(V(4A)-V(KB),-50,50))-1)}",
    ".MODEL QPB PNP(IS=8E-16 BF=60)",
]


def op_amps() -> list[Listing]:
    swapped = (_LADDER[1], _LADDER[0], *_LADDER[2:])
    terse = ("1", "2", "99", "50", "30")
    original = _text(["* OVN2201 op-amp macro model, level 1"], boyle_text("OVN2201", OVN2201, terse))
    dual = [
        "* Both halves in one package",
        ".SUBCKT OVN7702_DUAL OUTA INA- INA+ VEE INB+ INB- OUTB VCC",
        "XA INA+ INA- VCC VEE OUTA OVN7702",
        "XB INB+ INB- VCC VEE OUTB OVN7702",
        ".ENDS OVN7702_DUAL",
    ]
    oscillates = boyle_text("OVN6050", OVN6050, ("INP", "INN", "VCC", "VEE", "OUT"))
    oscillates = [line.replace("GA G 0 A1 A2", "GA G 0 X3 0") for line in oscillates]
    oscillates[-3:-3] = _ALL_PASS
    slow = boyle_text("QMD5100", QMD5100, ("3", "2", "7", "4", "6"))
    slow[-3:-3] = _SLOW_START
    return [
        Listing("OVN4183", OVENNA, "op-amp", "Low-noise amplifier for sensors, ±5 V", {
            "ovenna_ovn4183.lib": _text(
                ["* OVN4183  low-noise operational amplifier  macro model", f"* {OVENNA}, release 2.1", "*", *_FREE,
                 "*"],
                _ladder(), boyle_text("OVN4183", OVN4183))
        }, _lines(OVN4183), "ovn4183"),
        Listing("OVN2201", OVENNA, "op-amp", "General-purpose amplifier", {"OVN2201.MOD": original}, _lines(OVN2201),
                "ovn2201", "2024-11-20"),
        Listing("OVN3310", OVENNA, "op-amp", "Low-power amplifier, inputs and output to both supplies", {
            "ovn3310.lib": _text(
                ["* OVN3310: 2.5 MHz rail-to-rail operational amplifier",
                 "* Copyright 2025 Ovenna Silicon. All rights reserved.",
                 "* This model may be used and copied freely; it comes as is, without any warranty."],
                sources_text("ovn3310", OVN3310, ("inp", "inn", "vdd", "vss", "out"), 4e6))
        }, _lines(OVN3310), "ovn3310", "2025-06-11"),
        Listing("OVN7702", OVENNA, "op-amp", "Two amplifiers in one package", {
            "ovn7702.lib": _text(
                ["* OVN7702 dual operational amplifier", "*", "* One half:",
                 "* Node order: IN+, IN-, VCC, VEE, OUT"],
                boyle_text("OVN7702", OVN7702, ("INP", "INM", "VCC", "VEE", "OUT")), dual)
        }, _lines(OVN7702), "ovn7702", "2025-01-15"),
        Listing("OVN6050", OVENNA, "op-amp", "Fast amplifier, unity-gain stable", {
            "ovn6050.cir": _text(["* OVN6050 fast operational amplifier, unity-gain stable"], oscillates)
        }, _lines(OVN6050, phase_margin=55), "ovn6050", "2025-09-30"),
        Listing("OVN9001", OVENNA, "op-amp", "Amplifier for audio and vibration", {
            "OVN9001.LIB": _text(
                ["* OVN9001 – Operationsverstärker / operational amplifier",
                 "* 3 V/µs, ± 5 V – © Ovenna Silicon 2026",
                 "* pin order: in+ in- v+ v- out"],
                boyle_text("OVN9001", OVN9001, ("10", "20", "30", "40", "50")), end="\r\n", encoding="cp1252")
        }, _lines(OVN9001), "ovn9001", "2026-01-19"),
        Listing("QMD1120", QUILLMARK, "op-amp", "Precision amplifier, 30 µV offset", {
            "qmd1120.txt": _text(["* QMD1120 precision operational amplifier", "*"], _ladder(swapped),
                                 boyle_text("QMD1120", QMD1120))
        }, _lines(QMD1120), "qmd1120", "2025-03-03"),
        Listing("QMD1415", QUILLMARK, "op-amp", "Micropower amplifier", {
            "qmd1415.lib": _text([
                "* QMD1415 micropower operational amplifier", '.INCLUDE "quillmark_common.inc"',
                ".SUBCKT QMD1415 INP INN VCC VEE OUT", "X1 INP INN VCC VEE OUT QMD_CORE", ".ENDS QMD1415"])
        }, _lines(QMD1120), "qmd1415", "2023-08-08"),
        Listing("QMD2208", QUILLMARK, "op-amp", "Amplifier with chopped input", {
            "qmd2208_encrypted.lib": _text([
                "* QMD2208 operational amplifier", ".SUBCKT QMD2208 INP INN VCC VEE OUT", ".PROTECT",
                "8F3A09C1D27E44B06A5510FE", "77C2E8041BB39D6F20A1C0DE", ".UNPROTECT", ".ENDS QMD2208"])
        }, (), "qmd2208", "2026-02-14"),
        Listing("QMD1900", QUILLMARK, "op-amp", "CMOS amplifier, 9 nV/√Hz", {
            "qmd1900.lib": _text(
                ["* QMD1900 CMOS operational amplifier", "* Nodes: inp inn vdd vss out"],
                sources_text("qmd1900", QMD1900, ("1", "2", "3", "4", "5"), 12e6))
        }, _lines(QMD1900, noise=9e-9), "qmd1900", "2025-12-01"),
        Listing("QMD5100", QUILLMARK, "op-amp", "Amplifier with start-up circuit", {
            "qmd5100.lib": _text(["* QMD5100 operational amplifier, with its start-up circuit"], slow)
        }, _lines(QMD5100), "qmd5100", "2024-05-27"),
        Listing("OVN2201-COPY", PADDOCK, "op-amp", "OVN2201 by Ovenna, contributed by a reader", {
            "ovn2201.lib": original.replace(b"C2 G D 30P", b"C2 G D 3.0P").replace(
                b"* OVN2201 op-amp macro model, level 1", b"* OVN2201 op amp - typed in from a printout")
        }, _lines(OVN2201), "ovn2201", "2022-10-10"),
    ]  # fmt: skip
