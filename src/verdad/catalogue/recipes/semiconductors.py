"""Diodes, bipolar transistors, JFETs and MOSFETs: the parameters of `.model` from figures of a data sheet."""

from __future__ import annotations

import math
from dataclasses import dataclass

from verdad.catalogue.recipes.numbers import THERMAL, n

#: Junction potential and grading that a capacitance is recalculated with, and the zero-bias capacitance from it.
VJ, GRADING = 0.7, 0.4


def zero_bias(farads: float, reverse: float, vj: float = VJ, grading: float = GRADING) -> float:
    """C(0) of a junction from its capacitance in reverse: C(V) = C(0) / (1 + V/VJ)^M (SPICE 2G6 user's manual)."""
    return float(farads * (1 + reverse / vj) ** grading)


@dataclass(frozen=True)
class Diode:
    """Forward voltage (V) at a current (A), series resistance (Ω), emission coefficient, capacitance (F) at a reverse
    voltage, recovery time (s), breakdown voltage at a current where it has one.
    """

    volts: float
    current: float
    resistance: float = 0.5
    emission: float = 1.8
    capacitance: float = 4e-12
    reverse: float = 0.0
    recovery: float = 4e-9
    breakdown: float = 100.0
    breakdown_current: float = 5e-6

    def parameters(self) -> str:
        """IS from the forward point: I = IS exp((V - I RS) / (N VT)); TT from the recovery from equal forward and
        reverse currents, t = TT ln 2 until the stored charge is gone.
        """
        junction = self.volts - self.current * self.resistance
        saturation = self.current / math.expm1(junction / (self.emission * THERMAL))
        return (
            f"IS={n_small(saturation)} N={self.emission:g} RS={n(self.resistance)} "
            f"CJO={n(zero_bias(self.capacitance, self.reverse))} VJ={VJ} M={GRADING} "
            f"TT={n(self.recovery / math.log(2))} BV={self.breakdown:g} IBV={n(self.breakdown_current)}"
        )


def n_small(value: float) -> str:
    """A saturation current, in exponents, as files write it."""
    return f"{value:.4E}"


@dataclass(frozen=True)
class Bipolar:
    """Current gain and base voltage at a collector current, Early voltage, transition frequency, capacitances."""

    kind: str
    gain: float
    base_volts: float
    current: float
    early: float = 100.0
    transition: float = 250e6
    collector_capacitance: float = 4e-12
    emitter_capacitance: float = 8e-12
    knee: float = 0.3
    voltage: float = 5.0

    def parameters(self) -> str:
        """IS from the base voltage, TF from the transition frequency less what the junctions take:
        1/(2π fT) = TF + (Cbe + Cbc) VT / IC (any text on transistors; for one Gray and Meyer, 1977).
        """
        forward = 1 + self.voltage / self.early
        saturation = self.current / forward / math.exp(self.base_volts / THERMAL)
        cje = self.emitter_capacitance * 1.4
        cjc = zero_bias(self.collector_capacitance, self.voltage, 0.75, 0.33)
        transit = (
            1 / (2 * math.pi * self.transition) - (cje * 1.5 + self.collector_capacitance) * THERMAL / self.current
        )
        return (
            f"IS={n_small(saturation)} BF={self.gain / forward:.4g} VAF={self.early:g} IKF={self.knee:g} BR=4 "
            f"CJE={n(cje)} VJE=0.75 MJE=0.33 CJC={n(cjc)} VJC=0.75 MJC=0.33 TF={n(max(transit, 1e-12))} TR=50N "
            f"RB=20 RC=1 RE=0.2"
        )


@dataclass(frozen=True)
class Jfet:
    """Saturation current (A), cut-off voltage (V, negative), capacitances."""

    kind: str
    saturation: float
    cutoff: float
    capacitance: float = 5e-12

    def parameters(self) -> str:
        """BETA = IDSS / VTO² (Shichman and Hodges, 1968)."""
        return (
            f"VTO={self.cutoff:g} BETA={n(self.saturation / self.cutoff**2)} LAMBDA=5M IS=10F "
            f"CGS={n(self.capacitance)} CGD={n(self.capacitance)} PB=0.8 KF=1E-17"
        )


@dataclass(frozen=True)
class PowerMosfet:
    """Threshold (V), on-resistance (Ω) with a gate drive (V), transconductance (A/V) at a current (A), capacitances."""

    kind: str
    threshold: float
    on_resistance: float
    drive: float
    transconductance: float
    current: float
    gate_source: float
    gate_drain: float
    drain_source: float
    breakdown: float

    def channel(self) -> tuple[float, float]:
        """KP W/L = gm² / (2 I) in saturation, and the resistance left for the drain after the channel's own
        1 / (KP W/L (VGS - VTO)) (Shichman and Hodges, 1968).
        """
        beta = self.transconductance**2 / (2 * self.current)
        rest = self.on_resistance - 1 / (beta * (self.drive - abs(self.threshold)))
        if rest <= 0:
            raise ValueError("the transconductance is too low for this on-resistance")
        return beta, rest

    def subcircuit(self, name: str, nodes: tuple[str, ...] = ("D", "G", "S"), leads: float = 2e-9) -> list[str]:
        """Level-1 channel with a drain resistance, gate capacitances, body diode, and inductive leads."""
        drain, gate, source = nodes
        beta, rest = self.channel()
        sign = 1 if self.kind == "NMOS" else -1
        anode, cathode = ("S1", "D2") if sign > 0 else ("D2", "S1")
        return [
            f".SUBCKT {name} {drain} {gate} {source}",
            f"LG {gate} G0 {n(leads)}",
            "RG G0 G1 1.5",
            f"LS {source} S1 {n(leads / 2)}",
            f"LD {drain} D2 {n(leads)}",
            f"RD D2 D1 {n(rest)}",
            "M1 D1 G1 S1 S1 MCH L=1U W=1U",
            f"CGS G1 S1 {n(self.gate_source)}",
            f"CGD G1 D1 {n(self.gate_drain)}",
            f"DBODY {anode} {cathode} DB",
            f".MODEL MCH {self.kind}(LEVEL=1 VTO={sign * abs(self.threshold):g} KP={beta:.4g} IS=1F)",
            f".MODEL DB D(IS=5P N=1.1 RS=8M CJO={n(zero_bias(self.drain_source, 25.0))} VJ={VJ} M={GRADING} "
            f"BV={self.breakdown:g} IBV=250U TT=60N)",
            f".ENDS {name}",
        ]
