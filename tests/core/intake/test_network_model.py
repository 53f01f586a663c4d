"""A Touchstone file that is placed as a part, beside its own numbers and scikit-rf."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
import skrf

from tests.core.boards import board, c, pair, port, r, source
from verdad_core.checks.experiment import prepare
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.errors import NetlistError
from verdad_core.intake.bundle import bundle
from verdad_core.intake.model import Model
from verdad_core.intake.reading import read_bundle
from verdad_core.intake.touchstone import NetworkData, read_touchstone, write_touchstone

DATA = Path(skrf.__file__).parent / "data"
_CONVERSIONS: Any = skrf.network


def model_of(name: str, text: str) -> Model:
    files, _ = bundle([(name, text.encode())])
    [entry] = read_bundle(files).entries
    assert entry.problem is None
    assert entry.kind.reason == "S-parameters of a network"
    return Model(files, name, entry.name, entry.roles)


def placed(pins: dict[str, str], fixtures: list[dict[str, object]], kind: str, **more: object) -> Board:
    part = {"kind": "modelled", "designator": "U1", "model": {"id": "m", "name": "network"}, "pins": pins}
    return board([part, *more.pop("parts", [])], fixtures, kind, **more)  # type: ignore[misc]


@pytest.mark.parametrize("name", ["ntwk1.s2p", "ring slot.s2p", "line.s2p", "tee.s3p"])
def test_ports_show_the_files_own_numbers(name: str) -> None:
    """At each frequency of the file, closed by other resistances than its own: scikit-rf renormalises it."""
    text = (DATA / name).read_text()
    model, file = model_of(name, text), read_touchstone(name, text)
    nets = [f"n{k}" for k in range(file.ports)]
    ohms = [30.0 + 20.0 * k for k in range(file.ports)]
    ports = [port(net, k + 1, impedance=f"{ohms[k]:g}") for k, net in enumerate(nets)]
    pins = dict(zip(model.roles, [*nets, "gnd"], strict=True))
    low, high = file.frequency[0], file.frequency[-1]
    drawn = placed(pins, ports, "ports", analysis={"start": f"{low}", "stop": f"{high}", "points_per_decade": 20})
    [row] = prepare(*pair(drawn), {"m": model}).rows()
    assert row.signals is not None
    other = skrf.Network(str(DATA / name))
    other.renormalize(ohms)
    axis = row.signals.others["s11"].along().values
    for j in range(file.ports):
        for k in range(file.ports):
            mine = np.asarray(row.signals.others[f"s{j + 1}{k + 1}"].values)
            for place in (0, -1):
                at = 0 if place == 0 else -1
                assert axis[place] == pytest.approx(file.frequency[at], rel=1e-9)
                assert abs(mine[place] - other.s[at, j, k]) < 1e-6


def low_pass(points: int = 201) -> NetworkData:
    """1 kΩ and 1 nF, from 100 Hz to 100 MHz, by its own closed form at 50 Ω."""
    frequency = np.geomspace(100.0, 1e8, points)
    y = 2j * np.pi * frequency * 1e-9
    chain = np.array([[1 + 1e3 * y, np.full(points, 1e3 + 0j)], [y, np.ones(points, complex)]])
    s: np.ndarray = _CONVERSIONS.a2s(np.moveaxis(chain, 2, 0), np.full((points, 2), 50.0))
    return NetworkData(frequency, s, np.array([50.0, 50.0]))


def test_it_follows_in_time_and_at_rest() -> None:
    """A step through 1 kΩ and 1 nF: 1 - exp(-t/τ), τ = 1 µs by a source of 0 Ω into no load."""
    model = model_of("low pass.s2p", write_touchstone(low_pass()))
    assert model.name == "low_pass"
    step = source(
        "in", waveform={"kind": "pulse", "level": "1", "rise": "1n", "fall": "1n", "width": "1", "every": None}
    )
    drawn = placed(
        dict(zip(model.roles, ["in", "out", "gnd"], strict=True)), [step], "transient",
        parts=[r("R9", "1meg", "out", "gnd"), c("C9", "1f", "out", "gnd")], analysis={"stop": "5u"},
    )  # fmt: skip
    [row] = prepare(*pair(drawn), {"m": model}).rows()
    assert row.signals is not None
    t, v = row.signals.axis.values, row.signals.voltages["out"]  # type: ignore[union-attr]
    expected = (1 - np.exp(-t / (1e-6 * 1000 / 1001))) * 1000 / 1001
    # Rational functions through the tables are within a thousandth of their largest value.
    assert np.max(np.abs(v - expected)[t > 2e-8]) < 5e-3


def test_what_gives_power_is_said_and_what_is_no_network_is_refused() -> None:
    _, findings = bundle([("amp.s2p", b"# MHz S MA R 50\n1 .1 0 3 180 .01 0 .1 0\n2 .1 0 3 170 .01 0 .1 0\n")])
    assert any("more comes out than goes in" in finding.message for finding in findings)
    with pytest.raises(NetlistError, match="no number") as caught:
        bundle([("amp.s2p", b"# MHz S MA R 50\n1 x 0 3 180 .01 0 .1 0\n")])
    assert (caught.value.place.file, caught.value.place.line) == ("amp.s2p", 2)


def test_a_sweep_takes_the_tables_range_and_says_where_it_goes_beyond() -> None:
    model = model_of("low pass.s2p", write_touchstone(low_pass()))
    pins = dict(zip(model.roles, ["in", "out", "gnd"], strict=True))
    drawn = placed(pins, [port("in", 1), port("out", 2)], "ports")
    result = run_check(drawn, "k", {"m": model})
    assert result.scale == "100 Hz to 100 MHz: the frequencies of the tables in it"
    assert not any("held" in f.message for f in result.findings)
    wide = placed(pins, [port("in", 1), port("out", 2)], "ports", analysis={"start": "10", "stop": "1meg"})
    assert any("its ends are held" in f.message for f in run_check(wide, "k", {"m": model}).findings)
