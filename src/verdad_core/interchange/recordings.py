"""Files of recorded signals, read as the waveform of a source: CSV with time and value, or WAV."""

from __future__ import annotations

import csv
import io
import warnings
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.document.waveforms import MAX_SAMPLES, Recorded
from verdad_core.errors import BoardError, Finding, Place, Severity, ValueTextError
from verdad_core.units import parse_value, plain_value


@dataclass(frozen=True)
class Recording:
    """The waveform, and what was done to the file's samples."""

    waveform: Recorded
    findings: tuple[Finding, ...]


def read_recording(name: str, data: bytes) -> Recording:
    """Read a file by what is in it. Raises BoardError, with the line, for one that holds no signal."""
    name = "".join(character for character in name if character.isprintable()).strip()[:120] or "recording"
    if data[:4] == b"RIFF":
        interval, samples = _wav(name, data)
        findings: list[Finding] = []
    else:
        interval, samples, findings = _csv(name, data)
    if len(samples) > MAX_SAMPLES:
        findings.append(
            Finding(
                Severity.WARNING, f"{name} has {len(samples):,} samples; the first {MAX_SAMPLES:,} are used",
                remedy="Cut the part of interest out, or record at a lower rate.",
            )
        )  # fmt: skip
        samples = samples[:MAX_SAMPLES]
    if len(samples) < 2:
        raise BoardError(f"{name} holds fewer than two samples", remedy="Choose a file with a recording.")
    if not (np.isfinite(samples).all() and 0 < interval < np.inf):
        raise BoardError(f"{name} holds numbers without an end", remedy="Write it again from the recorder.")
    rounded = tuple(float(f"{sample:.7g}") for sample in samples.tolist())
    return Recording(Recorded(file=name, interval=plain_value(interval), samples=rounded), tuple(findings))


def _wav(name: str, data: bytes) -> tuple[float, Floats]:
    """The first channel, full scale being 1."""
    # Loaded when it is needed.
    from scipy.io import wavfile

    try:
        with warnings.catch_warnings(action="ignore"):
            rate, values = wavfile.read(io.BytesIO(data))
        interval = 1.0 / rate
    # What a damaged header brings about there is not one kind of error.
    except Exception as error:
        raise BoardError(f"{name} cannot be read as a WAV file: {error}", remedy="Save it as plain PCM.") from None
    channel = values if values.ndim == 1 else values[:, 0]
    if channel.dtype == np.uint8:
        return interval, (np.asarray(channel, float) - 128.0) / 128.0
    full = float(np.iinfo(channel.dtype).max) + 1.0 if np.issubdtype(channel.dtype, np.integer) else 1.0
    return interval, np.asarray(channel, float) / full


def _csv(name: str, data: bytes) -> tuple[float, Floats, list[Finding]]:
    """Rows of time and value, after lines that are no numbers; samples at other distances are read between."""
    text = data.decode("utf-8-sig", errors="replace")
    delimiter = next((sign for sign in ("\t", ";", ",") if sign in text[:2000]), ",")
    # Every kind of line end counts as one.
    reader = csv.reader(io.StringIO(text, newline=None), delimiter=delimiter)
    try:
        rows = _rows(reader)
    except (ValueTextError, csv.Error) as error:
        raise BoardError(
            f"no time and value: {error}", place=Place(file=name, line=reader.line_num),
            remedy="Write two columns of numbers, with a point for the decimals.",
        ) from None  # fmt: skip
    if len(rows) < 2:
        raise BoardError(
            f"{name} holds no rows with a time and a value",
            remedy="Write two columns, seconds and volts, or give a WAV.",
        )
    times, values = np.array(rows).T
    steps = times[1:] - times[:-1]
    if np.any(steps <= 0):
        raise BoardError(
            f"the times of {name} do not rise at row {int(np.argmax(steps <= 0)) + 2}", remedy="Sort the rows by time."
        )
    if np.ptp(steps) <= 1e-3 * steps.mean():
        return float(steps.mean()), values, []
    interval = float((times[-1] - times[0]) / (len(times) - 1))
    even = np.interp(times[0] + interval * np.arange(len(times)), times, values)
    return interval, even, [Finding(Severity.NOTE, f"the times of {name} are not even; it was read between its rows")]


def _rows(reader: Iterable[list[str]]) -> list[tuple[float, float]]:
    """What stands above the first row of numbers is a heading; raises ValueTextError for what comes after it."""
    rows: list[tuple[float, float]] = []
    for row in reader:
        cells = [cell.strip() for cell in row if cell.strip()]
        if not cells:
            continue
        try:
            if len(cells) < 2:
                raise ValueTextError(f"'{cells[0][:60]}' stands alone")
            rows.append((parse_value(cells[0]), parse_value(cells[1])))
        except ValueTextError:
            if rows:
                raise
    return rows
