"""One contract for all kinds of check: a newcomer meets it by being in the table."""

from __future__ import annotations

import ast
import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from pydantic import TypeAdapter, ValidationError

from tests.core.boards import (
    DRIVEN_BY,
    RAILS,
    SINE,
    STAGE,
    amplifier,
    asked,
    board,
    c,
    low_pass,
    pair,
    r,
    source,
    supply,
)
from verdad_core.checks.cause import Cause
from verdad_core.checks.experiment import prepare
from verdad_core.checks.fresh import fresh_check, fresh_measurements, of_kind, questions
from verdad_core.checks.kind import CheckKind, kind_of
from verdad_core.checks.kinds import KINDS
from verdad_core.checks.kinds.switched_loop import SwitchedLoop
from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.checks.repeating import Repeating
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, ConvergenceError
from verdad_core.intake.bundle import bundle
from verdad_core.intake.model import Model
from verdad_core.interchange.from_netlist import from_netlist
from verdad_core.interchange.to_netlist import to_netlist
from verdad_core.netlist.reader import read
from verdad_core.schema import chosen

every_kind = pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.key())


@every_kind
def test_rows_are_the_same_wherever_they_are_cut(kind: type[CheckKind]) -> None:
    experiment = prepare(*pair(asked(kind)), {})
    values = {("R1", "resistance"): np.linspace(500.0, 2e3, 6), ("R2", "resistance"): np.linspace(8e3, 9e3, 6)}
    matrix = ParameterMatrix.varied(experiment.structure, values)

    def out(rows: ParameterMatrix) -> list[Any]:
        found = [result.signals for result in experiment.rows(rows)]
        main = [signals.others.get(kind.main) for signals in found if signals is not None]
        if all(trace is not None for trace in main):
            return [np.asarray(trace.values).tolist() for trace in main if trace is not None]
        return [np.asarray(signals.voltages["out"]).tolist() for signals in found if signals is not None]

    whole = out(matrix)
    assert len(whole) == 6
    assert [row for k in range(6) for row in out(matrix.row(k))] == whole


@every_kind
def test_a_fresh_check_measures_what_it_begins_with_in_the_unit_that_was_declared(kind: type[CheckKind]) -> None:
    drawn = asked(kind)
    circuit, check = pair(drawn)
    result = run_check(drawn, "k", {})
    assert not [finding.message for finding in result.findings if finding.severity == "error"]
    for measurement, found in zip(check.measurements, result.measured, strict=True):
        assert np.isfinite(found.value), measurement.title
        assert found.unit == unit_of_measurement(circuit, check, measurement)
    assert result.signals is not None
    assert set(result.signals.others) <= kind_of(check).traces(circuit, check)
    for card in check.analysis.usual_cards(circuit, check):  # type: ignore[attr-defined]
        assert card.curves or card.shape in ("shares", "poles")


@every_kind
def test_the_netlist_of_a_check_asks_for_the_same(kind: type[CheckKind]) -> None:
    circuit, check = pair(asked(kind))
    written = to_netlist(circuit, {}, check)
    [again] = from_netlist(read(written), {}, set(), "c", "c").circuit.checks
    if not kind.has_statement:
        assert "no statement asks for it" in written
        return
    assert again.analysis.kind == check.analysis.kind
    assert again.analysis.nets == check.analysis.nets or not check.analysis.nets


@every_kind
def test_a_row_without_a_solution_and_one_that_is_unstable_say_so(kind: type[CheckKind]) -> None:
    swapped = [*STAGE[:2], amplifier("U1", "fb", "p", "out"), *STAGE[3:]]
    drivers = DRIVEN_BY.get(kind.key(), [SINE] if issubclass(kind, Repeating) else [source("in")])
    experiment = prepare(*pair(asked(kind, swapped, *drivers)), {})
    [result] = experiment.rows()
    if kind.rests:
        assert result.cause is Cause.UNSTABLE
    assert any("right half-plane" in finding.message for finding in result.findings)


