"""Field-effect transistors against the published equations, written here once more and in another way.

JFET and level 1: Shichman and Hodges 1968. Levels 2 and 3: Vladimirescu and Liu 1980 (UCB/ERL M80/7), after Antognetti
and Massobrio 1988, chapter 4, from memory. The reference takes numbers, not duals, and solves level 2's velocity
saturation by a root finder.
"""

import math

import numpy as np
import pytest
from scipy import constants
from scipy.optimize import brentq

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.device_values import device_values
from verdad_core.analyses.operating_point import operating_point

VT = constants.k * 300.15 / constants.e
SILICON, OXIDE = 11.7 * constants.epsilon_0, 3.9 * constants.epsilon_0
BIASES = [(0.8, 0.1, 0.0), (1.5, 0.1, 0.0), (1.5, 3.0, 0.0), (3.0, 1.0, -1.0), (3.0, 5.0, -2.0), (5.0, 5.0, 0.0)]


def drain_current(model: str, card: str, vgs: float, vds: float, vbs: float, sign: float = 1.0) -> float:
    text = f"vd d 0 {sign * vds}\nvg g 0 {sign * vgs}\nvb b 0 {sign * vbs}\n{card}\n.model m {model}"
    return -sign * operating_point(structure(text)).value("i(vd)")


def leakage(vds: float, vbs: float) -> float:
    """What the drain's diode and GMIN over it take."""
    return 1e-12 * (vds - vbs) + 1e-14


@pytest.mark.parametrize(("kind", "sign"), [("nmos", 1.0), ("pmos", -1.0)])
@pytest.mark.parametrize(("vgs", "vds", "vbs"), BIASES)
def test_mos_level_1(kind: str, sign: float, vgs: float, vds: float, vbs: float) -> None:
    vto, kp, gamma, phi, modulation, w, l = 0.7, 50e-6, 0.5, 0.65, 0.03, 20e-6, 2e-6  # noqa: E741
    model = f"{kind}(vto={sign * vto} kp={kp} gamma={gamma} phi={phi} lambda={modulation} ld=0.2u)"
    over = vgs - (vto + gamma * (math.sqrt(phi - vbs) - math.sqrt(phi)))
    expected = 0.0
    if over > 0:
        inside = min(vds, over)
        expected = kp * w / (l - 0.4e-6) * (over - inside / 2) * inside * (1 + modulation * vds)
    found = drain_current(model, "m1 d g 0 b m w=20u l=2u", vgs, vds, vbs, sign)
    assert found == pytest.approx(expected + leakage(vds, vbs), rel=1e-7, abs=3e-14)


def level_2(vgs: float, vds: float, vbs: float, vmax: float) -> float:
    vto, gamma0, phi, kp, w, l = 0.8, 0.6, 0.7, 60e-6, 10e-6, 3e-6  # noqa: E741
    tox, nsub, xj, uo, ucrit, uexp, delta, neff = 50e-9, 1e21, 0.4e-6, 0.06, 2e6, 0.12, 1.2, 3.0
    cox, xd = OXIDE / tox, math.sqrt(2 * SILICON / (constants.e * nsub))
    narrow = delta * math.pi * SILICON / (4 * cox * w)
    eta, root = 1 + narrow, math.sqrt(phi - vbs)

    def share(depth: float) -> float:
        return 0.5 * xj / l * (math.sqrt(1 + 2 * depth / xj) - 1)

    gamma = gamma0 * (1 - share(xd * root) - share(xd * math.sqrt(phi - vbs + vds)))
    barrier = vto - gamma0 * math.sqrt(phi) + narrow * (phi - vbs)
    over = vgs - barrier - gamma * root
    if over <= 0:
        return 0.0
    loss = min(1.0, (ucrit * SILICON / (cox * over)) ** uexp)

    def linear(v: float) -> float:
        bulk = (phi - vbs + v) ** 1.5 - (phi - vbs) ** 1.5
        return (vgs - barrier - eta * v / 2) * v - 2 / 3 * gamma * bulk

    def charge(v: float) -> float:
        return vgs - barrier - eta * v - gamma * math.sqrt(phi - vbs + v)

    pinched = brentq(charge, 0, 50)
    if vmax > 0:
        # Carriers at their largest speed: the current is the charge at the drain times VMAX.
        saturation = brentq(lambda v: uo * loss / l * linear(v) - vmax * charge(v), 0, pinched)
        depth = xd / math.sqrt(neff)
        field = vmax * depth / (2 * uo * loss)
        shortening = depth * (math.sqrt(field**2 + max(vds - saturation, 0)) - field) / l
    else:
        saturation = pinched
        beyond = (vds - saturation) / 4
        shortening = xd / l * math.sqrt(beyond + math.sqrt(1 + beyond**2))
    left, wall = 1 - shortening, xd * math.sqrt(0.8) / l
    if left < wall:
        left = wall / (1 + (shortening - (1 - wall)) / wall)
    return kp * w / l * loss / left * linear(min(vds, saturation))


