"""Circuits that are hard in time run to their end, and do what their designer would expect."""

from dataclasses import replace

import numpy as np
import pytest

from tests.core.analyses.in_time import trace
from tests.core.circuits import structure
from verdad_core.analyses.transient import Start, transient

BUCK = (
    "vin in 0 12\nvg g 0 pulse(0 5 0 20n 20n 1.2u 3.3333u)\ns1 in x g 0 sw\nd1 0 x d\nl1 x out 10u\nc1 out e 47u\n"
    "re e 0 10m\nr1 out 0 3\n.model sw vswitch(ron=50m roff=1meg von=4 voff=1)\n"
)


@pytest.mark.parametrize("diode", ["d(is=1e-9 n=1.1 rs=20m)", "d(is=1e-9 n=1.1 rs=20m cjo=100p tt=5n)"])
def test_a_step_down_converter_starts_from_cold(diode: str) -> None:
    found = trace(BUCK + f".model d {diode}", 400e-6, ["out", "x"], start=Start.COLD)
    # 12 V times duty 1.22 / 3.33 less the diode's and the switch's share; the start overshoots.
    late = found.values[0][found.time > 350e-6]
    assert 3.5 < late.mean() < 4.3
    assert found.values[0].max() > 5.5
    assert -1.2 < found.values[1].min() < -0.5


def test_a_synchronous_converter_with_modulator_and_gate_drivers_starts_from_cold() -> None:
    text = (
        "vin in 0 12\nvdr vdr 0 10\nvc ctl 0 0.45\nxp ctl 0 u l pwm frequency=300k dead=30n\neus us x u 0 1\n"
        "xu us x bst gu gate_driver\nxl l 0 vdr gl gate_driver\ndb vdr bst db\ncb bst x 100n\n"
        "mu in gu x m\nml x gl 0 m\n"
        "l1 x out 10u\nc1 out e 47u\nre e 0 10m\nr1 out 0 3\n.model db d(is=1e-9)\n"
        ".model m vnmos(vto=2 kp=20 cgs=800p cgdmax=400p cgdmin=40p cjo=300p rg=1 rd=10m)"
    )
    found = trace(text, 60e-6, ["out", "x", "gu", "gl"], start=Start.COLD)
    _, x, gu, gl = found.values
    assert x.max() > 11.5
    assert x.min() > -1.5
    # Never both gates above their thresholds.
    assert not np.any((gu - x > 3) & (gl > 3))
    assert np.any(gu - x > 8)
    assert np.any(gl > 8)


def test_a_feedback_that_is_still_nearly_zero_holds_no_steps_down() -> None:
    """The loop's expression knows the output to rounding of a volt, which is all of the inductor's current yet."""
    text = (
        "vin in 0 12\nvt t 0 pulse(0 1 0 9.8u 0.1u 0.1u 10u)\nxc ctl t g comparator delay=200n hysteresis=0\n"
        "s1 in x g 0 s\ns2 x 0 g 0 o\nl1 x lx 22u\nrl lx out 50m\nc1 out esr 100u\nresr esr 0 20m\nrload out 0 2\n"
        "r1 out fb0 7k\nr2 fb0 0 1k\neb fb 0 fb0 0 1\nvinj fb ea 0\neerr ctl 0 value={1.4-2*v(ea)}\n"
        ".model s sw(vt=2.5 vh=0 ron=20m roff=1meg)\n.model o sw(vt=2.5 vh=0 ron=1meg roff=20m)"
    )
    assert len(trace(text, 100e-9, ["out"], start=Start.COLD).time) < 300


def test_a_bridge_charges_a_large_capacitor() -> None:
    text = (
        "vs a b sin(0 17 50)\nd1 a p d\nd2 b p d\nd3 n a d\nd4 n b d\nrg n 0 1m\nc1 p n 4700u\nrl p n 10\n"
        ".model d d(is=1e-8 n=1.5 rs=20m cjo=100p tt=1u)"
    )
    found = trace(text, 0.2, ["p"])
    late = found.values[0][found.time > 0.15]
    # Ripple of a full-wave rectifier: about I / (2 f C), less the time of conduction (common practice, no source).
    ripple = np.ptp(late)
    assert 14 < late.max() < 16
    assert 0.5 * 1.4 / (100 * 4.7e-3) < ripple < 1.4 / (100 * 4.7e-3)


