"""The one way in which Verdad compiles: Numba, cached on disk, never stale.

Numba notices when the file of a cached function changes, but not when a function that it calls in another file
does. So the cache lies in a folder named by a hash of all kernel sources and of the compiler's versions: after a
change of source the folder is another one, and it is warmed again. This module must be imported before any kernel
is declared; that is why the decorators live here and nowhere else.

`VERDAD_KERNEL_CACHE` names the folder that holds those folders; the default is the user's cache folder. With
`VERDAD_PLAIN_NUMBA=1` Numba compiles as it would without compiler.py: more slowly, to the same numbers, which tests
look at.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import sys
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

import llvmlite
import numba
import numpy as np
from llvmlite import ir
from numba.core import cgutils, types
from numba.extending import intrinsic

#: Whether Numba compiles as it would by itself.
PLAIN = os.environ.get("VERDAD_PLAIN_NUMBA") == "1"

_WHOLE: dict[str, Any] = {}
_PART: dict[str, Any] = {}
if not PLAIN:
    from verdad_core.compiler import PartCompiler, WholeCompiler

    _WHOLE["pipeline_class"], _PART["pipeline_class"] = WholeCompiler, PartCompiler

Function = TypeVar("Function", bound=Callable[..., Any])

_PACKAGE = Path(__file__).parent
#: Where kernels are.
KERNEL_FOLDERS = ("devices", "engine", "analyses")


def _fingerprint() -> str:
    digest = hashlib.sha256()
    sources = [
        Path(__file__),
        _PACKAGE / "compiler.py",
        _PACKAGE / "words.py",
        *(path for name in KERNEL_FOLDERS for path in (_PACKAGE / name).glob("**/*.py")),
    ]
    for source in sorted(sources):
        digest.update(source.relative_to(_PACKAGE).as_posix().encode())
        digest.update(source.read_bytes())
    versions = (numba.__version__, llvmlite.__version__, np.__version__, sys.version, str(_PACKAGE), PLAIN)
    digest.update(repr(versions).encode())
    return digest.hexdigest()[:16]


def _root() -> Path:
    named = os.environ.get("VERDAD_KERNEL_CACHE")
    home = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    return Path(named) if named else Path(home) / "verdad" / "kernels"


#: Where the compiled kernels of exactly these sources lie.
CACHE_FOLDER = _root() / _fingerprint()

numba.config.CACHE_DIR = str(CACHE_FOLDER)  # type: ignore[attr-defined]

# Kernels are no faster for what the compiler does beyond this, and it takes a fifth longer.
numba.config.OPT = numba.core.config._OptLevel(1)  # type: ignore[attr-defined]


def _load_numba_without_blas() -> None:
    """Load what Numba knows of arrays, but not SciPy's linear algebra, which it looks for and no kernel calls.

    Importing that takes longer than all else that a first result needs.
    """
    if "scipy.linalg" in sys.modules:
        return
    sys.modules["scipy.linalg"] = None  # type: ignore[assignment]
    try:
        import numba.np.arraymath  # noqa: F401
    finally:
        del sys.modules["scipy.linalg"]


_load_numba_without_blas()

# Numba's own annotations leave out the options that switch its wrappers off.
_njit = cast(Callable[..., Callable[[Any], Any]], numba.njit)
_cfunc = cast(Callable[..., Callable[[Any], Any]], numba.cfunc)


def kernel(function: Function) -> Function:
    """Compile a function that only other kernels call, as a part of these; not once more for each literal number."""
    options = {"no_cpython_wrapper": True, "no_cfunc_wrapper": True, **_PART}
    compiled = _njit(nogil=True, error_model="numpy", **options)(function)
    template = compiled.get_call_template
    compiled.get_call_template = lambda args, kws: template(tuple(map(types.unliteral, args)), kws)
    return cast(Function, compiled)


#: Every entry that has been declared, so that it can be seen whether warming reached it.
ENTRIES: list[Any] = []


def entry(function: Function) -> Function:
    """Compile a function that Python calls. It releases the interpreter's lock while it runs."""
    options = {"no_cfunc_wrapper": True, **_WHOLE}
    compiled = _njit(cache=True, nogil=True, error_model="numpy", **options)(function)
    ENTRIES.append(compiled)
    return cast(Function, compiled)