@pytest.mark.parametrize(("kind", "sign"), [("nmos", 1.0), ("pmos", -1.0)])
@pytest.mark.parametrize("vmax", [0.0, 6e4])
@pytest.mark.parametrize(("vgs", "vds", "vbs"), BIASES)
def test_mos_level_2(kind: str, sign: float, vmax: float, vgs: float, vds: float, vbs: float) -> None:
    model = (
        f"{kind}(level=2 vto={sign * 0.8} gamma=0.6 phi=0.7 kp=60u tox=50n nsub=1e15 xj=0.4u uo=600 ucrit=2e4 "
        f"uexp=0.12 delta=1.2 neff=3 vmax={vmax})"
    )
    found = drain_current(model, "m1 d g 0 b m w=10u l=3u", vgs, vds, vbs, sign)
    expected = level_2(vgs, vds, vbs, vmax) + leakage(vds, vbs)
    assert found == pytest.approx(expected, rel=1e-6, abs=3e-14)


def level_3(vgs: float, vds: float, vbs: float, vmax: float, nfs: float) -> float:
    vto, gamma0, phi, kp, w, l, ld = 0.8, 0.5, 0.7, 60e-6, 10e-6, 2e-6, 0.1e-6  # noqa: E741
    tox, nsub, xj, uo, theta, eta, kappa, delta = 30e-9, 1e22, 0.3e-6, 0.06, 0.08, 0.6, 0.4, 0.8
    l -= 2 * ld  # noqa: E741
    cox, xd = OXIDE / tox, math.sqrt(2 * SILICON / (constants.e * nsub))
    narrow = delta * math.pi * SILICON / (2 * cox * w)
    root = math.sqrt(phi - vbs)
    ratio = xd * root / xj
    wc = 0.0631353 + 0.8013292 * ratio - 0.01110777 * ratio**2
    short = 1 - xj / l * ((wc + ld / xj) * math.sqrt(1 - (ratio / (1 + ratio)) ** 2) - ld / xj)
    gamma = gamma0 * short
    body = gamma / (4 * root) + narrow
    bulk = gamma * root + narrow * (phi - vbs)
    threshold = vto - gamma0 * math.sqrt(phi) - 8.15e-22 * eta / (cox * l**3) * vds + bulk
    slope = 1 + constants.e * nfs / cox + bulk / (2 * (phi - vbs)) if nfs else 1.0
    on = threshold + slope * VT if nfs else threshold
    if vgs <= threshold and not nfs:
        return 0.0
    gate = max(vgs, on)
    over = gate - threshold
    mobility = uo / (1 + theta * over)
    saturation = over / (1 + body)
    if vmax:
        critical = vmax * l / mobility
        saturation = saturation + critical - math.hypot(saturation, critical)
    v = min(vds, saturation)
    current = kp * w / l * mobility / uo * (over - (1 + body) / 2 * v) * v
    if vmax:
        current /= 1 + v / critical
    if vds > saturation:
        if vmax:
            conductance = current * (1 - 1 / (1 + v / critical)) / critical
            field = kappa * current / (l * conductance)
            half = field * xd**2 / 2
            shortened = math.sqrt(half**2 + kappa * xd**2 * (vds - saturation)) - half
        else:
            shortened = math.sqrt(kappa * xd**2 * (vds - saturation))
        if shortened > l / 2:
            shortened = l - l**2 / (4 * shortened)
        current /= 1 - shortened / l
    if vgs < on:
        current *= math.exp((vgs - on) / (slope * VT))
    return current


@pytest.mark.parametrize("nfs", [0.0, 2e11])
@pytest.mark.parametrize("vmax", [0.0, 1.5e5])
@pytest.mark.parametrize(("vgs", "vds", "vbs"), BIASES)
def test_mos_level_3(vmax: float, nfs: float, vgs: float, vds: float, vbs: float) -> None:
    model = (
        "nmos(level=3 vto=0.8 gamma=0.5 phi=0.7 kp=60u tox=30n nsub=1e16 xj=0.3u ld=0.1u uo=600 theta=0.08 eta=0.6 "
        f"kappa=0.4 delta=0.8 vmax={vmax} nfs={nfs})"
    )
    found = drain_current(model, "m1 d g 0 b m w=10u l=2u", vgs, vds, vbs)
    expected = level_3(vgs, vds, vbs, vmax, nfs * 1e4) + leakage(vds, vbs)
    assert found == pytest.approx(expected, rel=1e-6, abs=3e-14)