def test_a_bridge_of_plain_diodes_lets_its_winding_float() -> None:
    """Between two conductions picosiemens hold the winding: where it floats is known to microvolts only.

    The capacitor comes close to the peak of the open winding, 20.8 V times sqrt(L2 / L1), less two diodes.
    """
    text = (
        "v1 in 0 sin(0 20.8 60)\nrs in p 1\nl1 p 0 5.9\nl2 a b 3\nk1 l1 l2 1\n"
        "d1 a out d\nd2 b out d\nd3 0 a d\nd4 0 b d\nc1 out 0 100u\nr1 out 0 10k\n.model d d(is=1e-14 rs=8m)"
    )
    found = trace(text, 60e-3, ["out"])
    assert 12.5 < found.values[0].max() < 20.8 * np.sqrt(3 / 5.9) - 1.0


def test_windings_that_are_coupled_perfectly_share_a_current() -> None:
    """How they share it is known to rounding of their flux, which grows with the square of shorter steps.

    The clamp takes what the drain has above it, and ampere turns go on where the switch opens: for the turns of
    sqrt(28.68 / 27.61) the secondary takes over almost all of 3.8 A (Erickson and Maksimovic, section 6.3).
    """
    text = (
        "vin vin 0 13.07\nl1 vin d 27.61u\nl2 0 s 28.68u\nl3 aux 0 1.025u\nk1 l1 l2 1\nk2 l1 l3 1\nk3 l2 l3 1\n"
        "m1 d g 0 0 m\nvg gd 0 pulse(0 10 1u 20n 20n 8.121u 19.36u)\nrg gd g 10\ndc d cl dc\nrcl cl vin 22.56k\n"
        "ccl cl vin 2.635n\nd1 s out ds\nc1 out 0 827.5u\nrl out 0 1.133\nd2 aux vaux ds\nc2 vaux 0 10u\n"
        "r2 vaux 0 1k\n.model m nmos(level=1 vto=2 kp=2 lambda=0.01 cgso=200p cgdo=50p cbd=100p w=1 l=1)\n"
        ".model dc d(is=1e-14 rs=1.363 cjo=2.108p tt=234.5n bv=49.28)\n.model ds d(is=1e-7 n=1.05 rs=20m cjo=200p)"
    )
    found = trace(text, 300e-6, ["out", "i(l1)", "i(l2)"], start=Start.CONDITIONS, longest=100e-9)
    assert found.counts is not None
    assert found.counts.steps < 20_000
    opening = np.searchsorted(found.time, 9.14e-6)
    taken = np.searchsorted(found.time, 9.5e-6)
    # The ring of the drain around its clamp is within the tenth.
    assert found.values[1][opening] == pytest.approx(13.07 * 8.13e-6 / 27.61e-6, rel=0.03)
    ratio = np.sqrt(27.61 / 28.68)
    assert abs(found.values[2][taken]) == pytest.approx(ratio * found.values[1][opening], rel=0.1)


def test_a_junction_high_above_ground_keeps_its_charge() -> None:
    """A ten thousandth of the clamp's 400 V is more than the volts within which a junction's charge is another one."""
    text = (
        "vin vin 0 137.2\nl1 vin d 729.6u\nl2 0 s 21.41u\nl3 aux 0 32.26u\nk1 l1 l2 0.98\nk2 l1 l3 0.98\n"
        "k3 l2 l3 0.98\nm1 d g 0 0 m\nvg gd 0 pulse(0 10 1u 20n 20n 1.217u 3.026u)\nrg gd g 10\n"
        "dc d cl dc\nrcl cl vin 1648\nccl cl vin 6.425n\nd1 s out ds\nc1 out 0 182.5u\nrl out 0 3.066\n"
        "d2 aux vaux ds\nc2 vaux 0 10u\n"
        "r2 vaux 0 1k\n.model m nmos(level=1 vto=2 kp=2 lambda=0.01 cgso=200p cgdo=50p cbd=100p w=1 l=1)\n"
        ".model dc d(is=1e-14 rs=3.017 cjo=25.9p tt=131n bv=1e3)\n.model ds d(is=1e-7 n=1.05 rs=20m cjo=200p)"
    )
    found = trace(text, 60e-6, ["d", "cl", "i(l1)"], start=Start.CONDITIONS, longest=100e-9)
    drain, clamp, winding = found.values
    # Above the clamp the drain is no more than the diode's forward voltage and what the winding drives through it.
    assert np.max(drain - clamp) < 1.0 + 3.017 * np.max(np.abs(winding))
    assert drain.max() > 300


