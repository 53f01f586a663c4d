"""A netlist file simulated as it says."""

import json
import math
from typing import Any

import numpy as np
import pytest

from tests.core.analyses.test_operating_point import ENDLESS
from verdad_core.commands.ac import AcResult
from verdad_core.commands.dc import Dc
from verdad_core.commands.fourier import Four
from verdad_core.commands.noise import NoiseResult
from verdad_core.commands.operating_point import Op
from verdad_core.commands.pole_zero import Pz
from verdad_core.commands.sensitivity import Sens
from verdad_core.commands.transfer_function import Tf
from verdad_core.commands.transient import Tran
from verdad_core.errors import ConvergenceError, NetlistError, VerdadError
from verdad_core.simulate import simulate
from verdad_core.simulation import Limits, Simulation

FILTER = """First-order low-pass
v1 in 0 dc 2 ac 1
r1 in out 1k
r2 out 0 1k
c1 out 0 1u
"""


def run(cards: str, text: str = FILTER) -> list[Any]:
    return list(simulate(text + cards).analyses)


def test_every_kind_in_file_order() -> None:
    found = run(
        ".op\n.dc v1 0 2 1\n.ac dec 10 1 10k\n.noise v(out) v1 dec 10 1 10k\n.tf v(out) v1\n.pz in 0 out 0 vol pz\n"
        ".sens v(out)\n"
    )
    op, dc, ac, noise, tf, pz, sens = found
    assert isinstance(op, Op)
    assert op.values == pytest.approx({"v(in)": 2, "v(out)": 1, "i(v1)": -1e-3})
    assert isinstance(dc, Dc)
    assert dc.sweep.values.tolist() == [0, 1, 2]
    assert dc.vectors["v(out)"] == pytest.approx([0, 0.5, 1])
    assert isinstance(ac, AcResult)
    assert len(ac.frequency) == 41
    assert ac.vectors["v(out)"] == pytest.approx(0.5 / (1 + 2j * np.pi * ac.frequency * 500e-6))
    assert ac.unstable == []
    assert isinstance(noise, NoiseResult)
    assert noise.vectors["onoise"][0] == pytest.approx(math.sqrt(4 * 1.380649e-23 * 300.15 * 500), rel=1e-5)
    assert noise.contributions["r1"][0] == pytest.approx(noise.vectors["onoise"][0] / math.sqrt(2))
    gain = np.abs(0.5 / (1 + 2j * np.pi * noise.frequency * 500e-6))
    assert noise.vectors["inoise"] == pytest.approx(noise.vectors["onoise"] / gain)
    assert isinstance(tf, Tf)
    assert (tf.transfer, tf.input_resistance, tf.output_resistance) == pytest.approx((0.5, 2e3, 500))
    assert isinstance(pz, Pz)
    assert pz.poles == pytest.approx([-2000])
    assert pz.zeros == []
    assert isinstance(sens, Sens)
    assert sens.by_element["r1"] == pytest.approx(-0.5e-3)


def test_the_json_has_only_numbers_lists_and_dictionaries() -> None:
    simulation = simulate(
        FILTER + ".op\n.ac lin 3 0 10\n.tf v(in) v1\n.sens v(out) ac dec 1 1 10\n.pz in 0 out 0 cur pz"
    )
    whole = json.loads(json.dumps(simulation.json(), allow_nan=False))
    assert whole["circuit"] == "First-order low-pass"
    assert [analysis["kind"] for analysis in whole["analyses"]] == ["op", "ac", "tf", "sens", "pz"]
    assert whole["analyses"][1]["vectors"]["v(out)"]["re"][0] == pytest.approx(0.5)
    assert whole["analyses"][3]["by_element"]["c1"]["im"]


def test_two_sweeps_run_the_first_one_fastest() -> None:
    [dc] = run(".dc v1 0 2 1 temp 0 100 100\n", FILTER.replace("r2 out 0 1k", "r2 out 0 1k tc1=5m"))
    assert dc.sweep.values.tolist() == [0, 1, 2, 0, 1, 2]
    assert dc.outer is not None
    assert dc.outer.values.tolist() == [0, 0, 0, 100, 100, 100]
    assert dc.vectors["v(out)"][5] == pytest.approx(2 * 1.365 / 2.365)


def test_poles_and_zeros_of_a_port_without_a_source() -> None:
    """A lead network: zero at -1/(R1 C1), pole at -(1/R1 + 1/R2)/C1 driven by a voltage, none when by a current."""
    text = "x\nr1 in out 10k\nc1 in out 1n\nr2 out 0 1k\n"
    [by_voltage, by_current] = run(".pz in 0 out 0 vol pz\n.pz in 0 out 0 cur pz\n", text)
    assert by_voltage.poles == pytest.approx([-1.1e6])
    assert by_voltage.zeros == pytest.approx([-1e5])
    assert by_current.poles == pytest.approx([-1e5])


