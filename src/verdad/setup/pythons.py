"""Short sets of tests beside the whole run: on the other Pythons of this machine, and of plainly compiled kernels."""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
from pathlib import Path

from verdad.settings import PROJECT, Settings
from verdad.setup.machine import SetupError, run

#: What is supported, by the second number of the version.
SUPPORTED = range(11, 15)

#: What tells whether the engine is the same there: its golden results, rows on several threads, and texts.
SHORT_SET = ("tests/core/test_golden.py", "tests/core/analyses/test_rows.py", "tests/core/netlist/test_makers_files.py")

#: What tells whether kernels mean to Numba what they mean to us: every family and analysis is in the golden results.
KERNELS = ("tests/core/test_golden.py", "tests/core/engine", "tests/core/analyses/test_rows.py")

#: The name of that run.
PLAIN = "plain Numba"


def others() -> dict[str, str]:
    """Interpreters of other supported versions, by version: on the path, or among pyenv's."""
    found = {}
    for minor in SUPPORTED:
        version = f"3.{minor}"
        managed = Path(os.environ.get("PYENV_ROOT") or Path.home() / ".pyenv") / "versions"
        candidates = [shutil.which(f"python{version}"), *map(str, sorted(managed.glob(f"{version}.*/bin/python")))]
        if minor != sys.version_info.minor and (works := next(filter(_works, filter(None, candidates)), None)):
            found[version] = works
    return found


def _works(python: str) -> bool:
    """Whether an interpreter starts and can make environments."""
    tried = subprocess.run([python, "-c", "import ensurepip, venv"], capture_output=True, check=False)
    return tried.returncode == 0


def start_short_set(settings: Settings, version: str, python: str) -> subprocess.Popen[bytes]:
    """Set an environment up where it is missing, and begin the tests there; their output goes to a log.

    Raises SetupError where the packages cannot be installed.
    """
    home = settings.home / "pythons" / f"Python {version}"
    own, stamp = home / "venv" / "bin" / "python", home / "stamp"
    wanted = hashlib.sha256(
        (PROJECT / "pyproject.toml").read_bytes() + (PROJECT / "requirements.lock").read_bytes()
    ).hexdigest()
    if not own.exists():
        run([python, "-m", "venv", str(home / "venv")], f"an environment of Python {version}", home / "venv.log")
    if not stamp.exists() or stamp.read_text() != wanted:
        pip = [str(own), "-m", "pip", "install", "--quiet", "--disable-pip-version-check", "-c", "requirements.lock"]
        run([*pip, "-e", ".", "pytest", "hypothesis"], f"packages for Python {version}", home / "pip.log", cwd=PROJECT)
        stamp.write_text(wanted)
    return _begun(settings, f"Python {version}", own, SHORT_SET)


def start_plain_set(settings: Settings) -> subprocess.Popen[bytes]:
    """Begin the tests of kernels that Numba compiles by itself, without what compiler.py leaves out."""
    return _begun(settings, PLAIN, Path(sys.executable), KERNELS, VERDAD_PLAIN_NUMBA="1")


def _begun(
    settings: Settings, name: str, python: Path, tests: tuple[str, ...], **environment: str
) -> subprocess.Popen[bytes]:
    kernels = settings.home / "pythons" / name / "kernels"
    kernels.mkdir(parents=True, exist_ok=True)
    around = {**os.environ, "VERDAD_KERNEL_CACHE": str(kernels), "OPENBLAS_NUM_THREADS": "1", **environment}
    with log_of(settings, name).open("wb") as log:
        return subprocess.Popen(
            [str(python), "-m", "pytest", "-p", "no:cacheprovider", *tests], cwd=PROJECT, env=around, stdout=log,
            stderr=subprocess.STDOUT,
        )  # fmt: skip


def log_of(settings: Settings, name: str) -> Path:
    return settings.home / "pythons" / name / "tests.log"


def ended(settings: Settings, name: str, running: subprocess.Popen[bytes]) -> str:
    """The last line of a run that is waited for. Raises SetupError with its last lines where it failed."""
    code = running.wait()
    lines = log_of(settings, name).read_text(errors="replace").splitlines()
    if code != 0:
        raise SetupError(f"the short set failed on {name}:\n" + "\n".join(lines[-25:]))
    return next((line for line in reversed(lines) if "passed" in line), "passed")