# Kernels that reach each other by address hand on bare pointers: an array is seven words and a check at each index,
# a pointer is one word. A kernel points to nothing but what its caller handed it, who keeps it alive until the call has
# returned: an array of its own it hands on to another kernel, as Numba lets it go where it is named last.
INTEGERS = types.CPointer(types.int32)
ADDRESSES = types.CPointer(types.int64)
FLOATS = types.CPointer(types.float64)


@intrinsic
def _pointer(_typing: Any, array: Any) -> Any:
    """A pointer to the first element of a contiguous array that the kernel was called with."""

    def code(context: Any, builder: Any, own: Any, values: Any) -> Any:
        return context.make_array(own.args[0])(context, builder, values[0]).data

    return types.CPointer(array.dtype)(array), code


@intrinsic
def _at(_typing: Any, first: Any, _index: Any) -> Any:
    """A pointer `index` elements further on, for kernels."""

    def code(_context: Any, builder: Any, _own: Any, values: Any) -> Any:
        return builder.gep(values[0], [values[1]])

    return first(first, types.int64), code


@intrinsic
def _prefetch(_typing: Any, first: Any) -> Any:
    """Ask for the line of memory at a pointer, which will soon be written to."""

    def code(context: Any, builder: Any, _own: Any, values: Any) -> Any:
        address, number = ir.IntType(8).as_pointer(), ir.IntType(32)
        kind = ir.FunctionType(ir.VoidType(), [address, number, number, number])
        ask = cgutils.get_or_insert_function(builder.module, kind, "llvm.prefetch.p0i8")
        to_write, keep, data = number(1), number(3), number(1)
        builder.call(ask, [builder.bitcast(values[0], address), to_write, keep, data])
        return context.get_dummy_value()

    return types.void(first), code


# An intrinsic is called without its first argument, which checkers of types cannot know.
pointer: Any = _pointer
at: Any = _at
prefetch: Any = _prefetch


_COMPILING = threading.RLock()


class Reached:
    """A kernel that others reach by its address, so that they are not compiled again together with it.

    It is compiled, or read from the cache, when its address is first asked for.
    """

    def __init__(self, signature: Any, function: Callable[..., Any]) -> None:
        self.signature = signature
        self.function = function
        self._compiled: Any = None

    def _compile(self) -> Any:
        options = {"nopython": True, **_WHOLE}
        return _cfunc(self.signature, cache=True, error_model="numpy", **options)(self.function)

    @property
    def address(self) -> int:
        # One of two that are compiled at once would be let go, and its address with it.
        with _COMPILING:
            if self._compiled is None:
                self._compiled = self._compile()
            return int(self._compiled.address)


def reached(signature: Any) -> Callable[[Callable[..., Any]], Reached]:
    """Declare a kernel of this Numba signature that is called by its address; see `caller`."""
    return lambda function: Reached(signature, function)


def caller(signature: Any) -> Any:
    """A function for kernels, call(address, *arguments): calls the `reached` kernel at an address."""

    @intrinsic
    def call(_typing: Any, _address: Any, *_arguments: Any) -> Any:
        own = signature.return_type(types.int64, types.StarArgTuple(signature.args))

        def code(context: Any, builder: Any, _own: Any, values: Any) -> Any:
            kinds = [context.get_value_type(kind) for kind in signature.args]
            function = ir.FunctionType(context.get_value_type(signature.return_type), kinds)
            pointer = builder.inttoptr(values[0], function.as_pointer())
            return builder.call(pointer, cgutils.unpack_tuple(builder, values[1]))

        return own, code

    return call


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