def test_a_node_is_held_against_a_strong_transistor() -> None:
    """The ring's transistors bring some ten amperes to the node that is to begin at zero."""
    cards = [f"mn{k} n{(k + 1) % 3} n{k} 0 0 n\nmp{k} n{(k + 1) % 3} n{k} v v p\nc{k} n{k} 0 1n" for k in range(3)]
    text = (
        "vdd v 0 12\n" + "\n".join(cards) + "\n"
        ".model n nmos(vto=2 kp=2)\n.model p pmos(vto=-2 kp=1)\n.ic v(n0)=0"
    )  # fmt: skip
    found = trace(text, 1e-6, ["n0"])
    assert found.values[0][0] == pytest.approx(0.0, abs=1e-5)
    assert found.values[0].max() > 11.0


def test_an_inductor_turns_off_into_avalanche() -> None:
    text = (
        "vin in 0 24\nl1 in d 1m ic=0\nrl in d 1meg\nm1 d g 0 m\nvg g 0 pulse(0 10 1u 10n 10n 50u 200u)\nd1 0 d z\n"
        ".model z d(is=1e-10 bv=60 ibv=1m rs=0.1 cjo=200p)\n.model m vnmos(vto=3 kp=10)"
    )
    found = trace(text, 190e-6, ["d", "i(l1)"])
    peak = found.values[1].max()
    assert peak == pytest.approx(24 * 50e-6 / 1e-3, rel=0.02)
    assert 60 < found.values[0].max() < 61
    # The clamp's voltage less the supply takes the current back: t = L I / (60.2 - 24).
    off = found.time > 51.1e-6
    done = found.time[off][np.argmax(found.values[1][off] < 0)]
    assert done - 51e-6 == pytest.approx(1e-3 * peak / 36.2, rel=0.01)


def test_ideal_switches_with_edges_of_no_time() -> None:
    text = (
        "v1 in 0 10\nvg g 0 pulse(0 1 1u 0 0 5u 10u)\ns1 in x g 0 s\ns2 x 0 g 0 t\nl1 x o 10u\nc1 o 0 10u\nr1 o 0 2\n"
        ".model s sw(vt=0.5 ron=10m roff=1g)\n.model t sw(vt=0.5 ron=1g roff=10m)"
    )
    found = trace(text, 500e-6, ["x", "o"], start=Start.COLD)
    assert found.counts is not None
    assert found.counts.turned == 200
    assert found.values[1][found.time > 400e-6].mean() == pytest.approx(5, rel=0.05)


def test_a_ring_of_decisions_starts_without_an_operating_point() -> None:
    """X = y < 1/2 behind an RC has no operating point; what it does is to stay at the threshold (a sliding mode)."""
    text = "b1 x 0 v=if(v(y)>0.5,0,1)\nr1 x y 1k\nc1 y 0 1n"
    found = trace(text, 20e-6, ["y"])
    assert found.unsettled
    assert found.values[0][found.time > 5e-6] == pytest.approx(0.5, abs=2e-3)


def test_nested_decisions_with_hysteresis_oscillate() -> None:
    text = "b1 x 0 v=if(v(y)>0.6,0,if(v(y)<0.4,1,v(w)>0.5))\nrw x w 1\ncw w 0 1p\nr1 x y 1k\nc1 y 0 1n ic=0"
    found = trace(text, 20e-6, ["y"], start=Start.CONDITIONS)
    late = found.values[0][found.time > 5e-6]
    assert (late.min(), late.max()) == pytest.approx((0.4, 0.6), abs=2e-3)


