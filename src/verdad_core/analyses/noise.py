"""Noise: what every mechanism of every part adds to several outputs, from one adjoint solution per output.

The adjoint solution y of (G + jωC)ᵀ y = c holds the transfer from a current into any node to the output, so a
mechanism of density S between nodes a and b adds |y_a - y_b|² S (Rohrer, Nagel, Meyer, Weber, "Computationally
efficient electronic-circuit noise calculations", IEEE J. Solid-State Circuits 6, 1971). Mechanisms are independent.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint, operating_point
from verdad_core.analyses.poles import AtBias
from verdad_core.analyses.small_signal import output_indices
from verdad_core.arrays import Complexes, Floats, Integers, Packed
from verdad_core.devices import FAMILIES, FAMILY_OF
from verdad_core.engine.circuit import bare, fill, matrix_in, workspace
from verdad_core.engine.lanes import LANES, WIDE
from verdad_core.engine.load import noise_densities
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.response import (
    block_in,
    block_room,
    no_factors,
    order,
    set_frequencies,
    set_right,
    solve_adjoint,
    solve_block,
)
from verdad_core.engine.rows import in_chunks, linearise_row
from verdad_core.engine.structure import Structure
from verdad_core.jit import at, entry, kernel, pointer


@dataclass(frozen=True)
class NoiseResult(AtBias):
    """Power densities at `frequency` [F], in V²/Hz (A²/Hz for an output that is a current), for S rows.

    `total` [S, outputs, F]; `contributions` [S, outputs, len(contributors), F], a contributor being (part, "") or
    (part, mechanism); `gain` [S, outputs, F] from the input source, where one was named. NaN where a row has no
    operating point.
    """

    frequency: Floats
    total: Floats
    contributors: tuple[tuple[str, str], ...]
    contributions: Floats
    gain: Complexes | None

    @property
    def input_referred(self) -> Floats:
        """`total` divided by the square of the gain: density at the input source [S, outputs, F]."""
        if self.gain is None:
            raise ValueError("no input source was named")
        # Infinite where nothing leads from the input to the output, and unknown where nothing is heard either.
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.asarray(self.total / np.abs(self.gain) ** 2)

    def rms(self, low: float | None = None, high: float | None = None) -> Floats:
        """The total's rms value in a band (default: all of it) [S, outputs], in V or A."""
        return np.sqrt(integrate(self.frequency, self.total, low, high))


def integrate(frequency: Floats, density: Floats, low: float | None = None, high: float | None = None) -> Floats:
    """∫ density df over a band within `frequency` [F] for density [..., F]: a power law between two points.

    The band's ends are interpolated in the same way, so 1/f and white noise come out exact.
    """
    low = frequency[0] if low is None else max(low, frequency[0])
    high = frequency[-1] if high is None else min(high, frequency[-1])
    tiny = np.finfo(float).tiny
    f1, f2 = frequency[:-1], frequency[1:]
    s1, s2 = np.maximum(density[..., :-1], tiny), np.maximum(density[..., 1:], tiny)
    with np.errstate(divide="ignore", invalid="ignore"):
        power = np.log(s2 / s1) / np.log(f2 / f1)
    a, b = np.clip(f1, low, high), np.clip(f2, low, high)
    if np.any(f1 <= 0):
        return np.asarray(np.trapezoid(density, frequency, axis=-1))
    # s(f) = s1 (f / f1)^k; with k = -1 the integral is a logarithm.
    near = np.abs(power + 1.0) < 1e-9
    exponent = np.where(near, 1.0, power + 1.0)
    general = s1 * f1 * ((b / f1) ** exponent - (a / f1) ** exponent) / exponent
    return np.asarray(np.where(near, s1 * f1 * np.log(b / a), general).sum(axis=-1))


@kernel
def _unknown(total: Floats, contributions: Floats, gain: Complexes, row: int, first: int) -> None:
    """Nothing is known of a row from this frequency on."""
    for o in range(total.shape[1]):
        for w in range(first, total.shape[2]):
            total[row, o, w], gain[row, o, w] = np.nan, complex(np.nan, np.nan)
            for k in range(contributions.shape[2]):
                contributions[row, o, k, w] = np.nan


