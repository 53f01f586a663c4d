"""Where the demo's symbols, marks and wires lie: the layout that the sheet gives the circuit, kept."""

from __future__ import annotations

#: x, y and quarter turns by symbol.
_SYMBOLS = {
    "C1": (370, 300, 1),
    "C2": (30, 440, 1),
    "C3": (140, 440, 1),
    "R1": (40, 230, 1),
    "R2": (170, 180, 0),
    "R3": (430, 60, 0),
    "R4": (300, 140, 2),
    "U1": (430, 160, 0),
}

#: Identifier, kind, net, x, y and quarter turns.
_MARKS = (
    ("m1", "rail", "+5V", 430, 110, 0),
    ("m2", "rail", "-5V", 430, 210, 2),
    ("m3", "ground", "gnd", 270, 140, 0),
    ("m4", "ground", "gnd", 40, 260, 0),
    ("m5", "ground", "gnd", 370, 330, 0),
    ("m6", "rail", "+5V", 30, 410, 0),
    ("m7", "ground", "gnd", 30, 470, 0),
    ("m8", "rail", "-5V", 140, 410, 0),
    ("m9", "ground", "gnd", 140, 470, 0),
)

#: The two ends, and the points between them.
_WIRES = (
    ("U1.v+", "m1", ((430, 110),)),
    ("U1.v-", "m2", ((430, 210),)),
    ("R4.2", "m3", ((270, 140),)),
    ("R1.2", "m4", ((40, 260),)),
    ("C1.2", "m5", ((370, 330),)),
    ("C2.1", "m6", ((30, 410),)),
    ("C2.2", "m7", ((30, 470),)),
    ("C3.1", "m8", ((140, 410),)),
    ("C3.2", "m9", ((140, 470),)),
    ("R2.1", "R1.1", ((140, 180), (40, 180), (40, 200))),
    ("U1.out", "R3.2", ((490, 160), (500, 160), (500, 60), (460, 60))),
    ("U1.in-", "R4.1", ((370, 140), (330, 140))),
    ("R3.1", "U1.in-", ((400, 60), (370, 60), (370, 140))),
    ("U1.in+", "R2.2", ((370, 180), (200, 180))),
    ("C1.1", "U1.in+", ((370, 270), (370, 180))),
)


def drawing() -> dict[str, object]:
    """The drawing as the board document has it."""
    return {
        "symbols": {name: {"x": x, "y": y, "turn": turn} for name, (x, y, turn) in _SYMBOLS.items()},
        "marks": [
            {"id": id_, "kind": kind, "net": net, "x": x, "y": y, "turn": turn} for id_, kind, net, x, y, turn in _MARKS
        ],
        "wires": [{"ends": [start, end], "points": points} for start, end, points in _WIRES],
    }
