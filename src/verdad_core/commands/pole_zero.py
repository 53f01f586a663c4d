"""`.pz`: poles and zeros between two ports."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from verdad_core.analyses.poles import Poles, pole_zero
from verdad_core.netlist.cards.card import Words
from verdad_core.netlist.command import Command, Output
from verdad_core.simulation import Run


@dataclass(frozen=True)
class Pz:
    """Poles and zeros in rad/s; empty where the statement did not ask for them."""

    kind: ClassVar[str] = "pz"
    poles: list[complex]
    zeros: list[complex]


@dataclass(frozen=True, kw_only=True)
class PoleZero(Command):
    """Two ports; `drive` is "cur" or "vol"; `which` is "pol", "zer" or "pz"."""

    input: Output
    output: Output
    drive: str
    which: str

    keyword: ClassVar[str] = ".pz"

    @classmethod
    def read(cls, words: Words) -> Self:
        a, b, c, d = words.nodes(4, "two input and two output nodes")
        drive, which = words.take("cur or vol"), words.take("pol, zer or pz")
        if drive.text not in ("cur", "vol") or which.text not in ("pol", "zer", "pz"):
            raise words.error("ends with cur or vol, and pol, zer or pz", "Write .pz in 0 out 0 vol pz.", drive)
        return cls(input=(a, b), output=(c, d), drive=drive.text, which=which.text, line=words.statement.line)

    def write(self) -> str:
        return f".pz {' '.join((*self.input, *self.output))} {self.drive} {self.which}"

    def run(self, run: Run) -> Pz:
        driven = "voltage" if self.drive == "vol" else "current"
        [found], [zeros] = pole_zero(run.point, self.input, self.output, driven)  # type: ignore[arg-type]
        for what, values in (("poles", found), ("zeros", zeros)):
            if not values.known:
                run.warn(
                    f"the {what} are not known: the circuit has lines or tabulated responses, or is too large",
                    "Look at its response.",
                    self.line,
                )
            elif not values.complete:
                run.warn(f"only the {what} near some frequencies were computed", "", self.line)
        return Pz(
            _listed(found) if self.which in ("pol", "pz") else [],
            _listed(zeros) if self.which in ("zer", "pz") else [],
        )


def _listed(found: Poles) -> list[complex]:
    return [complex(s) for s in found.values]
