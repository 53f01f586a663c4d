"""How Numba is told to compile kernels: with what they need, and nothing else.

Numba's own compilers look for much that kernels never contain (closures, array expressions, `literal_unroll`, `with`),
and write down what has been done to every function after each look. They also make machine code of every function,
though a function that only other functions call is linked into these and optimised there again. And each operator is
tried on arrays, dates and texts before it is tried on numbers. Leaving that out halves the time that kernels take to
compile. Two rules follow for kernels: a variable has one type throughout its function, and a short integer read through
a pointer is a long one, so that no function is compiled for both.

`WholeCompiler` compiles what is called by Python or by address, `PartCompiler` what only other kernels call. Written
against the Numba that `requirements.lock` names; `CompilerBase` is Numba's documented way to choose passes, the code
libraries are not.
"""

from __future__ import annotations

import operator
from itertools import product
from typing import Any

from numba.core import lowering, types
from numba.core.codegen import JITCodeLibrary
from numba.core.compiler import CompilerBase, _LowerResult
from numba.core.compiler_machinery import LoweringPass, PassManager, register_pass
from numba.core.funcdesc import PythonFunctionDescriptor
from numba.core.imputils import lower_builtin
from numba.core.typed_passes import (
    IRLegalization,
    NativeLowering,
    NoPythonBackend,
    NopythonTypeInference,
)
from numba.core.typing.templates import AbstractTemplate, infer_global, signature
from numba.core.untyped_passes import FixupArgs, GenericRewrites, IRProcessing, TranslateByteCode


class _WholeLibrary(JITCodeLibrary):
    """Functions with all that they call: optimised together, once."""

    def _optimize_functions(self, ll_module: Any) -> None:
        ll_module.data_layout = self._codegen._data_layout

    def _optimize_final_module(self) -> None:
        manager, builder = self._codegen._module_pass_manager()
        manager.run(self._final_module, builder)


class _PartLibrary(JITCodeLibrary):
    """A function that waits to be linked into what calls it: neither optimised nor made machine code of."""

    def _optimize_functions(self, ll_module: Any) -> None:
        ll_module.data_layout = self._codegen._data_layout

    def _optimize_final_module(self) -> None:
        pass

    def _finalize_final_module(self) -> None:
        self._finalized = True


def _empty(kind: Any, state: Any) -> Any:
    return kind(state.targetctx.codegen(), state.func_id.func_qualname)


@register_pass(mutates_CFG=True, analysis_only=False)
class _WholeLowering(NativeLowering):
    _name = "whole_lowering"

    def run_pass(self, state: Any) -> bool:
        state.library = _empty(_WholeLibrary, state)
        state.library.enable_object_caching()
        return bool(super().run_pass(state))  # type: ignore[no-untyped-call]


@register_pass(mutates_CFG=True, analysis_only=False)
class _PartLowering(LoweringPass):
    _name = "part_lowering"

    def __init__(self) -> None:
        super().__init__()  # type: ignore[no-untyped-call]

    def run_pass(self, state: Any) -> bool:
        context, flags = state.targetctx, state.flags
        state.library = _empty(_PartLibrary, state)
        described = PythonFunctionDescriptor.from_specialized_function(
            state.func_ir,
            state.typemap,
            state.return_type,
            state.calltypes,
            mangler=context.mangler,
            inline=flags.forceinline,
            noalias=flags.noalias,
            abi_tags=[flags.get_mangle_string()],
        )
        with context.push_code_library(state.library):
            lower = lowering.Lower(context, state.library, described, state.func_ir, metadata=state.metadata)
            lower.lower()
        # Numba knows a compiled function by what Python would call, of which there is none: any builtin that is no
        # other's stands for it.
        stand_in = dict[str, str]().keys
        context.insert_user_function(stand_in, described, [state.library])
        state.cr = _LowerResult(described, lower.call_helper, cfunc=stand_in, env=lower.env)
        return True


def _passes(name: str, lowering: type) -> list[PassManager]:
    manager = PassManager(name)
    for one in (
        TranslateByteCode,
        FixupArgs,
        IRProcessing,
        GenericRewrites,
        NopythonTypeInference,
        IRLegalization,
        lowering,
        NoPythonBackend,
    ):
        manager.add_pass(one, one.__name__)
    manager.finalize()
    return [manager]


class WholeCompiler(CompilerBase):
    """Compile a function and all that it calls into machine code that can be cached."""

    def define_pipelines(self) -> list[PassManager]:
        return _passes("whole", _WholeLowering)


class PartCompiler(CompilerBase):
    """Compile a function as a part of those that call it. It can neither be called from Python nor be cached."""

    def define_pipelines(self) -> list[PassManager]:
        return _passes("part", _PartLowering)


_WHOLE_NUMBERS = (types.int64, types.int32)
_NUMBERS = (*_WHOLE_NUMBERS, types.float64)

#: What operators make of these kinds of values, by operator and by the kinds, as Numba's own rules have it.
_MADE: dict[Any, dict[tuple[Any, ...], Any]] = {}


def _note(names: str, given: tuple[Any, ...], result: Any, *taken: Any) -> None:
    for name in names.split():
        _MADE.setdefault(getattr(operator, name), {})[given] = signature(result, *taken)


for _one, _other in product(_NUMBERS, _NUMBERS):
    _both = types.float64 if types.float64 in (_one, _other) else types.int64
    _note("add sub mul iadd isub imul", (_one, _other), _both, _both, _both)
    _note("truediv itruediv", (_one, _other), types.float64, types.float64, types.float64)
    _note("lt le gt ge eq ne", (_one, _other), types.boolean, _both, _both)
for _kind, _index in product((types.int64, types.int32, types.float64), _WHOLE_NUMBERS):
    _pointer = types.CPointer(_kind)
    _read = types.float64 if _kind is types.float64 else types.int64
    _note("getitem", (_pointer, _index), _read, _pointer, types.intp)
    for _value in _NUMBERS:
        _note("setitem", (_pointer, _index, _value), types.none, _pointer, types.intp, _kind)


@lower_builtin(operator.getitem, types.CPointer(types.int32), types.intp)  # type: ignore[untyped-decorator]
def _read_wide(context: Any, builder: Any, sig: Any, values: Any) -> Any:
    """A short integer is a long one as soon as it is read."""
    return builder.sext(builder.load(builder.gep(values[0], [values[1]])), context.get_value_type(sig.return_type))


def _first(operation: Any, made: dict[tuple[Any, ...], Any]) -> None:
    """Let Numba look here before it tries an operator on all else: what is made for this very target comes first."""

    class Found(AbstractTemplate):
        metadata = {"target": "cpu"}  # noqa: RUF012 - Numba's own templates name it so

        def generic(self, args: tuple[Any, ...], kws: dict[str, Any]) -> Any:
            return None if kws else made.get(args)

    infer_global(operation)(Found)


for _operation, _found in _MADE.items():
    _first(_operation, _found)
