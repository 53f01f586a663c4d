"""The demo board. All of it is made up: names, maker, model, quarry."""

from __future__ import annotations

from typing import Any

from verdad.catalogue.listings import listings
from verdad.demo.circuits import LIMITS, by_hand, others
from verdad.demo.drawing import drawing
from verdad_core.document.board import Board

#: The demo op-amp's slug in the catalogue, and its name; and the slug of a faster one.
MODEL = SUBCIRCUIT = "ovn4183"
FAST = "ovn6050"
MODEL_SOURCE = "Ships with Verdad as demonstration data; maker and part are made up."


def model_text() -> str:
    """The demo op-amp's model file."""
    [data] = listings()[MODEL].files.values()
    return data.decode()


def demo_board(model: str, fast: str) -> Board:
    """The blast-vibration monitor, with the models `model` and `fast` of the shelf for its op-amps."""
    first = preamplifier_board(model).model_dump(mode="json")
    circuits = [*first["circuits"], *others(model, fast)]
    worst = {"kind": "worst case", "id": "preamp-worst", "title": "Worst case", "checks": ["preamp-response"],
             "coldest": "-20", "hottest": "60"}  # fmt: skip
    return Board.model_validate(
        {**first, "circuits": circuits, "limits": [*first["limits"], *LIMITS], "studies": [*first["studies"], worst]}
    )


def preamplifier_board(model: str) -> Board:
    """The same with no more than its first circuit."""
    return Board.model_validate(
        {
            "title": "Blast-vibration monitor",
            "purpose": "Records ground vibration on three axes near a quarry, and warns before and after a blast.",
            "thin_margin": 3,
            "circuits": [_preamplifier(model)],
            "spreads": [
                *(_bought(f"R{n}", 1, "normal") for n in (1, 2, 3, 4)),
                _bought("C1", 10, "uniform"),
            ],
            "studies": [
                {
                    "kind": "monte carlo",
                    "id": "preamp-spread",
                    "title": "Production",
                    "checks": ["preamp-response"],
                    "seed": 1,
                    "rows": 500,
                },
                {
                    "kind": "temperature",
                    "id": "preamp-temperature",
                    "title": "Temperature",
                    "checks": ["preamp-response", "preamp-rest"],
                },
                {
                    "kind": "sweep",
                    "id": "preamp-cable",
                    "title": "Cable",
                    "checks": ["preamp-loop"],
                    "over": "converter.capacitance",
                    "start": "10p",
                    "stop": "10n",
                    "points": 31,
                    "spacing": "logarithmic",
                },
            ],
            "limits": [
                {
                    "id": "preamp-bandwidth",
                    "check": "preamp-response",
                    "measurement": "bandwidth",
                    "lower": "820",
                    "upper": "1.05k",
                    "reason": "Flat up to 250 Hz for the vibration record; above 1.05 kHz the converter would alias.",
                },
                {
                    "id": "preamp-margin",
                    "check": "preamp-loop",
                    "measurement": "phase-margin",
                    "lower": "60",
                    "reason": "The cable to the converter may add up to 10 nF.",
                },
            ],
        }
    )


def _bought(part: str, per_cent: float, distribution: str) -> dict[str, Any]:
    return {"of": part, "contributions": [{"amount": f"{per_cent:g}", "distribution": distribution}]}


def _preamplifier(model: str) -> dict[str, object]:
    geophone = {"Rs": "geophone.resistance", "Rp": "R1"}
    return {
        "id": "preamplifier",
        "title": "Geophone preamplifier",
        "parts": [
            {"kind": "resistor", "designator": "R1", "value": "12k", "pins": ["geo", "gnd"]},
            {"kind": "resistor", "designator": "R2", "value": "4k7", "pins": ["geo", "filt"]},
            {
                "kind": "capacitor",
                "designator": "C1",
                "value": "33n",
                "pins": ["filt", "gnd"],
                "tempco": "-300ppm",
            },
            {
                "kind": "modelled",
                "designator": "U1",
                "model": {"id": model, "name": SUBCIRCUIT},
                "pins": {"in+": "filt", "in-": "fb", "v+": "+5V", "v-": "-5V", "out": "out"},
            },
            {"kind": "resistor", "designator": "R3", "value": "39k", "pins": ["fb", "out"]},
            {"kind": "resistor", "designator": "R4", "value": "1k", "pins": ["fb", "gnd"]},
            {"kind": "capacitor", "designator": "C2", "value": "100n", "pins": ["+5V", "gnd"]},
            {"kind": "capacitor", "designator": "C3", "value": "100n", "pins": ["-5V", "gnd"]},
        ],
        "drawing": drawing(),
        "checks": [
            {
                "id": "preamp-response",
                "title": "Frequency response",
                "fixtures": _fixtures({}),
                "analysis": {
                    "kind": "frequency response",
                    "source": "geophone",
                    "output": "out",
                    "start": "1",
                    "stop": "100k",
                    "points_per_decade": 50,
                },
                "measurements": [
                    {
                        "id": "gain",
                        "key": "passband_gain",
                        "hand": by_hand("loaded_noninverting_gain", Rf="R3", Rg="R4", **geophone),
                    },
                    {
                        "id": "bandwidth",
                        "key": "upper_cutoff",
                        "hand": by_hand("source_rc_cutoff", R="R2", C="C1", **geophone),
                    },
                ],
            },
            {
                "id": "preamp-blast",
                "title": "Blast pulse",
                "fixtures": _fixtures(
                    {
                        "waveform": {
                            "kind": "pulse",
                            "level": "50m",
                            "rise": "20u",
                            "fall": "20u",
                            "width": "2m",
                            "delay": "500u",
                            "every": None,
                        }
                    }
                ),
                "analysis": {"kind": "transient", "stop": "5m"},
                "measurements": [
                    {"id": "peak", "key": "maximum", "of": "v(out)"},
                    {"id": "end", "key": "value", "of": "v(out)", "settings": {"place": "5m"}},
                ],
            },
            {
                "id": "preamp-range",
                "title": "Input range",
                "fixtures": _fixtures({}),
                "analysis": {"kind": "dc sweep", "over": "geophone", "start": "-150m", "stop": "150m", "points": 121},
                "measurements": [
                    {"id": "highest", "key": "maximum", "of": "v(out)"},
                    {"id": "lowest", "key": "minimum", "of": "v(out)"},
                ],
            },
            {
                "id": "preamp-rest",
                "title": "At rest",
                "fixtures": _fixtures({}),
                "analysis": {"kind": "operating point"},
                "measurements": [
                    {"id": "offset", "key": "value", "of": "v(out)"},
                    {"id": "power", "key": "value", "of": "p(U1)"},
                ],
            },
            {
                "id": "preamp-loop",
                "title": "Stability",
                "fixtures": _fixtures({}, capacitance="220p"),
                "analysis": {"kind": "loop", "around": "U1.out"},
                "measurements": [
                    {"id": "phase-margin", "key": "phase_margin", "of": "loop"},
                    {"id": "crossover", "key": "crossover", "of": "loop"},
                ],
            },
        ],
    }


def _fixtures(geophone: dict[str, object], **converter: str) -> list[dict[str, object]]:
    """The geophone, both supplies, and the converter's input."""
    return [
        {"kind": "source", "name": "geophone", "plus": "geo", "resistance": "380", **geophone},
        {"kind": "supply", "name": "positive-supply", "plus": "+5V", "volts": "5"},
        {"kind": "supply", "name": "negative-supply", "plus": "-5V", "volts": "-5"},
        {"kind": "load", "name": "converter", "plus": "out", "resistance": "10k", **converter},
    ]
