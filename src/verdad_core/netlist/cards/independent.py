"""V and I: a direct value, a small-signal magnitude and phase, a waveform, and noise."""

from __future__ import annotations

from itertools import pairwise

from verdad_core.devices import waveforms
from verdad_core.netlist.cards.card import Card, Kind, Wave, Words, write_list, write_values
from verdad_core.netlist.expressions import Value, write_value
from verdad_core.netlist.lines import Statement

#: The words that start a waveform.
WORDS = {
    "pulse": waveforms.PULSE, "sin": waveforms.SIN, "exp": waveforms.EXP, "sffm": waveforms.SFFM,
    "pwl": waveforms.PWL, "gaussian": waveforms.GAUSSIAN, "uniform": waveforms.UNIFORM, "am": waveforms.AM,
}  # fmt: skip
_WORD_OF = {kind: word for word, kind in WORDS.items()}
#: Numbers that a repeated stretch of a PWL may be written out to.
MOST_REPEATED = 20_000
_PAIRS = {"dc": "dc", "ac": "ac", "phase": "phase", "density": "density", "corner": "corner"}


def _read(statement: Statement) -> Card:
    family = "voltage source" if statement.keyword[0] == "v" else "current source"
    words = Words(statement)
    nodes = words.nodes(2, "two nodes")
    values: dict[str, Value] = {}
    wave: Wave | None = None
    if words.is_number():
        values["dc"] = words.number()
    while words.rest:
        if len(words.rest) > 1 and words.rest[1].text == "=":
            break
        word = words.take("a value")
        if word.text == "dc":
            if "dc" in values:
                raise words.error("has two direct values", "Remove one.", word)
            values["dc"] = words.number("a direct value")
        elif word.text == "ac":
            values["ac"] = words.number() if words.is_number() else 1.0
            if words.is_number():
                values["phase"] = words.number()
        elif word.text in WORDS:
            wave = _wave(words, WORDS[word.text], word.text)
        else:
            raise words.error(
                f"'{word.text}' is not understood here",
                f"A source has a DC value, AC magnitude and phase, and one of {', '.join(WORDS).upper()}.",
                word,
            )
    pairs = words.values({**_PAIRS, "repeat": "repeat"})
    if "repeat" in pairs:
        repeat = pairs.pop("repeat")
        if wave is None or wave.kind != waveforms.PWL:
            raise words.error("'repeat' belongs to PWL", "Remove it.")
        wave = Wave(wave.kind, wave.values, repeat)
    return Card(statement.keyword, nodes, statement, family, values | pairs, form=wave)


def _corners(words: Words) -> tuple[tuple[Value, ...], Value | None]:
    """Times and values of a PWL, and where it repeats from; `+1u` is that much after the time before."""
    values: list[Value] = []
    repeat: Value | None = None
    while words.is_number() or words.peek() == "repeat":
        if words.peek() == "repeat":
            if len(words.rest) > 1 and words.rest[1].text == "=":
                break
            repeat = _repeated(words, values)
            continue
        is_later, time = words.peek().startswith("+") and len(values) > 1, words.number("a time")
        if is_later:
            before = values[-2]
            if not isinstance(time, float) or not isinstance(before, float):
                raise words.error("a time that is relative to another one is a number", "Write it without braces.")
            time += before
        values += [time, words.number("a value")]
    return tuple(values), repeat


def _repeated(words: Words, values: list[Value]) -> Value | None:
    """`REPEAT FOR n (..) ENDREPEAT`, appended to `values`; `REPEAT FOREVER (..) ENDREPEAT`, whose start is returned."""
    words.take("repeat")
    count, start = 1, values[-2] if values else 0.0
    if words.skip("for"):
        token = words.take("a number of repeats")
        count = int(token.text) if token.text.isdigit() and len(token.text) < 5 else 0
        if count < 1:
            raise words.error(f"'{token.text}' is no number of repeats", "Write REPEAT FOR 5.", token)
    elif not words.skip("forever"):
        raise words.error("REPEAT is followed by FOR and a number, or by FOREVER", "Write REPEAT FOR 5 (..) ENDREPEAT.")
    forever = count == 1 and words.statement.tokens[-1 - len(words.rest)].text == "forever"
    inner = words.numbers()
    times = [time for time in inner[::2] if isinstance(time, float)]
    if not words.skip("endrepeat") or len(inner) < 2 or len(inner) % 2 or len(times) < len(inner[::2]):
        raise words.error("REPEAT holds pairs of numbers up to ENDREPEAT", "Write REPEAT FOR 5 (0 0 1m 5) ENDREPEAT.")
    if not isinstance(start, float) or count * len(inner) > MOST_REPEATED or times[-1] <= 0.0:
        raise words.error("what REPEAT asks for cannot be written out", "Repeat a stretch of time, fewer times.")
    for k in range(count):
        for time, value in zip(times, inner[1::2], strict=True):
            values += [start + k * times[-1] + time, value]
    return start + times[0] if forever else None


def _wave(words: Words, kind: int, word: str) -> Wave:
    if kind == waveforms.PWL:
        values, repeat = _corners(words)
        if len(values) < 2 or len(values) % 2:
            raise words.error("PWL takes pairs of a time and a value", "Write PWL(0 0 1m 5).")
        times = [value for value in values[::2] if isinstance(value, float)]
        if len(times) == len(values[::2]) and any(b < a for a, b in pairwise(times)):
            raise words.error("the times of PWL run backwards", "Write them in rising order.")
        for first, second, third in zip(values[::2], values[2::2], values[4::2], strict=False):
            if isinstance(first, float) and first == second == third:
                raise words.error(f"PWL has three values at {first:g} s", "An edge has one before it and one after it.")
        return Wave(kind, values, repeat)
    values = words.numbers()
    most, least = len(waveforms.FORMS[kind]), waveforms.LEAST[kind]
    if not least <= len(values) <= most:
        names = " ".join(name for name, _, _ in waveforms.FORMS[kind]).upper()
        raise words.error(
            f"{word.upper()} has {len(values)} values; it takes {least} to {most}", f"Write {word.upper()}({names})."
        )
    return Wave(kind, values)


def _write(card: Card) -> str:
    text = f"{card.name} {' '.join(card.nodes)}"
    if isinstance(card.form, Wave):
        text += f" {_WORD_OF[card.form.kind]}({write_list(card.form.values)})"
        if card.form.repeat is not None:
            text += f" repeat={write_value(card.form.repeat)}"
    return text + write_values(card.values)


INDEPENDENT = Kind(_read, _write)
