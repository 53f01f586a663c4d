"""Analysis statements: `.op .dc .ac .tran .four .noise .tf .pz .sens`, read into plain data and written back."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field

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
    """One source's value, one element's parameter ("r1", "q1:bf"), or "temp".

    From start to stop in steps ("lin"), with `step` points per decade or octave ("dec", "oct"), or a list's values.
    """

    name: str
    start: Value
    stop: Value
    step: Value
    variation: str = "lin"
    values: tuple[Value, ...] = ()


@dataclass(frozen=True)
class DcSweep:
    """One or two sweeps; the first runs through for every value of the second."""

    sweeps: tuple[Sweep, ...]
    line: int = field(compare=False)


@dataclass(frozen=True)
class Range:
    """Frequencies: `dec` or `oct` with points per decade or octave, `lin` with points in all, or a `list`."""

    variation: str
    points: Value
    start: Value
    stop: Value
    values: tuple[Value, ...] = ()


@dataclass(frozen=True)
class Ac:
    range: Range
    line: int = field(compare=False)


@dataclass(frozen=True)
class Noise:
    output: Output
    source: str
    #: None: that of the netlist's `.ac`, as in SPICE 2G6.
    range: Range | None
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
    #: None: a fiftieth of the run.
    step: Value | None
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

_OUTPUT = re.compile(r"([vi])\s*\(\s*([^\s(),]+)\s*(?:,\s*([^\s(),]+)\s*)?\)")


def _output(words: Words) -> Output:
    """The next words as `v(a)`, `v(a,b)` or `i(source)`."""
    kind = words.take("an output such as v(out)")
    match = _OUTPUT.match(kind.text + words.statement.after(kind))
    if match is None or kind.text != match[1] or (kind.text == "i" and match[3]):
        raise words.error("needs an output such as v(out), v(a,b) or i(v1)", "Name one.", kind)
    words.nodes(2 if match[3] else 1, "a node")
    if kind.text == "v" and match[2] == match[3]:
        raise words.error(f"looks from node {match[2]} to itself", "Name two nodes.", kind)
    if kind.text == "v" and match[2] == "0" and not match[3]:
        raise words.error("looks at ground, which is at 0 V by definition", "Name another node.", kind)
    return (match[2], match[3] or "0") if kind.text == "v" else (f"i({match[2]})", "0")


def _range(words: Words) -> Range:
    variation = words.take("dec, oct, lin or list")
    if variation.text == "list":
        values = words.numbers()
        if not values:
            raise words.error("LIST names no frequency", "Write list 50 1k 20k.", variation)
        return Range("list", float(len(values)), values[0], values[-1], values)
    if variation.text not in ("dec", "oct", "lin"):
        raise words.error(f"'{variation.text}' is not dec, oct, lin or list", "Write dec 10 1 1meg.", variation)
    return Range(variation.text, words.number("a number of points"), words.number("a start"), words.number("a stop"))


def _sweep(words: Words) -> Sweep:
    variation = words.take("how").text if words.peek() in ("lin", "dec", "oct") else "lin"
    name = words.take("what to sweep").text
    if words.skip("list"):
        values = words.numbers()
        if not values:
            raise words.error("LIST names no value", "Write .dc v1 list 1 2 5.")
        return Sweep(name, values[0], values[-1], 0.0, "list", values)
    if words.rest and not words.is_number():
        name = f"{name}:{words.take('a parameter').text}"
    step = "a step" if variation == "lin" else "a number of points"
    return Sweep(name, words.number("a start"), words.number("a stop"), words.number(step), variation)


def _dc(words: Words) -> DcSweep:
    sweeps: list[Sweep] = []
    while words.rest and len(sweeps) < 2:
        sweeps.append(_sweep(words))
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
    first = words.number("a step")
    # A single number is the end.
    step, stop = (first, words.number()) if words.is_number() else (None, first)
    step = None if step == 0.0 else step
    start = words.number() if words.is_number() else None
    largest = words.number() if words.is_number() else None
    return Transient(step, stop, start, largest, words.skip("uic"), words.statement.line)


def _fourier(words: Words) -> Fourier:
    fundamental = words.number("a fundamental frequency")
    outputs: list[Output] = []
    while words.rest or not outputs:
        outputs.append(_output(words))
    return Fourier(fundamental, tuple(outputs), words.statement.line)


def _noise(words: Words) -> Noise:
    output, source = _output(words), words.take("a source").text
    over = None if not words.rest or words.is_number() else _range(words)
    if words.is_number():
        words.number()  # every how many points a listing is wanted; here all of them are kept
    return Noise(output, source, over, words.statement.line)


_READERS: dict[str, Callable[[Words], Command]] = {
    ".op": lambda words: OperatingPoint(words.statement.line),
    ".dc": _dc,
    ".ac": lambda words: Ac(_range(words), words.statement.line),
    ".tran": _transient,
    ".four": _fourier,
    ".noise": _noise,
    ".tf": lambda words: TransferFunction(_output(words), words.take("a source").text, words.statement.line),
    ".pz": _pole_zero,
    ".sens": _sensitivity,
}
COMMANDS = frozenset(_READERS)


def read_command(statement: Statement) -> Command:
    """The analysis in a statement. Raises NetlistError."""
    words = Words(statement)
    command = _READERS[statement.keyword](words)
    words.done()
    return command


def written(output: Output) -> str:
    """An output as it is written: v(a), v(a,b) or i(v1)."""
    plus, minus = output
    if plus.startswith("i("):
        return plus
    return f"v({plus})" if minus == "0" else f"v({plus},{minus})"


def _range_text(r: Range) -> str:
    return f"list {write_list(r.values)}" if r.values else f"{r.variation} {write_list((r.points, r.start, r.stop))}"


def _sweep_text(s: Sweep) -> str:
    if s.values:
        return f"{s.name} list {write_list(s.values)}"
    return f"{'' if s.variation == 'lin' else s.variation + ' '}{s.name} {write_list((s.start, s.stop, s.step))}"


def write_command(command: Command) -> str:
    """The statement that reads back as the same command."""
    match command:
        case OperatingPoint():
            return ".op"
        case DcSweep(sweeps):
            return ".dc " + " ".join(map(_sweep_text, sweeps))
        case Ac(frequencies):
            return f".ac {_range_text(frequencies)}"
        case Noise(output, source, frequencies):
            return f".noise {written(output)} {source} {_range_text(frequencies) if frequencies else ''}".rstrip()
        case TransferFunction(output, source):
            return f".tf {written(output)} {source}"
        case PoleZero(here, there, drive, which):
            return f".pz {' '.join((*here, *there))} {drive} {which}"
        case Sensitivity(output, None):
            return f".sens {written(output)}"
        case Sensitivity(output, frequencies) if frequencies is not None:
            return f".sens {written(output)} ac {_range_text(frequencies)}"
        case Transient(step, stop, start, largest, uic):
            values = [v for v in (0.0 if step is None else step, stop, start, largest) if v is not None]
            return f".tran {' '.join(map(write_value, values))}{' uic' if uic else ''}"
        case Fourier(fundamental, outputs):
            return f".four {write_value(fundamental)} {' '.join(map(written, outputs))}"
    raise TypeError(command)
