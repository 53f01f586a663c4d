"""How Numba is told to compile kernels: with what they need, and nothing else.

Numba's own compilers look for much that kernels never contain (closures, array expressions, `literal_unroll`, `with`),
and write down what has been done to every function after each look. They also make machine code of every function,
though a function that only other functions call is linked into these and optimised there again. Every call of an
operator is tried on arrays, dates and texts before it is tried on numbers, and every number is let go as if it were
counted. Leaving that out makes kernels compile in a third of the time. Two rules follow for kernels: a variable has one
type throughout its function, and a short integer read through a pointer is a long one, so that no function is compiled
for both.

`WholeCompiler` compiles what is called by Python or by address, `PartCompiler` what only other kernels call.
`CompilerBase` is Numba's documented way to choose passes, the code libraries are not: so another Numba than the one
this was written against is refused.
"""

from __future__ import annotations

import operator
from typing import Any, cast

import numba
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

#: The only Numba whose inner parts are as this file takes them to be.
NUMBA = "0.68.1"

if numba.__version__ != NUMBA:
    raise ImportError(
        f"Verdad's kernels are compiled with Numba {NUMBA}, and Numba {numba.__version__} is installed: "
        f"install numba=={NUMBA} (./verdad sets up an environment of its own)"
    )


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


_NumbasOwn: Any = lowering.Lower


class _Lower(_NumbasOwn):  # type: ignore[misc]
    """Numbers and pointers are not counted as arrays are, so nothing is done when one of them is let go."""

    def _counted(self, kind: Any) -> bool:
        return bool(self.context.data_model_manager[kind].contains_nrt_meminfo())

    def incref(self, typ: Any, val: Any) -> None:
        if self._counted(typ):
            super().incref(typ, val)

    def decref(self, typ: Any, val: Any) -> None:
        if self._counted(typ):
            super().decref(typ, val)

    def storevar(self, value: Any, name: str, argidx: int | None = None) -> None:
        kind = self.typeof(name)
        if self._counted(kind) or name in self._singly_assigned_vars:
            super().storevar(value, name, argidx)
        else:
            self._alloca_var(name, kind)
            self.builder.store(value, self.getvar(name))

    def delvar(self, name: str) -> None:
        waits = name in self._singly_assigned_vars and name not in self._blk_local_varmap
        if self._counted(self.typeof(name)) or waits:
            super().delvar(name)


@register_pass(mutates_CFG=False, analysis_only=False)
class _WholeLowering(NativeLowering):
    _name = "whole_lowering"

    @property
    def lowering_class(self) -> type:
        return _Lower

    def run_pass(self, state: Any) -> bool:
        state.library = _empty(_WholeLibrary, state)
        state.library.enable_object_caching()
        return bool(super().run_pass(state))  # type: ignore[no-untyped-call]


@register_pass(mutates_CFG=False, analysis_only=False)
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
            lower = _Lower(context, state.library, described, state.func_ir, metadata=state.metadata)
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


#: What calls of Numba's own functions were resolved to, by the function and by what it is called with.
_RESOLVED: dict[tuple[Any, tuple[Any, ...]], tuple[Any, Any]] = {}

#: Kinds whose literals are resolved like any other of their kind.
_PLAIN = (types.Number, types.Boolean, types.CPointer, types.Array)

_resolve: Any = types.BaseFunction.get_call_type


def _resolve_once(self: Any, context: Any, args: tuple[Any, ...], kws: dict[str, Any]) -> Any:
    """Numba tries a call on arrays, dates and texts before it tries numbers, every time anew; here once."""
    if kws:
        return _resolve(self, context, args, kws)
    given = tuple(map(types.unliteral, args))
    given = given if all(isinstance(kind, _PLAIN) for kind in given) else args
    known = _RESOLVED.get((self.typing_key, given))
    if known is None:
        found = _resolve(self, context, given, kws)
        known = _RESOLVED[self.typing_key, given] = found, self.get_impl_key(found)
    found, implementation = known
    self._impl_keys[found.args] = implementation
    return found


types.BaseFunction.get_call_type = cast(Any, _resolve_once)  # type: ignore[method-assign]


@infer_global(operator.getitem)
class _ReadWide(AbstractTemplate):
    """A short integer is a long one as soon as it is read."""

    metadata = {"target": "cpu"}  # noqa: RUF012 - Numba's own templates name it so

    def generic(self, args: tuple[Any, ...], kws: dict[str, Any]) -> Any:
        return signature(types.int64, args[0], types.intp) if args[0] == types.CPointer(types.int32) else None


@lower_builtin(operator.getitem, types.CPointer(types.int32), types.intp)  # type: ignore[untyped-decorator]
def _read_wide(context: Any, builder: Any, sig: Any, values: Any) -> Any:
    return builder.sext(builder.load(builder.gep(values[0], [values[1]])), context.get_value_type(sig.return_type))
