"""Periodic steady state and the response around it, against closed forms and averaged models."""

import numpy as np
import pytest

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.marcher import Accuracy
from verdad_core.analyses.periodic import SteadyState, steady_state
from verdad_core.analyses.periodic_response import periodic_loop_gain, periodic_response
from verdad_core.analyses.transient import Start, transient
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import CircuitError, ConvergenceError

PERIOD, DUTY = 4e-6, 0.4
#: A step-down converter of nearly ideal parts: 12 V, 10 µH, 100 µF, 2 Ω.
BUCK = (
    f"vin in 0 12\nvg g 0 pulse(0 1 0 0 0 {DUTY * PERIOD} {PERIOD})\ns1 in x g 0 s\ns2 x 0 g 0 t\nl1 x out 10u\n"
    "c1 out 0 100u\nr1 out 0 2\n.model s sw(vt=0.5 ron=1m roff=1meg)\n.model t sw(vt=0.5 ron=1meg roff=1m)"
)


def test_the_ripple_of_a_step_down_converter() -> None:
    """Erickson and Maksimovic, "Fundamentals of Power Electronics", ch. 2: D Vg; (Vg - V) D T / L; di T / (8 C)."""
    [found] = steady_state(structure(BUCK), PERIOD, accuracy=Accuracy(1e-4))
    out = DUTY * 12
    assert found.mean("out") == pytest.approx(out, rel=2e-3)
    assert found.mean("i(l1)") == pytest.approx(out / 2, rel=2e-3)
    current = (12 - out) * DUTY * PERIOD / 10e-6
    assert np.ptp(found.value("i(l1)")) == pytest.approx(current, rel=5e-3)
    assert np.ptp(found.value("out")) == pytest.approx(current * PERIOD / 8 / 100e-6, rel=0.02)
    assert found.periods < 25


def test_it_is_where_a_long_run_ends() -> None:
    circuit = structure(BUCK)
    [found] = steady_state(circuit, PERIOD)
    run = transient(circuit, 1500 * PERIOD, [("out", "0")], since=1499 * PERIOD, longest=PERIOD / 40).require()
    mean = np.trapezoid(run.values[0], run.time) / (run.time[-1] - run.time[0])
    assert found.mean("out") == pytest.approx(mean, rel=1e-3)


@pytest.mark.parametrize(
    ("period", "flying", "load"), [(13.3e-6, 4.359e-7, 68.49e3), (3.022e-6, 9.217e-8, 2714), (1.47e-6, 1.004e-8, 1705)]
)
def test_a_charge_pump_is_where_waiting_ends(period: float, flying: float, load: float) -> None:
    """The output takes hundreds of periods, all other charges follow within one; what an extrapolation does to those
    says nothing of it.
    """
    circuit = structure(
        f"vi c 0 pulse(0 5 0 10n 10n {period / 2} {period})\nrs c cc 20\nc1 cc x {flying}\nv5 v 0 5\nd1 v x d\n"
        f"d2 x out d\nc2 out 0 1u\nrl out 0 {load}\n.model d d(is=2n n=1.9 rs=0.6 cjo=2p tt=5n)"
    )
    [found] = steady_state(circuit, period)
    [waited] = steady_state(circuit, period, extrapolate=False, most=2000)
    assert found.periods < 50 < waited.periods
    # Waiting ends where a period changes a hundred thousandth; up to 800 such periods are still missing.
    assert found.mean("out") == pytest.approx(waited.mean("out"), rel=2e-3)


def test_an_extrapolation_that_runs_away_is_taken_back() -> None:
    """A flyback with its clamp: no flux grows (volt-second balance, Erickson and Maksimovic, ch. 2), so that the mean
    of the switch's node is the supply; its leakage rings from one period into the next.
    """
    period = 5.615e-6
    circuit = structure(
        f"vin in 0 24\nl1 in x 100u\nl2 0 y 7.074u\nk1 l1 l2 0.95\nvg g 0 pulse(0 10 0 20n 20n 2.246u {period})\n"
        "rg g gg 10\nm1 x gg 0 m\nd1 y out d\nc1 out 0 13.17u\nrl out 0 6.135\nds x cl s\nrs cl in 1080\n"
        "cs cl in 10n\n.model d d(is=10n n=1.05 rs=30m cjo=100p)\n.model s d(is=2n n=1.9 rs=0.6 cjo=2p tt=5n)\n"
        ".model m vnmos(vto=2 kp=20 cgs=800p cgdmax=400p cgdmin=40p cjo=300p rg=1 rd=10m)"
    )
    [found] = steady_state(circuit, period)
    assert found.mean("x") == pytest.approx(24, rel=1e-3)
    assert found.mean("out") == pytest.approx(3.6446, rel=2e-3)  # a run of 1200 periods