@pytest.mark.parametrize("level", [1, 2, 3])
def test_drain_and_source_may_change_places(level: int) -> None:
    model = f"nmos(level={level} vto=0.8 nsub=1e15 tox=50n)"
    forward = "vd d 0 {v}\nvg g 0 3\nvb b 0 -3\nm1 {a} g {b} b m\n.model m {model}"
    one = operating_point(structure(forward.format(v=2, a="d", b="0", model=model))).value("i(vd)")
    other = operating_point(structure(forward.format(v=2, a="0", b="d", model=model))).value("i(vd)")
    assert one == pytest.approx(other, rel=1e-6)


def test_gate_capacitance_in_the_regions_of_operation() -> None:
    """Whole oxide below flat band and in the linear region, two thirds of it in saturation (Ward and Dutton 1978)."""
    cox = OXIDE / 20e-9 * 100e-6 * 10e-6

    def gate(vgs: float, vds: float) -> float:
        text = (
            f"vd d 0 {vds}\nvg g 0 {vgs}\nm1 d g 0 0 m w=100u l=10u\n.model m nmos(vto=0.7 tox=20n gamma=0.4 phi=0.6)"
        )
        return device_values(operating_point(structure(text)), "m1").capacitances[1, 1] / cox

    # With a body effect a little goes to the bulk: 1 - 2/3 becomes slightly more.
    assert gate(-3, 0) == pytest.approx(1, rel=1e-3)
    assert gate(5, 0) == pytest.approx(1, rel=0.02)
    assert gate(3, 5) == pytest.approx(2 / 3, rel=0.02)
    assert 0.1 < gate(0.3, 0) < 0.8


@pytest.mark.parametrize(("kind", "sign"), [("njf", 1.0), ("pjf", -1.0)])
@pytest.mark.parametrize(("vgs", "vds"), [(-3, 5), (-1, 0.2), (-1, 5), (0, 1), (0, 10)])
def test_jfet(kind: str, sign: float, vgs: float, vds: float) -> None:
    vto, beta, modulation = -2.0, 1.5e-3, 0.02
    over = max(vgs - vto, 0.0)
    inside = min(vds, over)
    expected = beta * inside * (2 * over - inside) * (1 + modulation * vds)
    text = f"vd d 0 {sign * vds}\nvg g 0 {sign * vgs}\nj1 d g 0 m\n.model m {kind}(vto=-2 beta=1.5m lambda=0.02)"
    found = -sign * operating_point(structure(text)).value("i(vd)")
    # GMIN over the gate-drain junction draws its current from the drain.
    assert found == pytest.approx(expected + 1e-12 * (vds - vgs) + 1e-14, rel=1e-7, abs=1e-14)


def test_jfet_transconductance() -> None:
    """Gm = 2 sqrt(beta Id) in saturation."""
    circuit = structure("vd d 0 dc 10\nvg g 0 dc -1 ac 1\nj1 d g 0 m\n.model m njf(vto=-3 beta=1m)")
    gm = -ac(circuit, np.array([1.0]), [("i(vd)", "0")]).values[0, 0, 0].real
    assert gm == pytest.approx(2 * math.sqrt(1e-3 * 4e-3), rel=1e-9)


def test_power_mosfet_on_resistance_and_body_diode() -> None:
    model = "m vnmos(vto=3 kp=20 rd=8m rs=1m ksub=1m is=1p n=1.2 rb=4m bv=60 ibv=1m)"
    on = operating_point(structure(f"id 0 d 1\nvg g 0 10\nm1 d g 0 m\n.model {model}"))
    # 1 / (kp (vgs - vto)), with the drop over the source resistance and half the drain voltage taken off the drive.
    assert on.value("d") == pytest.approx(9e-3 + 1 / (20 * 7), rel=2e-3)
    off = operating_point(structure(f"id d 0 1\nvg g 0 0\nm1 d g 0 m\n.model {model}"))
    diode = 1.2 * VT * math.log(1 / 1e-12) + 4e-3
    assert -off.value("d") == pytest.approx(diode, rel=1e-6)
    broken = operating_point(structure(f"id 0 d 1m\nvg g 0 0\nm1 d g 0 m\n.model {model}"))
    assert broken.value("d") == pytest.approx(60, rel=1e-3)


def test_power_mosfet_gate_drain_capacitance_falls_with_the_drain_voltage() -> None:
    def feedback(vds: float) -> float:
        text = f"vd d 0 {vds}\nvg g 0 0\nm1 d g 0 m\n.model m vnmos(vto=3 cgs=1n cgdmax=2n cgdmin=50p a=1)"
        return -device_values(operating_point(structure(text)), "m1").capacitances[1, 0]

    for vds in (0.0, 1.0, 10.0, 100.0):
        assert feedback(vds) == pytest.approx(50e-12 + 1.95e-9 * (0.5 - math.atan(vds) / math.pi), rel=1e-6)
