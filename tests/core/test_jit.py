import shutil
import subprocess
import sys
from pathlib import Path

import verdad_core


def _folder(source: Path) -> str:
    code = "import verdad_core.jit as jit; print(jit.CACHE_FOLDER.name)"
    answer = subprocess.run(
        [sys.executable, "-c", code],
        env={"PYTHONPATH": str(source), "PATH": ""},
        capture_output=True,
        text=True,
        check=True,
    )
    return answer.stdout.strip()


def test_a_changed_kernel_source_gets_a_cache_of_its_own(tmp_path: Path) -> None:
    shutil.copytree(
        Path(verdad_core.__file__).parent, tmp_path / "verdad_core", ignore=shutil.ignore_patterns("__pycache__")
    )
    before = _folder(tmp_path)
    assert _folder(tmp_path) == before
    kernel = tmp_path / "verdad_core" / "devices" / "resistor.py"
    kernel.write_text(kernel.read_text() + "\n# changed\n")
    assert _folder(tmp_path) != before


def test_a_first_result_needs_no_linear_algebra_of_scipy_which_stays_there_to_be_used() -> None:
    code = """
import sys
import numpy as np
from verdad_core.analyses.ac import ac
from verdad_core.engine.structure import compile_structure
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read
circuit = compile_structure(flatten(read("v1 a 0 ac 1\\nr1 a b 1k\\nr2 b 0 1k").require()).elements)
assert abs(ac(circuit, np.array([1.0]), [("b", "0")]).values[0, 0, 0] - 0.5) < 1e-12
assert "scipy.linalg" not in sys.modules
import scipy.linalg
print(scipy.linalg.det(np.eye(2)))
"""
    answer = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert answer.stdout.strip() == "1.0"
