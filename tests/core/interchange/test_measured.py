"""Measured responses over what a check computes."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.boards import amplifier, asked, board, c, low_pass, pair, port, r, source
from verdad_core.analyses.scattering import renormalise
from verdad_core.checks.analyser import as_measured, network_of
from verdad_core.checks.experiment import prepare
from verdad_core.checks.kinds.ports import Ports
from verdad_core.checks.kinds.ringing import Ringing
from verdad_core.checks.overlaid import with_overlay, without_overlay
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.document.checks import Check
from verdad_core.document.measurements import Measurement
from verdad_core.errors import BoardError, VerdadError
from verdad_core.intake.touchstone import NetworkData, write_touchstone
from verdad_core.interchange.measured import overlay_of, read_measured
from verdad_core.measure.expressions import read_expression
from verdad_core.studies.keys import rows_key


def with_check(drawn: Board, check: Check) -> Board:
    circuit, _ = pair(drawn)
    return Board.model_validate(
        {**drawn.model_dump(), "circuits": [{**circuit.model_dump(), "checks": [check.model_dump()]}]}
    )


def filtered() -> Board:
    parts = [r("R1", "100", "in", "out"), c("C1", "1n", "out", "gnd")]
    return asked(Ports, [*parts, r("R2", "1k", "+5V", "-5V")], port("in", 1), port("out", 2))


def of_ports(drawn: Board) -> NetworkData:
    [row] = prepare(*pair(drawn), {}).rows()
    assert row.signals is not None
    return network_of(pair(drawn)[1], row.signals)


def test_a_touchstone_file_lies_over_its_own_simulation_and_leaves_nothing_between_them() -> None:
    """Written at other resistances than those of the ports, it is told at theirs."""
    drawn = filtered()
    network = of_ports(drawn)
    at_75 = renormalise(network.s, network.resistances, np.array([75.0 + 0j, 75.0 + 0j]))
    text = write_touchstone(NetworkData(network.frequency, at_75, np.array([75.0, 75.0])))
    circuit, check = pair(drawn)
    measured = read_measured("Lab 1.s2p", text.encode(), check)
    over = with_check(drawn, with_overlay(circuit, check, measured.overlay))
    own = pair(over)[1]
    # What it is a check of stays as it was.
    assert own.analysis == check.analysis
    result = run_check(over, "k", {})
    assert result.signals is not None
    curves = [curve.expression for card in own.cards or () for curve in card.curves]
    assert "db(lab_1.s21)" in curves
    assert "db(s21)-db(lab_1.s21)" in curves
    apart = np.real(result.signals.evaluate(read_expression("db(s21)-db(lab_1.s21)")).values)
    inside = apart[np.isfinite(apart)]
    # The run has points between those of the file, fifty a decade, where its poles turn the curve.
    assert len(inside) > 0.9 * len(apart)
    assert np.max(np.abs(inside)) < 2e-3
    assert without_overlay(own, "lab_1").overlays == ()
    left = [curve.expression for card in without_overlay(own, "lab_1").cards or () for curve in card.curves]
    assert not any("lab_1" in expression for expression in left)


def test_a_table_is_read_by_its_heading() -> None:
    check = pair(low_pass())[1]
    for text in (
        "f / kHz;gain / dB;phase / deg\r\n1;-3;-45\r\n2;-7;-63\r\n",
        "frequency / MHz,re,im\n0.001,0.5005938,-0.5005938\n0.002,0.2028,-0.398\n",
        "# a remark\nHz\tgain V/V\tphase rad\n1000\t0.7079458\t-0.7853982\n2000\t0.446684\t-1.099557\n",
    ):
        overlay = read_measured("table.csv", text.encode(), check).overlay
        assert overlay.frequency == (1000.0, 2000.0)
        assert overlay.values("response")[0] == pytest.approx(0.70794578 * np.exp(-0.25j * np.pi), rel=1e-5)


def test_what_a_table_lacks_is_said() -> None:
    check = pair(low_pass())[1]
    unheaded = read_measured("t.csv", b"10,-1\n30,-2\n20,-1.5\n20,-9\n,\n", check)
    told = " ".join(finding.message for finding in unheaded.findings)
    assert unheaded.overlay.frequency == (10.0, 20.0, 30.0)
    for words in ("taken for decibels", "no phase", "sorted", "twice"):
        assert words in told
    for text, words in (
        (b"", "no table"), (b"f;dB\n1;-1\n2;-1,5\n3;-2\n", "decimal comma"), (b"a,b\nc,d\n", "no table"),
        (b"0,-1\n1,-1\n", "fewer than two"),
    ):  # fmt: skip
        with pytest.raises(BoardError, match=words):
            read_measured("t.csv", text, check)


def test_a_file_of_other_ports_or_over_another_check_is_refused() -> None:
    drawn = filtered()
    one = b"# MHz S RI R 50\n1 0.1 0\n2 0.1 0\n"
    with pytest.raises(BoardError, match="has 1 port, this check 2"):
        read_measured("a.s1p", one, pair(drawn)[1])
    with pytest.raises(VerdadError, match="this check none"):
        read_measured("a.s1p", one, pair(low_pass())[1])
    rest = pair(board([r("R1", "1k", "a", "gnd")], [], "operating point"))[1]
    with pytest.raises(BoardError, match="over frequency first"):
        read_measured("t.csv", b"1,2\n2,3\n", rest)


def test_beyond_what_was_measured_there_is_no_number() -> None:
    drawn = low_pass()
    circuit, check = pair(drawn)
    measured = read_measured("t.csv", b"Hz,dB,deg\n100,-1,-10\n1000,-2,-20\n", check)
    wide = check.model_copy(update={"analysis": type(check.analysis).model_validate(
        {**check.analysis.model_dump(), "start": "10", "stop": "10k"})})  # fmt: skip
    result = run_check(with_check(drawn, with_overlay(circuit, wide, measured.overlay)), "k", {})
    assert result.signals is not None
    trace = result.signals.evaluate(read_expression("db(t.response)"))
    x, y = trace.along().values, np.real(trace.values)
    assert np.all(np.isnan(y[(x < 99.0) | (x > 1001.0)]))
    middle = float(np.interp(np.log(316.23), np.log(x[np.isfinite(y)]), y[np.isfinite(y)]))
    assert middle == pytest.approx(-1.5, abs=1e-4)
    phase = np.real(result.signals.evaluate(read_expression("phase(t.response)")).values)
    inside = (x >= 100.0) & (x <= 1000.0)
    assert phase[inside] == pytest.approx(-10.0 - 10.0 * np.log10(x[inside] / 100.0), abs=1e-6)
    assert np.all(np.isnan(phase[~inside & ((x < 99.0) | (x > 1001.0))]))


def test_the_virtual_analyser_adds_noise_and_the_length_of_its_connectors() -> None:
    """0.15 m at each port: what goes through turns by 360° at 1 GHz, twice 0.15 m of 0.2998 m; noise has its rms."""
    ones = np.ones((4000, 2, 2), complex)
    network = NetworkData(np.linspace(1e9, 1e9 + 1.0, 4000), ones, np.array([50.0, 50.0]))
    seen = as_measured(network, -60.0, 0.149896229)
    off = seen.s[:, 1, 0] - 1.0
    assert np.sqrt(np.mean(np.abs(off) ** 2)) == pytest.approx(1e-3, rel=0.05)
    quiet = as_measured(network, -300.0, 0.149896229 / 4.0)
    assert quiet.s[0, 1, 0] == pytest.approx(-1j, abs=1e-6)
    drawn = filtered()
    overlay = overlay_of("analyser", as_measured(of_ports(drawn), -80.0, 0.0), pair(drawn)[1])
    assert overlay.name == "analyser"


def test_what_runs_along_something_else_takes_no_response() -> None:
    parts = [r("R1", "1k", "in", "p"), c("C1", "10n", "p", "gnd"), amplifier("U1", "p", "out", "out")]
    circuit, check = pair(asked(Ringing, parts, source("in")))
    overlay = read_measured("t.csv", b"Hz,dB\n10,-1\n20,-2\n", check).overlay
    with pytest.raises(BoardError, match="does not run over frequency"):
        with_overlay(circuit, check, overlay)


def test_evidence_stays_where_a_response_only_lies_over_a_check() -> None:
    """And goes where a measurement looks at it."""
    study = {"id": "mc", "title": "mc", "kind": "monte carlo", "checks": ["k"], "rows": 60}
    drawn = low_pass(studies=[study])
    circuit, check = pair(drawn)
    overlay = read_measured("t.csv", b"Hz,dB,deg\n100,-1,-10\n1000,-2,-20\n", check).overlay
    over = with_overlay(circuit, check, overlay)
    key = rows_key(drawn, drawn.studies[0], "k", {})

    def with_check_in(own: Check) -> Board:
        circuits = [{**circuit.model_dump(), "checks": [own.model_dump()]}]
        return Board.model_validate(drawn.model_dump(mode="json") | {"circuits": circuits})

    assert rows_key(with_check_in(over), drawn.studies[0], "k", {}) == key
    apart = Measurement(id="apart", key="maximum", of="db(response)-db(t.response)")
    looking = over.model_copy(update={"measurements": (*over.measurements, apart)})
    assert rows_key(with_check_in(looking), drawn.studies[0], "k", {}) != key


def test_measured_reflections_are_told_in_ohms_at_their_own_places() -> None:
    """At a port of 4.7 kΩ, 0.5 is 14.1 kΩ; with a reactance no ohms are told of them."""
    parts = [r("R1", "100", "in", "out"), c("C1", "1n", "out", "gnd"), r("R2", "1k", "+5V", "-5V")]
    for more, told in (({"impedance": "4k7"}, True), ({"impedance": "50", "reactance": "10"}, False)):
        drawn = asked(Ports, parts, port("in", 1, **more), port("out", 2))
        circuit, check = pair(drawn)
        half = NetworkData(np.array([1e3, 1e9]), np.full((2, 2, 2), 0.5 + 0j), np.array([4700.0, 50.0]))
        own = with_overlay(circuit, check, overlay_of("lab.s2p", half, check))
        [smith] = [card for card in own.cards or () if card.shape == "smith"]
        by_pane = [[curve.expression for curve in smith.curves if curve.pane == pane] for pane in (0, 1)]
        assert by_pane[0] == ["s11", "s22", "lab.s11", "lab.s22"]
        assert len(by_pane[1]) == (4 if told else 2)
        result = run_check(with_check(drawn, own), "k", {})
        if told and result.signals is not None:
            ohms = result.signals.evaluate(read_expression(by_pane[1][2])).values
            assert ohms[np.isfinite(ohms)][0] == pytest.approx(14100.0, rel=1e-6)
