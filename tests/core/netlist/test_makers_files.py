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


def at_rest(text: str) -> Any:
    return run(f"{text}\n.op").analyses[0].values


def test_the_current_of_any_element_with_two_ends_can_be_looked_at() -> None:
    values = at_rest(
        "v1 a 0 2\nr1 a 0 1k\nf1 0 b r1 3\nr2 b 0 1k\nb3 c 0 v=i(r1)*1k\nr3 c 0 1\nh1 d 0 r1 500\nr4 d 0 1"
    )
    assert [values[f"v({node})"] for node in "abcd"] == pytest.approx([2.0, 6.0, 2.0, 1.0])


def test_values_that_follow_voltages() -> None:
    """2 V over r1 = 1 kΩ v(a) and 2 kΩ; a capacitance and an inductance as sources of C dv/dt and L di/dt."""
    assert volts("v1 c 0 2\nr1 c a {1k*v(c)}\nr2 a 0 2k") == pytest.approx(1.0)
    text = "v1 c 0 ac 1\nr1 c a 1k\nc1 a 0 c={1u*(2+v(c))}\nr2 c b 1k\nl1 b 0 l={2*(1+v(c))}\n.ac list 100"
    [ac] = run(text).analyses
    s = 2j * np.pi * 100.0
    assert ac.vectors["v(a)"][0] == pytest.approx(1 / (1 + s * 1e3 * 2e-6), rel=1e-6)
    assert ac.vectors["v(b)"][0] == pytest.approx(s * 2 / (1e3 + s * 2), rel=1e-6)


def test_instances_side_by_side() -> None:
    box = ".subckt box a\nr1 a 0 1k\n.ends\ni1 0 a 1m\nx1 a box m={}"
    assert volts(box.format(4)) == pytest.approx(0.25)
    with pytest.raises(VerdadError, match="whole numbers"):
        volts(box.format(1.5))


def test_a_gain_with_limits() -> None:
    for level, expected in ((0.2, 2.0), (2.0, 5.0), (-2.0, -4.0)):
        assert volts(f"v1 c 0 {level}\nr1 c 0 1k\ne1 a 0 c 0 10 max=5 min=-4\nr2 a 0 1k") == pytest.approx(expected)


def test_lines_by_their_length() -> None:
    """sqrt(250 nH / 100 pF) = 50 Ω, 2 m of 5 ns: a quarter turn at 25 MHz makes an open end a short circuit."""
    [ac] = run("v1 c 0 ac 1\nr1 c a 50\nt1 a 0 b 0 len=2 l=250n c=100p\nr2 b 0 1g\n.ac list 25meg").analyses
    assert abs(ac.vectors["v(a)"][0]) == pytest.approx(0.0, abs=1e-6)
    assert abs(ac.vectors["v(b)"][0]) == pytest.approx(1.0, rel=1e-6)


def test_responses_by_magnitude_and_by_parts() -> None:
    for form in ("= (1k,-6.0205999,-45)", "mag = (1k,0.5,-45)", "rad = (1k,-6.0205999,-0.78539816)",
                 "r_i = (1k,0.35355339,-0.35355339)"):  # fmt: skip
        [ac] = run(f"v1 c 0 ac 1\nr1 c 0 1k\ne1 a 0 freq {{v(c)}} {form}\nr2 a 0 1k\n.ac list 1k").analyses
        assert ac.vectors["v(a)"][0] == pytest.approx(0.5 * np.exp(-0.25j * np.pi), rel=1e-6)


def test_breakdown_at_a_low_level() -> None:
    """IBVL exp((v - BV) / (NBVL Vt)) below breakdown, by the formula."""
    thermal = 1.380649e-23 * 300.15 / 1.602176634e-19
    values = at_rest("vd 0 a 4\nd1 a 0 dd\n.model dd d(is=1e-15 bv=5 ibv=1m ibvl=10u nbvl=10)")
    expected = 10e-6 * math.exp(-1.0 / (10 * thermal)) + 1e-3 * math.exp(-1.0 / thermal) + 4e-12
    assert abs(values["i(vd)"]) == pytest.approx(expected, rel=1e-6)


def test_resistances_of_a_transistor_over_temperature() -> None:
    """RC (1 + TRC (T - TNOM)), saturated hard: 1 mA more drops 1.3 Ω worth of volts at 127 °C with 3e-3 per degree."""
    text = "ic 0 c {0}m\nib 0 b 5m\nq1 c b 0 qq\n.model qq npn(is=1e-14 bf=100 rc={1} trc1=3e-3)\n.temp 127"
    drops = [at_rest(text.format(1, rc))["v(c)"] for rc in (0.0, 1.0)]
    assert drops[1] - drops[0] == pytest.approx(1e-3 * 1.3, rel=1e-6)


