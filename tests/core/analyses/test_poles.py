"""Poles against closed forms and numpy.roots."""

import control
import numpy as np
import pytest
import sympy
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.circuits import structure
from verdad.demo.board import model_text
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import Poles, moving, pole_zero, poles, zeros
from verdad_core.engine.matrix import ParameterMatrix

AMP = f"{model_text()}\nvp p 0 5\nvn n 0 -5\n"


def of(text: str) -> Poles:
    circuit = structure(text)
    [found] = poles(operating_point(circuit))
    return found


def test_one_pole_of_an_rc() -> None:
    found = of("v1 in 0 1\nr1 in out 1k\nc1 out 0 1u").values
    assert found == pytest.approx([-1e3], rel=1e-12)


def test_a_pole_pair_of_an_rlc() -> None:
    """Roots of LC s² + RC s + 1."""
    found = of("v1 in 0 1\nr1 in a 20\nl1 a out 1m\nc1 out 0 1u").values
    expected = np.roots([1e-9, 2e-5, 1])
    assert sorted(found, key=np.imag) == pytest.approx(sorted(expected, key=np.imag), rel=1e-10)


def test_the_net_that_moves_most_belongs_to_its_pole() -> None:
    """Two sections with a tenth between them: the first moves ten times as far as what follows, the second alone."""
    text = (
        "v1 in 0 1\nr1 in a 1k\nc1 a 0 1u\ne1 b 0 a 0 0.1\nr2 b out 1k\nc2 out 0 1n\nl1 in d 1m\nr3 d e 1\nc3 e 0 10n"
    )
    point = operating_point(structure(text))
    values = np.array([-1e3, -1e6, 1j / np.sqrt(1e-3 * 10e-9)])
    assert moving(point, values, ["a", "b", "d", "e", "in", "out"]) == ["a", "out", "e"]


def test_nine_decades_between_two_poles() -> None:
    found = of("v1 in 0 1\nr1 in a 1meg\nc1 a 0 1u\ne1 b 0 a 0 1\nr2 b out 1\nc2 out 0 1n").values
    assert found == pytest.approx([-1.0, -1e9], rel=1e-6)


def test_capacitors_across_sources_and_loops_add_no_poles() -> None:
    """Each of these makes the equations' index two: a capacitor held by a source, and a loop of capacitors."""
    text = "v1 in 0 1\nc9 in 0 1u\nr1 in a 1k\nc1 a 0 1n\nc2 a b 1n\nc3 b 0 1n\nr2 b 0 1k"
    circuit = of(text).values
    # [[1/R + s 2C, -sC], [-sC, 1/R + s 2C]]: modes s = -1/(R C) (in phase) and -1/(3 R C).
    assert circuit == pytest.approx([-1e6 / 3, -1e6], rel=1e-9)


def test_a_capacitor_straight_across_sources_adds_no_pole_by_rounding() -> None:
    deck = "v1 1 0 .5\nr1 1 2 1k\nr2 2 0 2k\ne1 3 0 2 0 2\nb1 4 0 v={2*v(2)+v(3)}\nr3 3 4 1k\nc1 4 0 2n"
    assert len(of(deck).values) == 0


def test_without_storage_there_are_no_poles() -> None:
    assert len(of("v1 in 0 1\nr1 in 0 1k").values) == 0


@settings(max_examples=40)
@given(st.lists(st.tuples(st.floats(1, 1e6), st.floats(1e-12, 1e-6)), min_size=1, max_size=8))
def test_rc_ladders_have_real_poles_in_the_left_half_plane(sections: list[tuple[float, float]]) -> None:
    """A passive network of resistors and capacitors has nothing else (any text on network synthesis)."""
    cards = [f"r{k} n{k} n{k + 1} {r!r}\nc{k} n{k + 1} 0 {c!r}" for k, (r, c) in enumerate(sections)]
    found = of("v1 n0 0 1\n" + "\n".join(cards))
    assert len(found.values) == len(sections)
    assert len(found.unstable) == 0
    assert np.all(np.abs(found.values.imag) <= 1e-6 * np.abs(found.values))


def test_a_negative_resistance_with_a_capacitor_grows() -> None:
    found = of("i1 0 a 1m\nr1 a 0 1k\nc1 a 0 1n\ng1 a 0 a 0 -2m")
    assert found.unstable == pytest.approx([1e6], rel=1e-9)


def test_a_follower_is_stable_and_one_with_swapped_inputs_is_not() -> None:
    assert len(of(AMP + "v1 in 0 0\nx1 in out p n out ovn4183\nr1 out 0 2k").unstable) == 0
    assert len(of(AMP + "v1 in 0 0\nx1 out in p n out ovn4183\nr1 out 0 2k").unstable) >= 1


@pytest.mark.parametrize(("gain", "unstable"), [(7.0, 0), (27.0, 2)])
def test_a_ring_of_three_equal_stages(gain: float, unstable: int) -> None:
    """(1 + s RC)³ = -A has the roots (A^(1/3) exp(jπ(2k+1)/3) - 1) / RC: stable up to A = 8."""
    stages = "\n".join(
        f"e{k} a{k} 0 b{(k - 1) % 3} 0 {-(gain ** (1 / 3))!r}\nr{k} a{k} b{k} 1k\nc{k} b{k} 0 1n" for k in range(3)
    )
    found = of(stages)
    expected = (gain ** (1 / 3) * np.exp(1j * np.pi * np.array([1, 3, 5]) / 3) - 1) / 1e-6
    assert sorted(found.values, key=np.imag) == pytest.approx(sorted(expected, key=np.imag), rel=1e-9)
    assert len(found.unstable) == unstable


