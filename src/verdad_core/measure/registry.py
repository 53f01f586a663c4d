"""The registry of measurements, by key. A measurement is one function and one row, in the file of what it takes."""

from __future__ import annotations

from verdad_core.measure import density, loop, response, waveform
from verdad_core.measure.entry import Entry

MEASUREMENTS: dict[str, Entry] = {
    entry.key: entry for entry in (*response.ENTRIES, *waveform.ENTRIES, *density.ENTRIES, *loop.ENTRIES)
}
