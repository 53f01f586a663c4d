"""S-parameters of any number of ports, with any reference impedances, complex ones too.

Ports are closed by resistors that exist only in the small-signal circuit, so the bias stays as it is. The waves are
power waves: a = (v + Z i) / (2 sqrt(Re Z)), b = (v - Z* i) / (2 sqrt(Re Z)) (Kurokawa, "Power waves and the scattering
matrix", IEEE Trans. Microwave Theory and Techniques 13, 1965).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import AtBias
from verdad_core.analyses.small_signal import respond
from verdad_core.arrays import Complexes, Floats
from verdad_core.devices import Element
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.errors import CircuitError


@dataclass(frozen=True)
class Port:
    """Two nodes and the reference impedance in Ω; its real part is above zero."""

    plus: str
    minus: str = "0"
    impedance: complex = 50.0


@dataclass(frozen=True)
class ScatteringResult(AtBias):
    """`values` [S, F, ports, ports]: entry (j, k) is the wave out of port j for one into port k."""

    frequency: Floats
    ports: tuple[Port, ...]
    values: Complexes


def scattering(
    structure: Structure,
    ports: Sequence[Port],
    frequency: Floats,
    rows: dict[tuple[str, str], Floats] | None = None,
    threads: int | None = None,
) -> ScatteringResult:
    """S-parameters at `frequency` [F], in hertz, for rows in which parameters take the values in `rows`.

    Raises CircuitError for a node that does not exist or an impedance without positive real part.
    """
    for port in ports:
        if not complex(port.impedance).real > 0:
            raise CircuitError(
                f"port {port.plus} has the impedance {port.impedance} Ω; its real part must be above zero",
                remedy="Give a reference impedance such as 50 Ω.",
            )
        structure.index(port.plus), structure.index(port.minus)
    names = [f"port {k} termination" for k in range(1, len(ports) + 1)]
    closing = [
        Element(name, "resistor", (port.plus, port.minus), {"resistance": math.inf})
        for name, port in zip(names, ports, strict=True)
    ]
    closed = compile_structure([*structure.elements, *closing], structure.nodesets)
    matrix = ParameterMatrix.varied(closed, rows) if rows else closed.unvaried
    point = operating_point(closed, matrix, threads)
    resistances = np.array([abs(port.impedance) for port in ports])
    nominal = closed.nominal.copy()
    nominal[[closed.column(name, "resistance") for name in names]] = resistances
    loaded = replace(point, matrix=replace(point.matrix, nominal=nominal))
    drives = np.zeros((len(ports), closed.size + 1), dtype=complex)
    for k, port in enumerate(ports):
        drives[k, closed.index(port.plus)] += 1.0
        drives[k, closed.index(port.minus)] -= 1.0
    drives[:, closed.size] = 0.0
    frequency = np.ascontiguousarray(frequency, float)
    volts = respond(loaded, frequency, [(port.plus, port.minus) for port in ports], drives, threads)
    # volts [S, driven k, seen j, F]: a current of 1 A into the closed port k.
    scale = 2.0 / np.sqrt(resistances[:, None] * resistances[None, :])
    real = np.moveaxis(volts, 3, 1).swapaxes(2, 3) * scale - np.eye(len(ports))
    impedances = np.array([complex(port.impedance) for port in ports])
    return ScatteringResult(point, frequency, tuple(ports), renormalise(real, resistances, impedances))


def renormalise(s: Complexes, old: Floats, new: Complexes) -> Complexes:
    """S-parameters [.., ports, ports] at real reference impedances `old` [ports], at other ones (Kurokawa 1965).

    S' = A⁻¹ (S - Γ*) (1 - Γ S)⁻¹ A*, with Γ = (Z' - Z) / (Z' + Z) and A = (1 - Γ*) sqrt(|1 - Γ Γ*|) / |1 - Γ|.
    """
    gamma = (new - old) / (new + old)
    a = (1.0 - gamma.conj()) * np.sqrt(np.abs(1.0 - np.abs(gamma) ** 2)) / np.abs(1.0 - gamma)
    inner = np.eye(len(new)) - gamma[:, None] * s
    return np.asarray(((s - np.diag(gamma.conj())) @ np.linalg.inv(inner)) * a.conj()[None, :] / a[:, None])
