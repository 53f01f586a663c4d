"""The catalogue's diodes, clamps and transistors."""

from __future__ import annotations

from verdad.catalogue.listing import Line, Listing
from verdad.catalogue.recipes.semiconductors import Bipolar, Diode, Jfet, PowerMosfet

BRASTELLE, TORVANE = "Brastelle Semiconductor", "Torvane Power"

BRS41 = Diode(0.72, 10e-3, 0.6, 1.85, 2e-12, 0.0, 4e-9, 100, 100e-6)
BRS42 = Diode(0.35, 10e-3, 4.0, 1.08, 7e-12, 1.0, 1e-9, 40, 10e-6)
BRS51 = Diode(0.75, 10e-3, 1.5, 1.3, 120e-12, 0.0, 50e-9, 5.1, 5e-3)
BRS15 = Diode(0.74, 10e-3, 0.05, 1.4, 180e-12, 12.0, 100e-9, 16.7, 1e-3)
BRS390N = Bipolar("NPN", 180, 0.66, 2e-3, 90, 280e6, 2.6e-12, 7e-12)
BRS390P = Bipolar("PNP", 160, 0.67, 2e-3, 60, 220e6, 3.2e-12, 8e-12)
BRS60J = Jfet("NJF", 6e-3, -2.2, 5e-12)
TVP40 = PowerMosfet("NMOS", 2.6, 12e-3, 10.0, 22.0, 5.0, 900e-12, 90e-12, 260e-12, 62)
TVP30 = PowerMosfet("PMOS", 2.2, 45e-3, 10.0, 10.0, 3.0, 780e-12, 95e-12, 190e-12, 33)


def _diode(diode: Diode, breakdown: bool) -> tuple[Line, ...]:
    lines = [
        Line("Forward voltage", "V", diode.volts, most=diode.volts * 1.15, conditions=f"{diode.current * 1e3:g} mA"),
    ]
    if not breakdown and diode.emission > 1.5:
        lines.append(Line("Recovery time", "ns", most=diode.recovery * 2.5e9))
    if breakdown:
        volts = diode.breakdown
        lines.append(Line("Breakdown voltage", "V", volts, 0.94 * volts, 1.06 * volts))
    return tuple(lines)


def _bipolar(transistor: Bipolar) -> tuple[Line, ...]:
    return (
        Line("Current gain", "", transistor.gain, transistor.gain / 2, transistor.gain * 2, "2 mA, 5 V"),
        Line("Base-emitter voltage", "V", transistor.base_volts, 0.55, 0.75, "2 mA, 5 V"),
        Line("Transition frequency", "MHz", transistor.transition / 1e6, conditions="2 mA, 5 V"),
        Line("Collector-base capacitance", "pF", transistor.collector_capacitance * 1e12, conditions="5 V"),
    )


def _mosfet(transistor: PowerMosfet) -> tuple[Line, ...]:
    charge = transistor.gate_source + transistor.gate_drain
    return (
        Line("Threshold voltage", "V", transistor.threshold, 0.7 * transistor.threshold, 1.3 * transistor.threshold,
             "250 µA"),
        Line("On-resistance", "mΩ", transistor.on_resistance * 1e3, most=transistor.on_resistance * 1.3e3,
             conditions="10 V drive, 1 A"),
        Line("Input capacitance", "pF", charge * 1e12, conditions="25 V"),
        Line("Reverse capacitance", "pF", transistor.gate_drain * 1e12, conditions="25 V"),
    )  # fmt: skip


def discretes() -> list[Listing]:
    small_signal = "\n".join([
        "* Brastelle small-signal library, diodes and transistors",
        "* Permission is given to use these models with any simulator.",
        f".MODEL BRS41 D({BRS41.parameters()})", f".MODEL BRS42 D({BRS42.parameters()})",
        f".MODEL BRS51 D({BRS51.parameters()})", f".MODEL BRS390N NPN({BRS390N.parameters()})",
        f".MODEL BRS390P PNP({BRS390P.parameters()})", f".MODEL BRS60J NJF({BRS60J.parameters()})", "",
    ]).encode()  # fmt: skip
    library = {"brastelle_small_signal.lib": small_signal}
    clamp = "\r\n".join([
        "* BRS15 transient suppressor, 15 V – 600 W (10/1000 µs)", "* ±5 % – © Brastelle 2024",
        "* nodes: anode, cathode", ".SUBCKT BRS15 A K", "D1 A C DZ", "R1 C K 5M", "LPACK C C2 1P", "RPACK C2 K 1MEG",
        f".MODEL DZ D({BRS15.parameters()})", ".ENDS", "",
    ]).encode("cp1252")  # fmt: skip
    n_channel = "\n".join(
        ["* TVP40 40 A N-channel power MOSFET", "* terminals: D G S", *TVP40.subcircuit("TVP40"), ""]
    ).encode()
    p_channel = "\n".join(
        ["* P-channel MOSFET, logic level", *TVP30.subcircuit("TVP30", ("10", "20", "30")), ""]
    ).encode()
    return [
        Listing("BRS41", BRASTELLE, "diode", "Switching diode", library, _diode(BRS41, False), "brs41"),
        Listing("BRS42", BRASTELLE, "diode", "Schottky diode", library, _diode(BRS42, False), "brs42"),
        Listing("BRS51", BRASTELLE, "clamp", "5.1 V clamp diode", library, _diode(BRS51, True), "brs51"),
        Listing("BRS15", BRASTELLE, "clamp", "15 V transient suppressor", {"BRS15.LIB": clamp}, _diode(BRS15, True),
                "brs15"),
        Listing("BRS390N", BRASTELLE, "bipolar", "NPN transistor", library, _bipolar(BRS390N), "brs390n"),
        Listing("BRS390P", BRASTELLE, "bipolar", "PNP transistor", library, _bipolar(BRS390P), "brs390p"),
        Listing("BRS60J", BRASTELLE, "jfet", "N-channel JFET", library, (
            Line("Saturation current", "mA", 6, 3, 10), Line("Cut-off voltage", "V", -2.2, -4, -1)), "brs60j"),
        Listing("TVP40", TORVANE, "mosfet", "60 V N-channel MOSFET, 12 mΩ", {"tvp40.lib": n_channel}, _mosfet(TVP40),
                "tvp40"),
        Listing("TVP30", TORVANE, "mosfet", "30 V P-channel MOSFET, 45 mΩ", {"tvp30.mod": p_channel}, _mosfet(TVP30),
                "tvp30"),
    ]  # fmt: skip
