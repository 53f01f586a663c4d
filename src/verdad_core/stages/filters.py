"""Active filters of second order, and passive two-ports.

Sallen and Key (1955), "A practical method of designing RC active filters", for the stages with a follower; the
multiple-feedback sections as in any text on active filters, their transfer functions beside each of them.
"""

from __future__ import annotations

import math

from verdad_core.stages.amplifiers import amplifier
from verdad_core.stages.stage import Figures, Goal, Result, Size, Stage

_SALLEN_KEY = "Sallen and Key, 1955"
_FEEDBACK = "multiple feedback; any text on active filters"
_F = Goal("f", "Natural frequency", "Hz", "1k")
_Q = Goal("Q", "Quality factor", "", "0.7071")
_C = Goal("C", "Size of C2", "F", "10n")
_RISE = "E12"


def _w(f: Figures) -> float:
    return 2 * math.pi * f["f"]


def _natural(*parts: str) -> tuple[str, object]:
    """The text and function of 1 / (2π √(product))."""
    return f"f = 1 / (2π √({' '.join(parts)}))", lambda f: 1 / (2 * math.pi * math.sqrt(math.prod(f[p] for p in parts)))


def _low_pass_sum(f: Figures) -> tuple[float, float]:
    """Sum and product of R1 and R2 of the low-pass with a follower: 1 + s C2 (R1 + R2) + s² R1 R2 C1 C2."""
    return 1 / (_w(f) * f["Q"] * f["C2"]), 1 / (_w(f) ** 2 * f["C1"] * f["C2"])


def _feedback_root(f: Figures) -> float:
    """R2 of the multiple-feedback low-pass: 1 + s C2 (R2 + R3 + R2 R3 / R1) + s² R2 R3 C1 C2, gain R2 / R1."""
    total = 1 / (_w(f) * f["Q"] * f["C2"])
    product = 1 / (_w(f) ** 2 * f["C1"] * f["C2"])
    return (total + math.sqrt(total**2 - 4 * (1 + f["A"]) * product)) / 2


def _root(total: float, product: float) -> float:
    return (total + math.sqrt(total**2 - 4 * product)) / 2


