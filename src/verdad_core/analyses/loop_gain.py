"""Loop gain by double injection at any pin, without touching the bias; phase and gain margins with all crossings.

The wire to the pin is cut by a source of 0 V, which carries the bias current. A voltage in the cut and a current into
its far side give the two-port that the circuit shows at the cut, and from it the return ratio of the loop in both
directions (Middlebrook, "Measurement of loop gain in feedback systems", Int. J. Electronics 38, 1975; Tian,
Visvanathan, Hantgan, Kundert, "Striving for small-signal stability", IEEE Circuits and Devices Magazine 17, 2001):

    T = (y12 + y21) / (y11 + y22),

positive where the feedback is negative, so that the loop is on the verge of oscillation at T = -1.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint, operating_point
from verdad_core.analyses.poles import AtBias
from verdad_core.analyses.small_signal import respond
from verdad_core.arrays import Complexes, Floats
from verdad_core.devices import Control, Element
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.errors import CircuitError

#: Names of what is put into the cut; no element and no node of a netlist can have them.
PROBE, FAR = "loop probe", "loop pin"

#: A loop gain below this is rounding, and its phase says nothing.
SMALLEST = 1e-10

#: Points between which a crossing is looked at more closely.
REFINED = 33


@dataclass(frozen=True)
class Crossing:
    """One frequency in Hz at which the loop gain's magnitude is 1 or its phase is -180°.

    `margin` is in degrees (phase margin, where the magnitude is 1) or in dB (gain margin, where the phase is -180°).
    """

    frequency: float
    margin: float


@dataclass(frozen=True)
class Margins:
    """All crossings within the frequencies looked at, in rising order; empty where there is none."""

    phase: tuple[Crossing, ...]
    gain: tuple[Crossing, ...]

    @property
    def phase_margin(self) -> Crossing | None:
        """The crossing with the smallest phase margin."""
        return min(self.phase, key=lambda crossing: abs(crossing.margin), default=None)

    @property
    def gain_margin(self) -> Crossing | None:
        """The crossing with the smallest gain margin; a negative one is gain that must not fall."""
        return min(self.gain, key=lambda crossing: abs(crossing.margin), default=None)


@dataclass(frozen=True)
class LoopGainResult(AtBias):
    """`values` [S, F]: the loop gain at `frequency` [F], in hertz; `probe` is the source in the cut."""

    frequency: Floats
    values: Complexes
    probe: str = PROBE

    def margins(self, row: int = 0) -> Margins:
        """Phase and gain margins of a row; around each crossing the loop is computed again on a finer grid."""
        t = self.values[row]
        phase = [_cross(*self._closely(row, k), _level, _phase_margin) for k in _changes(_level(t))]
        gain = [_cross(*self._closely(row, k), _opposite, _gain_margin) for k in _turns(t)]
        return Margins(tuple(phase), tuple(gain))

    def refined(self, row: int = 0) -> tuple[Floats, Complexes]:
        """Frequencies and loop gains of a row, with more points around each crossing: all that `margins` knows."""
        t = self.values[row]
        near = [self._closely(row, k) for k in sorted({*_changes(_level(t)), *_turns(t)})]
        frequency = np.concatenate([self.frequency, *(fine[1:-1] for fine, _ in near)])
        order = np.argsort(frequency, kind="stable")
        return frequency[order], np.concatenate([t, *(values[1:-1] for _, values in near)])[order]

    def _closely(self, row: int, k: int) -> tuple[Floats, Complexes]:
        """Frequencies and loop gains between points k and k + 1."""
        fine = np.geomspace(self.frequency[k], self.frequency[k + 1], REFINED)
        point = self.operating_point
        one = replace(
            point,
            matrix=replace(point.matrix, values=point.matrix.values[row : row + 1]),
            **{name: getattr(point, name)[row : row + 1] for name in ("values", "paths", "states", "changes")},
        )
        return fine, _loop(one, fine, self.probe, None)[0]


#: Something read from loop gains [F] that is looked at where something else is zero.
Reading = Callable[[Complexes], Floats]


def _level(t: Complexes) -> Floats:
    with np.errstate(divide="ignore"):
        return np.log(np.abs(t))


def _opposite(t: Complexes) -> Floats:
    """Zero where the phase is 0° or -180°."""
    return np.imag(t) / np.maximum(np.abs(t), np.finfo(float).tiny)


def _phase_margin(t: Complexes) -> Floats:
    """180° plus the phase, within ±180° at the first point and going on from there."""
    return np.degrees(np.unwrap(np.angle(-t)))


def _gain_margin(t: Complexes) -> Floats:
    return -20.0 * np.log10(np.maximum(np.abs(t), np.finfo(float).tiny))


def _changes(values: Floats) -> list[int]:
    """Where the sign changes between a point and the next."""
    signs = np.signbit(values)
    return np.flatnonzero((signs[1:] != signs[:-1]) & np.isfinite(values[1:]) & np.isfinite(values[:-1])).tolist()


def _turns(t: Complexes) -> list[int]:
    """Where the phase goes through -180°, but for what is only rounding."""
    turns = _changes(_opposite(t))
    return [k for k in turns if t[k].real + t[k + 1].real < 0 and min(abs(t[k]), abs(t[k + 1])) > SMALLEST]


def margins_of(frequency: Floats, t: Complexes) -> Margins:
    """All crossings of a loop gain [F] whose points lie close enough around them, as those of `refined` do."""
    phase = [_cross(frequency[k : k + 2], t[k : k + 2], _level, _phase_margin) for k in _changes(_level(t))]
    gain = [_cross(frequency[k : k + 2], t[k : k + 2], _opposite, _gain_margin) for k in _turns(t)]
    return Margins(tuple(phase), tuple(gain))


def _cross(f: Floats, t: Complexes, crossing: Reading, margin: Reading) -> Crossing:
    """Where `crossing` goes through zero, and the margin there: straight lines over the logarithm of the frequency."""
    values, margins = crossing(t), margin(t)
    k = (_changes(values) or [0])[0]
    share = values[k] / (values[k] - values[k + 1]) if values[k] != values[k + 1] else 0.0
    return Crossing(f[k] * (f[k + 1] / f[k]) ** share, margins[k] + share * (margins[k + 1] - margins[k]))


def cut(elements: Sequence[Element], part: str, node: str, terminal: int | None = None) -> list[Element]:
    """The circuit with a source of 0 V in the wire from `node` to `part`, an element or an instance of a subcircuit.

    `terminal` picks one of an element's nodes by its position, where several are on `node`. What a part only senses
    there (the control of a source) goes with it. Raises CircuitError when the part is not on the node.
    """
    moved, found = [], False
    for element in elements:
        own = element.name == part or (terminal is None and element.name.startswith(f"{part}."))
        if own:
            nodes = tuple(
                FAR if name == node and terminal in (None, k) else name for k, name in enumerate(element.nodes)
            )
            controls = element.controls if terminal is not None else tuple(_moved(c, node) for c in element.controls)
            found = found or nodes != element.nodes or controls != element.controls
            element = replace(element, nodes=nodes, controls=controls)
        moved.append(element)
    if not found or node == "0":
        raise CircuitError(
            f"'{part}' has no pin on node '{node}'" if node != "0" else "a loop is not cut at ground",
            remedy="Name a part, or an instance of a subcircuit, and a node that it is connected to.",
        )
    return [*moved, Element(PROBE, "voltage source", (node, FAR), {"dc": 0.0})]


def _moved(control: Control, node: str) -> Control:
    plus, minus = (FAR if name == node else name for name in (control.plus, control.minus))
    return replace(control, plus=plus, minus=minus)


def loop_gain(
    elements: Sequence[Element] | Structure,
    part: str,
    node: str,
    frequency: Floats,
    terminal: int | None = None,
    rows: dict[tuple[str, str], Floats] | None = None,
    threads: int | None = None,
) -> LoopGainResult:
    """Loop gain at the pin where `part` meets `node`, for rows in which parameters take the values in `rows`.

    See `cut` for the pin. Raises CircuitError when the part is not on the node.
    """
    nodesets = elements.nodesets if isinstance(elements, Structure) else {}
    flat = elements.elements if isinstance(elements, Structure) else elements
    structure = compile_structure(cut(flat, part, node, terminal), nodesets)
    matrix = ParameterMatrix.varied(structure, rows) if rows else None
    return loop_at(operating_point(structure, matrix, threads), PROBE, frequency, threads)


def loop_at(point: OperatingPoint, probe: str, frequency: Floats, threads: int | None = None) -> LoopGainResult:
    """Loop gain at a voltage source of 0 V that is in the loop already, whatever else is there.

    Raises CircuitError where there is no such source.
    """
    if not any(e.name == probe and e.family == "voltage source" for e in point.structure.elements):
        raise CircuitError(f"there is no source '{probe}' to open a loop at", remedy="Name one that is in the loop.")
    frequency = np.ascontiguousarray(frequency, float)
    return LoopGainResult(point, frequency, _loop(point, frequency, probe, threads), probe)


def _loop(point: OperatingPoint, frequency: Floats, probe: str, threads: int | None) -> Complexes:
    structure = point.structure
    near, far = next(e for e in structure.elements if e.name == probe).nodes
    drives = np.zeros((2, structure.size + 1), dtype=complex)
    drives[0, structure.index(f"i({probe})")] = 1.0
    drives[1, structure.index(far)] = 1.0
    found = respond(point, frequency, [(near, "0"), (far, "0"), (f"i({probe})", "0")], drives, threads)
    v, w, i = found[:, :, 0], found[:, :, 1], found[:, :, 2]
    # Currents into the circuit on either side of the cut.
    out, into = -i, i + np.array([0.0, 1.0])[None, :, None]
    across = (out[:, 1] * v[:, 0] - out[:, 0] * v[:, 1]) + (into[:, 0] * w[:, 1] - into[:, 1] * w[:, 0])
    own = (out[:, 0] * w[:, 1] - out[:, 1] * w[:, 0]) + (into[:, 1] * v[:, 0] - into[:, 0] * v[:, 1])
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(across / own)