def test_resistances_and_body_diodes_of_a_mosfet() -> None:
    """RDS across it, RG before the gate (no current), N in its body diode, JSSW along its edge, WD off its width."""
    text = "vd d 0 {}\nvg g 0 {}\nm1 d g 0 0 mm l=1u w=10u{}\n.model mm nmos(vto=1 kp=1m {})"
    plain = -at_rest(text.format(5, 3, "", ""))["i(vd)"]
    assert -at_rest(text.format(5, 3, "", "rds=1k rg=10 rb=1"))["i(vd)"] == pytest.approx(plain + 5e-3, rel=1e-9)
    assert -at_rest(text.format(5, 3, "", "wd=1u"))["i(vd)"] == pytest.approx(0.8 * plain, rel=1e-6)
    thermal = 1.380649e-23 * 300.15 / 1.602176634e-19
    diode = at_rest(text.format(-0.5, -3, " ad=1p as=1p pd=2u ps=2u", "js=1e-2 jssw=1e-8 n=1.5"))["i(vd)"]
    saturation = 1e-2 * 1e-12 + 1e-8 * 2e-6
    assert diode == pytest.approx(saturation * math.expm1(0.5 / (1.5 * thermal)) + 0.5e-12, rel=1e-3)


def test_collisions_in_a_channel() -> None:
    """ALPHA id v exp(-VK / v) into the gate, v = 18 V beyond pinch-off."""
    values = at_rest("vd d 0 20\nvg g 0 0\nj1 d g 0 jj\n.model jj njf(vto=-2 beta=1m alpha=1e-4 vk=50)")
    assert values["i(vg)"] == pytest.approx(4e-3 * 1e-4 * 18 * math.exp(-50 / 18), rel=1e-4)


def test_quasi_saturation() -> None:
    """Far from saturation nothing changes; near it RCO is in series, with little charge yet: about v / RCO flows."""
    text = "v1 c 0 {}\ni1 0 b 200u\nq1 c b 0 qn\n.model qn npn(bf=100 is=1e-15 rb=10 {})"
    plain, slow = (-at_rest(text.format(10, more))["i(v1)"] for more in ("", "rco=50 vo=10 gamma=1e-13 qco=1p"))
    assert slow == pytest.approx(plain, rel=1e-3)
    # Of the half volt 0.1 to 0.2 V are the intrinsic transistor's.
    assert 0.3 / 50 < -at_rest(text.format(0.5, "rco=50 vo=10 gamma=1e-13"))["i(v1)"] < 0.4 / 50


def test_what_floats_or_is_shorted_at_rest_runs_in_time_and_over_frequency() -> None:
    transformer = (
        "v1 a 0 sin(0 1 1k) ac 1\nl1 a 0 1m\nl2 b c 4m\nk1 l1 l2 0.999999\nr1 b c 1k\n.ac list 1k\n.tran 10u 2m"
    )
    found = run(transformer)
    assert [w.message.split(";")[-1].strip() for w in found.warnings][:2] == [
        "1 pS holds it there",
        "it was given 1e-06 Ω",
    ]
    ac, tran = found.analyses
    assert ac.vectors["v(b)"][0] - ac.vectors["v(c)"][0] == pytest.approx(2.0, rel=1e-3)
    assert np.max(tran.vectors["v(b)"] - tran.vectors["v(c)"]) == pytest.approx(2.0, rel=1e-2)
    [charged] = run("i1 0 a 1m\nc1 a 0 1u\n.tran 10u 1m uic").analyses
    assert charged.vectors["v(a)"][-1] == pytest.approx(1.0, rel=1e-6)
    [divided] = run("v1 a 0 sin(0 1 1k)\nr1 a b 1\nc1 b c 1u\nc2 c 0 1u\n.tran 10u 1m uic").analyses
    assert divided.vectors["v(c)"] == pytest.approx(divided.vectors["v(b)"] / 2, abs=1e-4)
    with pytest.raises(VerdadError, match="no direct-current path"):
        run("i1 0 a 1m\nc1 a 0 1u\n.op")


def test_slips_are_told() -> None:
    found = run("v1 in 0 1\nr1 in out 0\nr2 ouz 0 1k\nr3 out 0 1k\n.op")
    said = " ".join(warning.message for warning in found.warnings)
    assert "only one pin is on ouz" in said
    assert "r1 has 0 Ω" in said
