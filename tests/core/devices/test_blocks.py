"""The built-in blocks have the figures that they are asked for."""

import numpy as np
import pytest

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.dc_sweep import Swept, dc_sweep
from verdad_core.analyses.loop_gain import loop_gain
from verdad_core.analyses.noise import noise
from verdad_core.analyses.operating_point import operating_point

SUPPLIES = "vp vcc 0 5\nvn vee 0 -5\n"
FIGURES = "gain=2e5 gbw=8meg pole2=20meg rout=60 vos=1m ibias=30n ios=4n en=5n corner=100 in=1p in_corner=50"


def test_the_ideal_amplifier_inverts_exactly() -> None:
    text = "vin in 0 dc 1 ac 1\nx1 0 m out ideal_opamp\nr1 in m 1k\nr2 m out 4.7k"
    assert operating_point(structure(text)).value("out") == pytest.approx(-4.7, rel=1e-12)
    assert ac(structure(text), np.array([1e9]), [("out", "0")]).values[0, 0, 0] == pytest.approx(-4.7, rel=1e-12)


def test_open_loop_gain_and_bandwidth() -> None:
    """A servo of low frequency holds the output; above it the loop is open."""
    text = SUPPLIES + (
        f"vin in 0 dc 0 ac 1\nx1 in m vcc vee out opamp {FIGURES}\nl1 out s 1t\nrs s m 1\nc1 m 0 1t\nrl out 0 1meg"
    )
    f = np.array([1.0, 8e4, 8e5, 8e6])
    result = ac(structure(text), f, [("out", "0")])
    size = np.abs(result.values[0, 0])
    assert size[0] == pytest.approx(2e5, rel=1e-3)
    assert size[1:3] == pytest.approx([100, 10], rel=2e-2)
    assert size[3] == pytest.approx(1 / np.sqrt(1 + 0.4**2), rel=2e-2)


def test_follower_has_the_margin_of_two_poles() -> None:
    text = SUPPLIES + f"vin in 0 0\nx1 in out vcc vee out opamp {FIGURES}\nrl out 0 10k"
    result = loop_gain(
        structure(text.replace("x1 in out", "x1 in fb") + "\nrf out fb 1"), "rf", "fb", np.geomspace(1, 1e9, 200)
    )
    crossing = result.margins().phase_margin
    assert crossing is not None
    # |T| = 1 where f sqrt(1 + (f / 20 MHz)²) = 8 MHz.
    assert crossing.frequency == pytest.approx(7.5e6, rel=0.02)
    assert crossing.margin == pytest.approx(90 - np.degrees(np.arctan(7.5 / 20)), abs=1)
    assert len(result.poles[0].unstable) == 0


def test_errors_swing_and_supply_current() -> None:
    text = (
        SUPPLIES + f"vin in 0 {{v}}\nx1 in fb vcc vee out opamp {FIGURES} swing=0.5 iq=2m\nr1 fb out 90k\nr2 fb 0 10k"
    )
    point = operating_point(structure(text.format(v=0.1)))
    # (vin - vos) * 10, and the inverting input's bias current through the feedback resistor.
    assert point.value("out") == pytest.approx((0.1 - 1e-3) * 10 + 28e-9 * 90e3, rel=1e-3)
    assert point.value("i(vp)") == pytest.approx(-2e-3 - point.value("out") / 100e3, rel=5e-3)
    for volts, rail in ((2, 4.5), (-2, -4.5)):
        assert operating_point(structure(text.format(v=volts))).value("out") == pytest.approx(rail, abs=0.02)


def test_noise_density_and_corner() -> None:
    text = SUPPLIES + f"vin in 0 0\nx1 in out vcc vee out opamp {FIGURES}\nrl out 0 10k"
    f = np.array([10.0, 100.0, 1e4])
    density = np.sqrt(noise(structure(text), f, [("out", "0")]).total[0, 0])
    assert density == pytest.approx(5e-9 * np.sqrt(1 + 100 / f), rel=2e-3)


def test_comparator_switches_at_its_hysteresis() -> None:
    text = "vin in 0 0\nvr r 0 1\nx1 in r out comparator hysteresis=0.2 high=3.3\nrl out 0 1meg"
    volts = np.array([0.0, 1.05, 1.15, 0.95, 0.85])
    found = dc_sweep(structure(text), [Swept(("vin", "dc"), volts)], [("out", "0")]).values[0, 0]
    assert found == pytest.approx([0, 0, 3.3, 3.3, 0], abs=2e-3)


def test_modulator_and_driver_at_rest() -> None:
    pwm = operating_point(structure("vin in 0 0.5\nx1 in 0 u l pwm high=5\nru u 0 1k\nrl l 0 1k"))
    assert (pwm.value("u"), pwm.value("l")) == pytest.approx((5 * 1000 / 1010, 0), abs=1e-6)
    for volts, gate in ((0, 0), (5, 12)):
        text = f"vcc vcc 0 12\nvin in 0 {volts}\nx1 in 0 vcc g gate_driver\nrl g 0 1k"
        assert operating_point(structure(text)).value("g") == pytest.approx(gate, abs=0.05)


def test_a_converter_input_is_open_at_rest() -> None:
    point = operating_point(structure("vin in 0 0.7\nr1 in x 1k\nx1 x 0 converter_input"))
    assert point.value("x") == pytest.approx(0.7, rel=1e-6)


def test_an_amplifier_without_any_offset_amplifies_at_exactly_zero() -> None:
    """Between equal supplies neither half of its output conducts at rest; both must take over from there."""
    text = SUPPLIES + "vin in 0 dc 0 ac 1\nx1 in out vcc vee out opamp\nrl out 0 10k"
    result = ac(structure(text), np.array([10.0, 1e3]), [("out", "0")])
    # 1 / (1 + 1/A) with A = 1e5 at 10 Hz, with f/gbw = 1e-3 at 1 kHz across: 5e-7 in size.
    assert np.abs(result.values[0, 0]) == pytest.approx(1.0, abs=2e-5)
