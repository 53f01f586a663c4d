"""The one way in which Verdad compiles: Numba, cached on disk, never stale.

Numba notices when the file of a cached function changes, but not when a function that it calls in another file
does. So the cache lies in a folder named by a hash of all kernel sources and of the compiler's versions: after a
change of source the folder is another one, and it is warmed again. This module must be imported before any kernel
is declared; that is why the decorators live here and nowhere else.

`VERDAD_KERNEL_CACHE` names the folder that holds those folders; the default is the user's cache folder.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

import llvmlite
import numba
import numpy as np

Function = TypeVar("Function", bound=Callable[..., Any])

_PACKAGE = Path(__file__).parent
_KERNEL_FOLDERS = ("devices", "engine", "analyses")


def _fingerprint() -> str:
    digest = hashlib.sha256()
    sources = [Path(__file__), *(path for name in _KERNEL_FOLDERS for path in (_PACKAGE / name).glob("**/*.py"))]
    for source in sorted(sources):
        digest.update(source.relative_to(_PACKAGE).as_posix().encode())
        digest.update(source.read_bytes())
    versions = (numba.__version__, llvmlite.__version__, np.__version__, sys.version, str(_PACKAGE))
    digest.update(repr(versions).encode())
    return digest.hexdigest()[:16]


def _root() -> Path:
    named = os.environ.get("VERDAD_KERNEL_CACHE")
    home = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    return Path(named) if named else Path(home) / "verdad" / "kernels"


#: Where the compiled kernels of exactly these sources lie.
CACHE_FOLDER = _root() / _fingerprint()

numba.config.CACHE_DIR = str(CACHE_FOLDER)  # type: ignore[attr-defined]


# Numba's own annotations leave out the options that switch its wrappers off.
_njit = cast(Callable[..., Callable[[Any], Any]], numba.njit)


def kernel(function: Function) -> Function:
    """Compile a function that only other kernels call: no wrapper for Python, which halves the compile time."""
    options = {"no_cpython_wrapper": True, "no_cfunc_wrapper": True}
    return cast(Function, _njit(cache=True, nogil=True, error_model="numpy", **options)(function))


#: Every entry that has been declared, so that it can be seen whether warming reached it.
ENTRIES: list[Any] = []


def entry(function: Function) -> Function:
    """Compile a function that Python calls. It releases the interpreter's lock while it runs."""
    compiled = _njit(cache=True, nogil=True, error_model="numpy", no_cfunc_wrapper=True)(function)
    ENTRIES.append(compiled)
    return cast(Function, compiled)


def is_warm() -> bool:
    """Whether kernels of exactly these sources have been compiled before."""
    return (CACHE_FOLDER / "warm").exists()


def mark_warm() -> None:
    """Record that the cache is complete, and remove the caches of older sources."""
    CACHE_FOLDER.mkdir(parents=True, exist_ok=True)
    (CACHE_FOLDER / "warm").touch()
    for other in CACHE_FOLDER.parent.iterdir():
        if other != CACHE_FOLDER and other.is_dir() and len(other.name) == len(CACHE_FOLDER.name):
            shutil.rmtree(other, ignore_errors=True)
