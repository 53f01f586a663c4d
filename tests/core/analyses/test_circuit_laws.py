"""What holds in every circuit, for random ones: Kirchhoff, Tellegen, reciprocity, linearity."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.core.circuits import PASSIVE_PARTS, passive, structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.device_values import device_values
from verdad_core.analyses.operating_point import operating_point

Parts = list[tuple[str, int, int, float]]
Devices = list[tuple[str, int, int, int]]

#: Transistors and diodes between the same nodes as the passive parts.
ACTIVE = st.lists(
    st.tuples(st.sampled_from("dqjm"), st.integers(0, 4), st.integers(0, 4), st.integers(0, 4)), min_size=1, max_size=5
)
MODELS = {
    "d": "d(is=1f rs=1 bv=20)",
    "q": "npn(bf=100 vaf=50 rb=10)",
    "j": "njf(vto=-2 beta=1m)",
    "m": "nmos(vto=1 kp=1m level=3 tox=50n nsub=1e15)",
}


def active(parts: Devices) -> str:
    lines = []
    for k, (kind, a, b, c) in enumerate(parts):
        nodes = {"d": (a, b), "q": (a, b, c), "j": (a, b, c), "m": (a, b, c, c)}[kind]
        lines.append(f"{kind}{k}x {' '.join(f'n{node}' for node in nodes)} m{kind}")
    models = [f".model m{kind} {MODELS[kind]}" for kind in sorted({part[0] for part in parts})]
    return "\n".join([*lines, *models])


#: Two saturated transistors that share more than an ampere: what an elimination leaves there shows as a current.
SATURATED = ([("r", 1, 4, 0.0), ("l", 2, 3, 0.0)], [("q", 0, 2, 1), ("q", 0, 2, 4)], -3.0)


@settings(max_examples=40)
@example(*SATURATED)
@given(PASSIVE_PARTS, ACTIVE, st.floats(-15, 15))
def test_currents_and_powers_balance_in_any_circuit(parts: Parts, devices: Devices, volts: float) -> None:
    """Kirchhoff's current law at every node, and Tellegen's theorem: all powers together are zero."""
    text = f"v1 n0 0 {volts!r}\nv2 n3 0 5\n{passive(parts, 1e3, 1e-3, 1e-9)}\n{active(devices)}"
    circuit = structure(text)
    point = operating_point(circuit)
    point.require()
    node_sums = dict.fromkeys((*circuit.unknowns[: circuit.nodes], "0"), 0.0)
    power = size = 0.0
    for element in circuit.elements:
        values = device_values(point, element.name)
        for node, i in zip(element.nodes, values.currents, strict=True):
            node_sums[node] += i
            size = max(size, abs(i))
        power += values.power
    # Newton stops when its step is below 1e-9 V: currents balance to that times the largest conductance here, 1 S.
    assert max(abs(total) for total in node_sums.values()) < 1e-8 * max(size, 1e-3)
    assert abs(power) < 1e-7 * max(size, 1e-3) * max(abs(volts), 5)


@settings(max_examples=30)
@given(PASSIVE_PARTS, st.integers(1, 4))
def test_passive_networks_are_reciprocal(parts: Parts, other: int) -> None:
    text, f = passive(parts, 1e3, 1e-3, 1e-9), np.geomspace(1e2, 1e7, 9)
    one = ac(structure(f"{text}\ni1 0 n0 dc 0 ac 1"), f, [(f"n{other}", "0")]).values
    two = ac(structure(f"{text}\ni1 0 n{other} dc 0 ac 1"), f, [("n0", "0")]).values
    assert one == pytest.approx(two, rel=1e-8, abs=1e-12)


@settings(max_examples=30)
@given(PASSIVE_PARTS, st.floats(-10, 10), st.floats(-10, 10))
def test_responses_of_linear_networks_add(parts: Parts, a: float, b: float) -> None:
    text = passive(parts, 1e3, 1e-3, 1e-9)

    def at(one: float, other: float) -> float:
        return operating_point(structure(f"{text}\ni1 0 n0 {one!r}\ni2 0 n2 {other!r}")).value("n1")

    assert at(a, b) == pytest.approx(at(a, 0) + at(0, b), rel=1e-9, abs=1e-7)


@settings(max_examples=30)
@given(PASSIVE_PARTS)
def test_passive_networks_have_no_pole_on_the_right(parts: Parts) -> None:
    result = ac(structure(passive(parts, 1e3, 1e-3, 1e-9) + "\ni1 0 n0 dc 0 ac 1"), np.array([1e3]), [("n0", "0")])
    assert len(result.poles[0].unstable) == 0
