"""Sources of a netlist become fixtures and are written back; waveforms and recordings are what they say."""

import io
import math

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from scipy.io import wavfile

from tests.core.boards import board, r, source
from verdad_core.analyses.transient import transient
from verdad_core.arrays import Floats
from verdad_core.checks.preview import waveform_trace
from verdad_core.checks.run import run_check
from verdad_core.document.fixtures import Source
from verdad_core.document.waveforms import MAX_SAMPLES
from verdad_core.engine.structure import compile_structure
from verdad_core.errors import BoardError
from verdad_core.interchange.from_netlist import TakenOver, from_netlist
from verdad_core.interchange.recordings import read_recording
from verdad_core.interchange.to_netlist import to_netlist
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read
from verdad_core.netlist.scope import Netlist

#: Statements, and the waveform that each is taken over as.
STATEMENTS = {
    "dc 1 ac 1": None, "sin(1 2 1k 1m 0 30)": "sine", "pulse(0 5 1u 1n 1n 5u 10u)": "pulse", "pulse(0 5 1u 1n)": "step",
    "pwl(0 0 1m 1 2m 0)": "piecewise linear", "pwl(0 0 1m 1 2m 0) repeat=0": "piecewise linear",
    "exp(0 1 1u 1u 5u 1u)": "written source", "sin(1 2 1k 0 5)": "written source",
}  # fmt: skip


def taken(text: str) -> TakenOver:
    return from_netlist(read(f"{text}\n"), {}, set(), "c", "c")


@pytest.mark.parametrize("statement", STATEMENTS)
@pytest.mark.parametrize("letter", ["v", "i"])
def test_a_source_is_taken_over_and_written_back_the_same(letter: str, statement: str) -> None:
    circuit = taken(f"{letter}1 a 0 {statement}\nr1 a 0 1k").circuit
    [check] = circuit.checks
    [fixture] = check.fixtures
    expected = STATEMENTS[statement]
    if isinstance(fixture, Source):
        assert (fixture.waveform.kind if fixture.waveform else None) == expected
        assert fixture.quantity == ("voltage" if letter == "v" else "current")
    else:
        assert expected == "written source"
    again = from_netlist(read(to_netlist(circuit, {}, check)), {}, set(), "c", "c").circuit
    assert again.checks[0].fixtures == check.fixtures


@pytest.mark.parametrize("quantity", ["voltage", "current"])
def test_noise_is_written_beside_its_direct_value(quantity: str) -> None:
    """What was written simulates as the check does: a mean of 2 V, and the same deviation."""
    noise = source("out", quantity=quantity, dc="2", resistance="1", waveform={"kind": "noise", "rms": "10m"})
    parts = [r("R1", "1meg", "out", "gnd")]
    checked = board(parts, [noise], "transient", analysis={"stop": "1m"})
    circuit, check = checked.check("k")
    result = run_check(checked, "k", {})
    assert result.signals is not None
    simulated = in_time(read(to_netlist(circuit, {}, check)))
    assert np.mean(simulated) == pytest.approx(2.0, abs=4e-3)
    assert np.std(simulated) == pytest.approx(float(np.std(result.signals.voltages["out"])), rel=0.1)


def in_time(netlist: Netlist) -> Floats:
    """v(out) of a netlist's first millisecond."""
    flat = flatten(netlist.require())
    return transient(compile_structure(flat.elements), 1e-3, [("out", "0")]).require().values[0]


def test_analyses_become_checks_of_their_own() -> None:
    cards = (
        "v1 in 0 dc 1 ac 1 sin(1 1 1k)", "r1 in out 1k", "c1 out 0 1u", ".op", ".ac dec 10 1 1meg", ".tran 1u 5m",
        ".dc v1 0 5 0.1", ".temp 85", ".noise v(out) v1 dec 10 1 1k",
        ".tf v(out) v1",
    )  # fmt: skip
    took = taken("\n".join(cards))
    kinds = [check.analysis.kind for check in took.circuit.checks]
    assert kinds == ["operating point", "frequency response", "transient", "dc sweep", "noise"]
    assert {check.temperature for check in took.circuit.checks} == {"85"}
    assert len({check.id for check in took.circuit.checks}) == 5
    [note] = [finding for finding in took.findings if "not taken over" in finding.message]
    assert note.place.line == 10
    for check in took.circuit.checks:
        again = from_netlist(read(to_netlist(took.circuit, {}, check)), {}, set(), "c", "c").circuit.checks[0]
        assert (again.analysis.kind, again.temperature) == (check.analysis.kind, "85")


def of(**waveform: object) -> Source:
    return Source.model_validate({"name": "s", "plus": "a", "dc": "1", "resistance": "0", "waveform": waveform})


