"""Step-down converters in continuous conduction (Erickson and Maksimovic, Fundamentals of Power Electronics, ch. 2)."""

from __future__ import annotations

from verdad_core.stages.stage import Figures, Goal, Result, Size, Stage, Switched

_SOURCE = "Erickson and Maksimovic, Fundamentals of Power Electronics, chapter 2"
#: What the generic diode drops at an ampere.
_DROP = 0.8
_GOALS = (
    Goal("Vi", "Input", "V", "12"), Goal("Vo", "Output", "V", "3.3"), Goal("I", "Load current", "A", "1"),
    Goal("f", "Switching frequency", "Hz", "300k"),
    Goal("r", "Ripple of the inductor's current, of the load's", "", "0.4"),
    Goal("U", "Ripple of the output", "V", "10m"),
)  # fmt: skip


def _ripple(f: Figures) -> float:
    """Peak to peak, in the inductor."""
    return (f["Vi"] - f["Vo"]) * f["Vo"] / (f["Vi"] * f["f"] * f["L1"])


_SIZES = (
    Size("L1", "L1 = (Vi − Vo) Vo / (Vi f r I)",
         lambda f: (f["Vi"] - f["Vo"]) * f["Vo"] / (f["Vi"] * f["f"] * f["r"] * f["I"]), "E12"),
    Size("C1", "C1 = r I / (8 f U)", lambda f: f["r"] * f["I"] / (8 * f["f"] * f["U"]), "E6"),
)  # fmt: skip
_RESULTS = (
    Result("r", "r = (Vi − Vo) Vo / (Vi f L1 I)", lambda f: _ripple(f) / f["I"]),
    Result("U", "U = r I / (8 f C1)", lambda f: _ripple(f) / (8 * f["f"] * f["C1"])),
)


def _switched(*gates: tuple[str, bool], drop: float = 0.0) -> Switched:
    high, whole = (f"(Vo+{drop:g}V)", f"(Vi+{drop:g}V)") if drop else ("Vo", "Vi")
    shows = (("mean", "v(out)", "Vo"), ("peak_to_peak", "v(out)", f"(Vi-Vo)*{high}/(8*{whole}*f^2*L1*C1)"),
             ("peak_to_peak", "i(L1)", f"(Vi-Vo)*{high}/({whole}*f*L1)"))  # fmt: skip
    return Switched("in", "Vi", "Vo", "I", "f", gates, drop, shows)


SWITCHING = (
    Stage(
        "step-down-diode", "Step-down converter with diode", "switching", "The switch follows the voltage on drive.",
        (
            "S1 smooth-switch a=in b=sw control=drive ron:10m", "D1 diode anode=gnd cathode=sw", "L1 sw out",
            "C1 out gnd",
        ),
        _GOALS, _SIZES, _RESULTS, _SOURCE, switched=_switched(("drive", True), drop=_DROP),
    ),
    Stage(
        "step-down-synchronous", "Step-down converter with synchronous switch", "switching",
        "The switches follow the voltages on upper and lower, never both at once: then D1 conducts.",
        (
            "S1 smooth-switch a=in b=sw control=upper ron:10m", "S2 smooth-switch a=sw b=gnd control=lower ron:10m",
            "D1 diode anode=gnd cathode=sw", "L1 sw out", "C1 out gnd",
        ),
        _GOALS, _SIZES, _RESULTS, _SOURCE, switched=_switched(("upper", True), ("lower", False)),
    ),
)  # fmt: skip
