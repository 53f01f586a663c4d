"""Tables of 64-bit words with names: how kernels are handed many arrays at once, by one pointer.

An array is seven words to a compiled function and a tuple of arrays as many times more, which the compiler takes apart
and puts together at every call: that was half of its work. A table holds the address of each array and the numbers
beside them; kernels read them by their names, `circuit.rows[k]`. The arrays live as long as the table, which never
changes once a kernel has seen it: the compiler counts on that. Where all that it points to follows in the same
array, a table holds distances instead of addresses, and the array may be copied and moved.
"""

from __future__ import annotations

import weakref
from collections.abc import Mapping
from itertools import accumulate
from typing import Any

import numpy as np
from llvmlite import ir
from numba.core import cgutils, types
from numba.core.typing.templates import AttributeTemplate
from numba.extending import infer_getattr, intrinsic, lower_getattr_generic, models, register_model

from verdad_core.arrays import Floats, Packed
from verdad_core.jit import ADDRESSES, FLOATS, INTEGERS

#: What a field is, by the name of its annotation.
_KINDS = {"Addresses": ADDRESSES, "Integers": INTEGERS, "Floats": FLOATS, "int": types.int64}

#: What an array has to hold, where a field is a pointer: a pointer does not know.
_DTYPES = {ADDRESSES: np.dtype(np.int64), INTEGERS: np.dtype(np.int32), FLOATS: np.dtype(np.float64)}


class Words(types.Type):
    """The Numba type of such a table: a pointer to its words. Where `within`, they hold distances from there."""

    def __init__(self, name: str, fields: tuple[tuple[str, Any], ...], within: bool) -> None:
        self.fields, self.within = dict(fields), within
        self.places = {field: place for place, field in enumerate(self.fields)}
        super().__init__(name=f"Words({name}{', within' if within else ''}: {', '.join(self.fields)})")

    def packed(self, **values: Any) -> Packed:
        """The words for these values of all fields: of an array its address, and the numbers as they are.

        Raises TypeError for a missing field, and for an array that kernels would read wrongly.
        """
        if values.keys() != self.fields.keys():
            raise TypeError(f"{self.name} cannot be made of {', '.join(values)}")
        for field, value in values.items():
            if isinstance(value, np.ndarray) and not (
                value.flags.c_contiguous and value.dtype == _DTYPES.get(self.fields[field])
            ):
                raise TypeError(f"{field} of {self.name} is an array of another kind: {value.dtype}, {value.strides}")
        table = np.array([address(values[field]) for field in self.places], dtype=np.int64)
        # Two threads may make the same table at once: what each of them points to lives as long as it does.
        weakref.finalize(table, _let_go, tuple(values.values())).atexit = False
        return table

    def number(self, words: Packed, field: str) -> int:
        """A number of a table, for Python."""
        return int(words[self.places[field]])


def _let_go(_: tuple[Any, ...]) -> None:
    """Nothing: that this is still to be called with them keeps arrays alive."""


def address(value: Any) -> int:
    """Where an array's first element lies; a number is one already."""
    return int(value.__array_interface__["data"][0] if isinstance(value, np.ndarray) else value)


class Layout:
    """How an array begins with a table `within`, whose fields of floats, this long each, follow one after the other."""

    def __init__(self, kind: Words, lengths: Mapping[str, int], **numbers: int) -> None:
        ends = list(accumulate(lengths.values(), initial=len(kind.fields)))
        self.size = ends[-1]
        starts = {field: 8 * start for field, start in zip(lengths, ends, strict=False)}
        self.starts = {field: start // 8 for field, start in starts.items()}
        self.words = kind.packed(**starts, **numbers).view(np.float64)

    def array(self) -> Floats:
        """Such an array of zeros."""
        memory = np.zeros(self.size)
        memory[: len(self.words)] = self.words
        return memory


def words(holder: type, within: bool = False) -> Words:
    """The type of a table whose fields are the annotations of a class."""
    fields = tuple((name, _KINDS[kind]) for name, kind in holder.__annotations__.items())
    return Words(holder.__name__, fields, within)


def opened(kind: Words) -> Any:
    """A function for kernels: the table that lies where an array begins."""

    @intrinsic
    def open_(_typing: Any, array: Any) -> Any:
        def code(context: Any, builder: Any, own: Any, values: Any) -> Any:
            first = context.make_array(own.args[0])(context, builder, values[0]).data
            return builder.bitcast(first, context.get_value_type(kind))

        return kind(array), code

    return open_


@register_model(Words)
class _Pointer(models.PrimitiveModel):
    def __init__(self, manager: Any, kind: Words) -> None:
        super().__init__(manager, kind, ir.IntType(64).as_pointer())  # type: ignore[no-untyped-call]


@infer_getattr
class _Fields(AttributeTemplate):
    key = Words

    def generic_resolve(self, kind: Words, field: str) -> Any:  # type: ignore[override]
        return kind.fields.get(field)


@lower_getattr_generic(Words)  # type: ignore[untyped-decorator]
def _read(context: Any, builder: Any, kind: Words, words: Any, field: str) -> Any:
    word = builder.load(cgutils.gep_inbounds(builder, words, kind.places[field]))
    word.set_metadata("invariant.load", builder.module.add_metadata([]))
    wanted = context.get_value_type(kind.fields[field])
    if not isinstance(wanted, ir.PointerType):
        return word
    if kind.within:
        return builder.bitcast(builder.gep(builder.bitcast(words, ir.IntType(8).as_pointer()), [word]), wanted)
    return builder.inttoptr(word, wanted)
