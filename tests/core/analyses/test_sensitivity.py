"""Sensitivities against closed forms in mpmath, and against differences of whole solutions."""

import mpmath
import numpy as np
import pytest
import sympy
from scipy import constants

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.sensitivity import ac_sensitivity, dc_sensitivity
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import CircuitError


def test_a_divider() -> None:
    result = dc_sensitivity(structure("v1 in 0 5\nr1 in out 1k\nr2 out 0 3k"), [("out", "0"), ("i(v1)", "0")])
    assert result.of("v1", "dc") == pytest.approx(0.75, rel=1e-9)
    assert result.of("r1", "resistance") == pytest.approx(-5 * 3e3 / 4e3**2, rel=1e-9)
    assert result.of("r2", "resistance") == pytest.approx(5 * 1e3 / 4e3**2, rel=1e-9)
    assert result.of("r2", "resistance", output=1) == pytest.approx(5 / 4e3**2, rel=1e-9)


def diode_drop(saturation: mpmath.mpf, emission: mpmath.mpf, resistance: mpmath.mpf) -> mpmath.mpf:
    """The voltage of a diode behind a resistor at 5 V, with GMIN across it, by bisection in 40 digits."""
    scale = emission * mpmath.mpf(constants.k) * mpmath.mpf("300.15") / mpmath.mpf(constants.e)

    def excess(v: mpmath.mpf) -> mpmath.mpf:
        return (5 - v) / resistance - saturation * mpmath.expm1(v / scale) - mpmath.mpf("1e-12") * v

    return mpmath.findroot(excess, (mpmath.mpf("0.4"), mpmath.mpf("1.2")), solver="anderson", tol=1e-60)


def test_a_diode_against_mpmath() -> None:
    circuit = structure("v1 in 0 5\nr1 in out 1k\nd1 out 0 m\n.model m d(is=1e-14 n=1.3)")
    result = dc_sensitivity(circuit, [("out", "0")])
    with mpmath.workdps(40):
        is_, n, r = mpmath.mpf(1e-14), mpmath.mpf(1.3), mpmath.mpf(1e3)
        expected = {
            ("d1", "is"): mpmath.diff(lambda p: diode_drop(p, n, r), is_, h=mpmath.mpf("1e-24")),
            ("d1", "n"): mpmath.diff(lambda p: diode_drop(is_, p, r), n),
            ("r1", "resistance"): mpmath.diff(lambda p: diode_drop(is_, n, p), r),
        }
    for key, value in expected.items():
        # Newton stops within 1e-7 of the voltage; the derivative follows that.
        assert result.of(*key) == pytest.approx(float(value), rel=1e-6), key


def test_phasors_of_a_resonant_circuit_against_mpmath() -> None:
    f = np.array([1e3, 15.9e3, 1e5])
    circuit = structure("v1 in 0 dc 0 ac 2 30\nr1 in a 10\nl1 a out 100u\nc1 out 0 1u")
    result = ac_sensitivity(circuit, f, [("out", "0")])

    def out(w: float, r: float, l: float, c: float, size: float, phase: float) -> mpmath.mpc:  # noqa: E741
        s = mpmath.mpc(0, w)
        drive = size * mpmath.exp(mpmath.mpc(0, phase * mpmath.pi / 180))
        return drive / (1 + s * r * c + s * s * l * c)

    keys = [("r1", "resistance"), ("l1", "inductance"), ("c1", "capacitance"), ("v1", "ac"), ("v1", "phase")]
    nominal = [10.0, 100e-6, 1e-6, 2.0, 30.0]
    for k, key in enumerate(keys):
        order = tuple(int(j == k) for j in range(5))
        expected = [complex(mpmath.diff(lambda *p, w=w: out(w, *p), tuple(nominal), order)) for w in 2 * np.pi * f]
        assert result.of(*key) == pytest.approx(expected, rel=1e-7), key


AMPLIFIER = """v1 in 0 dc 1.2 ac 1
vcc vcc 0 10
r1 in b 10k
q1 c b e m
rc vcc c 2k tc1=1m
re e 0 500
c1 e 0 1u
l1 c x 1m
l2 s 0 2m
k1 l1 l2 0.5
rk s 0 1k
rl x 0 10k
d1 x y dm
rd y 0 3k
m1 x b 0 0 mm l=1u w=5u
b1 z 0 v=v(x)*v(c)
rz z 0 1k
t1 x 0 w 0 z0=50 td=5n
rw w 0 5k
.model m npn(bf=120 is=1f vaf=50 cje=5p cjc=2p tf=0.3n rb=100 ikf=10m)
.model dm d(is=1p rs=2 cjo=10p tt=5n)
.model mm nmos(vto=1 kp=50u gamma=0.4 tox=20n)"""


@pytest.mark.parametrize(
    "key",
    [
        ("q1", "bf"), ("q1", "is"), ("q1", "vaf"), ("q1", "rb"), ("q1", "cjc"), ("q1", "tf"), ("rc", "tc1"),
        ("rc", "resistance"), ("d1", "is"), ("d1", "rs"), ("m1", "vto"), ("m1", "w"), ("l1", "inductance"),
        ("k1", "coupling"), ("t1", "z0"), ("t1", "td"), ("b1", "k1"), ("", "temperature"), ("v1", "dc"),
    ],
)  # fmt: skip
def test_the_bias_moves_with_every_parameter(key: tuple[str, str]) -> None:
    """Against five-point differences of whole solutions, direct and at three frequencies."""
    if key == ("b1", "k1"):
        key, text = ("b1", "k1"), AMPLIFIER.replace("v(x)*v(c)", "2*v(x)*v(c)")
    else:
        text = AMPLIFIER
    circuit = structure(text)
    f, outputs = np.array([1e2, 1e5, 3e7]), [("x", "0"), ("z", "s")]
    value = circuit.nominal[circuit.column(*key)]
    step = 2e-3 * abs(value)
    rows = value + step * np.array([-2, -1, 1, 2])
    weights = np.array([1, -8, 8, -1]) / (12 * step)
    matrix = ParameterMatrix.varied(circuit, {key: rows})
    point = operating_point(circuit, matrix)
    direct = weights @ (point.values[:, circuit.index("z")] - point.values[:, circuit.index("s")])
    # Differences of solutions that are each good to about 1e-9 of a volt.
    noise = 1e-9 / step
    assert dc_sensitivity(circuit, outputs).of(*key, output=1) == pytest.approx(direct, rel=1e-5, abs=noise)
    phasors = np.tensordot(weights, ac(circuit, f, outputs, matrix).values, axes=1)
    result = ac_sensitivity(circuit, f, outputs)
    for output in range(2):
        assert result.of(*key, output=output) == pytest.approx(phasors[output], rel=2e-5, abs=10 * noise)


