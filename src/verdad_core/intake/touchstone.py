"""Touchstone files, versions 1.1 and 2.0, read and written (IBIS Open Forum, "Touchstone File Format Specification").

Of version 2 the references of ports, their order, matrices of one half and noise data are read; the noise data are left
aside, and mixed-mode data refused. What is read comes as S-parameters at real reference resistances.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.network import from_form
from verdad_core.arrays import Complexes, Floats
from verdad_core.errors import Finding, NetlistError, Place, Severity
from verdad_core.units import has_decimal_comma

_UNITS = {"hz": 1.0, "khz": 1e3, "mhz": 1e6, "ghz": 1e9}
_FORMS, _FORMATS = ("s", "y", "z", "h", "g"), ("db", "ma", "ri")

#: What such files end with.
ENDING = re.compile(r"\.(s(?P<ports>\d)p|ts)$")

#: Ports, and points of all parameters together, that are read at most.
_MOST_PORTS, _MOST_NUMBERS = 9, 2_000_000

#: Lines of a matrix hold so many numbers at most, in pairs.
_PAIRS_A_LINE = 4


@dataclass(frozen=True)
class NetworkData:
    """`s` [F, ports, ports] at `frequency` [F] in hertz, rising, with real reference `resistances` [ports] in Ω."""

    frequency: Floats
    s: Complexes
    resistances: Floats
    findings: tuple[Finding, ...] = ()

    @property
    def ports(self) -> int:
        return len(self.resistances)

    @property
    def activity(self) -> tuple[float, float]:
        """The largest singular value of S, and its frequency in hertz: above 1 more comes out than goes in."""
        largest = np.linalg.svd(self.s, compute_uv=False)[:, 0]
        k = int(np.argmax(largest))
        return float(largest[k]), float(self.frequency[k])


def is_touchstone(name: str) -> bool:
    """Whether a file is called like one: .s1p to .s9p, or .ts."""
    return ENDING.search(name.lower()) is not None


def read_touchstone(name: str, text: str) -> NetworkData:
    """Read a file; `name` says how many ports it has (.s2p), where nothing in it does.

    Raises NetlistError, with the line, for what is none.
    """
    return _Reading(name, text).data()


def write_touchstone(data: NetworkData, remark: str = "") -> str:
    """The data as a file of version 1.1 where all ports have one resistance, else of 2.0; real and imaginary parts."""
    n, lines = data.ports, [f"! {line}" for line in remark.splitlines()]
    alike = bool(np.all(data.resistances == data.resistances[0]))
    if not alike:
        lines.append("[Version] 2.0")
    lines.append(f"# Hz S RI R {data.resistances[0]:.10g}")
    if not alike:
        lines += [f"[Number of Ports] {n}", *(["[Two-Port Data Order] 21_12"] if n == 2 else []),
                  f"[Number of Frequencies] {len(data.frequency)}",
                  "[Reference] " + " ".join(f"{r:.10g}" for r in data.resistances), "[Network Data]"]  # fmt: skip
    for frequency, matrix in zip(data.frequency, data.s, strict=True):
        ordered = matrix.T if n == 2 else matrix
        rows = [ordered.ravel()] if n <= 2 else list(ordered)
        pieces = [row[k : k + _PAIRS_A_LINE] for row in rows for k in range(0, len(row), _PAIRS_A_LINE)]
        for k, piece in enumerate(pieces):
            numbers = " ".join(f"{value.real:.12g} {value.imag:.12g}" for value in piece)
            lines.append(f"{frequency:.12g} {numbers}" if k == 0 else f"  {numbers}")
    return "\n".join([*lines, *([] if alike else ["[End]"])]) + "\n"


class _Reading:
    def __init__(self, name: str, text: str) -> None:
        self.name, self.text = name, text
        ending = ENDING.search(name.lower())
        self.ports = int(ending["ports"] or 0) if ending else 0
        self.told_by_name = self.ports > 0
        self.scale, self.form, self.format, self.normal = 1e9, "s", "ma", 50.0
        self.options = False
        self.version = 1
        self.references: list[float] = []
        self.swapped = True
        self.halves = "full"
        self.count = 0
        self.findings: list[Finding] = []

    def refused(self, line: int, message: str, remedy: str) -> NetlistError:
        return NetlistError(message, place=Place(file=self.name, line=line), remedy=remedy)

    def data(self) -> NetworkData:
        numbers = list(self._numbers())
        if not numbers:
            raise self.refused(1, f"{self.name} holds no data", "Write lines of a frequency and its parameters.")
        if not self.ports:
            self.ports = self._ports_by_lines(numbers)
        if not 1 <= self.ports <= _MOST_PORTS:
            raise self.refused(1, f"it has {self.ports} ports", f"Files of 1 to {_MOST_PORTS} ports are read.")
        frequency, values = self._points(numbers)
        if self.count and self.count != len(frequency):
            self._note(f"it says {self.count} frequencies and has {len(frequency)}")
        order = np.argsort(frequency, kind="stable")
        if np.any(np.diff(frequency) < 0):
            self._note("its frequencies do not rise; they were sorted")
        frequency, values = frequency[order], values[order]
        twice = np.concatenate([[False], np.diff(frequency) <= 0.0])
        if np.any(twice):
            self._note(f"{int(twice.sum())} frequencies stand there twice; the first of each is taken")
        frequency, values = frequency[~twice], values[~twice]
        resistances = np.array(self.references or [self.normal] * self.ports)
        if len(resistances) != self.ports:
            words = f"[Reference] has {len(resistances)} values for {self.ports} ports"
            raise self.refused(1, words, "Give one for each port.")
        s = from_form(self.form, self._whole(values), resistances)
        if not np.all(np.isfinite(s)):
            raise self.refused(1, f"its {self.form.upper()} parameters have no S-parameters", "Write it as S.")
        return NetworkData(frequency, s, resistances, tuple(self.findings))

    def _note(self, message: str) -> None:
        self.findings.append(Finding(Severity.NOTE, message, place=Place(file=self.name)))

    def _numbers(self) -> Iterator[tuple[int, list[float]]]:
        """Lines of numbers, each with its own number; keywords and options are noted on the way."""
        aside = False
        for k, raw in enumerate(self.text.splitlines(), 1):
            line = raw.split("!", 1)[0].strip()
            if not line:
                continue
            if line.startswith("["):
                word, _, rest = line[1:].partition("]")
                aside = self._keyword(k, word.strip().lower(), rest.strip(), aside)
            elif line.startswith("#"):
                if not self.options:
                    self._option(k, line[1:].lower().split())
                self.options = True
            elif not aside:
                yield k, [self._number(k, token) for token in line.split()]

    def _number(self, line: int, token: str) -> float:
        try:
            value = float(token)
        except ValueError:
            value = math.nan
        if not math.isfinite(value):
            comma = has_decimal_comma(token)
            remedy = "Write numbers with a point." if comma else "Write numbers only; comments begin with !."
            raise self.refused(line, f"'{token[:40]}' is no number", remedy)
        return value

    def _option(self, line: int, words: list[str]) -> None:
        k = 0
        while k < len(words):
            word = words[k]
            if word in _UNITS:
                self.scale = _UNITS[word]
            elif word in _FORMS:
                self.form = word
            elif word in _FORMATS:
                self.format = word
            elif word == "r" and k + 1 < len(words):
                k += 1
                self.normal = self._number(line, words[k])
                if self.normal <= 0.0:
                    raise self.refused(line, f"a reference of {self.normal:g} Ω", "Give a resistance above zero.")
            else:
                known = "GHz, MHz, kHz, Hz; S, Y, Z, G, H; MA, DB, RI; R and a resistance"
                raise self.refused(line, f"'{word}' in the option line is not known", f"It takes {known}.")
            k += 1

    def _keyword(self, line: int, word: str, rest: str, aside: bool) -> bool:
        """Note a keyword of version 2; whether what follows is left aside."""
        whole = int(rest) if rest.isdigit() else 0
        match word:
            case "version":
                self.version = 2
            case "number of ports":
                if self.told_by_name and whole != self.ports:
                    self._note(f"its name says {self.ports} ports, [Number of Ports] {whole}: that counts")
                self.ports = whole
            case "two-port data order":
                self.swapped = rest.lower() != "12_21"
            case "number of frequencies":
                self.count = whole
            case "reference":
                self.references = [self._number(line, token) for token in rest.split()]
            case "matrix format":
                self.halves = rest.lower()
            case "mixed-mode order":
                raise self.refused(line, "mixed-mode data are not read", "Write it with single-ended ports.")
            case "begin information" | "noise data":
                return True
            case "end information" | "network data":
                return False
        return aside

    def _ports_by_lines(self, numbers: Sequence[tuple[int, list[float]]]) -> int:
        """From how many numbers belong to the first frequency: lines that begin one have an odd number."""
        pairs = 0
        for k, (_, line) in enumerate(numbers):
            if k and len(line) % 2:
                break
            pairs += len(line) // 2
        ports = math.isqrt(pairs)
        if ports * ports != pairs:
            raise self.refused(
                numbers[0][0], f"{pairs} parameters at one frequency are no square matrix",
                "Call the file .s1p, .s2p, ... by its ports.",
            )  # fmt: skip
        return ports

    def _points(self, numbers: list[tuple[int, list[float]]]) -> tuple[Floats, Complexes]:
        """Frequencies in hertz [F] and parameters [F, so many of a matrix as are written]."""
        n = self.ports
        own = n * n if self.halves == "full" else n * (n + 1) // 2
        frequency: list[float] = []
        found: list[list[float]] = []
        for line, given in numbers:
            if found and len(found[-1]) < 2 * own:
                found[-1] += given
            else:
                # Noise data of two ports in version 1 begin where the frequency falls, five numbers a line.
                falls = bool(frequency) and given[0] * self.scale <= frequency[-1]
                if self.version == 1 and n == 2 and len(given) == 5 and falls:
                    self._note("its noise data were left aside")
                    break
                frequency.append(given[0] * self.scale)
                found.append(given[1:])
            if len(found[-1]) > 2 * own:
                says = "its name says" if self.told_by_name else "it has"
                raise self.refused(
                    line, f"{says} {n} ports, which take {2 * own} numbers after a frequency, but here are "
                    f"{len(found[-1])}", "Call the file by the number of its ports, such as .s2p.",
                )  # fmt: skip
            if len(found) * 2 * own > _MOST_NUMBERS:
                raise self.refused(line, "it has too many points", "Take fewer frequencies.")
        if len(found[-1]) < 2 * own:
            raise self.refused(
                numbers[-1][0], f"the last frequency has {len(found[-1])} of {2 * own} numbers",
                "Look whether the file is whole, and called by the number of its ports.",
            )  # fmt: skip
        pairs = np.array(found).reshape(len(found), own, 2)
        first, second = pairs[..., 0], pairs[..., 1]
        if self.format == "ri":
            values = first + 1j * second
        else:
            size = first if self.format == "ma" else 10.0 ** (first / 20.0)
            values = size * np.exp(1j * np.radians(second))
        return np.array(frequency), values

    def _whole(self, values: Complexes) -> Complexes:
        """Matrices [F, ports, ports], in Ω and S."""
        n = self.ports
        if self.halves == "full":
            whole = values.reshape(-1, n, n)
            whole = whole.swapaxes(1, 2) if n == 2 and self.swapped else whole
        else:
            whole = np.zeros((len(values), n, n), complex)
            rows, columns = np.triu_indices(n) if self.halves == "upper" else np.tril_indices(n)
            whole[:, rows, columns] = values
            whole[:, columns, rows] = values
        if self.version == 1:
            by = {"z": self.normal, "y": 1.0 / self.normal}.get(self.form)
            if by is not None:
                whole = whole * by
            if self.form in ("h", "g"):
                own, other = (0, 1) if self.form == "h" else (1, 0)
                whole = whole.copy()
                whole[:, own, own] *= self.normal
                whole[:, other, other] /= self.normal
        return whole
