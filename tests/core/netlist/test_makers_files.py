"""What makers' files and the published manuals write, each with its meaning."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from verdad_core.errors import Severity, VerdadError
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read
from verdad_core.simulate import simulate


def run(text: str) -> Any:
    return simulate(f"a title\n{text}")


def volts(text: str, node: str = "a") -> float:
    return float(run(f"{text}\n.op").analyses[-1].values[f"v({node})"])


def loaded(expression: str) -> str:
    return f"v1 c 0 2\nr1 c 0 1k\nb1 a 0 v={expression}\nr2 a 0 1k"


@pytest.mark.parametrize(
    ("written", "value"),
    [("10µ", 1e-5), ("10μ", 1e-5), ("1kΩ", 1e3), ("4k7", 4700.0), ("2r2", 2.2), ("1e-9f", 1e-9), ("1.5e3v", 1500.0),
     ("1meg5", 1.5e6), ("10kohm", 1e4)],
)  # fmt: skip
def test_numbers(written: str, value: float) -> None:
    [card] = read(f"r1 a 0 {written}").require().top.cards
    assert card.values["resistance"] == pytest.approx(value, rel=1e-15)


def test_comments_quotes_braces_and_signs() -> None:
    text = '.param k=3 q="2*k"\nr1 a 0 {{k}*{2+{1}}} $no blank after it\nr2 a 0 "q+1"\nr3 a 0 -{k}\nr4 a 0 {k}*2'
    values = [element.values["resistance"] for element in flatten(read(text).require()).elements]
    assert values == [9.0, 7.0, -3.0, 6.0]


def test_of_two_definitions_the_last_one_counts_and_a_note_says_so() -> None:
    netlist = read(".param k=1\n.param k=2\nr1 a 0 {k}\n.model d d(is=1n)\n.model d d(is=2n)\nd1 a 0 d")
    assert [finding.severity for finding in netlist.findings] == [Severity.NOTE] * 2
    resistor, diode = flatten(netlist.require()).elements
    assert (resistor.values["resistance"], diode.values["is"]) == (2.0, 2e-9)


@pytest.mark.parametrize(
    ("expression", "value"),
    [
        ("{3}*v(c)", 6.0), ("round(v(c)+0.6)", 3.0), ("nint(-v(c)-0.6)", -3.0), ("sign(-v(c))", -1.0),
        ("mod(v(c)+5,4)", 3.0), ("mod(-v(c)-5,4)", -3.0), ("arcsin(v(c)/4)", math.asin(0.5)),
        ("arccos(v(c)/4)", math.acos(0.5)), ("tbl(v(c),0,0,4,8)", 4.0), ("min(v(c),1,5)", 1.0),
        ("max(v(c),1,5,3)", 5.0),
        ("delay(v(c),1m)", 2.0), ("idt(v(c),7)", 7.0), ("sdt(v(c))", 0.0), ("int(-v(c)-0.5)", -2.0),
    ],
)  # fmt: skip
def test_functions_at_rest(expression: str, value: float) -> None:
    assert volts(loaded(expression)) == pytest.approx(value, abs=1e-9)


def test_a_function_without_arguments() -> None:
    assert volts(".func half() {0.5}\n" + loaded("half()*v(c)")) == pytest.approx(1.0)


def test_an_integral_starts_where_it_says() -> None:
    """Of 1 mV over a second, from rest and from initial conditions alike; exact integrals."""
    text = "v1 c 0 1m\nr1 c 0 1k\nb1 a 0 v={sdt(v(c),2)}\nr2 a 0 1k\n.tran 10m 1\n.tran 10m 1 uic"
    for analysis in run(text).analyses:
        assert analysis.vectors["v(a)"][[0, -1]] == pytest.approx([2.0, 2.001], abs=1e-6)


def test_a_delay_in_time_and_over_frequency() -> None:
    """A sine a quarter of a millisecond later; the phasor exp(-jωT)."""
    text = "v1 c 0 sin(0 1 1k) ac 1\nr1 c 0 1k\nb1 a 0 v=delay(v(c),0.25m)\nr2 a 0 1k\n.tran 10u 2m\n.ac list 100 1k 3k"
    tran, ac = run(text).analyses
    late = tran.time - 0.25e-3
    expected = np.where(late > 0, np.sin(2e3 * np.pi * late), 0.0)
    assert tran.vectors["v(a)"] == pytest.approx(expected, abs=1e-6)
    phasors = np.exp(-2j * np.pi * np.array([100.0, 1e3, 3e3]) * 0.25e-3)
    np.testing.assert_allclose(ac.vectors["v(a)"], phasors, atol=1e-9)


def test_laplace_with_a_delay_and_with_a_root() -> None:
    text = (
        "v1 c 0 ac 1\nr1 c 0 1k\ne1 a 0 laplace {v(c)} = exp(-s*1u)/(1+s*1u)\nr2 a 0 1\n"
        "e2 b 0 laplace {v(c)} {sqrt(s)}\nr3 b 0 1\n.ac list 1k 100k 300k"
    )
    [ac] = run(text).analyses
    s = 2j * np.pi * ac.frequency
    np.testing.assert_allclose(ac.vectors["v(a)"], np.exp(-s * 1e-6) / (1 + s * 1e-6), rtol=1e-9)
    np.testing.assert_allclose(ac.vectors["v(b)"], np.sqrt(s), rtol=1e-9)


def test_what_depends_on_parameters() -> None:
    """Each instance decides by its own; at the top the parameters do."""
    box = (
        ".subckt box a params: kind=1\n.if {kind==1}\nr1 a 0 1k\n.elseif {kind==2}\nr1 a 0 2k\n.else\nr1 a 0 3k\n"
        ".endif\n.ends\n"
    )
    text = box + "".join(f"i{k} 0 a{k} 1m\nx{k} a{k} box kind={k}\n" for k in (1, 2, 3))
    values = run(f".param big=1\n.if {{big}}\n{text}.else\nr9 a1 0 1\n.endif\n.op").analyses[0].values
    assert [values[f"v(a{k})"] for k in (1, 2, 3)] == pytest.approx([1.0, 2.0, 3.0])


def test_sweeps_over_lists_and_decades() -> None:
    text = "v1 c 0 1\nr1 c a 1k\nr2 a 0 1k\n.dc v1 list 1 4 9\n.dc dec v1 1 100 2\n.ac list 10 1k\n"
    lists, decades, *_ = run(text.replace("v1 c 0 1", "v1 c 0 1 ac 1")).analyses
    assert list(lists.sweep.values) == [1.0, 4.0, 9.0]
    assert decades.sweep.values == pytest.approx(10.0 ** np.arange(0, 2.1, 0.5))


def test_transients_and_noise_as_older_manuals_write_them() -> None:
    text = "v1 c 0 sin(0 1) ac 1\nr1 c a 1k\nr2 a 0 1k\n.ac dec 5 10 1k\n.noise v(a) v1 10\n.tran 3m\n.tran 0 3m"
    _, noise, one, other = run(text).analyses
    assert noise.totals["onoise_rms"] > 0
    for tran in (one, other):
        # The manual's frequency where none is given: one period in the run.
        expected = 0.5 * np.sin(2 * np.pi * tran.time / 3e-3)
        assert tran.vectors["v(a)"] == pytest.approx(expected, abs=1e-4)


@pytest.mark.parametrize(
    ("source", "points"),
    [
        # Rise and fall take the step, the width lasts to the end.
        ("pulse(0 2 100u)", {100e-6: 0.0, 105e-6: 1.0, 110e-6: 2.0, 990e-6: 2.0}),
        ("pulse(0 2 0 0 0 100u 200u 2)", {50e-6: 2.0, 150e-6: 0.0, 250e-6: 2.0, 450e-6: 0.0, 850e-6: 0.0}),
        ("sin(1 2 5k 0 0 90 2)", {0.0: 3.0, 200e-6: 3.0, 395e-6: 1.0 + 2 * math.cos(2 * math.pi * 0.975), 500e-6: 1.0}),
        ("exp(0 5)", {10e-6: 5 * (1 - math.exp(-1)), 20e-6: 5 * (math.exp(-1) - math.exp(-2))}),
        ("am(2 1 1k 10k 100u)", {90e-6: 0.0, 325e-6: 2 * (1 + 1.0) * 0.0 + 2 * (1 + math.sin(math.pi * 0.45))}),
        ("pwl(0 0 +100u 1 +0 3 +100u 3)", {50e-6: 0.5, 101e-6: 3.0, 150e-6: 3.0}),
        ("pwl(repeat for 2 (0 0 100u 1 150u 0) endrepeat)", {50e-6: 0.5, 200e-6: 0.5, 400e-6: 0.0}),
        ("pwl(repeat forever (0 0 100u 1) endrepeat)", {50e-6: 0.5, 450e-6: 0.5, 950e-6: 0.5}),
    ],
)  # fmt: skip
def test_waveforms(source: str, points: dict[float, float]) -> None:
    [tran] = run(f"v1 a 0 {source}\nr1 a 0 1k\n.tran 10u 1m 0 0.5u").analyses
    for instant, value in points.items():
        found = np.interp(instant + 1e-12, tran.time, tran.vectors["v(a)"])
        assert found == pytest.approx(value, abs=2e-2), instant


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("v1 a 0 pulse(0 1 0 -1u)\nr1 a 0 1", "rise = -1e-06 s"),
        ("v1 a 0 exp(0 1 0 -1u 1u 1u)\nr1 a 0 1", "tau1 = -1e-06 s; it must be above zero"),
        ("v1 a 0 sin(0 1)\nr1 a 0 1", "follows from a .tran"),
        ("r1 a 0 1k m=0\nv1 a 0 1", "has m = 0"),
        ("r1 a 0 1k m=-1\nv1 a 0 1", "has m = -1"),
        ("l1 a 0 1m\nl2 b 0 1m\nl3 c 0 1m\nk1 l1 l2 0.99\nk2 l2 l3 0.99\nk3 l1 l3 0.1\nr1 a 0 1\nr2 b 0 1\nr3 c 0 1",
         "contradict each other"),
        ("l1 a 0 1m\nl2 b 0 1m\nk1 l1 l2 0.9\nk2 l2 l1 0.8\nr1 a 0 1\nr2 b 0 1", "and so does k1"),
        ("l1 a 0 1m\nl2 b 0 1m\nk1 l1 l2 1.2\nr1 a 0 1\nr2 b 0 1", "beyond 1"),
    ],
)  # fmt: skip
def test_what_no_part_can_be_is_refused(text: str, message: str) -> None:
    with pytest.raises(VerdadError, match=message):
        run(f"{text}\n.op")


def test_values_hold_at_the_temperature_that_the_options_or_a_model_say() -> None:
    divider = "v1 c 0 1\nr1 c a {}\nr2 a 0 1k\n.temp 50\n"
    assert volts(divider.format("1k tc1=10m") + ".options tnom=50") == pytest.approx(0.5, rel=1e-9)
    assert volts(divider.format("rm 1k") + ".model rm r(tc1=10m t_measured=50)") == pytest.approx(0.5, rel=1e-9)
    assert volts(divider.format("1k tc1=10m")) == pytest.approx(1 / 2.23, rel=1e-6)


def test_what_is_shorter_than_a_step_is_seen() -> None:
    """A microsecond within steps of a millisecond, of a comparison with the time and of a table of it."""
    for expression in ("{if(time>1.03m & time<1.031m,5,0)}", "{table(time,0,0,1.003m,0,1.0035m,5,1.004m,0)}"):
        [tran] = run(f"b1 a 0 v={expression}\nr1 a 0 1k\n.tran 1m 10m 0 1m").analyses
        assert tran.vectors["v(a)"].max() == pytest.approx(5.0, rel=1e-6)


def test_steps_to_whole_numbers_are_located() -> None:
    [tran] = run("v1 c 0 pwl(0 0 10m 10)\nr1 c 0 1k\nb1 a 0 v=floor(v(c))\nr2 a 0 1k\n.tran 1m 10m 0 1m").analyses
    jumps = tran.time[1:][np.diff(tran.vectors["v(a)"]) > 0.5]
    assert jumps == pytest.approx(np.arange(1, 10) * 1e-3, abs=2e-6)


def test_noise_over_a_resonance_is_that_of_the_capacitor() -> None:
    """kT/C whatever the resistor (Nyquist 1928), here at Q = 1000 over 20 points a decade."""
    [noise] = run("i1 0 a ac 1\nr1 a 0 1meg\nl1 a 0 1.59155m\nc1 a 0 1.59155n\n.noise v(a) i1 dec 20 1 1g").analyses
    assert noise.totals["onoise_rms"] == pytest.approx(math.sqrt(1.380649e-23 * 300.15 / 1.59155e-9), rel=2e-3)


def test_the_substrate_of_a_lateral_transistor_lies_at_its_base() -> None:
    """Of PNP it lies at the collector (the SPICE 3F5 sources, from memory)."""
    for word, node in (("lpnp", "b"), ("pnp", "c")):
        text = (
            "vs s 0 0 ac 1\nrb b 0 1k\nrc c 0 1k\nre e 0 1k\nq1 c b e s qq\n"
            f".model qq {word}(cjs=1n vjs=0.75)\n.ac lin 1 1meg 1meg"
        )
        [ac] = run(text).analyses
        currents = {n: abs(ac.vectors[f"v({n})"][0]) for n in "bce"}
        assert max(currents, key=lambda n: currents[n]) == node
