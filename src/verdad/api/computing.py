"""The result of a check as drawn: remembered, under way for somebody else, or computed when its turn comes."""

from __future__ import annotations

from collections.abc import Callable, Collection
from contextlib import suppress

import numpy as np

from verdad.api.context import Context
from verdad.api.problems import ProblemError
from verdad.api.remembered import Run
from verdad.api.turns import LOOK, Flight
from verdad_core.checks.compiled import Compiler, compiled, turned
from verdad_core.checks.elaborate import Models
from verdad_core.checks.keys import check_key
from verdad_core.checks.run import CheckResult, run_check
from verdad_core.document.board import Board, Circuit
from verdad_core.document.checks import Check
from verdad_core.engine.structure import Structure
from verdad_core.errors import ConvergenceError


def nominal(
    context: Context, board: Board, check_id: str, models: Models, metered: frozenset[str] = frozenset(), by: str = "",
    compiler: Compiler = compiled, gone: Callable[[], bool] = lambda: False,
) -> tuple[str, CheckResult]:  # fmt: skip
    """The key and the result of a check as drawn: remembered, or under way for somebody else, or computed."""
    key = check_key(board, check_id, models)
    whole = (key, metered)
    while True:
        if (known := context.results.get(whole)) is not None:
            return key, known
        flight, leads = context.flights.join(whole)
        if leads:
            found = None
            try:
                result, found = _computed(context, board, check_id, models, metered, by, compiler, gone, flight)
            finally:
                context.flights.land(whole, flight, found)
            return key, result if found is None else context.results.keep(whole, found, _size(found))
        if (shared := _followed(context, by, gone, flight)) is not None:
            return key, shared


def _computed(
    context: Context, board: Board, check_id: str, models: Models, metered: frozenset[str], by: str, compiler: Compiler,
    gone: Callable[[], bool], flight: Flight[CheckResult],
) -> tuple[CheckResult, CheckResult | None]:  # fmt: skip
    """The result, and once more where it is everybody's: what was broken off is only that of the one who waits."""

    def look(done: float) -> None:
        flight.done = done
        run.look(done)

    with context.runs.begun(by, lambda: gone() and not flight.followers) as run:
        try:
            with context.turns.turn(by, run.wait):
                run.ahead = 0
                result = run_check(board, check_id, models, metered, look, compiler)
        except ConvergenceError:
            if not run.overtaken:
                raise
    _require_latest(run)
    return result, None if run.stopped else result


def _followed(
    context: Context, by: str, gone: Callable[[], bool], flight: Flight[CheckResult]
) -> CheckResult | None:  # fmt: skip
    """What equal work for somebody else brings; None where that was broken off."""
    try:
        with context.runs.begun(by, gone) as run:
            while True:
                with suppress(TimeoutError):
                    return flight.landing.result(LOOK)
                try:
                    # Its time begins when the work does.
                    if flight.done:
                        run.look(flight.done)
                    else:
                        run.wait(0)
                except ConvergenceError:
                    _require_latest(run)
                    raise
    finally:
        context.flights.leave(flight)


def _require_latest(run: Run) -> None:
    """ProblemError 409 for a run that was overtaken: cut at some instant, it is no result, and nobody waits for it."""
    if run.overtaken:
        raise ProblemError(409, "A later run of this window took the place of this one.", "Wait for that one.")


def compiler_for(context: Context, shape: str) -> Compiler:
    """Compiles a check of this shape; where one was compiled before, only its values are turned."""

    def compile_or_turn(circuit: Circuit, check: Check, models: Models, metered: Collection[str]) -> Structure:
        key = (shape, *metered)
        known = context.structures.get(key)
        if known is None:
            return context.structures.keep(key, compiled(circuit, check, models, metered))
        return turned(known, circuit, check)

    return compile_or_turn


def _size(result: CheckResult) -> int:
    """Bytes of a result, about."""
    if result.signals is None:
        return 0
    arrays = [*result.signals.voltages.values(), *result.signals.currents.values()]
    return sum(np.asarray(array).nbytes for array in arrays)
