"""What a source does in time, to be looked at before anything is run."""

from __future__ import annotations

import numpy as np

from verdad_core.analyses.transient import transient
from verdad_core.checks.elaborate import fixture_elements
from verdad_core.devices import Element
from verdad_core.document.fixtures import Source
from verdad_core.engine.structure import GROUND, compile_structure
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, SECONDS, VOLTS

#: Points that are kept; extremes stay.
_POINTS = 4_000


def waveform_trace(source: Source) -> Trace | None:
    """The source's value over three periods, or over what happens once; None for one without a waveform.

    It is what the engine makes of it: the source alone, into a load that shows it. Raises a VerdadError for one that
    cannot be run.
    """
    if source.waveform is None:
        return None
    period = source.waveform.period
    stop = 3 * period if period else 1.3 * source.waveform.settled
    if source.waveform.kind == "noise":
        stop = source.waveform.settled / 5
    stop = stop if stop > 0 else 1e-3
    alone = source.model_copy(update={"plus": "out", "minus": "gnd", "resistance": "0"})
    load = Element("load", "resistor", ("out", GROUND), {"resistance": 1e6 if source.quantity == "voltage" else 1.0})
    structure = compile_structure([*fixture_elements(alone, driven=False), load])
    trace = transient(structure, stop, [("out", GROUND)], most_points=_POINTS, longest=stop / 200).require()
    unit = VOLTS if source.quantity == "voltage" else AMPERES
    return Trace(np.asarray(trace.values[0]), unit, Axis("time", SECONDS, trace.time))
