"""`verdad simulate` as a user calls it."""

import csv
import json
import subprocess
import sys
from pathlib import Path

import pytest

TEXT = "A divider\n.include sub/parts.lib\nv1 in 0 dc 2 ac 1\nx1 in out half\n.op\n.ac dec 1 1 100\n"
PARTS = ".subckt half a b\nr1 a b 1k\nr2 b 0 1k\n.ends\n"


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "here" / "sub").mkdir(parents=True)
    (tmp_path / "here" / "sub" / "parts.lib").write_text(PARTS)
    (tmp_path / "outside.lib").write_text(PARTS)
    (tmp_path / "here" / "a.cir").write_text(TEXT)
    return tmp_path / "here"


def verdad(*arguments: str | Path) -> subprocess.CompletedProcess[str]:
    command = [str(Path(sys.executable).parent / "verdad"), "simulate", *map(str, arguments)]
    return subprocess.run(command, capture_output=True, text=True, check=False, timeout=120)


def test_json_and_csv(folder: Path) -> None:
    answer = verdad(folder / "a.cir", "--json", "--csv", folder / "out")
    assert answer.returncode == 0, answer.stderr
    whole = json.loads(answer.stdout)
    assert whole["circuit"] == "A divider"
    assert whole["analyses"][0]["values"]["v(out)"] == pytest.approx(1)
    rows = list(csv.reader((folder / "out" / "2-ac.csv").open()))
    assert rows[0][0] == "frequency"
    assert [float(row[0]) for row in rows[1:]] == pytest.approx([1, 10, 100])


def test_a_summary_to_read(folder: Path) -> None:
    answer = verdad(folder / "a.cir")
    assert "v(out) = 1" in answer.stdout


@pytest.mark.parametrize(
    ("text", "line", "message"),
    [
        ("x\nr1 a 0 {1+\n.op", 2, "not closed"),
        ("x\n.include ../outside.lib\nr1 a 0 1\n.op", 2, "outside the netlist's folder"),
        ("x\n.include nowhere.lib\nr1 a 0 1\n.op", 2, "is not here"),
        ("x\nr1 a b 1k\nv1 a b 1\n.op", None, "nothing is connected to ground"),
        ("x\n\0", 2, "not a text file"),
    ],
)
def test_bad_input_is_one_json_object_and_status_2(folder: Path, text: str, line: int | None, message: str) -> None:
    (folder / "bad.cir").write_text(text)
    answer = verdad(folder / "bad.cir", "--json")
    assert answer.returncode == 2
    assert answer.stdout == ""
    error = json.loads(answer.stderr)
    assert message in error["error"]
    assert error["line"] == line


def test_a_file_that_is_not_there(folder: Path) -> None:
    answer = verdad(folder / "none.cir", "--json")
    assert answer.returncode == 2
    assert "cannot be read" in json.loads(answer.stderr)["error"]


def test_a_run_that_reaches_a_limit_prints_what_it_has(folder: Path) -> None:
    (folder / "long.cir").write_text(TEXT + ".ac dec 1000000 1 10meg\n")
    answer = verdad(folder / "long.cir", "--json")
    assert answer.returncode == 3
    assert len(json.loads(answer.stdout)["analyses"]) == 2
    assert json.loads(answer.stderr)["line"] == 7


def test_a_file_without_spectra_waits_for_neither_signal_processing_nor_a_database(tmp_path: Path) -> None:
    """They take two thirds of the time of a small circuit to import."""
    netlist = tmp_path / "divider.cir"
    netlist.write_text("divider\nv1 a 0 1\nr1 a b 1k\nr2 b 0 1k\n.op\n.end\n")
    code = (
        "import sys; from verdad.cli import app; app(['simulate', sys.argv[1]], standalone_mode=False)\n"
        "print([m for m in ('scipy.signal', 'scipy.interpolate', 'psycopg') if m in sys.modules])"
    )
    answer = subprocess.run([sys.executable, "-c", code, str(netlist)], capture_output=True, text=True, check=True)
    assert "v(b) = 500 m" in answer.stdout
    assert answer.stdout.endswith("[]\n")
