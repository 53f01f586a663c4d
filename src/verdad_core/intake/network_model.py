"""A Touchstone file as a model: a subcircuit whose ports hold to its S-parameters.

Port i is its reference resistance in front of a source of what comes out of it: with power waves at real references
v_i - R_i i_i = sum_j S_ij sqrt(R_i / R_j) (v_j + R_j i_j) (Kurokawa 1965).
Each S_ij is a source with a table of frequencies, so that responses are exact at the file's own, and a transient runs
on rational functions through the tables.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator

import numpy as np

from verdad_core.errors import Finding, Place, Severity
from verdad_core.intake.touchstone import ENDING, NetworkData
from verdad_core.units import format_span, format_value

#: What no name of a subcircuit has.
_OTHERS = re.compile(r"[^a-z0-9_]+")

#: A wave that is no larger than this is none.
_NOTHING = 1e-20

#: What gives more power than it takes has a singular value above 1, but for rounding and noise of measurement.
_ACTIVE = 1e-3


def subcircuit_of(file: str, data: NetworkData) -> str:
    """The netlist text, a subcircuit called like the file, with the pins p1, p2, ... and ref."""
    name = _OTHERS.sub("_", ENDING.sub("", file.lower())).strip("_") or "network"
    name = name if name[0].isalpha() else f"n_{name}"
    ports = range(1, data.ports + 1)
    pins = " ".join(f"p{k}" for k in ports)
    ohms = ", ".join(dict.fromkeys(format_value(float(r), "Ω") for r in data.resistances))
    span = format_span(float(data.frequency[0]), float(data.frequency[-1]), "Hz")
    lines = [f"* {file}: S-parameters of {data.ports} port{'s' if data.ports > 1 else ''} at {ohms}",
             f"* {len(data.frequency)} frequencies, {span}", f".subckt {name} {pins} ref"]  # fmt: skip
    for i in ports:
        lines += _port(i, data)
    return "\n".join([*lines, f".ends {name}"]) + "\n"


def _port(i: int, data: NetworkData) -> Iterator[str]:
    own = float(data.resistances[i - 1])
    yield f"r{i} p{i} x{i} {own!r}"
    # Twice the wave into the port: v + R i.
    yield f"ea{i} a{i} ref value={{2*v(p{i},ref)-v(x{i},ref)}}"
    nodes = [f"x{i}", *(f"m{i}_{j}" for j in range(1, data.ports)), "ref"]
    for j in range(1, data.ports + 1):
        scale = math.sqrt(own / data.resistances[j - 1])
        waves = np.maximum(np.abs(data.s[:, i - 1, j - 1]) * scale, _NOTHING)
        decibels = 20.0 * np.log10(waves)
        degrees = np.degrees(np.unwrap(np.angle(data.s[:, i - 1, j - 1])))
        yield f"e{i}{j} {nodes[j - 1]} {nodes[j]} freq {{v(a{j},ref)}} ="
        for frequency, size, angle in zip(data.frequency, decibels, degrees, strict=True):
            yield f"+ ({float(frequency)!r},{float(size)!r},{float(angle)!r})"


def remarks(file: str, data: NetworkData) -> list[Finding]:
    """What must be known of the file: what reading it mended, and that it is active where it is."""
    found = list(data.findings)
    largest, frequency = data.activity
    if largest > 1.0 + _ACTIVE:
        words = f"at {format_value(frequency, 'Hz', 3)} more comes out than goes in, by {largest:.4g}: it is active"
        remedy = "Of a passive part that is a fault of measurement, which makes circuits oscillate that do not."
        found.append(Finding(Severity.NOTE, words, place=Place(file=file), remedy=remedy))
    return found
