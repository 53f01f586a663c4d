"""A netlist file simulated as it says."""

import json
import math
from typing import Any

import numpy as np
import pytest

from verdad_core.errors import ConvergenceError, NetlistError, VerdadError
from verdad_core.simulate import Ac, Dc, Limits, Noise, Op, Pz, Sens, Tf, simulate

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
    assert isinstance(ac, Ac)
    assert len(ac.frequency) == 41
    assert ac.vectors["v(out)"] == pytest.approx(0.5 / (1 + 2j * np.pi * ac.frequency * 500e-6))
    assert ac.unstable == []
    assert isinstance(noise, Noise)
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
    assert isinstance(response, Ac)
    assert response.unstable == pytest.approx([1e6])
    assert any("right half-plane" in warning.message and warning.place.line == 5 for warning in simulation.warnings)


def test_what_is_not_there_yet_is_a_warning() -> None:
    simulation = simulate(FILTER + ".tran 1u 1m\n")
    assert simulation.analyses == []
    assert [(w.place.line, "transient" in w.message) for w in simulation.warnings] == [(6, True)]
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
