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


#: Rounds in which runs are timed in turn, fewer where these take longer than so many seconds; in each of them a short
#: run is repeated for this long.
ROUNDS, ENOUGH, BURST = 7, 20.0, 0.02


def in_turn(*runs: Callable[[], object]) -> list[float]:
    """Seconds of each run, the median of several rounds: as they take turns, all see the same moods of the machine."""
    rounds: list[list[float]] = []
    while len(rounds) < ROUNDS and sum(map(sum, rounds)) < ENOUGH:
        rounds.append([_seconds(run) for run in runs])
    return [statistics.median(times) for times in zip(*rounds, strict=True)]


def _seconds(run: Callable[[], object]) -> float:
    times: list[float] = []
    while sum(times) < BURST:
        start = time.perf_counter()
        run()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def report(case: Case) -> None:
    """Time a case and its reference in turn, and print the ratio of the medians."""
    case.run()
    own, part = in_turn(case.run, case.run_reference)
    reference = part * case.scale
    ratio = f"{reference / own:.1f} times faster than" if own < reference else f"{own / reference:.2f} times as long as"
    print(f"{case.name}\n    {own * 1e3:.3g} ms; {ratio} {case.reference}", flush=True)
