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
