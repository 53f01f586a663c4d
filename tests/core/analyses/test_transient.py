"""The transient against closed forms, the order of its rules, how it starts, and what it refuses."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.analyses.in_time import trace, worst
from tests.core.circuits import structure
from verdad_core.analyses.marcher import Accuracy, NoiseInTime, Rule
from verdad_core.analyses.transient import Start, thinned, transient
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import CircuitError, ConvergenceError, VerdadError

RC = "v1 in 0 pulse(0 1 1m 0 0 1 2)\nr1 in a 1k\nc1 a 0 1u"
RLC = "v1 in 0 pulse(0 1 1m 1n 1n 1 2)\nr1 in b 10\nl1 b a 10m\nc1 a 0 1u"


def rlc_step(t: Any) -> Any:
    """The response of RLC to a unit step at t = 0 (closed form; the edge of 1 ns is 1e-5 of a period)."""
    damping, natural = 10 / 2 / 10e-3, 1e4
    w = np.sqrt(natural**2 - damping**2)
    t = np.maximum(t, 0)
    return 1 - np.exp(-damping * t) * (np.cos(w * t) + damping / w * np.sin(w * t))


@pytest.mark.parametrize("rule", Rule)
@pytest.mark.parametrize("relative", [1e-2, 1e-3, 1e-4, 1e-5])
def test_rc_charges_as_it_should(relative: float, rule: Rule) -> None:
    """The error stays about what was asked for: steps add up as tolerance^(2/3) with rules of order two."""
    found = trace(RC, 8e-3, ["a"], accuracy=Accuracy(relative, rule=rule))
    t = found.time - 1e-3
    assert worst(found, np.where(t > 0, 1 - np.exp(-t / 1e-3), 0)) < 4 * relative


@pytest.mark.parametrize("relative", [1e-3, 1e-4, 1e-5])
def test_rlc_rings_as_it_should(relative: float) -> None:
    """Over 14 weakly damped turns (Q = 10) the errors of the steps add up."""
    found = trace(RLC, 10e-3, ["a"], relative)
    assert worst(found, rlc_step(found.time - 1e-3)) < relative ** (2 / 3)


@pytest.mark.parametrize(("rule", "constant"), [(Rule.TRAPEZOIDAL, 1 / 12), (Rule.GEAR, 1 / 3)])
def test_both_rules_have_order_two_and_their_error_constants(rule: Rule, constant: float) -> None:
    """With even steps a sine lags by constant (w h)^3 a step (Gear 1971): a quarter of it at half the step.

    The constants are those of the errors of the rate, h^2 / 12 and h^2 / 3 times the third derivative.
    """
    errors = []
    w, turns = 1e4, 5
    for points in (64, 128, 256):
        h = 2 * np.pi / w / points
        accuracy = Accuracy(0.1, volts=1e3, amperes=1e3, rule=rule)
        found = trace(
            "l1 a 0 10m\nc1 a 0 1u ic=1", turns * 2 * np.pi / w, ["a"], accuracy=accuracy, start=Start.CONDITIONS,
            longest=h,
        )  # fmt: skip
        lag = np.interp(0, *_last_zero(found.time, found.values[0])) - (turns * 2 - 0.5) * np.pi / w
        expected = constant * (2 * np.pi / points) ** 2 * (turns * 2 - 0.5) * np.pi / w
        # The first steps are shorter: a few per cent.
        assert abs(lag) == pytest.approx(expected, rel=0.15)
        errors.append(abs(lag))
    assert np.log2(np.array(errors[:-1]) / errors[1:]) == pytest.approx(2, abs=0.1)


def test_what_is_taken_away_leaves_a_rule_of_order_three() -> None:
    """With even steps a sine loses (w h)^4 / 66 a step (engine/extrapolation.py), and lags by a fifteenth of what it
    does by the plain rule at most: by what the first steps make, which are shorter, and Gear's.
    """
    losses = []
    w, turns = 1e4, 5
    for points in (32, 64, 128):
        found = trace(
            "l1 a 0 10m\nc1 a 0 1u ic=1", turns * 2 * np.pi / w, ["a", "i(l1)"], accuracy=Accuracy(0.1),
            start=Start.CONDITIONS, longest=2 * np.pi / w / points,
        )  # fmt: skip
        voltage, current = found.values
        losses.append(1 - np.hypot(voltage[-1], 100 * current[-1]))
        lag = np.interp(0, *_last_zero(found.time, voltage)) - (turns * 2 - 0.5) * np.pi / w
        assert abs(lag) < (2 * np.pi / points) ** 2 / 12 * (turns * 2 - 0.5) * np.pi / w / 15
    expected = [turns * (2 * np.pi) ** 4 / points**3 / 66 for points in (32, 64, 128)]
    assert losses == pytest.approx(expected, rel=0.05)
    assert np.log2(np.array(losses[:-1]) / losses[1:]) == pytest.approx(3, abs=0.15)


def _last_zero(t: Any, v: Any) -> Any:
    k = np.flatnonzero((v[:-1] < 0) & (v[1:] >= 0))[-1]
    return v[k : k + 2], t[k : k + 2]


@given(st.floats(0.1, 3.0))
@settings(max_examples=15)
def test_a_later_start_only_shifts_the_response(delay: float) -> None:
    early = trace(
        "v1 in 0 pulse(0 1 0.05m 1u 1u 1 2)\nr1 in a 1k\nd1 a 0 d\nc1 a 0 1n\n.model d d(is=1e-14)", 1e-3, ["a"]
    )
    late = trace(
        f"v1 in 0 pulse(0 1 {0.05 + delay}m 1u 1u 1 2)\nr1 in a 1k\nd1 a 0 d\nc1 a 0 1n\n.model d d(is=1e-14)",
        4.2e-3, ["a"],
    )  # fmt: skip
    t = np.linspace(0.05e-3, 0.9e-3, 200)
    shifted = np.interp(t + delay * 1e-3, late.time, late.values[0])
    assert shifted == pytest.approx(np.interp(t, early.time, early.values[0]), abs=3e-3)


@given(st.floats(-50, 50).filter(lambda k: abs(k) > 0.01))
@settings(max_examples=15)
def test_a_linear_circuit_scales_with_its_source(k: float) -> None:
    one, times = trace(RLC, 4e-3, ["a"], times=(t := np.linspace(0, 4e-3, 100))), t
    other = trace(RLC.replace("pulse(0 1", f"pulse(0 {k!r}"), 4e-3, ["a"], times=times)
    # Absolute tolerances make the steps differ a little.
    assert other.values[0] / k == pytest.approx(one.values[0], abs=5e-3)


def test_two_windings_exchange_their_energy() -> None:
    """Two equal resonators, coupled by k: a sum of modes at w/sqrt(1+k) and w/sqrt(1-k) (coupled-mode closed form)."""
    text = "c1 a 0 1n ic=1\nl1 a 0 1u\nc2 b 0 1n\nl2 b 0 1u\nk1 l1 l2 0.1"
    found = trace(text, 3e-6, ["a", "b"], 1e-5, start=Start.CONDITIONS)
    w = 1 / np.sqrt(1e-15)
    even, odd = (np.cos(w / np.sqrt(1 + k) * found.time) for k in (0.1, -0.1))
    assert worst(found, (even + odd) / 2, 0) < 6 * 1e-5 ** (2 / 3)
    assert worst(found, (even - odd) / 2, 1) < 6 * 1e-5 ** (2 / 3)


def test_charges_and_fluxes_may_follow_curves() -> None:
    """A capacitor C (1 + VC1 v) on a current source: q = I t, so v = (sqrt(1 + 2 VC1 I t / C) - 1) / VC1."""
    found = trace("i1 0 a 1m\nc1 a 0 1u ic=0\nr1 a 0 1e12", 1e-3, ["a"], start=Start.CONDITIONS)
    assert found.values[0, -1] == pytest.approx(1.0, rel=1e-6)
    found = trace("i1 0 a 1m\nc1 a 0 1u vc1=0.5 ic=0\nr1 a 0 1e12", 1e-3, ["a"], start=Start.CONDITIONS)
    assert found.values[0, -1] == pytest.approx((np.sqrt(2) - 1) / 0.5, rel=1e-4)


def test_trapezoidal_ringing_is_noticed_and_damped() -> None:
    """A capacitor straight on a source: its current is C dv/dt, and the plain rule would swing around it for ever."""
    text = "v1 a 0 pwl(0 0 10u 0 20u 1 40u 1)\nc1 a 0 1u\nr1 a 0 1k"
    found = trace(text, 40e-6, ["i(v1)"])
    inside = (found.time > 10.5e-6) & (found.time < 19.5e-6)
    expected = -(1e-6 * 1e5 + (found.time[inside] - 10e-6) * 1e5 / 1e3)
    assert found.values[0, inside] == pytest.approx(expected, rel=1e-3)
    after = found.values[0, found.time > 20.5e-6]
    assert after == pytest.approx(-1e-3, rel=1e-3)


class TestStarts:
    def test_the_operating_point_stays(self) -> None:
        found = trace("v1 in 0 5\nr1 in a 1k\nr2 a 0 1k\nc1 a 0 1u\nl1 a b 1m\nr3 b 0 1k", 1e-3, ["a"])
        assert found.values[0] == pytest.approx(5 / 3, rel=1e-9)

    def test_a_node_is_held_until_zero(self) -> None:
        found = trace("v1 in 0 5\nr1 in a 1k\nc1 a 0 1u\n.ic v(a)=1", 5e-3, ["a"])
        assert worst(found, 5 - 4 * np.exp(-found.time / 1e-3)) < 1e-3

    def test_given_conditions_and_nothing_else(self) -> None:
        text = "v1 in 0 5\nr1 in a 1k\nc1 a 0 1u ic=2\nl1 c 0 1m ic=3m\nr2 c 0 1"
        found = trace(text, 5e-3, ["a", "i(l1)"], start=Start.CONDITIONS)
        assert worst(found, 5 - 3 * np.exp(-found.time / 1e-3)) < 2e-3
        assert worst(found, 3e-3 * np.exp(-found.time / 1e-3), 1) < 3e-6

    def test_cold_is_empty(self) -> None:
        found = trace("v1 in 0 5\nr1 in a 1k\nc1 a 0 1u ic=2", 5e-3, ["a"], start=Start.COLD)
        assert worst(found, 5 - 5 * np.exp(-found.time / 1e-3)) < 5e-3

    def test_charge_is_shared_when_capacitors_meet(self) -> None:
        """C1 at 3 V on C2 at 0 V through a resistor far below all times: charge stays, 1 V (charge conservation)."""
        found = trace("c1 a 0 1u ic=3\nr1 a b 1u\nc2 b 0 2u ic=0\nr2 b 0 1g", 1.0, ["b"], start=Start.CONDITIONS)
        assert found.values[0, -1] == pytest.approx(1.0, rel=1e-3)

    @pytest.mark.parametrize(
        ("text", "said"),
        [
            ("v1 a 0 5\nc1 a 0 1u ic=2", "c1 asks for 2 V at a, but v1 for 5 V"),
            ("c1 a 0 1u ic=2\nr1 a 0 1\n.ic v(a)=1", "the condition at node a asks for 1 V"),
            (
                "c1 a b 1u ic=1\nc2 b 0 1u ic=1\nc3 a 0 1u ic=3\nr1 a 0 1\nr2 b 0 1",
                "c3 asks for 3 V at a, but c1, c2 for 2 V",
            ),
            ("l1 a b 1u ic=1\nl2 b 0 1u ic=2\nr1 a 0 1", "1 A more flow into node b"),
        ],
    )
    def test_conditions_that_contradict(self, text: str, said: str) -> None:
        with pytest.raises(CircuitError, match=said):
            trace(text, 1e-3, ["a"], start=Start.CONDITIONS)

    def test_a_held_node_that_a_source_holds(self) -> None:
        with pytest.raises(CircuitError, match="cannot hold: the circuit keeps the node at 5 V"):
            trace("v1 a 0 5\nr1 a 0 1k\n.ic v(a)=1", 1e-3, ["a"])

    def test_a_start_without_a_solution_says_which_unknowns_are_open(self) -> None:
        with pytest.raises(ConvergenceError, match="no single solution") as caught:
            trace("b1 x 0 v=v(x)+1\nr1 x 0 1k\nc1 x y 1n\nr2 y 0 1k", 1e-3, ["x"], start=Start.COLD)
        assert caught.value.place.nodes == ("x",)
        assert "b1" in str(caught.value)
        assert "last steps" not in str(caught.value)


class TestPoints:
    def test_asked_times_are_interpolated_between_steps(self) -> None:
        times = np.linspace(0, 10e-3, 777)
        found = trace(RLC, 10e-3, ["a"], 1e-4, times=times)
        assert found.time == pytest.approx(times)
        assert worst(found, rlc_step(times - 1e-3)) < 2e-3

    def test_points_from_a_time_on(self) -> None:
        found = trace(RC, 8e-3, ["a"], since=3e-3)
        assert found.time[0] >= 3e-3
        assert found.values[0, 0] == pytest.approx(1 - np.exp(-(found.time[0] - 1e-3) / 1e-3), abs=1e-3)

    def test_thinning_keeps_every_extreme(self) -> None:
        whole, thin = (trace(RLC, 10e-3, ["a", "b"], 1e-5, most_points=most) for most in (None, 200))
        assert len(thin.time) <= 200 < len(whole.time)
        for k in range(2):
            assert (thin.values[k].min(), thin.values[k].max()) == (whole.values[k].min(), whole.values[k].max())

    @given(st.integers(1, 400), st.integers(4, 60), st.integers(1, 3))
    def test_thinned_points_are_some_of_the_points(self, count: int, most: int, outputs: int) -> None:
        points = np.random.default_rng(count).normal(size=(count, 1 + outputs))
        points[:, 0] = np.arange(count)
        some = thinned(points, most)
        assert len(some) <= max(most, 1 + 2 * outputs) + 2
        assert (some == points[some[:, 0].astype(int)]).all()
        assert some[[0, -1], 0].tolist() == [0, count - 1]
        assert (some.min(axis=0) == points.min(axis=0)).all()

    def test_only_what_was_asked_for_is_kept(self) -> None:
        circuit = structure(RLC)
        found = transient(circuit, 1e-3, [("a", "b"), ("i(l1)", "0")])
        assert found.trace().values.shape == (2, len(found.trace().time))
        assert (found.value(("a", "b")) == found.trace().values[0]).all()


class TestRows:
    def test_rows_differ_in_values_and_temperature(self) -> None:
        circuit = structure("v1 in 0 pulse(0 1 0 1n 1n 1 2)\nr1 in a 1k tc1=1m\nc1 a 0 1u")
        matrix = ParameterMatrix.varied(
            circuit, {("r1", "resistance"): np.array([1e3, 2e3, 1e3]), ("", "temperature"): np.array([27.0, 27, 127])}
        )
        times = np.linspace(0, 5e-3, 50)
        found = transient(circuit, 5e-3, [("a", "0")], matrix=matrix, times=times)
        for row, tau in enumerate((1e-3, 2e-3, 1.1e-3)):
            assert found.require(row).values[0] == pytest.approx(1 - np.exp(-times / tau), abs=1e-3)

    def test_rows_are_what_they_are_alone_on_any_number_of_threads(self) -> None:
        circuit = structure(RLC)
        matrix = ParameterMatrix.varied(circuit, {("r1", "resistance"): np.linspace(5, 50, 5)})
        many, few = (transient(circuit, 5e-3, [("a", "0")], matrix=matrix, threads=threads) for threads in (4, 1))
        for row in range(5):
            alone = ParameterMatrix.varied(circuit, {("r1", "resistance"): matrix.values[[row], 0]})
            one = transient(circuit, 5e-3, [("a", "0")], matrix=alone)
            assert (many.trace(row).values == few.trace(row).values).all()
            assert (many.trace(row).values == one.trace().values).all()


class TestLimits:
    def test_progress_rises_to_the_end(self) -> None:
        seen: list[float] = []
        transient(structure(RLC), 1.0, [("a", "0")], longest=1e-5, look=seen.append)
        assert seen == sorted(seen)
        assert len(seen) > 5

    def test_a_run_that_is_cancelled_keeps_what_it_has(self) -> None:
        def cancel(done: float) -> None:
            if done > 0.2:
                raise VerdadError("cancelled")

        found = transient(structure(RLC), 1.0, [("a", "0")], longest=1e-5, look=cancel).trace()
        assert str(found.failure) == "cancelled"
        assert 0.2 < found.time[-1] < 0.9

    @pytest.mark.parametrize(
        ("arguments", "said"),
        [
            ({"stop": 0.0}, "cannot end at 0 s"),
            ({"stop": -1.0}, "cannot end at -1 s"),
            ({"since": 2.0}, "cannot be kept from 2 s on"),
            ({"longest": 0.0}, "longest step of 0 s"),
            ({"longest": 1e-9}, "1e\\+09 steps"),
            ({"accuracy": Accuracy(0.0)}, "tolerances must be above zero"),
            ({"times": np.array([0.5, 0.1])}, "do not rise"),
            ({"noise": NoiseInTime(2.0)}, "noise cannot be drawn every 2 s"),
        ],
    )
    def test_what_cannot_be_asked_for(self, arguments: dict[str, Any], said: str) -> None:
        with pytest.raises(CircuitError, match=said):
            transient(structure(RC), outputs=[("a", "0")], **{"stop": 1.0, **arguments})

    def test_an_unknown_output(self) -> None:
        with pytest.raises(CircuitError, match="no node or branch 'nowhere'"):
            trace(RC, 1.0, ["nowhere"])