@entry
def _noise_rows(
    arrays: Packed, matrix_: Packed, memory: Floats, start: int, stop: int, points: Floats, states: Floats,
    paths: Integers, frequency: Floats, plus: Integers, minus: Integers, drive: Floats, groups: Integers,
    block_: Floats, room: Floats, total: Floats, contributions: Floats, gain: Complexes,
) -> None:  # fmt: skip
    """Rows start..stop-1. `drive` [n + 1] is the input's right-hand side; groups [mechanisms] may be empty.

    What is not found of total, contributions and gain becomes NaN; they need not have been filled before. `room` is
    that of `_room`.
    """
    circuit, work, matrix = bare(arrays), workspace(arrays, memory), matrix_in(matrix_)
    block, a = block_in(block_), no_factors()
    mechanisms = circuit.mechanisms
    # Where lines are, the densities of each lane by themselves.
    apart = 3 * mechanisms if circuit.phasors > 0 else 0
    nothing, sums, power = pointer(room), at(pointer(room), circuit.n + 1), at(pointer(room), circuit.n + 1 + LANES)
    densities = at(power, LANES)
    shares = contributions.shape[2]
    for row in range(start, stop):
        if paths[row] < 0:
            _unknown(total, contributions, gain, row, 0)
            continue
        x, state = at(pointer(points), row * (circuit.n + 1)), at(pointer(states), row * work.states)
        linearise_row(circuit, work, matrix, row, x, state)
        noise_densities(circuit, work, x, 0.0, densities)
        set_frequencies(circuit, work, block, frequency, len(frequency) // 2)
        steps = order(circuit, work.g, work.c, block, 0, True)
        if steps[0] < 0:
            _unknown(total, contributions, gain, row, 0)
            continue
        for first in range(0, len(frequency), LANES):
            count = min(LANES, len(frequency) - first)
            set_frequencies(circuit, work, block, frequency, first)
            for w in range(LANES if apart > 0 else 0):
                noise_densities(circuit, work, x, block.omega[w], at(densities, w * apart))
            set_right(circuit, block, pointer(drive), nothing)
            solved, steps, a = solve_block(circuit, work, block, steps, a)
            if not solved:
                _unknown(total, contributions, gain, row, first)
                break
            for o in range(len(plus)):
                p, m = at(block.x, WIDE * plus[o]), at(block.x, WIDE * minus[o])
                for w in range(count):
                    gain[row, o, first + w] = complex(p[w] - m[w], p[LANES + w] - m[LANES + w])
            for o in range(len(plus)):
                solve_adjoint(circuit, block, steps, a, plus[o], minus[o])
                fill(sums, LANES, 0.0)
                parts = at(pointer(contributions), (row * len(plus) + o) * shares * len(frequency) + first)
                for k in range(shares):
                    fill(at(parts, k * len(frequency)), count, 0.0)
                for k in range(mechanisms):
                    white, flicker, exponent = densities[3 * k], densities[3 * k + 1], densities[3 * k + 2]
                    if white == 0.0 and flicker == 0.0 and apart == 0:
                        continue
                    for w in range(LANES):
                        power[w] = densities[3 * k + w * apart]
                    for w in range(count if flicker > 0.0 else 0):
                        f = frequency[first + w]
                        power[w] += flicker / (f if exponent == 1.0 else f**exponent)
                    p, m = at(block.x, WIDE * circuit.noise[2 * k]), at(block.x, WIDE * circuit.noise[2 * k + 1])
                    for w in range(LANES):
                        re, im = p[w] - m[w], p[LANES + w] - m[LANES + w]
                        power[w] *= re * re + im * im
                        sums[w] += power[w]
                    if shares > 0:
                        part = at(parts, groups[k] * len(frequency))
                        for w in range(count):
                            part[w] += power[w]
                for w in range(count):
                    total[row, o, first + w] = sums[w]


def _room(structure: Structure) -> Floats:
    """Where `_noise_rows` sums up: zeros [n + 1], sums and power [2 LANES], densities [mechanisms, 3] of each lane."""
    return np.zeros(structure.size + 1 + 2 * LANES + LANES * 3 * len(structure.noise))


def noise(
    structure: Structure,
    frequency: Floats,
    outputs: Sequence[tuple[str, str]],
    source: str | None = None,
    matrix: ParameterMatrix | None = None,
    by: Literal["part", "mechanism"] | None = "part",
    threads: int | None = None,
) -> NoiseResult:
    """Noise at each output (plus, minus) for every row of `matrix`, referred to an independent source if one is named.

    `by` says what contributions are kept: by part, by mechanism, or none. Raises CircuitError for an output or a
    source that does not exist, and for frequencies that are not above zero.
    """
    return noise_at(operating_point(structure, matrix, threads), frequency, outputs, source, by, threads)


def noise_at(
    point: OperatingPoint,
    frequency: Floats,
    outputs: Sequence[tuple[str, str]],
    source: str | None = None,
    by: Literal["part", "mechanism"] | None = "part",
    threads: int | None = None,
) -> NoiseResult:
    """`noise` around operating points that have been found."""
    structure, rows = point.structure, len(point.values)
    plus, minus = output_indices(structure, outputs)
    if source:
        drive = structure.unit_drive(source)
    else:
        drive = np.zeros(structure.size + 1)
        drive[plus[0] if plus[0] < structure.size else minus[0]] = 1.0
        drive[structure.size] = 0.0
    mechanisms = _mechanisms(structure)
    contributors: tuple[tuple[str, str], ...] = ()
    groups = np.empty(0, dtype=np.int32)
    if by:
        keys = mechanisms if by == "mechanism" else [(part, "") for part, _ in mechanisms]
        contributors = tuple(dict.fromkeys(keys))
        index = {key: k for k, key in enumerate(contributors)}
        groups = np.array([index[key] for key in keys], dtype=np.int32)
    frequency = np.ascontiguousarray(frequency, float)
    shape = (rows, len(outputs), len(frequency))
    total, gain = np.empty(shape), np.empty(shape, dtype=np.complex128)
    contributions = np.empty((rows, len(outputs), len(contributors), len(frequency)))
    circuit, values = structure.circuit, point.matrix.words

    def work(start: int, stop: int) -> None:
        _noise_rows(circuit, values, structure.room(), start, stop, point.values, point.states, point.paths,
                    frequency, plus, minus, drive, groups, block_room(circuit), _room(structure),
                    total, contributions, gain)  # fmt: skip

    in_chunks(rows, work, threads)
    return NoiseResult(point, frequency, total, contributors, contributions, gain if source else None)


@entry
def _density_rows(
    arrays: Packed, matrix_: Packed, memory: Floats, start: int, stop: int, points: Floats, states: Floats,
    paths: Integers, densities: Floats,
) -> None:  # fmt: skip
    """White and flicker density and exponent of every mechanism, into densities [S, mechanisms, 3], at 1 rad/s."""
    circuit, work, matrix = bare(arrays), workspace(arrays, memory), matrix_in(matrix_)
    for row in range(start, stop):
        if paths[row] >= 0:
            x, state = at(pointer(points), row * (circuit.n + 1)), at(pointer(states), row * work.states)
            linearise_row(circuit, work, matrix, row, x, state)
            noise_densities(circuit, work, x, 1.0, at(pointer(densities), row * circuit.mechanisms * 3))


def densities(point: OperatingPoint, threads: int | None = None) -> Floats:
    """White and flicker density of each mechanism, and the flicker's exponent [S, mechanisms, 3].

    In the order of the contributors by mechanism, flicker at 1 Hz; 0 where nothing is known.
    """
    structure, rows = point.structure, len(point.values)
    found = np.zeros((rows, len(structure.noise), 3))
    circuit, values = structure.circuit, point.matrix.words

    def work(start: int, stop: int) -> None:
        _density_rows(circuit, values, structure.room(), start, stop, point.values, point.states, point.paths, found)

    in_chunks(rows, work, threads)
    return found


def flicker(mechanisms: Floats, frequency: Floats) -> Floats:
    """How much of each mechanism's power is flicker noise, from 0 to 1 [mechanisms, F]; of `densities` of one row."""
    white, coloured, exponent = mechanisms.T[:, :, None]
    falling = coloured / np.asarray(frequency, float) ** exponent
    whole = white + falling
    return np.asarray(np.divide(falling, whole, out=np.zeros_like(whole), where=whole > 0.0))


def _mechanisms(structure: Structure) -> list[tuple[str, str]]:
    """(part, mechanism) in the order of Structure.noise."""
    by_family: dict[str, list[str]] = {}
    for element in structure.elements:
        by_family.setdefault(element.family, []).append(element.name)
    return [
        (name, mechanism)
        for family in FAMILIES
        for name in by_family.get(family.name, ())
        for mechanism in FAMILY_OF[family.name].mechanisms
    ]
