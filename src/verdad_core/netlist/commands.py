"""Analysis statements: `.op .dc .ac .tran .four .noise .tf .pz .sens`, read into plain data and written back."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field

from verdad_core.errors import NetlistError
from verdad_core.netlist.cards.card import Words, write_list
from verdad_core.netlist.expressions import Value, write_value
from verdad_core.netlist.lines import Statement

#: What an analysis looks at, as the analyses take it: ("out", "0") for a voltage, ("i(v1)", "0") for a current.
Output = tuple[str, str]


@dataclass(frozen=True)
class OperatingPoint:
    line: int = field(compare=False)


@dataclass(frozen=True)
class Sweep:
    """One source's value, one element's parameter ("r1", "q1:bf"), or "temp", from start to stop in steps."""

    name: str
    start: Value
    stop: Value
    step: Value


@dataclass(frozen=True)
class DcSweep:
    """One or two sweeps; the first runs through for every value of the second."""

    sweeps: tuple[Sweep, ...]
    line: int = field(compare=False)


@dataclass(frozen=True)
class Range:
    """Frequencies: `dec` or `oct` with points per decade or octave, or `lin` with points in all."""

    variation: str
    points: Value
    start: Value
    stop: Value


@dataclass(frozen=True)
class Ac:
    range: Range
    line: int = field(compare=False)


@dataclass(frozen=True)
class Noise:
    output: Output
    source: str
    range: Range
    line: int = field(compare=False)


@dataclass(frozen=True)
class TransferFunction:
    output: Output
    source: str
    line: int = field(compare=False)


@dataclass(frozen=True)
class PoleZero:
    """Two ports; `drive` is "cur" or "vol"; `which` is "pol", "zer" or "pz"."""

    input: Output
    output: Output
    drive: str
    which: str
    line: int = field(compare=False)


@dataclass(frozen=True)
class Sensitivity:
    output: Output
    range: Range | None
    line: int = field(compare=False)


@dataclass(frozen=True)
class Transient:
    step: Value
    stop: Value
    start: Value | None
    largest: Value | None
    from_conditions: bool
    line: int = field(compare=False)


@dataclass(frozen=True)
class Fourier:
    """Harmonics of the last period of a transient."""

    fundamental: Value
    outputs: tuple[Output, ...]
    line: int = field(compare=False)


Command = OperatingPoint | DcSweep | Ac | Noise | TransferFunction | PoleZero | Sensitivity | Transient | Fourier

_OUTPUT = re.compile(r"\b([vi])\s*\(\s*([^\s(),]+)\s*(?:,\s*([^\s(),]+)\s*)?\)")


def _output(words: Words) -> Output:
    """The next words as `v(a)`, `v(a,b)` or `i(source)`."""
    match = _OUTPUT.search(words.statement.text.lower())
    kind = words.take("an output such as v(out)")
    if match is None or kind.text != match[1] or (kind.text == "i" and match[3]):
        raise words.error("needs an output such as v(out), v(a,b) or i(v1)", "Name one.", kind)
    words.nodes(2 if match[3] else 1, "a node")
    return (match[2], match[3] or "0") if kind.text == "v" else (f"i({match[2]})", "0")


def _range(words: Words) -> Range:
    variation = words.take("dec, oct or lin")
    if variation.text not in ("dec", "oct", "lin"):
        raise words.error(f"'{variation.text}' is not dec, oct or lin", "Write dec 10 1 1meg.", variation)
    return Range(variation.text, words.number("a number of points"), words.number("a start"), words.number("a stop"))


def _dc(words: Words) -> DcSweep:
    sweeps: list[Sweep] = []
    while words.rest and len(sweeps) < 2:
        name = words.take("what to sweep").text
        if words.rest and not words.is_number():
            name = f"{name}:{words.take('a parameter').text}"
        sweeps.append(Sweep(name, words.number("a start"), words.number("a stop"), words.number("a step")))
    if not sweeps:
        raise words.error("needs what to sweep, start, stop and step", "Write .dc v1 0 5 0.1.")
    return DcSweep(tuple(sweeps), words.statement.line)


def _pole_zero(words: Words) -> PoleZero:
    a, b, c, d = words.nodes(4, "two input and two output nodes")
    drive, which = words.take("cur or vol"), words.take("pol, zer or pz")
    if drive.text not in ("cur", "vol") or which.text not in ("pol", "zer", "pz"):
        raise words.error("ends with cur or vol, and pol, zer or pz", "Write .pz in 0 out 0 vol pz.", drive)
    return PoleZero((a, b), (c, d), drive.text, which.text, words.statement.line)


def _sensitivity(words: Words) -> Sensitivity:
    output = _output(words)
    words.skip("dc")
    return Sensitivity(output, _range(words) if words.skip("ac") else None, words.statement.line)


def _transient(words: Words) -> Transient:
    step, stop = words.number("a step"), words.number("a stop time")
    start = words.number() if words.is_number() else None
    largest = words.number() if words.is_number() else None
    return Transient(step, stop, start, largest, words.skip("uic"), words.statement.line)


def _fourier(words: Words) -> Fourier:
    fundamental = words.number("a fundamental frequency")
    outputs = [
        (match[2], match[3] or "0") if match[1] == "v" else (f"i({match[2]})", "0")
        for match in _OUTPUT.finditer(words.statement.text.lower())
    ]
    if not outputs:
        raise words.error("needs outputs such as v(out)", "Write .four 1k v(out).")
    words.rest.clear()
    return Fourier(fundamental, tuple(outputs), words.statement.line)


_READERS: dict[str, Callable[[Words], Command]] = {
    ".op": lambda words: OperatingPoint(words.statement.line),
    ".dc": _dc,
    ".ac": lambda words: Ac(_range(words), words.statement.line),
    ".tran": _transient,
    ".four": _fourier,
    ".noise": lambda words: Noise(_output(words), words.take("a source").text, _range(words), words.statement.line),
    ".tf": lambda words: TransferFunction(_output(words), words.take("a source").text, words.statement.line),
    ".pz": _pole_zero,
    ".sens": _sensitivity,
}
COMMANDS = frozenset(_READERS)


def read_command(statement: Statement) -> Command:
    """The analysis in a statement. Raises NetlistError."""
    words = Words(statement)
    command = _READERS[statement.keyword](words)
    if words.rest and not isinstance(command, Noise):
        raise _left(words)
    return command


def _left(words: Words) -> NetlistError:
    token = words.rest[0]
    return words.error(f"'{token.text}' is not understood here", "Remove it.", token)


def written(output: Output) -> str:
    """An output as it is written: v(a), v(a,b) or i(v1)."""
    plus, minus = output
    if plus.startswith("i("):
        return plus
    return f"v({plus})" if minus == "0" else f"v({plus},{minus})"


def _range_text(r: Range) -> str:
    return f"{r.variation} {write_list((r.points, r.start, r.stop))}"


def write_command(command: Command) -> str:
    """The statement that reads back as the same command."""
    match command:
        case OperatingPoint():
            return ".op"
        case DcSweep(sweeps):
            return ".dc " + " ".join(f"{s.name} {write_list((s.start, s.stop, s.step))}" for s in sweeps)
        case Ac(frequencies):
            return f".ac {_range_text(frequencies)}"
        case Noise(output, source, frequencies):
            return f".noise {written(output)} {source} {_range_text(frequencies)}"
        case TransferFunction(output, source):
            return f".tf {written(output)} {source}"
        case PoleZero(here, there, drive, which):
            return f".pz {' '.join((*here, *there))} {drive} {which}"
        case Sensitivity(output, None):
            return f".sens {written(output)}"
        case Sensitivity(output, frequencies) if frequencies is not None:
            return f".sens {written(output)} ac {_range_text(frequencies)}"
        case Transient(step, stop, start, largest, uic):
            values = [v for v in (step, stop, start, largest) if v is not None]
            return f".tran {' '.join(map(write_value, values))}{' uic' if uic else ''}"
        case Fourier(fundamental, outputs):
            return f".four {write_value(fundamental)} {' '.join(map(written, outputs))}"
    raise TypeError(command)
