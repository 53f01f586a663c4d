from __future__ import annotations

import ast
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

import verdad_core
from verdad_core.jit import KERNEL_FOLDERS

PACKAGE = Path(verdad_core.__file__).parent


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
    shutil.copytree(PACKAGE, tmp_path / "verdad_core", ignore=shutil.ignore_patterns("__pycache__"))
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


def _own_arrays(function: ast.FunctionDef) -> Iterator[str]:
    """The names a kernel points to that its caller did not hand it."""
    given = {argument.arg for argument in function.args.args}
    assigned = {
        node.id for node in ast.walk(function) if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store)
    }
    for node in ast.walk(function):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "pointer":
            named = next(name.id for name in ast.walk(node.args[0]) if isinstance(name, ast.Name))
            if named not in given - assigned:
                yield f"{function.name} points to its own {named}"


@pytest.mark.parametrize("folder", KERNEL_FOLDERS)
def test_a_kernel_points_to_nothing_but_what_its_caller_keeps_alive(folder: str) -> None:
    """Numba lets an array go where it is named last, whatever points to it."""
    functions = [
        node for path in sorted((PACKAGE / folder).glob("*.py")) for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.FunctionDef)
    ]  # fmt: skip
    assert [own for function in functions for own in _own_arrays(function)] == []


def test_what_points_to_an_array_of_its_own_is_found() -> None:
    source = (
        "def made(n, given):\n    own = zeros(n)\n    f(pointer(given[0]), pointer(own))\n    given_ = pointer(given)"
    )
    function = ast.parse(source).body[0]
    assert isinstance(function, ast.FunctionDef)
    assert list(_own_arrays(function)) == ["made points to its own own"]