def test_what_rings_into_the_next_period_is_waited_for_with_smaller_errors() -> None:
    """A step-up converter whose current ends: what rings then until the switch closes carries the errors of its steps.

    Erickson and Maksimovic, ch. 5: V / Vg = (1 + sqrt(1 + 4 D² R T / 2 L)) / 2 for ideal parts; the diode drops half a
    volt of 18 and the ring returns some.
    """
    inductance, load, period, on = 10e-6, 100.0, 15e-6, 6e-6
    circuit = structure(
        f"vin in 0 5\nl1 in x {inductance}\nrg g gg 5\nvg gg 0 pulse(0 10 0 20n 20n {on} {period})\nm1 x g 0 m\n"
        f"d1 x out d\nc1 out 0 1u\nrl out 0 {load}\n.model d d(is=1e-8 n=1.05 rs=30m cjo=100p)\n"
        ".model m vnmos(vto=2 kp=20 cgs=800p cgdmax=400p cgdmin=40p cjo=300p rg=1 rd=10m)"
    )
    [found] = steady_state(circuit, period)
    ideal = 2.5 * (1.0 + np.sqrt(1.0 + 2.0 * ((on + 20e-9) / period) ** 2 * load * period / inductance))
    assert found.mean("out") == pytest.approx(ideal, rel=0.03)
    [waited] = steady_state(circuit, period, extrapolate=False, accuracy=Accuracy(1e-4))
    assert found.mean("out") == pytest.approx(waited.mean("out"), rel=1e-4)


def test_rows_start_from_the_nominal_one() -> None:
    circuit = structure(BUCK)
    loads = np.array([1.0, 2.0, 4.0])
    found = steady_state(circuit, PERIOD, matrix=ParameterMatrix.varied(circuit, {("r1", "resistance"): loads}))
    assert [each.mean("i(l1)") for each in found] == pytest.approx(4.8 / loads, rel=3e-3)
    assert all(each.periods <= 20 for each in found)


def test_an_oscillator_of_unknown_period() -> None:
    """Van der Pol's oscillator: amplitude sqrt(4 g1 / (3 g3)) and 1/sqrt(LC) by the describing function, whose error in
    frequency is mu^2 / 16 of it, mu = g1 sqrt(L / C) (Hayashi, "Nonlinear Oscillations in Physical Systems", 1964).
    """
    circuit = structure("l1 a 0 1u ic=1m\nc1 a 0 1n\nb1 a 0 i=-5m*v(a)+2m*v(a)*v(a)*v(a)")
    [found] = steady_state(circuit, 2.2e-7, start=Start.CONDITIONS, oscillates="a", accuracy=Accuracy(1e-5))
    mu = 5e-3 * np.sqrt(1e-6 / 1e-9)
    assert found.period == pytest.approx(2 * np.pi * np.sqrt(1e-15) * (1 + mu**2 / 16), rel=1e-4)
    assert np.ptp(found.value("a")) / 2 == pytest.approx(np.sqrt(4 * 5 / (3 * 2)), rel=3e-3)


def test_a_relaxation_oscillators_period() -> None:
    """2 RC ln((1 + b) / (1 - b)), b = 1/2."""
    text = (
        "r1 out c 10k\nc1 c 0 10n ic=0\nbup out 0 v=if(v(d)>0,5,-5)\nbd d 0 v=v(out1)/2-v(c)\n"
        "ro out out1 1\nco out1 0 100p"
    )
    [found] = steady_state(structure(text), 2e-4, start=Start.CONDITIONS, oscillates="c", accuracy=Accuracy(1e-4))
    # The output's own 0.1 ns are in it.
    assert found.period == pytest.approx(2 * 1e-4 * np.log(3), rel=1e-3)


