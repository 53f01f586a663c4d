"""Saturating sources with diode clamps, drawn at random, and their equations written down once more in NumPy.

The equations are those of the published manuals, not the kernels': a saturating source, a diode with series resistance,
a resistor. What they leave at a solution is the current that is missing there.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tests.core.circuits import structure
from verdad_core.analyses.operating_point import operating_point

#: kT/q at 27 °C in V (CODATA 2018: k / e = 8.617333262e-5 V/K).
THERMAL = 8.617333262e-5 * 300.15

#: What a junction adds besides its exponential (SPICE 2G6/3F5 manuals: GMIN), in S.
GMIN = 1e-12

SOURCES = ("tanh", "limit", "table", "atan", "ramp")


@dataclass(frozen=True)
class Clamp:
    """A diode from the node to a level (`up`), or from the level to the node."""

    level: float
    up: bool
    saturation: float
    emission: float
    series: float


@dataclass(frozen=True)
class Clamped:
    """A current into one node, a source that saturates at `most` with the gain `slope`, clamps, and a resistor."""

    source: str
    drive: float
    most: float
    slope: float
    resistor: float
    clamps: tuple[Clamp, ...]

    def netlist(self) -> str:
        """The circuit; `g` is the node, `a1` .. the inner ones where a clamp's resistance stands alone."""
        width = self.most / self.slope
        text = {
            "tanh": f"value={{{self.most!r}*tanh(v(g)/{width!r})}}",
            "limit": f"value={{limit({self.slope!r}*v(g),-{self.most!r},{self.most!r})}}",
            "table": f"table {{v(g)}} = (-{width!r},-{self.most!r}) ({width!r},{self.most!r})",
            "atan": f"value={{{self.most!r}*atan(v(g)/{width!r})}}",
            "ramp": f"value={{max(min({self.slope!r}*v(g),{self.most!r}),-{self.most!r})}}",
        }[self.source]
        lines = [f"i1 0 g {self.drive!r}", f"g1 g 0 {text}", f"r1 g 0 {self.resistor!r}"]
        for k, clamp in enumerate(self.clamps, 1):
            ends = f"g c{k}" if clamp.up else f"c{k} g"
            series = f" rs={clamp.series!r}" if clamp.series else ""
            lines += [
                f"v{k} c{k} 0 {clamp.level!r}",
                f"d{k} {ends} m{k}",
                f".model m{k} d(is={clamp.saturation!r} n={clamp.emission!r}{series})",
            ]
        return "\n".join(lines)

    def missing(self, v: float, junctions: list[float]) -> float:
        """The current that is missing at the node at `v`, or at an inner one, as a part of what flows there.

        `junctions` are the volts across the clamps' junctions.
        """
        width = self.most / self.slope
        sunk = {"tanh": math.tanh, "atan": math.atan}.get(self.source, lambda u: min(max(u, -1.0), 1.0))(v / width)
        terms = [-self.drive, self.most * sunk, v / self.resistor]
        worst, known = 0.0, 0.0
        for clamp, across in zip(self.clamps, junctions, strict=True):
            u = across / (clamp.emission * THERMAL)
            if u > 80.0:
                return math.inf
            # A volt is known to its last digits only, of which an exponential makes a part of the current, and a small
            # resistance a current.
            digits = 4.0 * float(np.spacing(max(abs(v), abs(clamp.level))))
            part, drop = digits / (clamp.emission * THERMAL), digits / clamp.series if clamp.series else 0.0
            flows = clamp.saturation * math.expm1(u) + GMIN * across
            if clamp.series:
                led = ((v - clamp.level if clamp.up else clamp.level - v) - across) / clamp.series
                worst = max(worst, (abs(led - flows) - drop) / max(abs(flows), abs(led), clamp.saturation) - part)
            terms.append(flows if clamp.up else -flows)
            known += drop + part * abs(flows)
        return max(worst, (abs(sum(terms)) - known) / max(map(abs, terms)))


def drawn(random: np.random.Generator) -> Clamped:
    """A circuit of 1 V to 1 kV, N from 0.001 to 2, with one clamp or two."""

    def log(low: float, high: float) -> float:
        return float(10.0 ** random.uniform(math.log10(low), math.log10(high)))

    high = log(1.0, 1e3)
    most = log(1e-6, 1e-1)
    clamps = []
    for up in (True, False) if random.random() < 0.5 else (True,):
        level = high if up else -high * float(random.random())
        series = log(1e-3, 10.0) if random.random() < 0.5 else 0.0
        clamps.append(Clamp(level, up, log(1e-16, 1e-9), log(1e-3, 2.0), series))
    drive = most * log(1e-5, 10.0) * (1.0 if random.random() < 0.7 else -1.0)
    return Clamped(str(random.choice(SOURCES)), drive, most, most / log(1e-2, 10.0), log(1e4, 1e9), tuple(clamps))


def outcome(circuit: Clamped) -> float | None:
    """What is missing at the operating point that is found, as a part of what flows; None where none was found."""
    point = operating_point(structure(circuit.netlist()))
    if not point.path().solved:
        return None
    junctions = []
    for k, clamp in enumerate(circuit.clamps, 1):
        anode, cathode = ("g", f"c{k}") if clamp.up else (f"c{k}", "g")
        junctions.append(point.value(f"d{k}:anode" if clamp.series else anode) - point.value(cathode))
    return circuit.missing(point.value("g"), junctions)
