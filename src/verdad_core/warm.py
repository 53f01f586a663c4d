"""Compiling every kernel once, so that nobody waits for the compiler later.

Kernels reach each other by address, so they compile independently: in processes of their own, as many as there are
cores. What running an analysis of a small circuit needs comes first, and what takes longest, so that all end together.
"""

from __future__ import annotations

import gc
import multiprocessing
import os
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from verdad_core import jit
from verdad_core.analyses.ac import ac
from verdad_core.analyses.device_values import device_values
from verdad_core.analyses.noise import densities, noise
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import poles
from verdad_core.analyses.sensitivity import ac_sensitivity, dc_sensitivity
from verdad_core.analyses.transient import Start, transient
from verdad_core.devices import FAMILIES
from verdad_core.engine.structure import ENGINE, Structure, compile_structure
from verdad_core.jit import Reached
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read

#: What every kernel that Python calls can be called with.
_CIRCUIT = "v1 in 0 dc 1 ac 1\nr1 in a 1k\nc1 a 0 1n"
_FREQUENCY = np.array([1.0, 10.0])
_OUTPUT = [("a", "0")]


def _structure() -> Structure:
    flat = flatten(read(_CIRCUIT).require())
    return compile_structure(flat.elements, flat.nodesets)


#: Kernels that Python calls, each by an analysis that calls it; they need the kernels below.
STEPS: dict[str, Callable[[], object]] = {
    "sensitivity of responses": lambda: ac_sensitivity(_structure(), _FREQUENCY, _OUTPUT),
    "noise": lambda: noise(_structure(), _FREQUENCY, _OUTPUT, "v1"),
    "densities of noise": lambda: densities(operating_point(_structure())),
    "frequency response": lambda: ac(_structure(), _FREQUENCY, _OUTPUT),
    "sensitivity": lambda: dc_sensitivity(_structure(), _OUTPUT),
    "operating point": lambda: operating_point(_structure()),
    "transient": lambda: transient(_structure(), 1e-6, _OUTPUT, start=Start.COLD),
    "poles": lambda: poles(operating_point(_structure())),
    "device values": lambda: device_values(operating_point(_structure()), "r1"),
}


def _reached() -> dict[str, list[Reached]]:
    """The kernels that are reached by their addresses, each once: the engine's, then those of the device families."""
    found = {kernel.function.__name__: [kernel] for kernel in ENGINE}
    seen: set[Reached] = set()
    for family in FAMILIES:
        new = [kernel for kernel in family.kernels if kernel is not None and kernel not in seen]
        seen.update(new)
        if new:
            found[family.name] = new
    return found


_REACHED = _reached()

#: What running an analysis of the circuit above needs, and the rest, the longest to compile first.
_NEEDED = [*(kernel.function.__name__ for kernel in ENGINE), "resistor", "capacitor", "voltage source"]
_REST = [*STEPS, *(name for name in reversed(_REACHED) if name not in _NEEDED)]


def _compile(task: str) -> None:
    if task in STEPS:
        STEPS[task]()
    for kernel in _REACHED.get(task, ()):
        kernel.address  # noqa: B018 - asking for it compiles it


def warm(progress: Callable[[str], None] = lambda _: None) -> None:
    """Compile all kernels into the cache; `progress` is told what has been done. For a process of its own."""
    if jit.is_warm():
        return
    # Copies of this process have all that they need imported, and what compiling makes lives as long as they do.
    copies = multiprocessing.get_context("fork")
    with ProcessPoolExecutor(os.cpu_count(), copies, initializer=gc.disable) as pool:
        total, done = len(_NEEDED) + len(_REST), 0
        for part in (_NEEDED, _REST):
            for task, _ in zip(part, pool.map(_compile, part), strict=True):
                done += 1
                progress(f"compiling kernels, {done} of {total}: {task}")
    jit.mark_warm()
