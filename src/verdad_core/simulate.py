"""A netlist file simulated as it says: its analysis statements in their order, each with its result.

    simulation = simulate(text)
    simulation.analyses[0].values["v(out)"]

`simulate` raises a VerdadError for a text that cannot be simulated; `place.line` is the line to look at. A run that
reaches one of its `Limits`, or a transient that cannot go on, ends with the results so far and says why in `stopped`.
`Simulation.json()` is what `verdad simulate FILE --json` prints.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from verdad_core.errors import VerdadError
from verdad_core.netlist.reader import Texts, read
from verdad_core.simulation import LimitReachedError, Limits, Run, Simulation


def simulate(text: str, texts: Texts | Mapping[str, str] | None = None, limits: Limits | None = None) -> Simulation:
    """Simulate a netlist file, whose first line is its title.

    `texts` holds what its `.include` and `.lib` statements may ask for. Raises VerdadError.
    """
    netlist = read(text, has_title=True, texts=texts).require()
    return _whole(Run(netlist, limits or Limits()))


def _whole(run: Run) -> Simulation:
    if not run.netlist.commands:
        run.warn("the file has no analysis statement, so nothing was computed", "Add .op, for one.", None)
    run.tell_of_circuit()
    # Harmonics are those of a transient, wherever their statement stands.
    for command in sorted(run.netlist.commands, key=lambda each: each.last):
        try:
            run.check_clock()
            analysis = command.run(run)
        except LimitReachedError as error:
            error.place = replace(error.place, line=command.line)
            run.simulation.stopped = error
            break
        except VerdadError as error:
            if error.place.line is None:
                error.place = replace(error.place, line=command.line)
            raise
        if analysis is not None:
            run.simulation.analyses.append(analysis)
        if run.simulation.stopped is not None:
            run.simulation.stopped.place = replace(run.simulation.stopped.place, line=command.line)
            break
    return run.simulation