def test_rows_have_sensitivities_of_their_own() -> None:
    circuit = structure("v1 in 0 5\nr1 in out 1k\nr2 out 0 3k")
    matrix = ParameterMatrix.varied(circuit, {("r1", "resistance"): np.array([1e3, 3e3])})
    result = dc_sensitivity(circuit, [("out", "0")], matrix)
    assert [result.of("v1", "dc", row) for row in (0, 1)] == pytest.approx([0.75, 0.5], rel=1e-9)


@pytest.mark.parametrize("key", [("q1", "polarity"), ("q1", "rc"), ("q1", "nothing")])
def test_what_has_no_derivative_is_refused(key: tuple[str, str]) -> None:
    result = dc_sensitivity(structure("v1 c 0 1\nq1 c c 0 m\n.model m npn"), [("c", "0")])
    with pytest.raises(CircuitError, match="sensitive"):
        result.of(*key)


def test_only_what_is_asked_for_is_kept() -> None:
    circuit, f = structure(AMPLIFIER), np.array([1e2, 1e5])
    keys = [("rc", "resistance"), ("q1", "bf"), ("v1", "ac"), ("", "temperature"), ("q1", "is")]
    some, whole = dc_sensitivity(circuit, [("x", "0")], parameters=keys), dc_sensitivity(circuit, [("x", "0")])
    some_ac = ac_sensitivity(circuit, f, [("x", "0")], parameters=keys)
    whole_ac = ac_sensitivity(circuit, f, [("x", "0")])
    assert some_ac.values.shape == (1, 1, 5, 2)
    for key in keys:
        assert some.of(*key) == pytest.approx(whole.of(*key), rel=1e-9)
        assert some_ac.of(*key) == pytest.approx(whole_ac.of(*key), rel=1e-9)
    with pytest.raises(CircuitError, match="not asked for"):
        some.of("re", "resistance")


def test_what_stands_beside_the_output_is_not_seen_there() -> None:
    """A stage behind an ideal follower, and one beside it: no influence at all, and the stage's own by closed forms."""
    circuit = structure(
        "v1 in 0 dc 2 ac 1\nr1 in a 1k\nr2 a 0 3k\nc1 a 0 1n\ne1 b 0 a 0 1\nr3 b c 1k\nc3 c 0 1n\nr4 c 0 1k\n"
        "r5 in d 1k\nd1 d 0 m\n.model m d"
    )
    still = dc_sensitivity(circuit, [("a", "0")])
    assert still.of("r2", "resistance") == pytest.approx(2 * 1e3 / 4e3**2, rel=1e-9)
    f = np.array([1e3, 1e5, 1e7])
    moving = ac_sensitivity(circuit, f, [("a", "0")])
    s = 2j * np.pi * f
    # H = 1 / (1 + R1 (1 / R2 + s C)): dH/dC = -s R1 H².
    transfer = 1 / (1 + 1e3 * (1 / 3e3 + s * 1e-9))
    assert moving.of("c1", "capacitance") == pytest.approx(-s * 1e3 * transfer**2, rel=1e-8)
    for name, parameter in (("r3", "resistance"), ("r4", "resistance"), ("r5", "resistance"), ("d1", "is")):
        assert still.of(name, parameter) == 0.0
        assert np.all(moving.of(name, parameter) == 0.0)
    behind = ac_sensitivity(circuit, f, [("c", "0")])
    assert np.all(np.abs(behind.of("c1", "capacitance")) > 0)
    assert np.all(np.abs(behind.of("c3", "capacitance")) > 0)


def test_a_row_without_an_operating_point_has_no_sensitivities() -> None:
    """V² + v / R = -p has no root for R = 1 and a p above 1/4; for p = -2 its response to p, -1 / (1/R + 2 v), follows
    R as SymPy says, the bias moving too.
    """
    circuit = structure("v1 p 0 dc -2 ac 1\nb1 x 0 i={v(x)**2+v(p)}\nr1 x 0 1\nc1 x 0 1p")
    matrix = ParameterMatrix.varied(circuit, {("v1", "dc"): np.array([1.0, -2.0, 1.0])})
    result = ac_sensitivity(circuit, np.array([1.0, 10.0]), [("x", "0")], matrix)
    assert np.isnan(result.values[[0, 2]]).all()
    assert np.isnan(result.of("r1", "tc1", row=0)).all()
    assert np.isfinite(result.values[1]).all()
    r = sympy.symbols("r", positive=True)
    volts = (-1 / r + sympy.sqrt(1 / r**2 + 8)) / 2
    expected = float(sympy.diff(-1 / (1 / r + 2 * volts), r).subs(r, 1))
    assert result.of("r1", "resistance", row=1) == pytest.approx(np.full(2, expected), rel=1e-6)
