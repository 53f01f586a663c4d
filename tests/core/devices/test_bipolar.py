"""The bipolar transistor against independently written Gummel-Poon equations.

Written from the published model (Gummel and Poon 1970; parameter names of the SPICE 2G6 user's manual) as plain
functions of vbe and vbc, without the engine's structure.
"""

import math

import numpy as np
import pytest
from scipy.constants import Boltzmann, e, zero_Celsius

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.operating_point import operating_point

VT = Boltzmann * (27 + zero_Celsius) / e
GMIN = 1e-12
P = {"is": 2e-15, "bf": 150.0, "vaf": 60.0, "ikf": 20e-3, "ise": 5e-14, "ne": 1.7, "br": 2.0, "var": 12.0}
MODEL = ".model m {kind}(" + " ".join(f"{name}={value!r}" for name, value in P.items()) + ")"


def currents(vbe: float, vbc: float) -> tuple[float, float]:
    """(collector current, base current) of an NPN."""
    forward, reverse = P["is"] * math.expm1(vbe / VT), P["is"] * math.expm1(vbc / VT)
    q1 = 1 / (1 - vbc / P["vaf"] - vbe / P["var"])
    qb = q1 / 2 * (1 + math.sqrt(1 + 4 * forward / P["ikf"]))
    leakage = P["ise"] * math.expm1(vbe / (P["ne"] * VT))
    collector = (forward - reverse) / qb - reverse / P["br"] - GMIN * vbc
    base = forward / P["bf"] + leakage + reverse / P["br"] + GMIN * (vbe + vbc)
    return collector, base


@pytest.mark.parametrize("vbe", [0.4, 0.6, 0.7, 0.8])
@pytest.mark.parametrize("vce", [0.1, 1.0, 10.0])
@pytest.mark.parametrize(("kind", "sign"), [("npn", 1), ("pnp", -1)])
def test_terminal_currents(vbe: float, vce: float, kind: str, sign: int) -> None:
    circuit = structure(f"vb b 0 {sign * vbe}\nvc c 0 {sign * vce}\nq1 c b 0 m\n{MODEL.format(kind=kind)}")
    point = operating_point(circuit)
    collector, base = currents(vbe, vbe - vce)
    # i(source) is positive from + through the source to -; the device's current is its opposite.
    assert -sign * point.value("i(vc)") == pytest.approx(collector, rel=1e-9, abs=1e-15)
    assert -sign * point.value("i(vb)") == pytest.approx(base, rel=1e-9, abs=1e-15)


def test_small_signal_transconductance_and_output_conductance() -> None:
    vbe, vce, step = 0.65, 5.0, 1e-6
    for drive, expected in (
        (
            "vb b 0 0.65 ac 1\nvc c 0 5",
            (currents(vbe + step, vbe + step - vce)[0] - currents(vbe - step, vbe - step - vce)[0]),
        ),
        ("vb b 0 0.65\nvc c 0 5 ac 1", (currents(vbe, vbe - vce - step)[0] - currents(vbe, vbe - vce + step)[0])),
    ):
        circuit = structure(f"{drive}\nq1 c b 0 m\n{MODEL.format(kind='npn')}")
        response = ac(circuit, np.array([1.0]), [("i(vc)", "0")]).values[0, 0, 0]
        # Central differences over 1 µV: relative error (step / Vt)² and rounding, about 1e-8.
        assert -response.real == pytest.approx(expected / (2 * step), rel=3e-7)


def test_transit_time_sets_the_transition_frequency() -> None:
    """FT = 1 / (2π (TF + (Cje + Cjc) / gm)) (any text on transistors): here with TF alone, gain 1 at 1/(2π TF)."""
    circuit = structure("i1 0 b 10u ac 1\nvc c 0 5\nq1 c b 0 m\n.model m npn(is=1f bf=100 tf=1n)")
    f_t = 1 / (2 * math.pi * 1e-9)
    gain = abs(ac(circuit, np.array([f_t]), [("i(vc)", "0")]).values[0, 0, 0])
    assert gain == pytest.approx(1 / math.sqrt(1 + 1e-4), rel=1e-5)  # |bf / (1 + j bf)| at bf = 100
