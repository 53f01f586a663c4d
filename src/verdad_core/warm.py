"""Compiling every kernel once, so that nobody waits for the compiler later."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from verdad_core import jit
from verdad_core.analyses.ac import ac
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import poles
from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read

#: A small circuit with a device of every family.
_CIRCUIT = """
v1 in 0 dc 1 ac 1
r1 in a 1k
c1 a 0 1n
l1 a b 1u
d1 b 0 d
q1 in a c n
r2 c 0 1k
e1 e 0 a 0 2
g1 e 0 a 0 1m
.model d d(rs=1 cjo=1p)
.model n npn(rb=10 cje=1p)
"""


def _structure() -> Structure:
    flat = flatten(read(_CIRCUIT).require())
    return compile_structure(flat.elements, flat.nodesets)


STEPS: tuple[tuple[str, Callable[[], object]], ...] = (
    ("operating point", lambda: operating_point(_structure())),
    ("poles", lambda: poles(operating_point(_structure()))),
    ("frequency response", lambda: ac(_structure(), np.array([1.0, 10.0]), [("a", "0")])),
)


def warm(progress: Callable[[str], None] = lambda _: None) -> None:
    """Compile all kernels into the cache; `progress` is told each step before it starts."""
    if jit.is_warm():
        return
    for number, (name, step) in enumerate(STEPS, 1):
        progress(f"compiling kernels, {number} of {len(STEPS)}: {name}")
        step()
    jit.mark_warm()
