"""What is timed, against what."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass

from verdad_core.engine.structure import Structure, compile_structure
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read


@dataclass(frozen=True)
class Case:
    """`scale` is how many times the reference's work the case does."""

    name: str
    reference: str
    run: Callable[[], object]
    run_reference: Callable[[], object]
    scale: float = 1.0


def circuit_of(text: str) -> Structure:
    """The compiled circuit of a netlist without a title line."""
    flat = flatten(read(text).require())
    return compile_structure(flat.elements, flat.nodesets)


def median(run: Callable[[], object], times: int = 5) -> float:
    """Seconds of one run; long ones are timed less often."""
    seconds: list[float] = []
    while len(seconds) < (times if sum(seconds) < 10 else 1):
        start = time.perf_counter()
        run()
        seconds.append(time.perf_counter() - start)
    return statistics.median(seconds)


def report(case: Case) -> None:
    """Time a case and its reference in turn, and print the ratio of the medians."""
    case.run()
    own, reference = median(case.run), median(case.run_reference) * case.scale
    ratio = f"{reference / own:.1f} times faster than" if own < reference else f"{own / reference:.2f} times as long as"
    print(f"{case.name}\n    {own * 1e3:.3g} ms; {ratio} {case.reference}", flush=True)
