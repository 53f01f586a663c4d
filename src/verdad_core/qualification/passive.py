"""The benches of analog switches and of transformers."""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.ac import ac
from verdad_core.intake.model import node_of
from verdad_core.qualification.experiment import Experiment, Subject, at, solved
from verdad_core.qualification.figures import Axis, Card, FigureType, Outcome, curve

A, B, CONTROL = (node_of(role) for role in ("a", "b", "control"))
P1, P2, S1, S2 = (node_of(role) for role in ("primary+", "primary-", "secondary+", "secondary-"))


def switch(subject: Subject, outcome: Outcome) -> None:
    """Resistance with the control on and off."""
    volts = subject["voltage"]
    structure = subject.structure(f"va {A} 0 {volts:g}", f"rb {B} 0 1n", f"vcontrol {CONTROL} 0 0")
    on, off = -at(solved(structure, {("vcontrol", "dc"): [subject["on"], subject["off"]]}), "i(va)")
    outcome.measured("on_resistance", volts / float(on))
    if abs(off) < 1e-14:
        outcome.absent("off_current", "nothing flows when it is off")
    else:
        outcome.measured("off_current", float(off))
    control = np.linspace(min(subject["off"], subject["on"]), max(subject["off"], subject["on"]), 101)
    amperes = -at(solved(structure, {("vcontrol", "dc"): control}), "i(va)")
    outcome.cards.append(
        Card("control", "Resistance over control", Axis("control", "V"), Axis("resistance", "Ω", True),
             curves=(curve("resistance", control, volts / np.maximum(np.abs(amperes), 1e-15)),))
    )  # fmt: skip


def transformer(subject: Subject, outcome: Outcome) -> None:
    """Inductances, ratio, coupling and winding resistances, from open and shorted windings at the frequency."""
    f = np.array([subject["frequency"]])
    omega = 2 * np.pi * f[0]

    def impedance(plus: str, minus: str, other: tuple[str, str], load: str) -> tuple[complex, complex]:
        structure = subject.structure(
            f"idrive 0 {plus} 0 ac 1", f"rminus {minus} 0 1u", f"rload {other[0]} {other[1]} {load}",
            f"rother {other[1]} 0 1u",
        )  # fmt: skip
        across, induced = ac(structure, f, [(plus, minus), other]).values[0, :, 0]
        return complex(across), complex(induced)

    primary, induced = impedance(P1, P2, (S1, S2), "1e12")
    secondary, _ = impedance(S1, S2, (P1, P2), "1e12")
    shorted, _ = impedance(P1, P2, (S1, S2), "1n")
    outcome.measured("primary_inductance", primary.imag / omega)
    outcome.measured("secondary_inductance", secondary.imag / omega)
    outcome.measured("leakage_inductance", shorted.imag / omega)
    outcome.measured("primary_resistance", primary.real)
    outcome.measured("secondary_resistance", secondary.real)
    mutual = induced.imag / omega
    outcome.measured("turns_ratio", math.sqrt(abs(secondary.imag / primary.imag)) * (1 if mutual > 0 else -1))
    outcome.measured("coupling", abs(mutual) * omega / math.sqrt(primary.imag * secondary.imag))


_F = FigureType
SWITCH = (
    Experiment("on and off", (
        _F("on_resistance", "On-resistance", "Ω", "with the control on", ("ron", "rds(on)"), 0.3),
        _F("off_current", "Off current", "A", "with the control off", ("ioff", "leakage"), 1.0, size=True),
    ), switch),
)  # fmt: skip
TRANSFORMER = (
    Experiment("windings", (
        _F("primary_inductance", "Primary inductance", "H", "secondary open", ("lp", "lm", "inductance"), 0.2),
        _F("secondary_inductance", "Secondary inductance", "H", "primary open", ("ls",), 0.2),
        _F("leakage_inductance", "Leakage inductance", "H", "primary, with the secondary shorted", ("lleak",), 0.5),
        _F("primary_resistance", "Primary resistance", "Ω", "at the frequency", ("dcr", "rp"), 0.3),
        _F("secondary_resistance", "Secondary resistance", "Ω", "at the frequency", ("rs",), 0.3),
        _F("turns_ratio", "Turns ratio", "", "secondary to primary; negative where the dots differ", ("ratio",), 0.05),
        _F("coupling", "Coupling", "", "coefficient", ("k",), 0.02),
    ), transformer),
)  # fmt: skip