@every_kind
def test_look_ends_a_run_with_what_it_has(kind: type[CheckKind]) -> None:
    def look(done: float) -> None:
        if done > 0.3:
            raise ConvergenceError("enough")

    result = run_check(asked(kind), "k", {}, look=look)
    assert (result.signals is not None) or kind is SwitchedLoop
    assert kind.one_by_one == any("enough" in finding.message for finding in result.findings)


@every_kind
def test_what_the_interface_is_told_can_be_drawn(kind: type[CheckKind]) -> None:
    assert kind.title
    assert kind.meaning.endswith(".")
    assert kind.asked(None).endswith("?")
    for name, field in kind.model_json_schema()["properties"].items():
        if name == "kind":
            continue
        assert field["title"][:1].isupper() or field["title"].startswith("and ")
        types = {each.get("type") for each in field.get("anyOf", [field])}
        assert types <= {"string", "integer", "boolean", "null"}, name
        assert field.get("chooses", "net") in ("net", "driver", "pin", "quantity", "swept")
        assert "null" not in types or field["empty"]
        assert not field.get("enum") or set(field["titles"]) == set(field["enum"])


@every_kind
def test_a_check_can_be_given_any_kind_and_what_it_cannot_measure_goes(kind: type[CheckKind]) -> None:
    drawn = asked(kind, STAGE, SINE, *DRIVEN_BY["ports"])
    circuit, check = pair(drawn)
    for other in KINDS:
        changed = of_kind(circuit, check, other.key())
        document = {**circuit.model_dump(), "checks": [changed.model_dump()]}
        Board.model_validate({**drawn.model_dump(), "circuits": [document]})
        assert {m.id for m in fresh_measurements(changed.analysis)} <= {m.id for m in changed.measurements}  # type: ignore[arg-type]


def test_questions_name_what_the_circuit_has_or_say_what_is_missing() -> None:
    circuit, check = pair(board(STAGE, [*RAILS, SINE], "operating point"))
    told = {each.kind.title: (each.words, each.missing) for each in questions(circuit, check)}
    assert told["Frequency response"] == ("How does out follow vin over frequency?", "")
    assert told["Noise"][0] == "How much noise is there at out, and from what?"
    assert told["Transient"][0] == "How does out move in time?"
    told = {each.kind.title: (each.words, each.missing) for each in questions(circuit, None)}
    assert "needs a source" in told["Frequency response"][1]
    assert told["Operating point"][1] == ""
    # Without a source a part is swept.
    assert chosen(fresh_check(low_pass(), circuit, "dc sweep", None).analysis, "swept") == ("R1",)


def test_a_wrong_setting_is_found_at_its_field() -> None:
    blank = board(STAGE, [*RAILS, SINE], "transient")
    document = blank.model_dump()
    document["circuits"][0]["checks"][0]["analysis"]["stop"] = "-1m"
    with pytest.raises(ValidationError) as caught:
        Board.model_validate(document)
    assert caught.value.errors()[0]["loc"] == ("circuits", 0, "checks", 0, "analysis", "stop")
    with pytest.raises(BoardError, match="no kind of check 'tea leaves'"):
        fresh_check(blank, pair(blank)[0], "tea leaves", None)


def test_the_schema_of_the_document_knows_every_kind() -> None:
    schema = TypeAdapter(Board).json_schema()
    told = schema["$defs"]["Check"]["properties"]["analysis"]["discriminator"]["mapping"]
    assert set(told) == {kind.key() for kind in KINDS}


ROOT = Path(__file__).parents[3]


def test_nothing_asks_for_a_kind_but_its_own_file() -> None:
    """No match and no comparison over kinds of check anywhere else, in the core or the interface."""
    keys = {kind.key() for kind in KINDS} - {"noise"}  # noise is also a waveform of a source
    names = {kind.__name__ for kind in KINDS}
    for path in sorted((ROOT / "src/verdad_core").rglob("*.py")):
        if "kinds" in path.parts or path.parts[-2] not in ("checks", "document", "studies", "interchange", "sheet"):
            continue
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Compare | ast.MatchValue):
                said = {each.value for each in ast.walk(node) if isinstance(each, ast.Constant)}
                assert not {text for text in said if isinstance(text, str)} & keys, f"{path.name}:{node.lineno}"
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "isinstance":
                asked_for = {each.id for each in ast.walk(node) if isinstance(each, ast.Name)}
                assert not asked_for & names, f"{path.name}:{node.lineno}"
    compared = re.compile(rf"===?\s*'({'|'.join(sorted(keys))})'|case '({'|'.join(sorted(keys))})'")
    for path in sorted((ROOT / "web/src").rglob("*")):
        if path.suffix in (".ts", ".vue") and "generated" not in path.parts and ".test." not in path.name:
            assert not compared.search(path.read_text()), path.name


