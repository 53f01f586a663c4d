"""Grades of passive parts: purchase tolerance, temperature coefficient, and the series they are sold in."""

from __future__ import annotations

from dataclasses import dataclass

#: Letters for symmetrical tolerances in per cent (IEC 60062:2016, table of the letter code).
LETTERS: dict[str, float] = {
    "E": 0.005, "L": 0.01, "P": 0.02, "W": 0.05, "B": 0.1, "C": 0.25, "D": 0.5, "F": 1.0, "G": 2.0, "H": 3.0, "J": 5.0,
    "K": 10.0, "M": 20.0, "N": 30.0,
}  # fmt: skip


@dataclass(frozen=True)
class Grade:
    """One grade of a kind of part.

    `tolerance` in per cent when bought; `tempco` in ppm/°C, or 0 where the change is not linear: `drift` is then the
    largest change over the range of temperature, in per cent.
    """

    key: str
    kind: str
    title: str
    tolerance: float
    series: str
    tempco: float = 0.0
    drift: float = 0.0

    @property
    def letter(self) -> str:
        """The letter of its tolerance (IEC 60062)."""
        return next((letter for letter, tolerance in LETTERS.items() if tolerance == self.tolerance), "")


#: Common practice, no source: what distributors stock of each technology.
GRADES: tuple[Grade, ...] = (
    Grade("thick-5", "resistor", "thick film, 5 %", 5.0, "E24", 200.0),
    Grade("thick-1", "resistor", "thick film, 1 %", 1.0, "E96", 100.0),
    Grade("thin-0.5", "resistor", "thin film, 0.5 %", 0.5, "E96", 25.0),
    Grade("thin-0.1", "resistor", "thin film, 0.1 %", 0.1, "E192", 25.0),
    Grade("thin-0.05", "resistor", "thin film, 0.05 %", 0.05, "E192", 10.0),
    Grade("c0g-5", "capacitor", "ceramic C0G, 5 %", 5.0, "E12", 30.0),
    Grade("c0g-1", "capacitor", "ceramic C0G, 1 %", 1.0, "E24", 30.0),
    Grade("x7r-10", "capacitor", "ceramic X7R, 10 %", 10.0, "E6", 0.0, 15.0),
    Grade("x5r-20", "capacitor", "ceramic X5R, 20 %", 20.0, "E6", 0.0, 15.0),
    Grade("film-5", "capacitor", "film, 5 %", 5.0, "E6", -300.0),
    Grade("film-1", "capacitor", "film, 1 %", 1.0, "E12", -150.0),
    Grade("electrolytic-20", "capacitor", "electrolytic, 20 %", 20.0, "E6", 0.0, 20.0),
    Grade("wound-5", "inductor", "wound, 5 %", 5.0, "E12", 100.0),
    Grade("wound-10", "inductor", "wound, 10 %", 10.0, "E12", 200.0),
    Grade("power-20", "inductor", "power, 20 %", 20.0, "E6", 500.0),
)