def test_an_unstable_bias_point_is_said_loudly() -> None:
    text = "x\nr1 a 0 -1k\nc1 a 0 1n\ni1 0 a 0 ac 1\n"
    simulation = simulate(text + ".ac dec 1 1 10\n")
    [response] = simulation.analyses
    assert isinstance(response, AcResult)
    assert response.unstable == pytest.approx([1e6])
    assert any("right half-plane" in warning.message and warning.place.line == 5 for warning in simulation.warnings)


def test_a_file_that_asks_for_nothing_is_told_so() -> None:
    assert "no analysis" in simulate(FILTER).warnings[0].message


@pytest.mark.parametrize(
    ("cards", "line", "message"),
    [
        (".ac dec 10 0 1k", 6, "not possible"),
        (".ac dec 10 10 1", 6, "not possible"),
        (".op\n.noise v(out) r1 dec 1 1 10", 7, "not an independent source"),
        (".tf v(nowhere) v1", 6, "no node or branch 'nowhere'"),
        (".dc v1 0 1 -0.1", 6, "does not lead"),
        (".dc r9 0 1 1", 6, "no parameter"),
        (".ac dec 10 1", 6, "incomplete"),
        (".tf i(v1,2) v1", 6, "needs an output"),
    ],
)
def test_what_is_wrong_is_an_error_with_its_line(cards: str, line: int, message: str) -> None:
    with pytest.raises(VerdadError, match=message) as caught:
        run(cards)
    assert caught.value.place.line == line


def test_a_circuit_without_solution_is_an_error_at_the_analysis() -> None:
    with pytest.raises(ConvergenceError, match="no operating point") as caught:
        run(".op", "x\nb2 a 0 v=exp(v(a)+5)\nr1 a 0 1\n")
    assert caught.value.place.line == 4


def test_time_is_limited_within_an_operating_point_and_a_sweep() -> None:
    for card in (".op", ".dc v1 0 5 0.01", ".tran 1u 1m"):
        simulation = simulate(f"Endless\n{ENDLESS}{card}\n", limits=Limits(seconds=1.0))
        assert simulation.stopped is not None
        assert "took longer than 1 s" in str(simulation.stopped)
        assert simulation.stopped.place.line == 4 + 3 * 1500


def test_limits_end_a_run_with_the_results_so_far() -> None:
    simulation = simulate(FILTER + ".op\n.ac dec 100000 1 10meg\n.op", limits=Limits(points=1000))
    assert [analysis.kind for analysis in simulation.analyses] == ["op"]
    assert simulation.stopped is not None
    assert simulation.stopped.place.line == 7
    assert "1,000 points" in str(simulation.stopped)
    assert simulate(FILTER + ".op", limits=Limits(seconds=-1)).stopped is not None
    whole = simulate(FILTER + ".op\n.dc v1 0 1 1u", limits=Limits(numbers=1000)).json()
    assert whole["stopped"]["line"] == 7


def test_included_texts_come_from_what_is_handed_in() -> None:
    text = "x\n.lib parts.lib one\nv1 a 0 1\nd1 a 0 m\n.op"
    library = {"parts.lib": ".lib one\n.model m d(is=1f)\n.endl\n.lib two\n.model m d(is=2f)\n.endl"}
    [op] = simulate(text, library).analyses
    assert isinstance(op, Op)
    assert op.values["v(a)"] == 1
    with pytest.raises(NetlistError, match="not here"):
        simulate(text)