def test_a_latch_flips_and_flips_back() -> None:
    """Without a capacitance anywhere the flip takes no time: there is no solution near the last one to go to."""
    text = (
        "vcc vcc 0 5\nq1 c1 b1 0 q\nq2 c2 b2 0 q\nr1 vcc c1 1k\nr2 vcc c2 1.1k\nra c1 b2 10k\nrb c2 b1 10k\n"
        "vs s 0 pulse(0 5 10u 10n 10n 5u)\nrs s b1 5k\nvr r 0 pulse(0 5 30u 10n 10n 5u)\nrr r b2 5k\n"
        ".model q npn(bf=100)"
    )
    found = trace(text, 60e-6, ["c1", "c2"])
    for start, stop, low, high in ((20e-6, 29e-6, 0, 1), (45e-6, 60e-6, 1, 0)):
        volts = found.values[:, (found.time > start) & (found.time < stop)].mean(axis=1)
        assert volts[low] < 0.3
        assert volts[high] > 4


def test_an_op_amp_model_with_a_large_load_rings_on() -> None:
    """Loop gain's phase margin with 100 Ω and 100 nF and a second pole at 1 MHz is negative: it oscillates."""
    text = (
        "vp vp 0 5\nvn vn 0 -5\nvi i 0 pulse(0 0.1 1u 10n 10n 1)\ncl o 0 100n\n"
        "x1 i o vp vn o opamp pole2=1meg gbw=10meg slew=50meg"
    )
    found = trace(text, 300e-6, ["o"])
    assert np.ptp(found.values[0][found.time > 250e-6]) > 0.2


def test_time_constants_from_nanoseconds_to_seconds() -> None:
    text = "v1 in 0 pulse(0 1 1n 1n 1n 1 2)\nr1 in a 1\nc1 a 0 1n\nr2 a b 1meg\nc2 b 0 1u"
    found = trace(text, 2.0, ["a", "b"])
    assert len(found.time) < 500
    assert np.interp(1e-3, found.time, found.values[0]) == pytest.approx(1, rel=1e-3)
    assert np.interp(1.0, found.time, found.values[1]) == pytest.approx(1 - np.exp(-1), abs=1e-3)


def test_a_second_with_microsecond_pulses() -> None:
    """Every one of 100 pulses is seen: the detector's capacitor gains I R-limited charge in each."""
    text = "v1 in 0 pulse(0 1 1m 10n 10n 1u 10m)\nr1 in a 1k\nc1 a 0 100p\nr2 a 0 10k"
    found = trace(text, 1.0, ["a"], most_points=2000)
    tops = [found.values[0][(found.time > k * 10e-3) & (found.time < (k + 1) * 10e-3)].max() for k in range(100)]
    assert tops == pytest.approx([10 / 11] * 100, rel=1e-3)


def test_a_run_that_cannot_go_on_says_when_and_where() -> None:
    """From half a millisecond on the source asks x = x + 1 V of its own node."""
    text = "b1 x 0 v=1+v(x)*if(time>0.5m,1,0)\nr1 x 0 1k\nc1 y 0 1n\nr2 y x 1k"
    found = transient(structure(text), 1e-3, [("x", "0")]).trace()
    assert found.time[-1] == pytest.approx(0.5e-3, rel=1e-3)
    assert found.values[0] == pytest.approx(1)
    said = str(found.failure)
    assert "at 500 µs the transient has no single solution" in said
    assert "its last steps were" in said
    assert "b1" in said