def test_equal_instants_are_spread() -> None:
    wave = of(kind="piecewise linear", corners=[["0", "0"], ["1m", "0"], ["1m", "1"], ["1m", "2"], ["2m", "2"]])
    found = waveform_trace(wave)
    assert found is not None
    assert found.axis is not None
    at = np.interp([0.5e-3, 1.5e-3], found.axis.values, found.values)
    assert at == pytest.approx([0, 2], abs=1e-5)
    assert np.all(np.diff(found.axis.values) >= 0)


@pytest.mark.parametrize(
    ("waveform", "least", "most"),
    [({"kind": "sine", "amplitude": "2"}, -1, 3), ({"kind": "step", "level": "4", "delay": "1m"}, 1, 4),
     ({"kind": "pulse", "level": "-3"}, -3, 1)],
)  # fmt: skip
def test_waveforms_begin_at_the_direct_value(waveform: dict[str, object], least: float, most: float) -> None:
    found = waveform_trace(of(**waveform))
    assert found is not None
    assert found.values[0] == pytest.approx(1, abs=1e-5)
    assert (found.values.min(), found.values.max()) == pytest.approx((least, most), abs=5e-3)


@pytest.mark.parametrize(
    ("waveform", "words"),
    [({"kind": "piecewise linear", "corners": [["1m", "0"], ["0", "1"]]}, "before the one above"),
     ({"kind": "piecewise linear", "corners": [["1m", "0"]], "repeat": True}, "needs a length"),
     ({"kind": "pulse", "width": "2m", "every": "1m"}, "longer than its period")],
)  # fmt: skip
def test_waveforms_that_cannot_be_are_refused(waveform: dict[str, object], words: str) -> None:
    with pytest.raises(ValueError, match=words):
        of(**waveform)


def test_a_source_has_its_own_unit() -> None:
    with pytest.raises(ValueError, match="A is expected"):
        board([r("R1", "1", "a", "gnd")], [source("a", quantity="current", dc="1V")], "operating point")


def test_csv_is_read_whatever_stands_above_it() -> None:
    found = read_recording("shock.csv", b"made up\ntime;volts\n0;0\n1m;2.5\n2m;-1\n")
    assert (found.waveform.samples, found.waveform.interval, found.findings) == ((0.0, 2.5, -1.0), "1m", ())
    uneven = read_recording("shock.csv", b"0,0\n1,1\n4,4\n")
    assert uneven.waveform.samples == (0.0, 2.0, 4.0)
    assert "not even" in uneven.findings[0].message


def test_wav_is_read_by_full_scale() -> None:
    file = io.BytesIO()
    wavfile.write(file, 8000, (16384 * np.sin(2 * math.pi * np.arange(20_000) / 80)).astype(np.int16))
    found = read_recording("shot.wav", file.getvalue())
    assert len(found.waveform.samples) == MAX_SAMPLES
    assert max(found.waveform.samples) == pytest.approx(0.5, abs=1e-4)
    assert found.waveform.interval in {"125u", "125µ"}
    assert "the first 10,000 are used" in found.findings[0].message


@pytest.mark.parametrize(
    ("data", "words"),
    [(b"", "no rows"), (b"0,1\n", "no rows"), (b"0,1\n1,2\nx,y\n", "no time and value: 'x'"),
     (b"0,1\n1,2\n3\n", "'3' stands alone"),
     (b"0,1\n0,2\n", "do not rise"), (b"RIFF....WAVEjunk", "WAV"), (b"\xff\xfe\x00", "no rows")],
)  # fmt: skip
def test_what_is_no_recording_is_refused(data: bytes, words: str) -> None:
    with pytest.raises(BoardError, match=words):
        read_recording("x", data)


def _wav_bytes(kind: type[np.generic], count: int) -> bytes:
    file = io.BytesIO()
    wavfile.write(file, 8000, np.arange(count).astype(kind))
    return file.getvalue()


#: Rows as they come, with any line end and anything between; and WAV files with some bytes changed.
ROWS = st.lists(st.one_of(st.text(), st.from_regex(r"[0-9]{1,3}(e[0-9]{1,3})?[,;\t]-?[0-9]{1,3}[\r\n]{1,2}")))
WAVS = st.sampled_from([_wav_bytes(kind, 9) for kind in (np.uint8, np.int16, np.float32)])
FILES = st.one_of(
    st.binary(),
    ROWS.map(lambda rows: "".join(rows).encode()),
    st.builds(
        lambda wav, at, change: wav[:at] + change + wav[at + len(change) :],
        WAVS, st.integers(4, 70), st.binary(min_size=1, max_size=4),
    ),
)  # fmt: skip


@given(st.text(), FILES)
@example("recording", b"\xf2\x87\x8f\xb4\xc3\x9d\r\xc2\x94\x0f\r\n")
@example("recording", b"0,0\r1,1\r")
@example("recording", b"0,-1e308\n1,1e308\n1e308,0\n")
def test_any_file_is_read_or_refused(name: str, data: bytes) -> None:
    try:
        found = read_recording(name, data).waveform
    except BoardError as error:
        assert str(error)
    else:
        assert np.isfinite(found.form(0.0).values[1:]).all()
