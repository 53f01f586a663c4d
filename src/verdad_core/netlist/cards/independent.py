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
    "pwl": waveforms.PWL, "gaussian": waveforms.GAUSSIAN, "uniform": waveforms.UNIFORM,
}  # fmt: skip
_WORD_OF = {kind: word for word, kind in WORDS.items()}
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


def _wave(words: Words, kind: int, word: str) -> Wave:
    values = words.numbers()
    if kind == waveforms.PWL:
        if len(values) < 2 or len(values) % 2:
            raise words.error("PWL takes pairs of a time and a value", "Write PWL(0 0 1m 5).")
        times = [value for value in values[::2] if isinstance(value, float)]
        if len(times) == len(values[::2]) and any(b < a for a, b in pairwise(times)):
            raise words.error("the times of PWL run backwards", "Write them in rising order.")
        for (time, one), (after, other) in pairwise(zip(values[::2], values[1::2], strict=True)):
            if isinstance(time, float) and time == after and one != other:
                raise words.error(
                    f"PWL has two values at {time:g} s, which it cannot both have", "Give the edge a time, say 1 ns."
                )
        return Wave(kind, values)
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
