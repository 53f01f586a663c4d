"""Touchstone files beside scikit-rf, which reads and writes them too, and beside the specification's own rules."""

from __future__ import annotations

import cmath
import io
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import skrf

from verdad_core.errors import NetlistError
from verdad_core.intake.touchstone import NetworkData, is_touchstone, read_touchstone, write_touchstone

_CONVERSIONS: Any = skrf.network
_FILES = sorted((Path(skrf.__file__).parent / "data").glob("*.s?p"))


@pytest.mark.parametrize("path", _FILES, ids=[path.name for path in _FILES])
def test_files_of_others_are_read_as_scikit_rf_does(path: Path) -> None:
    found = read_touchstone(path.name, path.read_text(errors="replace"))
    other = skrf.Network(str(path))
    assert found.frequency == pytest.approx(other.f, rel=1e-12)
    assert np.max(np.abs(found.s - other.s)) < 1e-12
    assert found.resistances == pytest.approx(other.z0[0].real)


def network(ports: int, resistances: list[float], points: int = 7) -> NetworkData:
    random = np.random.default_rng(ports)
    parts = random.normal(size=(2, points, ports, ports))
    s = np.asarray(0.3 * (parts[0] + 1j * parts[1]), complex)
    return NetworkData(np.geomspace(1e6, 1e9, points), s, np.array(resistances))


@pytest.mark.parametrize("ports", range(1, 6))
def test_what_is_written_scikit_rf_reads(ports: int, tmp_path: Path) -> None:
    data = network(ports, [75.0] * ports)
    path = tmp_path / f"written.s{ports}p"
    path.write_text(write_touchstone(data, "made here"))
    other = skrf.Network(str(path))
    assert np.max(np.abs(other.s - data.s)) < 1e-11
    assert other.z0[0].real == pytest.approx(data.resistances)


@pytest.mark.parametrize("ports", range(1, 6))
def test_unequal_references_are_written_as_version_2_and_read_back(ports: int) -> None:
    data = network(ports, [50.0 + 25.0 * k for k in range(ports)])
    text = write_touchstone(data)
    assert ("[Version] 2.0" in text) == (ports > 1)
    again = read_touchstone("any.ts" if ports > 1 else "any.s1p", text)
    assert np.max(np.abs(again.s - data.s)) < 1e-11
    assert again.resistances == pytest.approx(data.resistances)
    if ports == 2:
        file = io.StringIO(text)
        file.name = "any.ts"
        assert np.max(np.abs(skrf.Network(file).s - data.s)) < 1e-11


def as_pair(written: str, value: complex) -> tuple[float, float]:
    size, angle = abs(value), math.degrees(cmath.phase(value))
    return {"RI": (value.real, value.imag), "MA": (size, angle), "DB": (20 * math.log10(size), angle)}[written]


def test_forms_formats_and_units_say_the_same() -> None:
    """Z, Y, H and G of one network at two resistances, by scikit-rf's conversions; normalised in version 1."""
    s = network(2, [50.0, 50.0]).s
    to = np.full((len(s), 2), 50.0)
    forms = {"Z": _CONVERSIONS.s2z(s, to) / 50.0, "Y": _CONVERSIONS.s2y(s, to) * 50.0, "S": s}
    hybrid, inverse = _CONVERSIONS.s2h(s, to), _CONVERSIONS.s2g(s, to)
    forms["H"] = hybrid * np.array([[1 / 50.0, 1.0], [1.0, 50.0]])
    forms["G"] = inverse * np.array([[50.0, 1.0], [1.0, 1 / 50.0]])
    for form, values in forms.items():
        for written in ("RI", "MA", "DB"):
            lines = [f"# MHz {form} {written} R 50"]
            for k, matrix in enumerate(values):
                numbers = [x for v in matrix.T.ravel() for x in as_pair(written, complex(v))]
                lines.append(f"{k + 1} " + " ".join(f"{x:.15g}" for x in numbers))
            found = read_touchstone("x.s2p", "\n".join(lines))
            assert found.frequency[1] == 2e6
            assert np.max(np.abs(found.s - s)) < 1e-9, (form, written)


def test_version_2_halves_order_and_information() -> None:
    text = """! a made-up network
[Version] 2.0
# GHz S RI R 50
[Number of Ports] 2
[Two-Port Data Order] 12_21
[Number of Frequencies] 1
[Matrix Format] Lower
[Reference] 50 75
[Begin Information]
1 2 3
[End Information]
[Network Data]
1 0.1 0 0.5 0 0.2 0
[Noise Data]
1 2 3 4 5
[End]
"""
    found = read_touchstone("x.ts", text)
    assert found.s[0].tolist() == [[0.1, 0.5], [0.5, 0.2]]
    assert found.resistances.tolist() == [50.0, 75.0]
    full = text.replace("Lower", "Full").replace("0.5 0 0.2", "0.5 0 0.4 0 0.2")
    assert read_touchstone("x.ts", full).s[0].tolist() == [[0.1, 0.5], [0.4, 0.2]]


def test_what_is_wrong_is_said_at_its_line_and_what_can_be_mended_is_noted() -> None:
    two = "# MHz S MA R 50\n1 .1 0 .9 0 .9 0 .1 0\n"
    for name, text, line, words in (
        ("a.s2p", two + "2 .1 0 .9,5 0 .9 0 .1 0\n", 3, "no number"),
        ("a.s1p", two, 2, "name says 1 ports"),
        ("a.s2p", two + "2 .1 0 .9 0\n", 3, "4 of 8"),
        ("a.s2p", "# MHz S XX R 50\n1 2\n", 1, "not known"),
        ("a.s2p", "! nothing\n", 1, "no data"),
        ("a.txt", "1 2 3 4 5\n", 1, "no square"),
    ):
        with pytest.raises(NetlistError, match=words) as caught:
            read_touchstone(name, text)
        assert caught.value.place.line == line
    mended = read_touchstone("a.s2p", two + "3 .1 0 .9 0 .9 0 .1 0\n2 .1 0 .8 0 .9 0 .1 0\n2 .1 0 .7 0 .9 0 .1 0\n")
    assert mended.frequency.tolist() == [1e6, 2e6, 3e6]
    assert mended.s[1, 1, 0] == 0.8
    assert {"sorted", "twice"} <= {word for f in mended.findings for word in f.message.replace(";", "").split()}
    noisy = read_touchstone("a.s2p", two + "2 .1 0 .9 0 .9 0 .1 0\n1 2.5 .3 40 .2\n")
    assert len(noisy.frequency) == 2
    assert "noise" in noisy.findings[0].message


def test_how_many_ports_there_are_follows_from_the_lines_where_the_name_is_silent() -> None:
    for ports in (1, 2, 3, 4, 5):
        assert read_touchstone("pasted", write_touchstone(network(ports, [50.0] * ports))).ports == ports
    assert is_touchstone("LINE.S4P")
    assert not is_touchstone("op.lib")


def test_more_coming_out_than_going_in_is_found() -> None:
    """A gain of 2 in one direction."""
    s = np.array([[[0, 0], [2, 0]]], complex)
    largest, where = NetworkData(np.array([1e6]), s, np.array([50.0, 50.0])).activity
    assert largest == pytest.approx(2.0)
    assert where == 1e6
