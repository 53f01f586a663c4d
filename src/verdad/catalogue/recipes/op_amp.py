"""Op-amps: the transistor-input macro model of Boyle et al., and one made of controlled sources alone."""

from __future__ import annotations

import math
from dataclasses import dataclass

from verdad.catalogue.recipes.numbers import BOLTZMANN, CHARGE, KELVIN, THERMAL, n

#: Compensation capacitor and interstage resistance, which the recipe is free to choose (Boyle et al.: 30 pF, 100 kΩ).
C2, R2 = 30e-12, 100e3

#: Saturation current of the recipe's transistors and diodes in A (Boyle et al.).
IS = 8e-16

#: Bias of the noise generator's diodes in A.
NOISE_BIAS = 1e-6


@dataclass(frozen=True)
class OpAmp:
    """Figures of a data sheet: V/V, Hz, V/s, A, Ω, V, V/√Hz; `room` is how close the output comes to the supplies."""

    gain: float = 1e5
    gain_bandwidth: float = 1e6
    slew: float = 0.5e6
    bias: float = 80e-9
    rejection: float = 1e5
    short_circuit: float = 25e-3
    supply: float = 2e-3
    volts: float = 10.0
    room: float = 1.0
    resistance: float = 100.0
    phase_margin: float = 65.0
    noise: float = 0.0
    corner: float = 0.0
    offset: float = 0.0


@dataclass(frozen=True)
class BoyleValues:
    """Element values of the macro model."""

    collector: float
    emitter: float
    tail: float
    beta: float
    phase: float
    transconductance: float
    common: float
    output_gain: float


def boyle(f: OpAmp) -> BoyleValues:
    """The design equations of G. R. Boyle, B. M. Cohn, D. O. Pederson, J. E. Solomon, "Macromodeling of integrated
    circuit operational amplifiers", IEEE J. Solid-State Circuits 9, 1974: from the gain-bandwidth the collector
    resistance, from the slew rate the tail current, from the bias current the gain of the transistors, from the excess
    phase at unity gain the capacitor across the collectors.
    """
    each = f.slew * C2 / 2
    beta = each / f.bias
    collector = 1 / (2 * math.pi * f.gain_bandwidth * C2)
    emitter = (beta / (1 + beta)) * (collector - THERMAL / each)
    if emitter < 0:
        raise ValueError("the slew rate is too low for this gain-bandwidth: 2π VT GBW is the least of a bipolar pair")
    excess = math.radians(90 - f.phase_margin)
    return BoyleValues(
        collector, emitter, 2 * each * (1 + 1 / beta), beta, C2 / 2 * math.tan(excess), 1 / collector,
        1 / (collector * f.rejection), f.gain * collector / (0.6 * f.resistance),
    )  # fmt: skip


def boyle_text(name: str, f: OpAmp, nodes: tuple[str, ...] = ("1", "2", "3", "4", "5")) -> list[str]:
    """A subcircuit with nodes in+, in-, v+, v-, out."""
    plus, minus, high, low, out = nodes
    v = boyle(f)
    own, other = 0.4 * f.resistance, 0.6 * f.resistance
    clamp = f.room + THERMAL * math.log(f.short_circuit / IS)
    limit = 1e3 * f.short_circuit - THERMAL * math.log(1e-6 / IS)
    lines = [
        f".SUBCKT {name} {plus} {minus} {high} {low} {out}",
        "* input pair",
        f"Q1 A1 {minus} A3 QIN",
        f"Q2 A2 {'NP' if f.noise or f.offset else plus} A4 QIN",
        f"RC1 {high} A1 {n(v.collector)}",
        f"RC2 {high} A2 {n(v.collector)}",
        f"RE1 A3 A5 {n(v.emitter)}",
        f"RE2 A4 A5 {n(v.emitter)}",
        f"C1 A1 A2 {n(v.phase)}",
        f"IEE A5 {low} {n(v.tail)}",
        f"REE A5 MID {n(200 / v.tail)}",
        "* middle of the supplies",
        f"EMID MID 0 POLY(2) ({high},0) ({low},0) 0 .5 .5",
        "* gain stage",
        f"GA G 0 A1 A2 {n(v.transconductance)}",
        f"GCM 0 G A5 MID {n(v.common)}",
        f"R2 G GB {n(R2)}",
        "VB GB 0 0",
        f"C2 G D {n(C2)}",
        f"FB D MID POLY(5) VB VC VE VLP VLN 0 {n(v.output_gain)} -10MEG 10MEG 10MEG -10MEG",
        "* output resistance, current limit, swing",
        f"RO1 H {out} {n(own)}",
        f"RO2 D MID {n(other)}",
        "VLIM D H 0",
        "HLIM L 0 VLIM 1K",
        "DLP L LP DCL",
        "DLN LN L DCL",
        f"VLP LP 0 {n(limit)}",
        f"VLN 0 LN {n(limit)}",
        f"DC {out} SC DCL",
        f"DE SE {out} DCL",
        f"VC {high} SC {n(clamp)}",
        f"VE SE {low} {n(clamp)}",
        f"RP {high} {low} {n(f.volts / (f.supply - v.tail))}",
        f".MODEL QIN NPN(IS={n(IS)} BF={v.beta:.4g})",
        f".MODEL DCL D(IS={n(IS)})",
    ]
    if f.noise or f.offset:
        # Both sides of the pair bring the noise of their resistances, 1/(2 gm) for a transistor.
        pair = 8 * BOLTZMANN * KELVIN * (v.emitter + v.collector + THERMAL / v.tail)
        added = max(f.noise**2 - pair, 0.0)
        corner = f.corner * f.noise**2 / added if added else 0.0
        lines[-2:-2] = noise_generator(plus, "NP", math.sqrt(added), corner, f.offset)
    return [*lines, f".ENDS {name}"]


