"""`.noise`: densities at an output and referred to a source."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from verdad_core.analyses.crowding import crowded
from verdad_core.analyses.noise import integrate, noise_at
from verdad_core.analyses.poles import poles
from verdad_core.arrays import Floats
from verdad_core.errors import VerdadError
from verdad_core.netlist.cards.card import Words
from verdad_core.netlist.command import Command, Output, Range, read_output, read_range, write_range, written
from verdad_core.simulation import Run


@dataclass(frozen=True)
class NoiseResult:
    """Densities in V/√Hz (A/√Hz for a current), totals over the whole range of frequencies."""

    kind: ClassVar[str] = "noise"
    frequency: Floats
    vectors: dict[str, Floats]
    contributions: dict[str, Floats]
    totals: dict[str, float]
    unstable: list[complex]


@dataclass(frozen=True, kw_only=True)
class Noise(Command):
    """Noise at an output, referred to a source."""

    output: Output
    source: str
    #: None: that of the netlist's `.ac`, as in SPICE 2G6.
    range: Range | None

    keyword: ClassVar[str] = ".noise"

    @classmethod
    def read(cls, words: Words) -> Self:
        output, source = read_output(words), words.take("a source").text
        over = None if not words.rest or words.is_number() else read_range(words)
        if words.is_number():
            words.number()  # every how many points a listing is wanted; here all of them are kept
        return cls(output=output, source=source, range=over, line=words.statement.line)

    def write(self) -> str:
        over = write_range(self.range) if self.range else ""
        return f".noise {written(self.output)} {self.source} {over}".rstrip()

    def run(self, run: Run) -> NoiseResult:
        ranges = [self.range, *(each.frequencies for each in run.netlist.commands)]
        over = next((each for each in ranges if each is not None), None)
        if over is None:
            raise VerdadError(".noise says nothing of the frequencies", remedy="Add dec 10 1 1meg, or an .ac.")
        frequency = run.frequencies(over, from_zero=False)
        # Totals are taken over more points than are listed, where the density is narrow.
        [natural] = poles(run.point)
        fine = crowded(frequency, natural.values)
        listed = np.isin(fine, frequency)
        run.check_size(len(fine), len(run.structure.noise) + 2)
        parts = [noise_at(run.point, part, [self.output], self.source) for part in run.in_parts(fine)]
        total = np.concatenate([part.total[0, 0] for part in parts])
        referred = np.concatenate([part.input_referred[0, 0] for part in parts])
        shares = np.concatenate([part.contributions[0, 0] for part in parts], axis=1)
        contributions = {
            name: np.sqrt(share[listed])
            for (name, _), share in zip(parts[0].contributors, shares, strict=True)
            if share.any()
        }
        totals = {
            "onoise_rms": math.sqrt(float(integrate(fine, total))),
            "inoise_rms": math.sqrt(float(integrate(fine, referred))),
        }
        vectors = {"onoise": np.sqrt(total[listed]), "inoise": np.sqrt(referred[listed])}
        return NoiseResult(frequency, vectors, contributions, totals, run.unstable(self.line))