@pytest.mark.parametrize("stop", [4e-8, 6.4e-7, 2.56e-6, 1e-5])
def test_a_transistor_with_inductive_leads_takes_its_gate_charge(stop: float) -> None:
    """Three inductors and a current source are all that leads to the transistor, so the voltage of all of it against
    ground is a rate of impressed currents. Until the threshold the charge is (CGS + CGD) VGS, the drain standing still.
    """
    text = (
        f"vd supply 0 25\nrd supply d 25\nld d d2 2n\nrdd d2 d1 10m\nig 0 g pulse(0 1m 0 {stop / 100} 1p 1)\n"
        "rg g 0 1e9\nlg g g0 2n\nrgg g0 g1 1.5\nls 0 s1 1n\nm1 d1 g1 s1 s1 m\ncgs g1 s1 900p\ncgd g1 d1 90p\n"
        "db s1 d2 db\n.model m nmos(level=1 vto=2.6 kp=48)\n"
        ".model db d(is=5p n=1.1 rs=8m cjo=1.1n vj=0.7 m=0.4 bv=62)\n"
    )
    found = trace(text, stop, ["g", "d"])
    charge = 1e-3 * (stop - stop / 200)
    if charge < 2.6 * 990e-12:
        assert found.values[0][-1] == pytest.approx(charge / 990e-12, abs=0.02)
        assert found.values[1][-1] == pytest.approx(25.0, abs=0.01)
    else:
        # On: the gate-drain capacitance has turned around by all of the supply.
        assert found.values[0][-1] == pytest.approx((charge - 90e-12 * 25) / 990e-12, rel=0.01)
        assert found.values[1][-1] < 0.1


FET = (
    ".subckt fet d g s\nlg g g1 {lg}\nld d d1 {ld}\nls s s1 {ls}\nm1 d1 g1 s1 m\n.ends\n"
    ".model m vnmos(vto=3 kp=30 rd=8m rs=2m rg=1.5 cgs=1n cgdmax=1.2n cgdmin=60p a=1 is=1p cjo=800p vj=0.8 mj=0.5 "
    "bv=60 ibv=1m rb=5m tt=20n)\n"
)
LOADS = {
    "resistor": "r1 vcc d 5\n",
    "inductor with a diode": "l1 vcc d 10u\nd1 d vcc dd\n.model dd d(is=1n rs=10m cjo=200p tt=10n)\n",
    "inductor": "l1 vcc d 10u\n",
}


@pytest.mark.parametrize("load", LOADS)
@pytest.mark.parametrize("edge", ["1n", "10n"])
@pytest.mark.parametrize("drive", ["rg gg g 4.7", "rg gg g 0.1"], ids=["4.7 ohms", "0.1 ohms"])
@pytest.mark.parametrize("leads", [("5n", "2n", "2n"), ("1n", "1n", "1n")], ids=["long leads", "short leads"])
def test_a_power_transistor_behind_lead_inductances_switches(
    leads: tuple[str, str, str], edge: str, drive: str, load: str
) -> None:
    """As the parts of a maker's model do: nothing but inductors leads to the transistor itself."""
    lg, ld, ls = leads
    text = (
        f"vcc vcc 0 24\nvg gg 0 pulse(0 10 100n {edge} {edge} 1u 2u)\n{drive}\nxf d g 0 fet\n{LOADS[load]}"
        + FET.format(lg=lg, ld=ld, ls=ls)
    )
    found = trace(text, 3.2e-6, ["d", "i(vcc)"])
    drain, amperes = (np.interp([1.05e-6, 3.05e-6], found.time, values) for values in found.values)
    on = 1 / (30 * (10 - 3)) + 10e-3
    if load == "resistor":
        # No step shrinks into rounding.
        assert found.caution is None
        assert -amperes == pytest.approx([24 / (5 + on)] * 2, rel=0.02)
        assert drain == pytest.approx([24 * on / (5 + on)] * 2, rel=0.1)
        off = np.interp(2.0e-6, found.time, found.values[0])
        assert off == pytest.approx(24.0, rel=0.05)
    else:
        # V t / L while it is on, less what has gone into the capacitances of the drain.
        assert -amperes[0] == pytest.approx(24 / 10e-6 * 0.95e-6, rel=0.05)
    if load == "inductor":
        # It turns off into the avalanche of the body diode, which has 60 V.
        assert 58 < found.values[0].max() < 75


def test_errors_that_were_taken_lightly_are_told_of() -> None:
    found = trace("v1 a 0 sin(0 1 1k)\nr1 a b 1k\nc1 b 0 1u", 1e-3, ["b"])
    assert found.counts is not None
    assert found.caution is None
    relieved = replace(found, counts=found.counts._replace(reliefs=2))
    assert relieved.caution is not None
    assert "at 2 instants" in relieved.caution.message
    assert relieved.caution.remedy