def test_rows_have_poles_of_their_own() -> None:
    circuit = structure("v1 in 0 1\nr1 in out 1k\nc1 out 0 1u")
    values = np.array([500.0, 1e3, 4e3])
    matrix = ParameterMatrix.varied(circuit, {("r1", "resistance"): values})
    found = poles(operating_point(circuit, matrix))
    assert [row.values[0].real for row in found] == pytest.approx(-1e6 / values)


@pytest.mark.parametrize("sections", [20, 700])
def test_poles_of_a_long_ladder(sections: int) -> None:
    """s_k = -4 / RC sin²((2k - 1) π / (4n + 2)), from the ladder's recurrence; the long one takes the sparse method."""
    cards = "\n".join(f"r{k} n{k} n{k + 1} 1k\nc{k} n{k + 1} 0 1n" for k in range(sections))
    [found] = poles(operating_point(structure(f"v1 n0 0 1\n{cards}")))
    k = np.arange(1, sections + 1)
    expected = -4e6 * np.sin((2 * k - 1) * np.pi / (4 * sections + 2)) ** 2
    assert found.complete == (sections < 600)
    count = min(10, sections)
    assert found.values[:count].real == pytest.approx(expected[:count], rel=1e-6)
    assert np.abs(found.values[:count].imag).max() == 0


def test_poles_and_zeros_of_transfer_functions_are_those_of_python_control() -> None:
    s = control.tf("s")
    reference = (1 + s / 3e3) * (1 + s / 2e4) / ((1 + s / 1e3) * (1 + s / 5e3 + (s / 8e3) ** 2))
    text = "(1+s/3e3)*(1+s/2e4)/((1+s/1e3)*(1+s/5e3+(s/8e3)**2))"
    point = operating_point(structure(f"v1 in 0 0\ne1 out 0 laplace {{v(in)}} {{{text}}}\nr1 out 0 1"))
    [found], [nulls] = pole_zero(point, ("in", "0"), ("out", "0"), "voltage")
    assert sorted(found.values, key=abs) == pytest.approx(sorted(reference.poles(), key=abs), rel=1e-9)
    assert sorted(nulls.values, key=abs) == pytest.approx(sorted(reference.zeros(), key=abs), rel=1e-9)


@given(st.integers(0, 2**32 - 1))
@settings(max_examples=12, deadline=None)
def test_zeros_are_those_of_the_exact_numerator(seed: int) -> None:
    """Random ladders with bridges, buffers and coils, against SymPy's determinant in whole numbers."""
    random = np.random.default_rng(seed)
    size, s = int(random.integers(2, 6)), sympy.Symbol("s")
    nodes = [f"n{k}" for k in range(size + 1)]
    lines, matrix = ["v1 n0 0 1"], sympy.zeros(size + 1, size + 1)

    def admit(a: int, b: int | None, value: sympy.Expr) -> None:
        matrix[a, a] += value
        if b is not None:
            matrix[b, b] += value
            matrix[a, b] -= value
            matrix[b, a] -= value

    for k in range(size):
        ohms, farads = int(random.integers(1, 9)), int(random.integers(1, 9))
        lines += [f"r{k} {nodes[k]} {nodes[k + 1]} {ohms}k", f"c{k} {nodes[k + 1]} 0 {farads}n"]
        admit(k, k + 1, sympy.Rational(1, ohms))
        admit(k + 1, None, farads * s)
    for k in range(int(random.integers(0, 3))):
        a, b = (int(node) for node in random.choice(size + 1, 2, replace=False))
        kind, value = str(random.choice(["r", "c", "g"])), int(random.integers(1, 9))
        if kind == "g":
            # From a node's voltage, a current out of another one.
            lines.append(f"gx{k} {nodes[b]} 0 {nodes[a]} 0 {value}m")
            matrix[b, a] += value
        else:
            lines.append(f"{kind}x{k} {nodes[a]} {nodes[b]} {value}{'k' if kind == 'r' else 'n'}")
            admit(a, b, sympy.Rational(1, value) if kind == "r" else value * s)
    # The source holds n0: the numerator is the minor of the other equations without the output's column.
    equations = matrix[1:, :]
    numerator = sympy.Poly(equations.extract(list(range(size)), [k for k in range(size + 1) if k != size]).det(), s)
    exact = np.array([complex(root) for root in numerator.nroots(n=30, maxsteps=200)])
    point = operating_point(structure("\n".join(lines)))
    # Kilohms and nanofarads: what SymPy has per second lies at megaradians.
    found = zeros(point, "v1", (nodes[size], "0"))[0].values / 1e6
    assert len(found) == len(exact), "\n".join(lines)
    for root in exact:
        assert min(abs(found - root)) <= 1e-5 * max(abs(root), 1e-6), "\n".join(lines)
