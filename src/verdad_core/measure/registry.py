"""The registry of measurements, by key. A measurement is one function and one row, in the file of what it takes."""

from __future__ import annotations

from verdad_core.measure import curve, density, loop, periodic, response, steps, waveform
from verdad_core.measure.entry import Entry

MEASUREMENTS: dict[str, Entry] = {
    entry.key: entry
    for family in (response, waveform, steps, periodic, curve, density, loop)
    for entry in family.ENTRIES
}
