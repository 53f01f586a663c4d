"""Units of traces: products of volts, amperes, seconds and degrees Celsius; decibels and degrees are none."""

from __future__ import annotations

from dataclasses import dataclass

#: Names of volts^a amperes^b seconds^c.
_NAMES: dict[tuple[float, float, float], str] = {
    (0, 0, 0): "", (1, 0, 0): "V", (0, 1, 0): "A", (1, 1, 0): "W", (1, -1, 0): "Ω", (-1, 1, 0): "S", (0, 0, 1): "s",
    (0, 0, -1): "Hz", (0, 1, 1): "C", (1, 0, 1): "V·s", (1, 1, 1): "J", (1, 0, -1): "V/s", (0, 1, -1): "A/s",
    (2, 0, 0): "V²", (0, 2, 0): "A²", (1, 0, 0.5): "V/√Hz", (0, 1, 0.5): "A/√Hz", (-1, 1, 1): "F", (1, -1, 1): "H",
}  # fmt: skip


@dataclass(frozen=True)
class Unit:
    """Exponents of volts, amperes, seconds and °C; a `word` such as dB stands for what is no product of them."""

    volts: float = 0
    amperes: float = 0
    seconds: float = 0
    celsius: float = 0
    word: str = ""

    def __mul__(self, other: Unit) -> Unit:
        if self.word or other.word:
            # Only a plain number leaves decibels and degrees what they are.
            return self if other == NONE else other if self == NONE else NONE
        return Unit(
            self.volts + other.volts, self.amperes + other.amperes, self.seconds + other.seconds,
            self.celsius + other.celsius,
        )  # fmt: skip

    def __pow__(self, exponent: float) -> Unit:
        return Unit(self.volts * exponent, self.amperes * exponent, self.seconds * exponent, self.celsius * exponent)

    def __truediv__(self, other: Unit) -> Unit:
        return NONE if self == other else self * other**-1

    @property
    def name(self) -> str:
        """As it stands behind a number: "V", "Ω", "V^0.5·s", and nothing where the unit is none."""
        if self.word:
            return self.word
        exponents = (self.volts, self.amperes, self.seconds)
        if exponents in _NAMES:
            plain = _NAMES[exponents]
        else:
            powers = zip("VAs", exponents, strict=True)
            plain = "·".join(letter if power == 1 else f"{letter}^{power:g}" for letter, power in powers if power)
        if not self.celsius:
            return plain
        warm = "°C" if abs(self.celsius) == 1 else f"°C^{abs(self.celsius):g}"
        return f"{plain or '1'}/{warm}" if self.celsius < 0 else f"{plain}·{warm}" if plain else warm


NONE = Unit()
VOLTS, AMPERES, SECONDS = Unit(1), Unit(0, 1), Unit(0, 0, 1)
WATTS, HERTZ = VOLTS * AMPERES, SECONDS**-1
CELSIUS = Unit(celsius=1)
DECIBELS, DEGREES = Unit(word="dB"), Unit(word="°")

#: What goes with the square of a voltage or a current.
POWERS = (WATTS, VOLTS**2, AMPERES**2)

_UNITS = {unit.name: unit for unit in (VOLTS, AMPERES, SECONDS, WATTS, HERTZ, VOLTS / AMPERES, CELSIUS)} | {
    "F": Unit(-1, 1, 1), "H": Unit(1, -1, 1),
}  # fmt: skip


#: Units that numbers may carry in an expression, by how they are written.
WRITTEN = {**_UNITS, "ohm": VOLTS / AMPERES, "S": AMPERES / VOLTS}


_CALLED = {name: Unit(volts, amperes, seconds) for (volts, amperes, seconds), name in _NAMES.items()} | {
    unit.name: unit for unit in (CELSIUS, DECIBELS, DEGREES, Unit(word="%"))
}  # fmt: skip


def unit_called(name: str) -> Unit | None:
    """The unit that is written so behind numbers; None where it is not known."""
    return NONE if name == "V/V" else _CALLED.get(name)


def unit_named(name: str) -> Unit:
    """The unit of that name; none where it has no part in calculations with units."""
    return _UNITS.get(name, NONE)
