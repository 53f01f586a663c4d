"""Laws that hold in time in any circuit: energy, charge, and what rules leave out."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.analyses.in_time import trace
from tests.core.circuits import PASSIVE_PARTS, passive, structure
from verdad_core.analyses.transient import Start, transient


@given(PASSIVE_PARTS)
@settings(max_examples=25)
def test_a_source_gives_what_is_stored_and_burnt(parts: list[tuple[str, int, int, float]]) -> None:
    """Tellegen 1952, in time: the energy given is that in capacitors and inductors plus that in resistors."""
    text = f"v1 n0 0 sin(0 1 20k)\n{passive(parts, 1e3, 1e-3, 10e-9)}"
    circuit = structure(text)
    names = [*circuit.unknowns]
    found = transient(circuit, 100e-6, [(name, "0") for name in names], longest=0.2e-6).require()
    values = dict(zip([*names, "0"], [*found.values, np.zeros(len(found.time))], strict=True))
    t = found.time
    given_ = -np.trapezoid(values["n0"] * values["i(v1)"], t)
    burnt = stored = 0.0
    for element in circuit.elements:
        v = values[element.nodes[0]] - values[element.nodes[1]]
        if element.family == "resistor":
            burnt += np.trapezoid(v * v / element.values["resistance"], t)
        elif element.family == "capacitor":
            stored += 0.5 * element.values["capacitance"] * (v[-1] ** 2 - v[0] ** 2)
        elif element.family == "inductor":
            i = values[f"i({element.name})"]
            stored += 0.5 * element.values["inductance"] * (i[-1] ** 2 - i[0] ** 2)
    # The trapezoidal sums err as the square of the step, 1 / 250 of a turn.
    scale = max(abs(given_), burnt, 1e-12)
    assert given_ == pytest.approx(burnt + stored, abs=5e-3 * scale)


@given(st.lists(st.tuples(st.floats(-6, 6), st.floats(0.1, 10)), min_size=2, max_size=6))
@settings(max_examples=25)
def test_charge_stays_where_nothing_leads_it_away(parts: list[tuple[float, float]]) -> None:
    """Capacitors that meet through resistors and diodes keep their charge on the common plate."""
    cards = [f"c{k} a{k} 0 {c!r}n ic={v!r}\nr{k} a{k} m {1 + k}k" for k, (v, c) in enumerate(parts)]
    text = "\n".join([*cards, "cm m 0 1n ic=0", "rm m 0 1e12", "d1 a0 a1 d", ".model d d(is=1e-14)"])
    names = [*(f"a{k}" for k in range(len(parts))), "m"]
    found = trace(text, 50e-6, names, start=Start.CONDITIONS)
    weights = np.array([*(c for _, c in parts), 1.0])
    charge = weights @ found.values
    whole = sum(v * c for v, c in parts)
    # What GMIN leads away in 50 µs.
    assert charge == pytest.approx(whole, abs=1e-6 * sum(abs(v) * c for v, c in parts) + 1e-6)


@given(st.floats(0.5, 20), st.floats(1e-9, 1e-6))
@settings(max_examples=15)
def test_a_resonator_without_loss_keeps_its_energy(volts: float, capacitance: float) -> None:
    """The trapezoidal rule adds and takes nothing where steps are even (Dahlquist 1963): only their changes do."""
    text = f"c1 a 0 {capacitance!r} ic={volts!r}\nl1 a 0 1m"
    turn = 2 * np.pi * np.sqrt(1e-3 * capacitance)
    found = trace(text, 20 * turn, ["a", "i(l1)"], start=Start.CONDITIONS)
    energy = 0.5 * capacitance * found.values[0] ** 2 + 0.5e-3 * found.values[1] ** 2
    assert energy[-1] == pytest.approx(energy[1], rel=1e-2)
