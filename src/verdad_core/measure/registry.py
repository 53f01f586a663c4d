"""The registry of measurements, by key. A measurement is one function and one row, in the file of what it takes."""

from __future__ import annotations

from verdad_core.measure import curve, density, loop, periodic, response, steps, waveform
from verdad_core.measure.entry import Entry

#: The files, by what their measurements are taken of.
FAMILIES = {
    "response": response.ENTRIES, "waveform": waveform.ENTRIES, "step": steps.ENTRIES, "period": periodic.ENTRIES,
    "curve": curve.ENTRIES, "density": density.ENTRIES, "loop": loop.ENTRIES,
}  # fmt: skip

MEASUREMENTS: dict[str, Entry] = {entry.key: entry for entries in FAMILIES.values() for entry in entries}
#: The family of each, by its key.
FAMILY = {entry.key: family for family, entries in FAMILIES.items() for entry in entries}