def noise_generator(plus: str, inner: str, density: float, corner: float, offset: float = 0.0) -> list[str]:
    """A voltage in series with an input: the difference of two diodes' noise.

    A diode at a current I has the shot noise 2qI and the resistance VT/I, so the difference of two has the density
    sqrt(4q VT²/I); with a flicker coefficient KF = 2q f it equals the flicker noise at the corner f.
    """
    scale = density / math.sqrt(4 * CHARGE * THERMAL**2 / NOISE_BIAS) if density else 0.0
    return [
        "* input noise and offset",
        f"EN {inner} {plus} POLY(1) (N1,N2) {offset:.4g} {scale:.5g}",
        f"IN1 0 N1 {n(NOISE_BIAS)}",
        "DN1 N1 0 DNOISE",
        f"IN2 0 N2 {n(NOISE_BIAS)}",
        "DN2 N2 0 DNOISE",
        f".MODEL DNOISE D(IS=1F KF={2 * CHARGE * corner:.4g} AF=1)",
    ]


def sources_text(name: str, f: OpAmp, nodes: tuple[str, ...], second_pole: float) -> list[str]:
    """A rail-to-rail op-amp of controlled sources: limits by expressions, poles by RC, noise by the generator above."""
    plus, minus, high, low, out = nodes
    c1, tail = 10e-12, f.slew * 10e-12
    gm = 2 * math.pi * f.gain_bandwidth * c1
    lines = [
        f".subckt {name} {plus} {minus} {high} {low} {out}",
        f".param gm={gm:.5g} tail={tail:.5g} rout={f.resistance:g} room={f.room:g} imax={f.short_circuit:g}",
        f"rin {plus} {minus} 1e12",
        f"cin {plus} {minus} 2p",
        f"ibias1 {plus} 0 {f.bias:g}",
        f"ibias2 {minus} 0 {f.bias:g}",
        "* transconductance with a limit: slew rate",
        f"ginput 0 gain value={{limit(gm*(v(sense)-v({minus})), -tail, tail)}}",
        f"rgain gain 0 {f.gain / gm:.5g}",
        f"cgain gain 0 {c1:g}",
        "* clamped to the supplies, so that it recovers at once",
        "dup gain up dclamp",
        "ddown down gain dclamp",
        f"eup up 0 value={{v({high})-room}}",
        f"edown down 0 value={{v({low})+room}}",
        "* second pole",
        "ebuffer b1 0 gain 0 1",
        "rpole b1 b2 1k",
        f"cpole b2 0 {1 / (2 * math.pi * 1e3 * second_pole):.5g}",
        "* output: current from the supply that it comes from, limited",
        f"gout {high} {out} value={{0.5*(ilim+abs(ilim))}}".replace("ilim", f"limit((v(b2)-v({out}))/rout,-imax,imax)"),
        f"gsink {out} {low} value={{0.5*(abs(ilim)-ilim)}}".replace("ilim", f"limit((v(b2)-v({out}))/rout,-imax,imax)"),
        f"iq {high} {low} {f.supply:g}",
        ".model dclamp d(is=1e-12 n=0.1)",
        f".ends {name}",
    ]
    lines[-2:-2] = (
        noise_generator(plus, "sense", f.noise, f.corner, f.offset)
        if f.noise or f.offset
        else [f"esense sense 0 {plus} 0 1"]
    )
    return lines