FILTERS = (
    Stage(
        "low-pass-follower", "Low-pass with a follower", "filter", "Second order, gain one, after Sallen and Key.",
        ("R1 in x", "R2 x p", "C1 x out", "C2 p gnd", amplifier("U1", "p", "out", "out")),
        (_F, _Q, _C),
        (
            Size("C2", "C2 = C", lambda f: f["C"], _RISE),
            # A little more than the least that the quality factor takes, so that the nearest value is enough too.
            Size("C1", "C1 = 1.5 · 4 Q² C2", lambda f: 6 * f["Q"] ** 2 * f["C2"], _RISE),
            Size("R1", "R1 + R2 = 1 / (2π f Q C2), R1 R2 = 1 / ((2π f)² C1 C2)",
                 lambda f: _root(*_low_pass_sum(f)), "E96"),
            Size("R2", "R2 = 1 / ((2π f)² R1 C1 C2)", lambda f: _low_pass_sum(f)[1] / f["R1"], "E96"),
        ),
        (
            Result("f", *_natural("R1", "R2", "C1", "C2")),  # type: ignore[arg-type]
            Result("Q", "Q = √(R1 R2 C1 C2) / (C2 (R1 + R2))",
                   lambda f: math.sqrt(f["R1"] * f["R2"] * f["C1"] * f["C2"]) / (f["C2"] * (f["R1"] + f["R2"]))),
        ), _SALLEN_KEY,
        shows=(("passband_gain", ""), ("upper_cutoff", "")),
    ),
    Stage(
        "low-pass-feedback", "Low-pass with multiple feedback", "filter", "Second order, inverting, with gain.",
        ("R1 in x", "C1 x gnd", "R3 x m", amplifier("U1", "gnd", "m", "out"), "R2 x out", "C2 m out"),
        (_F, _Q, Goal("A", "Size of the gain", "", "1"), Goal("C", "Size of C2", "F", "1n")),
        (
            Size("C2", "C2 = C", lambda f: f["C"], _RISE),
            Size("C1", "C1 = 1.5 · 4 Q² (1 + A) C2", lambda f: 6 * f["Q"] ** 2 * (1 + f["A"]) * f["C2"], _RISE),
            Size("R2", "R2 + (1 + A) R3 = 1 / (2π f Q C2), R2 R3 = 1 / ((2π f)² C1 C2)", _feedback_root, "E96"),
            Size("R3", "R3 = 1 / ((2π f)² R2 C1 C2)", lambda f: 1 / (_w(f) ** 2 * f["R2"] * f["C1"] * f["C2"]), "E96"),
            Size("R1", "R1 = R2 / A", lambda f: f["R2"] / f["A"], "E96"),
        ),
        (
            Result("f", *_natural("R2", "R3", "C1", "C2")),  # type: ignore[arg-type]
            Result("Q", "Q = √(R2 R3 C1 C2) / (C2 (R2 + R3 + R2 R3 / R1))",
                   lambda f: math.sqrt(f["R2"] * f["R3"] * f["C1"] * f["C2"])
                   / (f["C2"] * (f["R2"] + f["R3"] + f["R2"] * f["R3"] / f["R1"]))),
            Result("A", "A = R2 / R1", lambda f: f["R2"] / f["R1"]),
        ), _FEEDBACK,
        shows=(("passband_gain", ""), ("upper_cutoff", "")),
    ),
    Stage(
        "high-pass-follower", "High-pass with a follower", "filter", "Second order, gain one, after Sallen and Key.",
        ("C1 in x", "C2 x p", "R1 x out", "R2 p gnd", amplifier("U1", "p", "out", "out")),
        (_F, _Q, Goal("C", "Size of C1 and C2", "F", "10n")),
        (
            Size("C1", "C1 = C", lambda f: f["C"], _RISE), Size("C2", "C2 = C1", lambda f: f["C1"], _RISE),
            Size("R1", "R1 = 1 / (2π f · 2 Q C1)", lambda f: 1 / (2 * f["Q"] * _w(f) * f["C1"]), "E96"),
            Size("R2", "R2 = 2 Q / (2π f C1)", lambda f: 2 * f["Q"] / (_w(f) * f["C1"]), "E96"),
        ),
        (
            Result("f", *_natural("R1", "R2", "C1", "C2")),  # type: ignore[arg-type]
            Result("Q", "Q = √(R2 / R1) / 2", lambda f: math.sqrt(f["R2"] / f["R1"]) / 2),
        ), _SALLEN_KEY,
        shows=(("passband_gain", ""), ("lower_cutoff", "")),
    ),
    Stage(
        # -s² C1 C3 R1 R2 / (1 + s R1 (C1 + C2 + C3) + s² R1 R2 C2 C3)
        "high-pass-feedback", "High-pass with multiple feedback", "filter", "Second order, inverting, gain one.",
        ("C1 in x", "R1 x gnd", "C3 x m", amplifier("U1", "gnd", "m", "out"), "C2 x out", "R2 m out"),
        (_F, _Q, Goal("C", "Size of the capacitors", "F", "10n")),
        (
            *(Size(part, f"{part} = C", lambda f: f["C"], _RISE) for part in ("C1", "C2", "C3")),
            Size("R1", "R1 = 1 / (2π f Q · 3 C1)", lambda f: 1 / (_w(f) * f["Q"] * 3 * f["C1"]), "E96"),
            Size("R2", "R2 = 1 / ((2π f)² R1 C2 C3)", lambda f: 1 / (_w(f) ** 2 * f["R1"] * f["C2"] * f["C3"]), "E96"),
        ),
        (
            Result("f", *_natural("R1", "R2", "C2", "C3")),  # type: ignore[arg-type]
            Result("Q", "Q = √(R2 C2 C3 / R1) / (C1 + C2 + C3)",
                   lambda f: math.sqrt(f["R2"] * f["C2"] * f["C3"] / f["R1"]) / (f["C1"] + f["C2"] + f["C3"])),
        ), _FEEDBACK,
    ),
    Stage(
        # With C1 = C2: f = √((R1 + R2) / (R1 R2 R3)) / (2π C1), Q = π f R3 C1, A = R3 / (2 R1)
        "band-pass-feedback", "Band-pass with multiple feedback", "filter", "Second order, inverting.",
        ("R1 in x", "R2 x gnd", "C2 x m", amplifier("U1", "gnd", "m", "out"), "C1 x out", "R3 m out"),
        (_F, Goal("Q", "Quality factor", "", "5"), Goal("A", "Gain at the middle", "", "1"),
         Goal("C", "Size of C1 and C2", "F", "10n")),
        (
            Size("C1", "C1 = C", lambda f: f["C"], _RISE), Size("C2", "C2 = C1", lambda f: f["C1"], _RISE),
            Size("R3", "R3 = 2 Q / (2π f C1)", lambda f: 2 * f["Q"] / (_w(f) * f["C1"]), "E96"),
            Size("R1", "R1 = R3 / (2 A)", lambda f: f["R3"] / (2 * f["A"]), "E96"),
            Size("R2", "R2 = Q / ((2 Q² − A) 2π f C1)",
                 lambda f: f["Q"] / ((2 * f["Q"] ** 2 - f["A"]) * _w(f) * f["C1"]), "E96"),
        ),
        (
            Result("f", "f = √((R1 + R2) / (R1 R2 R3)) / (2π C1)",
                   lambda f: math.sqrt((f["R1"] + f["R2"]) / (f["R1"] * f["R2"] * f["R3"])) / (2 * math.pi * f["C1"])),
            Result("Q", "Q = √(R3 (R1 + R2) / (R1 R2)) / 2",
                   lambda f: math.sqrt(f["R3"] * (f["R1"] + f["R2"]) / (f["R1"] * f["R2"])) / 2),
            Result("A", "A = R3 / (2 R1)", lambda f: f["R3"] / (2 * f["R1"])),
        ), _FEEDBACK,
    ),
    Stage(
        # Equal R and C: f = √2 / (2π R1 C1), Q = √2 / (4 − K), K = 1 + R5 / R4
        "band-pass-follower", "Band-pass with a non-inverting amplifier", "filter",
        "Second order; its gain is set by the quality factor. After Sallen and Key.",
        (
            "R1 in x", "C1 x gnd", "C2 x p", "R2 p gnd", "R3 x out", amplifier("U1", "p", "fb", "out"), "R5 fb out",
            "R4 fb gnd",
        ),
        (_F, Goal("Q", "Quality factor", "", "5"), Goal("C", "Size of C1 and C2", "F", "10n")),
        (
            Size("C1", "C1 = C", lambda f: f["C"], _RISE), Size("C2", "C2 = C1", lambda f: f["C1"], _RISE),
            *(Size(part, f"{part} = √2 / (2π f C1)", lambda f: math.sqrt(2) / (_w(f) * f["C1"]), "E96")
              for part in ("R1", "R2", "R3")),
            Size("R4", "R4 = R1", lambda f: f["R1"], "E96"),
            Size("R5", "R5 = (3 − √2 / Q) R4", lambda f: (3 - math.sqrt(2) / f["Q"]) * f["R4"], "E96"),
        ),
        (
            Result("f", "f = √2 / (2π R1 C1)", lambda f: math.sqrt(2) / (2 * math.pi * f["R1"] * f["C1"])),
            Result("Q", "Q = √2 / (3 − R5 / R4)", lambda f: math.sqrt(2) / (3 - f["R5"] / f["R4"])),
        ), _SALLEN_KEY,
    ),
    Stage(
        "rc", "RC two-port", "two-port", "A low-pass of first order.",
        ("R1 in out", "C1 out gnd"),
        (Goal("f", "-3 dB frequency", "Hz", "159"), Goal("R", "Resistance", "Ω", "1k")),
        (
            Size("R1", "R1 = R", lambda f: f["R"], "E24"),
            Size("C1", "C1 = 1 / (2π f R1)", lambda f: 1 / (2 * math.pi * f["f"] * f["R1"]), _RISE),
        ),
        (Result("f", "f = 1 / (2π R1 C1)", lambda f: 1 / (2 * math.pi * f["R1"] * f["C1"])),),
        shows=(("upper_cutoff", "f"),),
    ),
    Stage(
        "lc", "LC two-port", "two-port", "A low-pass section between equal resistances.",
        ("L1 in out", "C1 out gnd"),
        (Goal("f", "Resonance", "Hz", "100k"), Goal("Z", "Characteristic resistance", "Ω", "50")),
        (
            Size("L1", "L1 = Z / (2π f)", lambda f: f["Z"] / _w(f), _RISE),
            Size("C1", "C1 = 1 / ((2π f)² L1)", lambda f: 1 / (_w(f) ** 2 * f["L1"]), "E24"),
        ),
        (
            Result("f", *_natural("L1", "C1")),  # type: ignore[arg-type]
            Result("Z", "Z = √(L1 / C1)", lambda f: math.sqrt(f["L1"] / f["C1"])),
        ),
    ),
)  # fmt: skip
