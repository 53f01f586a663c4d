"""Small boards of the core's tests."""

from __future__ import annotations

from typing import Any

from verdad_core.checks.elaborate import Models
from verdad_core.checks.fresh import fresh_check
from verdad_core.checks.kind import CheckKind
from verdad_core.document.analysis import Analysis
from verdad_core.document.board import Board, Circuit
from verdad_core.document.checks import Check
from verdad_core.document.measurements import Measurement
from verdad_core.document.studies import Study
from verdad_core.studies.evidence import MemoryStore
from verdad_core.studies.rows import Rows
from verdad_core.studies.running import run_study as into_store
from verdad_core.studies.table import Found, Table


def two(kind: str, designator: str, value: str, *pins: str) -> dict[str, Any]:
    return {"kind": kind, "designator": designator, "value": value, "pins": list(pins)}


def r(designator: str, value: str, *pins: str) -> dict[str, Any]:
    return two("resistor", designator, value, *pins)


def c(designator: str, value: str, *pins: str) -> dict[str, Any]:
    return two("capacitor", designator, value, *pins)


def generic(designator: str, part: str, pins: dict[str, str], **settings: str) -> dict[str, Any]:
    return {"kind": "generic", "designator": designator, "part": part, "pins": pins, "settings": settings}


def amplifier(designator: str, plus: str, minus: str, out: str) -> dict[str, Any]:
    """An op-amp from data-sheet figures on ±5 V."""
    return generic(designator, "opamp", {"in+": plus, "in-": minus, "v+": "+5V", "v-": "-5V", "out": out})


def supply(net: str, volts: str) -> dict[str, Any]:
    return {
        "kind": "supply",
        "name": "s" + net.lower().replace("+", "p").replace("-", "n"),
        "plus": net,
        "volts": volts,
    }


def source(net: str, **more: Any) -> dict[str, Any]:
    return {"kind": "source", "name": "vin", "plus": net, "resistance": "0", **more}


RAILS = [supply("+5V", "5"), supply("-5V", "-5")]


def board(parts: list[dict[str, Any]], fixtures: list[dict[str, Any]], kind: str, **check: Any) -> Board:
    """A board with one circuit and one check, called k."""
    given = {name: check.pop(name) for name in ("output", "source") if name in check}
    named = {name: value for name, value in given.items() if name in Analysis.kinds()[kind].model_fields}
    analysis = {"kind": kind, **check.pop("analysis", {}), **named}
    one = {"id": "k", "title": "k", "fixtures": fixtures, "analysis": analysis, **check}
    return Board.model_validate(
        {"title": "b", "circuits": [{"id": "c", "title": "c", "parts": parts, "checks": [one]}]}
    )


def pair(of: Board) -> tuple[Circuit, Check]:
    return of.check("k")


def run_rows(board: Board, study: Study, models: Models, start: int, stop: int) -> Table:
    """Rows start..stop-1 of a study's first check, with all that it measures."""
    return Rows(board, study, study.checks[0], models).table(start, stop)


def run_study(board: Board, study: Study, models: Models) -> Found:
    """All rows of a study, phase by phase."""
    return into_store(board, study, models, MemoryStore())


STAGE = [r("R1", "1k", "in", "p"), c("C1", "10n", "p", "gnd"), amplifier("U1", "p", "fb", "out"),
         r("R2", "9k", "fb", "out"), r("R3", "1k", "fb", "gnd")]  # fmt: skip
SINE = source("in", waveform={"kind": "sine", "amplitude": "10m", "frequency": "1k"})

#: A circuit that switches is looked at up to half of what it switches at, which its loop has to cross before.
FAST = source("in", waveform={"kind": "sine", "amplitude": "10m", "frequency": "50meg"})


def port(net: str, number: int, **more: str) -> dict[str, Any]:
    return {"kind": "port", "name": f"port-{number}", "plus": net, "number": number, **more}


#: What drives kinds of check that a sine does not.
DRIVEN_BY = {"switched loop": [FAST], "ports": [port("in", 1), port("out", 2, impedance="600")]}


def asked(kind: type[CheckKind], parts: list[dict[str, Any]] = STAGE, *fixtures: dict[str, Any]) -> Board:
    """A board with one fresh check of the kind, and v(out) measured as well."""
    blank = board(parts, [*RAILS, *(fixtures or DRIVEN_BY.get(kind.key(), [SINE]))], "operating point")
    circuit, first = pair(blank)
    check = fresh_check(blank, circuit, kind.key(), first)
    key = "value" if kind.gives == {"number or trace"} else "maximum"
    volts = kind.looks or not kind.main
    more = Measurement(id="more", key=key, of="v(out)" if volts else f"mag({kind.main})")
    check = check.model_copy(update={"id": "k", "measurements": (*check.measurements, more)})
    return Board.model_validate(
        {**blank.model_dump(), "circuits": [{**circuit.model_dump(), "checks": [check.model_dump()]}]}
    )


def spread(of: str, tolerance: float, distribution: str = "uniform", **more: Any) -> dict[str, Any]:
    """The spread of a quantity as it is bought; `more` are further contributors by name, in per cent, and its group."""
    own = {"contributor": "purchase", "amount": f"{tolerance:g}", "distribution": distribution}
    group = {"group": more.pop("group")} if "group" in more else {}
    others = [{"contributor": name, "amount": f"{per_cent:g}"} for name, per_cent in more.items()]
    return {"of": of, "contributions": [own, *others], **group}


def low_pass(**more: Any) -> Board:
    """1 kΩ and 1 µF with spreads, whose corner of 159 Hz is held to 120 .. 200 Hz."""
    parts = [r("R1", "1k", "in", "out"), c("C1", "1u", "out", "gnd")]
    asked = [{"id": "corner", "key": "upper_cutoff"}, {"id": "gain", "key": "passband_gain"}]
    drawn = board(parts, [source("in")], "frequency response", source="vin", output="out", measurements=asked)
    spreads = [spread("R1", 2), spread("C1", 10, "normal")]
    limit = {"id": "l", "check": "k", "measurement": "corner", "lower": "120", "upper": "200"}
    return Board.model_validate({**drawn.model_dump(mode="json"), "spreads": spreads, "limits": [limit], **more})
