"""References, regulators, comparators, switches and transformers."""

from __future__ import annotations

import math
from dataclasses import dataclass

from verdad.catalogue.recipes.numbers import n


@dataclass(frozen=True)
class Regulator:
    """Output (V), line regulation (V/V), output resistance (Ω), dropout (V), supply current (A), tempco (1/°C)."""

    output: float
    line: float
    resistance: float
    dropout: float
    supply: float
    tempco: float = 0.0

    def subcircuit(self, name: str, nodes: tuple[str, str, str]) -> list[str]:
        """A source that follows the smaller of its target and what the input leaves, behind the output resistance;
        the load current comes from the input.
        """
        source, out, ground = nodes
        target = f"{self.output:g}*(1+{self.tempco:g}*(temp-27))+{self.line:g}*(v({source},{ground})-12)"
        return [
            f".SUBCKT {name} {source} {out} {ground}",
            f"* {self.output:g} V, drops out below {self.output + self.dropout:g} V",
            f"ETARGET T 0 VALUE={{MIN({target}, MAX(V({source},{ground})-{self.dropout:g},0))}}",
            "RT T T1 10K",
            "CT T1 0 1N",
            f"GPASS {source} {out} VALUE={{MAX((V(T1)-V({out},{ground}))/{self.resistance:g},0)}}",
            f"RHOLD {out} {ground} {n(1e6)}",
            f"IQ {source} {ground} {n(self.supply)}",
            f".ENDS {name}",
        ]


@dataclass(frozen=True)
class Comparator:
    """Offset and hysteresis (V), delay (s), supply current (A), saturation resistance of the output (Ω)."""

    offset: float
    hysteresis: float
    delay: float
    supply: float
    resistance: float

    def open_collector(self, name: str, nodes: tuple[str, ...]) -> list[str]:
        """A switch with hysteresis decides; an RC of delay / ln 2 carries the decision to the output's switch."""
        plus, minus, high, low, out = nodes
        capacitor = self.delay / math.log(2) / 1e3
        return [
            f".SUBCKT {name} {plus} {minus} {high} {low} {out}",
            f"RIN {plus} {minus} 10MEG",
            f"IB1 {plus} 0 25N",
            f"IB2 {minus} 0 25N",
            "VONE ONE 0 1",
            f"SDEC ONE DEC {minus} {plus} DECIDE",
            "RDEC DEC 0 1MEG",
            "EDEL E1 0 DEC 0 1",
            "RDEL E1 E2 1K",
            f"CDEL E2 0 {n(capacitor)}",
            f"SOUT {out} {low} E2 0 OUTPUT",
            f"IQ {high} {low} {n(self.supply)}",
            f".MODEL DECIDE SW(VT={-self.offset:g} VH={self.hysteresis / 2:g} RON=1 ROFF=1E12)",
            f".MODEL OUTPUT SW(VT=0.5 VH=0.02 RON={n(self.resistance)} ROFF=1E9)",
            f".ENDS {name}",
        ]

    def push_pull(self, name: str, nodes: tuple[str, ...]) -> list[str]:
        """Decision by an expression, delay by an RC, output that follows it between the supplies."""
        plus, minus, high, low, out = nodes
        capacitor = self.delay / math.log(2) / 1e3
        return [
            f".subckt {name} {plus} {minus} {high} {low} {out}",
            f"rin {plus} {minus} 1g",
            f"edec e1 0 value={{0.5+0.5*tanh((v({plus},{minus})-{self.offset:g})*5000)}}",
            "rdel e1 e2 1k",
            f"cdel e2 0 {capacitor:.4g}",
            f"eout e3 {low} value={{v({high},{low})*0.5*(1+tanh(8*(v(e2)-0.5)))}}",
            f"rout e3 {out} {self.resistance:g}",
            f"iq {high} {low} {self.supply:g}",
            f".ends {name}",
        ]


def switch(name: str, on: float, off: float, threshold: float) -> list[str]:
    """An analog switch between two terminals, with the charge of its control and leakage to ground."""
    return [
        f".SUBCKT {name} A B CTL",
        "S1 A B CTL 0 SWMOD",
        "CA A 0 6P",
        "CB B 0 6P",
        "CQA CTL A 0.5P",
        "CQB CTL B 0.5P",
        f".MODEL SWMOD VSWITCH(VON={threshold + 0.4:g} VOFF={threshold - 0.4:g} RON={n(on)} ROFF={n(off)})",
        f".ENDS {name}",
    ]


def transformer(name: str, primary: float, ratio: float, coupling: float, r1: float, r2: float) -> list[str]:
    """Two coupled windings with their resistances: L2 = ratio² L1."""
    return [
        f".SUBCKT {name} PRI1 PRI2 SEC1 SEC2",
        f"R1 PRI1 P1 {n(r1)}",
        f"L1 P1 PRI2 {n(primary)}",
        f"R2 SEC1 S1 {n(r2)}",
        f"L2 S1 SEC2 {n(primary * ratio**2)}",
        f"K1 L1 L2 {coupling:g}",
        f".ENDS {name}",
    ]
