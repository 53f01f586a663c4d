"""The catalogue's comparators, references, regulators, switches and transformers."""

from __future__ import annotations

from verdad.catalogue.discretes import TORVANE
from verdad.catalogue.listing import Line, Listing
from verdad.catalogue.op_amps import QUILLMARK
from verdad.catalogue.recipes.others import Comparator, Regulator, switch, transformer

QMD0233 = Comparator(1e-3, 4e-3, 300e-9, 0.6e-3, 60.0)
QMD0480 = Comparator(0.5e-3, 0.0, 40e-9, 1.1e-3, 40.0)
QMD2500 = Regulator(2.5, 20e-6, 0.05, 0.3, 60e-6, 12e-6)
TVP3300 = Regulator(3.3, 200e-6, 0.02, 0.45, 90e-6, 40e-6)


def _text(lines: list[str]) -> bytes:
    return ("\n".join(lines) + "\n").encode()


def others() -> list[Listing]:
    core = ["* parts that the libraries of Torvane share", ".LIB REGULATORS",
            *TVP3300.subcircuit("TVP_CORE33", ("VI", "VO", "GND1")), ".ENDL REGULATORS"]  # fmt: skip
    regulator = ["* TVP3300 low-dropout regulator, 3.3 V", '.LIB "torvane_core.lib" REGULATORS',
                 "* pins: input, output, ground", ".SUBCKT TVP3300 VIN VOUT GND", "X1 VIN VOUT GND TVP_CORE33",
                 ".ENDS TVP3300"]  # fmt: skip
    return [
        Listing("QMD0233", QUILLMARK, "comparator", "Comparator with open collector", {
            "qmd0233.lib": _text(["* QMD0233 comparator, open collector", "* node order: in+ in- v+ v- out",
                                  *QMD0233.open_collector("QMD0233", ("1", "2", "3", "4", "5"))])
        }, (Line("Propagation delay", "ns", 300), Line("Supply current", "mA", 0.6, most=1.0),
            Line("Hysteresis", "mV", 4)), "qmd0233"),
        Listing("QMD0480", QUILLMARK, "comparator", "40 ns comparator, push-pull output", {
            "qmd0480.lib": _text(["* fast comparator",
                                  *QMD0480.push_pull("qmd0480", ("inp", "inm", "vdd", "vss", "q"))])
        }, (Line("Propagation delay", "ns", 40), Line("Supply current", "mA", 1.1)), "qmd0480"),
        Listing("QMD2500", QUILLMARK, "reference", "2.5 V voltage reference, 12 ppm/°C", {
            "qmd2500.lib": _text(["* QMD2500 2.5 V voltage reference", *QMD2500.subcircuit("QMD2500", ("1", "2", "3"))])
        }, (Line("Output voltage", "V", 2.5, 2.495, 2.505), Line("Temperature coefficient", "ppm/°C", 12, most=25),
            Line("Ground current", "µA", 60)),
            "qmd2500"),
        Listing("TVP3300", TORVANE, "regulator", "3.3 V low-dropout regulator", {
            "tvp3300.lib": _text(regulator), "torvane_core.lib": _text(core)
        }, (Line("Output voltage", "V", 3.3, 3.25, 3.35), Line("Dropout voltage", "mV", 450),
            Line("Ground current", "µA", 90)), "tvp3300"),
        Listing("TVPSW4", TORVANE, "switch", "Analog switch, 4 Ω", {
            "tvpsw4.lib": _text(["* TVPSW4 analog switch", *switch("TVPSW4", 4.0, 2e9, 1.6)])
        }, (Line("On-resistance", "Ω", 4, most=6), Line("Off current", "nA", 0.5, most=5)), "tvpsw4"),
        Listing("TVPT13", TORVANE, "transformer", "Gate-drive transformer 1:1.5", {
            "tvpt13.lib": _text(["* TVPT13 gate-drive transformer",
                                 *transformer("TVPT13", 600e-6, 1.5, 0.995, 0.35, 0.6)])
        }, (Line("Primary inductance", "µH", 600, 450), Line("Turns ratio", "", 1.5)), "tvpt13"),
    ]  # fmt: skip