class TestTransient:
    STEP = "Step into a low-pass\nv1 in 0 pulse(0 1 1m 1u 1u 1 2)\nr1 in out 1k\nc1 out 0 1u\n"

    def only(self, simulation: Simulation) -> Tran:
        [tran] = simulation.analyses
        assert isinstance(tran, Tran)
        return tran

    def test_points_counts_and_json(self) -> None:
        simulation = simulate(self.STEP + ".tran 10u 6m\n")
        tran = self.only(simulation)
        t = tran.time
        assert (t[0], t[-1]) == (0, 6e-3)
        assert np.diff(t).max() <= 10e-6 * (1 + 1e-9)
        exact = np.where(t > 1e-3, 1 - np.exp(-(t - 1e-3) / 1e-3), 0)
        assert tran.vectors["v(out)"] == pytest.approx(exact, abs=1e-3)
        assert set(tran.vectors) == {"v(in)", "v(out)", "i(v1)"}
        assert tran.counts["steps"] == len(t) - 1
        plain = simulation.json()["analyses"][0]
        assert plain["kind"] == "tran"
        assert len(plain["time"]) == len(plain["vectors"]["v(out)"]) == len(t)
        json.dumps(plain, allow_nan=False)

    def test_given_conditions(self) -> None:
        [tran] = run(".tran 10u 3m uic\n.ic v(out)=2\n", "Decay\nr1 out 0 1k\nc1 out 0 1u\n")
        assert tran.vectors["v(out)"] == pytest.approx(2 * np.exp(-tran.time / 1e-3), abs=2e-3)

    def test_points_from_a_time_on_with_a_longest_step(self) -> None:
        [tran] = run(".tran 1m 6m 2m 0.1m\n", self.STEP)
        assert tran.time[0] >= 2e-3
        assert np.diff(tran.time).max() <= 0.1e-3 * (1 + 1e-9)

    def test_harmonics_wherever_their_statement_stands(self) -> None:
        text = "Clipped\nv1 in 0 sin(0 2 1k)\nr1 in out 1k\nb1 x 0 v=limit(v(out),-1,1)\nr2 x 0 1k\n"
        tran, four = run(".four 1k v(x) v(in,x)\n.tran 2u 3m\n", text)
        assert isinstance(four, Four)
        assert four.frequency.tolist() == [1e3 * k for k in range(1, 10)]
        # A sine of 2 V clipped at 1 V: b1 = (2/pi) (2 asin(1/2) + 2 cos(asin(1/2)) / 2 * ..) in closed form.
        angle = math.asin(0.5)
        first = 2 / math.pi * (2 * angle - math.sin(2 * angle)) + 4 / math.pi * math.cos(angle)
        assert four.magnitudes["v(x)"][0] == pytest.approx(first, rel=1e-3)
        assert four.thd["v(x)"] == pytest.approx(np.sqrt(np.sum(four.magnitudes["v(x)"][1:] ** 2)) / first, rel=2e-3)
        assert "v(in,x)" in four.thd
        assert tran.kind == "tran"

    def test_tolerances_and_rule_are_options(self) -> None:
        coarse, fine, gear = (
            run(f".tran 1m 6m\n.options {options}\n", self.STEP)[0].counts["steps"]
            for options in ("reltol=1e-2", "reltol=1e-5 vntol=1n", "reltol=1e-5 vntol=1n method=gear")
        )
        assert coarse < fine < gear

    @pytest.mark.parametrize(
        ("cards", "said"),
        [
            (".tran -1u 1m", "steps of -1e-06 s is not possible"),
            (".tran 1u -1m", "is not possible"),
            (".tran 1m 1u", "the step of 0.001 s is longer than the run"),
            (".tran 1n 2", "asks for 2e\\+09 steps"),
            (".tran 1u 1m\n.four 1 v(out)", "no whole period of 1 Hz"),
            (".four 1k v(out)", "needs a transient"),
            (".tran 1u 1m\n.four 1k v(nowhere)", "there is no output v\\(nowhere\\)"),
            (".tran 1u 1m\n.options method=magic", "the method 'magic' is not known"),
            ("v2 x 0 pwl(0 0 1m 1 1m 2 1m 3)\nr9 x 0 1\n.tran 1u 1m", "PWL has three values at 0.001 s"),
        ],
    )
    def test_what_cannot_be_done(self, cards: str, said: str) -> None:
        with pytest.raises(VerdadError, match=said):
            run(cards + "\n", self.STEP)

    def test_a_run_that_cannot_go_on_keeps_its_results(self) -> None:
        text = "Ends\nb1 x 0 v=1+v(x)*if(time>0.5m,1,0)\nr1 x 0 1k\nc1 y 0 1n\nr2 y x 1k\n.tran 10u 1m\n.op\n"
        simulation = simulate(text)
        tran = self.only(simulation)
        assert tran.time[-1] == pytest.approx(0.5e-3, rel=0.05)
        assert simulation.stopped is not None
        assert simulation.stopped.place.line == 6
        assert "no single solution" in simulation.json()["stopped"]["error"]

    def test_time_and_points_are_limited(self) -> None:
        simulation = simulate(self.STEP + ".tran 1u 5\n", limits=Limits(seconds=0.2))
        assert simulation.stopped is not None
        assert "took longer than 0.2 s" in str(simulation.stopped)
        assert 0 < self.only(simulation).time[-1] < 5
        tran = self.only(simulate(self.STEP + ".tran 1u 6m\n", limits=Limits(points=500)))
        assert len(tran.time) <= 500
        assert tran.vectors["v(out)"].max() == pytest.approx(1 - math.exp(-5), abs=1e-3)

    def test_a_ring_of_decisions_is_said_to_start_from_rest(self) -> None:
        simulation = simulate("Ring\nb1 x 0 v=if(v(y)>0.5,0,1)\nr1 x y 1k\nc1 y 0 1n\n.tran 0.1u 5u\n")
        assert any("no operating point was found, so the transient starts" in w.message for w in simulation.warnings)