def test_thermal_noise_of_a_resistor_and_of_a_capacitor() -> None:
    """√(4kTR) for 1 kΩ and √(kT/C) for 10 nF at 27 °C (Nyquist 1928), with CODATA's k."""
    from scipy.constants import k

    drawn = board(
        [r("R1", "1k", "in", "out"), c("C1", "10n", "out", "gnd")], [source("in")], "noise", output="out",
        source="vin", analysis={"start": "1m", "stop": "1G"}, measurements=[
            {"id": "all", "key": "band_rms", "of": "noise"},
            {"id": "low", "key": "value", "of": "input_noise", "settings": {"place": "1k"}},
        ],
    )  # fmt: skip
    result = run_check(drawn, "k", {})
    whole, low = (measured.value for measured in result.measured)
    assert whole == pytest.approx(np.sqrt(k * 300.15 / 10e-9), rel=1e-3)  # the band ends at 1 GHz, 60,000 corners up
    assert low == pytest.approx(np.sqrt(4 * k * 300.15 * 1e3), rel=1e-6)
    assert [measured.unit for measured in result.measured] == ["V", "V/√Hz"]
    assert result.signals is not None
    assert [(share.name, round(share.part, 6)) for share in result.signals.shares] == [("R1", 1.0), ("vin", 0.0)]


def test_noise_is_told_by_part_and_by_what_makes_it() -> None:
    """What is silenced afterwards leaves the rest.

    A diode at 1 mA in a resistor of 1 kΩ: 2qI by 4kT/R is 1 mA · 1 kΩ · 2q / 4kT (Schottky 1918, Nyquist 1928).
    """
    from scipy.constants import e, k

    drawn = board(
        [r("R1", "1k", "in", "out"),
         {"kind": "generic", "designator": "D1", "part": "diode", "pins": {"anode": "out", "cathode": "gnd"}}],
        [source("in", dc="1.7")], "noise", output="out", source="vin", analysis={"start": "1", "stop": "1k"},
        measurements=[{"id": "all", "key": "band_rms", "of": "noise"},
                      {"id": "rest", "key": "band_rms", "of": "sqrt(noise^2 - noise.R1^2)"},
                      {"id": "d1", "key": "band_rms", "of": "noise.d1"}],
    )  # fmt: skip
    result = run_check(drawn, "k", {}, metered=["D1.anode"])
    assert result.signals is not None
    amperes = abs(float(result.nodes["in"]) - float(result.nodes["out"])) / 1e3
    shares = {share.name: share for share in result.signals.shares}
    assert shares["D1"].mechanisms[0].name == "shot"
    shot = next(m.part for m in shares["D1"].mechanisms if m.name == "shot") * shares["D1"].part
    assert shot / shares["R1"].part == pytest.approx(amperes * 1e3 * 2 * e / (4 * k * 300.15), rel=1e-3)
    assert [share.trace for share in result.signals.shares[:2]] == ["noise.D1", "noise.R1"]
    _, rest, own = (measured.value for measured in result.measured)
    assert rest == pytest.approx(np.sqrt(own**2 + shares["vin"].value ** 2), rel=1e-9)


@pytest.mark.parametrize(("ohms", "decibels"), [("1G", 0.0), ("50", 3.0103), ("25", 4.7712)])
def test_the_noise_figure_of_a_resistor_across_a_source(ohms: str, decibels: float) -> None:
    """Of Rp beside a source of Rs, both at 290 K: 1 + Rs/Rp, a passive part's loss (Friis 1944, from memory)."""
    drawn = board(
        [r("R1", ohms, "in", "gnd"), r("R2", "1G", "in", "gnd")], [source("in", resistance="50")], "noise", output="in",
        source="vin", temperature="16.85", analysis={"start": "10", "stop": "100k"},
        measurements=[{"id": "nf", "key": "noise_figure", "of": "input_noise",
                       "settings": {"resistance": "50", "warm": "16.85"}}],
    )  # fmt: skip
    [found] = run_check(drawn, "k", {}).measured
    assert found.value == pytest.approx(decibels, abs=1e-4)