class TestResponse:
    def test_a_linear_circuit_has_its_frequency_response(self) -> None:
        circuit = structure("v1 in 0 ac 1 sin(0 1 1k)\nr1 in a 1k\nc1 a 0 100n\nl1 a b 10m\nr2 b 0 100")
        [state] = steady_state(circuit, 1e-3, longest=2e-6)
        frequency = np.array([10.0, 990.0, 5e3])
        found = periodic_response(state, "v1", [("a", "0"), ("i(l1)", "0")], frequency, (0, 1))
        exact = ac(circuit, frequency, [("a", "0"), ("i(l1)", "0")]).values[0]
        assert found.values[:, 0] == pytest.approx(exact, abs=2e-3 * np.max(np.abs(exact)))
        assert np.max(np.abs(found.values[:, 1])) < 1e-3
        assert found.stable

    def test_a_chopper_makes_sidebands(self) -> None:
        """A switch at 50 % passes 1/2 of a signal, and 1/pi of it at each side of the clock (Fourier, of a square)."""
        text = (
            "vs in 0 0\nvg g 0 pulse(0 1 0 0 0 5u 10u)\ns1 in a g 0 s\nr1 a 0 1k\nc1 b 0 1p\nr2 b a 1\n"
            ".model s sw(vt=0.5 ron=1 roff=1g)"
        )
        [state] = steady_state(structure(text), 10e-6, longest=0.02e-6)
        found = periodic_response(state, "vs", [("a", "0")], np.array([1e3]), (-1, 0, 1, 2))
        size = 1000 / 1001
        assert np.abs(found.values[0, :, 0]) == pytest.approx([size / np.pi, size / 2, size / np.pi, 0], abs=2e-3)

    @pytest.fixture(scope="class")
    def regulated(self) -> SteadyState:
        """A converter whose comparator decides each duty from a ramp: 12 V, 22 µH, 100 µF with 20 mΩ, 2 Ω, gain 2/8."""
        text = (
            "vin in 0 12\nvref ref 0 0.5\nvinj fb ea 0\nvt t 0 pulse(0 1 0 9.8u 0.1u 0.1u 10u)\n"
            "bc g 0 v=if(v(ctl)>v(t),1,0)\ns1 in x g 0 s\ns2 x 0 g 0 o\nl1 x lx 22u\nrl lx out 50m\nc1 out esr 100u\n"
            "resr esr 0 20m\nrload out 0 2\nr1 out fb0 7k\nr2 fb0 0 1k\neb fb 0 fb0 0 1\n"
            "eerr ctl 0 value={0.4+2*(v(ref)-v(ea))}\n.model s sw(vt=0.5 vh=0 ron=20m roff=1meg)\n"
            ".model o sw(vt=0.5 vh=0 ron=1meg roff=20m)"
        )
        [found] = steady_state(structure(text), 10e-6, start=Start.COLD, settle=60, longest=0.1e-6)
        return found

    def test_a_converters_loop_gain_is_that_of_the_averaged_model(self, regulated: SteadyState) -> None:
        """Erickson and Maksimovic, ch. 7 and 8: Vg / Vm times the filter, below a tenth of the switching frequency."""
        frequency = np.array([100.0, 1e3, 3e3, 1e4])
        found, response = periodic_loop_gain(regulated, "vinj", frequency)
        s = 2j * np.pi * frequency
        capacitor = 20e-3 + 1 / (s * 100e-6)
        load = 2 * capacitor / (2 + capacitor)
        averaged = 12 * 0.98 * load / (load + 70e-3 + s * 22e-6) * 2 / 8
        # The averaged model's own error grows to (f / fs)^2; dead losses make some 0.3 %.
        assert found == pytest.approx(averaged, rel=0.02)
        assert response.stable

    def test_what_cannot_be_measured(self, regulated: SteadyState) -> None:
        with pytest.raises(CircuitError, match="too long for 1e\\+07 Hz"):
            periodic_response(regulated, "vinj", [("out", "0")], np.array([1e7]))
        with pytest.raises(CircuitError, match="'rload' is not a voltage source"):
            periodic_loop_gain(regulated, "rload", np.array([1e3]))


def test_what_has_no_period() -> None:
    two = structure("v1 a 0 sin(0 1 1k)\nv2 b a sin(0 1 1.37k)\nr1 b c 1k\nc1 c 0 1u")
    with pytest.raises(ConvergenceError, match="not periodic after 30 periods"):
        steady_state(two, 1e-3, most=30)
    with pytest.raises(CircuitError, match="a period of -1 s"):
        steady_state(two, -1.0)
    still = structure("v1 a 0 1\nr1 a c 1k\nc1 c 0 1u")
    with pytest.raises(ConvergenceError, match="c does not oscillate"):
        steady_state(still, 1e-3, oscillates="c")
