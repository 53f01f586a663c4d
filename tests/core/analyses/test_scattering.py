"""S-parameters against scikit-rf, and what holds for every passive network."""

import numpy as np
import pytest
import skrf
from hypothesis import given, settings

from tests.core.circuits import PASSIVE_PARTS, passive, structure
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.scattering import Port, scattering
from verdad_core.errors import CircuitError

FREQUENCY = np.geomspace(1e6, 1e9, 15)


@pytest.mark.parametrize("z0", [(50, 50), (75, 50), (50 + 20j, 30 - 40j), (10 - 3j, 600)])
def test_a_ladder_with_any_reference_impedances(z0: tuple[complex, complex]) -> None:
    circuit = structure("l1 a m 47n\nr1 m x 3\nc1 x 0 33p\nl2 m b 22n\nr9 m 0 1t")
    found = scattering(circuit, [Port("a", impedance=z0[0]), Port("b", impedance=z0[1])], FREQUENCY)
    w = 2j * np.pi * FREQUENCY
    shunt = 3 + 1 / (w * 33e-12)
    z = np.moveaxis(np.array([[w * 47e-9 + shunt, shunt], [shunt, w * 22e-9 + shunt]]), 2, 0)
    reference = skrf.network.z2s(z, np.array(z0), s_def="power")
    assert found.values[0] == pytest.approx(reference, abs=1e-9)


def test_the_bias_is_not_touched() -> None:
    """A port on a biased transistor: the ports' resistors exist for small signals only."""
    text = "vcc v 0 5\nrb v b 430k\nrc v c 1k\nq1 c b 0 m\n.model m npn(bf=100 cje=1p cjc=0.5p tf=20p)"
    result = scattering(structure(text), [Port("b"), Port("c")], FREQUENCY)
    assert result.operating_point.value("c") == pytest.approx(operating_point(structure(text)).value("c"), rel=1e-9)
    assert np.all(np.abs(result.values[0, 0, 1, 0]) > 1)


@settings(max_examples=40)
@given(PASSIVE_PARTS)
def test_passive_networks_are_reciprocal_and_passive(parts: list[tuple[str, int, int, float]]) -> None:
    ports = [Port("n0"), Port("n1", impedance=75), Port("n2")]
    s = scattering(structure(passive(parts, 50, 50e-9, 20e-12)), ports, FREQUENCY).values[0]
    assert s == pytest.approx(s.swapaxes(1, 2), abs=1e-9)
    assert np.linalg.norm(s, 2, axis=(1, 2)).max() <= 1 + 1e-9


def test_an_impedance_without_resistance_is_refused() -> None:
    with pytest.raises(CircuitError, match="above zero"):
        scattering(structure("r1 a 0 1"), [Port("a", impedance=10j)], FREQUENCY)