def test_a_model_without_noise_is_named_beside_the_sum() -> None:
    files, _ = bundle([("m.lib", b".subckt amp p n o\ne1 o 0 p n 1e5\n.ends\n")])
    model = Model(files, "m.lib", "amp", ("in+", "in-", "out"))
    pins = {"in+": "in", "in-": "out", "out": "out"}
    amp = {"kind": "modelled", "designator": "U1", "model": {"id": "m", "name": "amp"}, "pins": pins}
    drawn = board(
        [amp, r("R1", "1k", "out", "gnd")], [source("in", resistance="1k")], "noise", output="out", source="vin"
    )
    words = [finding.message for finding in run_check(drawn, "k", {"m": model}).findings]
    assert any("U1 makes no noise" in each for each in words)


def test_noise_of_currents_is_in_amperes_by_the_root_of_a_hertz() -> None:
    """√(4kT/R) through 1 kΩ between two ideal sources (Nyquist 1928), with CODATA's k; one-sided, as √(4kTR) is."""
    from scipy.constants import k

    asked_for = [{"id": "i", "key": "value", "of": "i(R1.1)", "settings": {"place": "1k"}}]
    drawn = board(
        [r("R1", "1k", "in", "top")], [source("in"), supply("top", "1")], "noise", output="in",
        analysis={"start": "100", "stop": "10k"}, measurements=asked_for,
    )  # fmt: skip
    [found] = run_check(drawn, "k", {}).measured
    assert found.unit == "A/√Hz"
    # The ideal source has 1 µΩ: a billionth beside R1.
    assert found.value == pytest.approx(np.sqrt(4 * k * 300.15 / 1e3), rel=1e-6)


def test_all_units_of_a_package_are_one_share() -> None:
    files, _ = bundle([("m.lib", b".subckt amp p n o\nr1 p n 1meg\ne1 x 0 p n 1e5\nr2 x o 100\n.ends\n")])
    model = Model(files, "m.lib", "amp", ("in+", "in-", "out"))
    pins = {"A.in+": "in", "A.in-": "o1", "A.out": "o1", "B.in+": "o1", "B.in-": "out", "B.out": "out"}
    dual = {"kind": "modelled", "designator": "U1", "model": {"id": "m", "name": "amp"}, "units": 2, "pins": pins}
    drawn = board([dual, r("R1", "1k", "out", "gnd")], [source("in", resistance="1k")], "noise", output="out")
    result = run_check(drawn, "k", {"m": model})
    assert result.signals is not None
    assert {share.name for share in result.signals.shares} == {"U1", "R1", "vin"}
    assert sum(share.part for share in result.signals.shares) == pytest.approx(1.0)


def test_what_a_circuit_draws_at_rest_is_said() -> None:
    """5 V over 10 kΩ and ±5 V over 20 kΩ: 0.75 mA from the upper one, 0.25 mA from the lower (Ohm)."""
    drawn = board(
        [r("R1", "10k", "vp", "gnd"), r("R2", "20k", "vp", "out"), r("R3", "20k", "out", "vn")],
        [source("out", dc="0", resistance="1meg"), supply("vp", "5"), supply("vn", "-5")], "operating point",
    )  # fmt: skip
    assert run_check(drawn, "k", {}).sentence == "It draws 750 µA from vp and 250 µA from vn at rest: 5 mW."
    back = board(
        [r("R1", "1k", "vp", "out")], [source("out", dc="7", resistance="0"), supply("vp", "5")], "operating point"
    )
    assert run_check(back, "k", {}).sentence == "It gives 2 mA back to vp at rest: -10 mW."
    silent = board([r("R1", "10k", "vp", "in")], [source("in"), supply("vp", "0")], "operating point")
    assert run_check(silent, "k", {}).sentence == "It draws nothing at rest."
