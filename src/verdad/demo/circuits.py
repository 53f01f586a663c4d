"""The demo board's other circuits: each a natural home of one question, some of them thin or broken for a reason.

Parts, values and figures are made up.
"""

from __future__ import annotations

from typing import Any

from verdad_core.handcalc.forms import CLOSED_FORMS

Json = dict[str, Any]


def by_hand(form: str, **names: str) -> Json:
    """A closed form of the library as a hand value."""
    known = CLOSED_FORMS[form]
    return {"formula": known.written(names), "source": f"{known.holds} {known.source}"}


def others(model: str, fast: str) -> list[Json]:
    """The circuits besides the preamplifier; `model` and `fast` are the shelf's identifiers of the two op-amps."""
    return [_inverter(fast), _filter(model), _sum(model), _reference(model), _multiplier(), _supply(), _line()]


LIMITS: list[Json] = [
    {"id": "inverter-margin", "check": "inverter-loop", "measurement": "phase-margin", "lower": "45",
     "reason": "The cable to the display adds 200 pF. The data sheet says: unity-gain stable."},
    {"id": "filter-corner", "check": "filter-response", "measurement": "corner", "lower": "350", "upper": "450",
     "reason": "Half the converter's rate is 2 kHz; vibration is recorded up to 250 Hz."},
    {"id": "sum-peak", "check": "sum-blast", "measurement": "peak", "lower": "5.7",
     "reason": "All three axes at their peaks add up to 6 V: the warning must see all of it."},
    {"id": "reference-volts", "check": "reference-rest", "measurement": "volts", "lower": "2.45", "upper": "2.55",
     "reason": "The middle of the converter's range, within 2 %."},
    {"id": "baseline-corner", "check": "baseline-response", "measurement": "corner", "upper": "2",
     "reason": "Wind and tide are slower than this, and no blast is."},
    {"id": "supply-volts", "check": "supply-day", "measurement": "volts", "lower": "4.75", "upper": "5.25",
     "reason": "What the recorder and the radio take, within 5 %."},
    {"id": "supply-ripple", "check": "supply-day", "measurement": "ripple", "upper": "20m",
     "reason": "The preamplifier's supply rejection leaves a tenth of a count of this."},
    {"id": "supply-idle", "check": "supply-night", "measurement": "volts", "upper": "5.25",
     "reason": "At night only the clock runs, and must not see more either."},
    {"id": "line-corner", "check": "line-ports", "measurement": "corner", "lower": "1.7meg", "upper": "2.3meg",
     "reason": "Telemetry ends at 1.5 MHz; the radio's second channel begins at 2.5 MHz."},
    {"id": "line-match", "check": "line-ports", "measurement": "match", "upper": "-14",
     "reason": "More coming back than this makes a second image at the far end of 400 m of cable."},
]  # fmt: skip


def _two(kind: str, designator: str, value: str, one: str, other: str) -> Json:
    return {"kind": kind, "designator": designator, "value": value, "pins": [one, other]}


def _r(designator: str, value: str, one: str, other: str) -> Json:
    return _two("resistor", designator, value, one, other)


def _c(designator: str, value: str, one: str, other: str = "gnd") -> Json:
    return _two("capacitor", designator, value, one, other)


def _amplifier(designator: str, model: tuple[str, str], plus: str, minus: str, out: str, *rails: str) -> Json:
    upper, lower = rails or ("+5V", "-5V")
    pins = {"in+": plus, "in-": minus, "v+": upper, "v-": lower, "out": out}
    return {"kind": "modelled", "designator": designator, "model": {"id": model[0], "name": model[1]}, "pins": pins}


def _supplies(**volts: str) -> list[Json]:
    given = volts or {"+5V": "5", "-5V": "-5"}
    names = {"+5V": "positive-supply", "-5V": "negative-supply"}
    return [{"kind": "supply", "name": names[net], "plus": net, "volts": value} for net, value in given.items()]


def _source(net: str, name: str = "signal", **more: Any) -> Json:
    return {"kind": "source", "name": name, "plus": net, "resistance": "50", **more}


def _load(net: str, **more: str) -> Json:
    return {"kind": "load", "name": "load", "plus": net, "resistance": "10k", **more}


def _response(identifier: str, fixtures: list[Json], measurements: list[Json], **analysis: str) -> Json:
    return {"id": identifier, "title": "Frequency response", "fixtures": fixtures, "measurements": measurements,
            "analysis": {"kind": "frequency response", "source": "signal", "output": "out", **analysis}}  # fmt: skip


def _circuit(identifier: str, title: str, parts: list[Json], checks: list[Json]) -> Json:
    return {"id": identifier, "title": title, "parts": parts, "checks": checks}


def _inverter(fast: str) -> Json:
    """Oscillates with the model that was chosen first, though its data sheet says unity-gain stable."""
    step = {"kind": "pulse", "level": "100m", "rise": "20n", "fall": "20n", "width": "2u", "delay": "200n"}
    fixtures = [*_supplies(), _source("in", waveform=step), _load("out", capacitance="200p")]
    parts = [_amplifier("U2", (fast, "ovn6050"), "gnd", "inv", "out"), _r("R11", "2k2", "in", "inv"),
             _r("R12", "2k2", "inv", "out")]  # fmt: skip
    loop = {"id": "inverter-loop", "title": "Stability", "fixtures": fixtures,
            "analysis": {"kind": "loop", "around": "U2.out"},
            "measurements": [{"id": "phase-margin", "key": "phase_margin", "of": "loop"}]}  # fmt: skip
    ringing = {"id": "inverter-step", "title": "Step", "fixtures": fixtures,
               "analysis": {"kind": "transient", "output": "out", "stop": "5u"},
               "measurements": [{"id": "overshoot", "key": "overshoot", "of": "v(out)",
                                 "settings": {"until": "2u"}}]}  # fmt: skip
    return _circuit("inverter", "Trim inverter", parts, [loop, ringing])


def _filter(model: str) -> Json:
    parts = [_r("R21", "27k", "in", "x"), _r("R22", "27k", "x", "p"), _c("C21", "22n", "x", "out"),
             _c("C22", "10n", "p"), _amplifier("U3", (model, "ovn4183"), "p", "out", "out")]  # fmt: skip
    measured = [
        {"id": "corner", "key": "upper_cutoff",
         "hand": by_hand("second_order_rc", R1="R21", R2="R22", C1="C21", C2="C22")},
        {"id": "beyond", "key": "gain_at", "settings": {"place": "2k"}},
    ]  # fmt: skip
    fixtures = [*_supplies(), _source("in"), _load("out")]
    return _circuit("filter", "Anti-alias filter", parts, [_response("filter-response", fixtures, measured)])


def _sum(model: str) -> Json:
    """Three axes of 2 V each are 6 V at the output, which ends before that."""

    def axis(net: str, name: str) -> Json:
        sine = {"kind": "sine", "amplitude": "2", "frequency": "40"}
        return _source(net, name, waveform=sine)

    fixtures = [*_supplies(), axis("x", "radial"), axis("y", "transverse"), axis("z", "vertical"), _load("out")]
    parts = [*(_r(f"R3{k}", "10k", net, "inv") for k, net in enumerate("xyz", 1)), _r("R34", "10k", "inv", "out"),
             _amplifier("U4", (model, "ovn4183"), "gnd", "inv", "out")]  # fmt: skip
    hand = {"formula": "(radial.amplitude/R31 + transverse.amplitude/R32 + vertical.amplitude/R33)*R34",
            "source": "Superposition; no output ends anywhere."}  # fmt: skip
    blast = {"id": "sum-blast", "title": "All axes at once", "fixtures": fixtures,
             "analysis": {"kind": "transient", "output": "out", "stop": "100m"},
             "measurements": [{"id": "peak", "key": "maximum", "of": "v(out)", "hand": hand}]}  # fmt: skip
    return _circuit("sum", "Sum of three axes", parts, [blast])


def _reference(model: str) -> Json:
    parts = [_r("R41", "10k", "+5V", "half"), _r("R42", "10k", "half", "gnd"), _c("C41", "10u", "half"),
             _amplifier("U5", (model, "ovn4183"), "half", "ref", "ref", "+5V", "gnd")]  # fmt: skip
    fixtures = [*_supplies(**{"+5V": "5"}), {**_load("ref"), "name": "converter"}]
    rest = {"id": "reference-rest", "title": "At rest", "fixtures": fixtures, "analysis": {"kind": "operating point"},
            "measurements": [{"id": "volts", "key": "value", "of": "v(ref)",
                              "hand": by_hand("divider", V='"positive-supply"', R1="R41", R2="R42")}]}  # fmt: skip
    load = {"id": "reference-load", "title": "What it can drive", "fixtures": fixtures,
            "analysis": {"kind": "margin", "around": "U5.out", "net": "ref"},
            "measurements": [{"id": "enough", "key": "crossing", "of": "margin",
                              "settings": {"level": "45", "edge": "falling"}}]}  # fmt: skip
    return _circuit("reference", "Mid-supply reference", parts, [rest, load])


def _multiplier() -> Json:
    """100 pF look like a thousand times as much, R52 by R53; behind an input that takes next to no current."""
    follower = {"in+": "a", "in-": "f", "v+": "+5V", "v-": "-5V", "out": "f"}
    parts = [_r("R51", "1M", "in", "out"), _r("R52", "1M", "out", "a"), _c("C51", "100p", "a"),
             {"kind": "generic", "designator": "U6", "part": "opamp", "pins": follower},
             _r("R53", "1k", "f", "out")]  # fmt: skip
    hand = {"formula": "1/(2*pi*R51*C51*R52/R53)", "source": "Ideal op-amp; R53 is much smaller than R52."}
    measured = [{"id": "corner", "key": "upper_cutoff", "hand": hand}]
    fixtures = [*_supplies(), _source("in")]
    response = _response("baseline-response", fixtures, measured, start="10m", stop="10k")
    return _circuit("baseline", "Slow baseline", parts, [response])


def _supply() -> Json:
    """24 V to 5 V at a fixed duty: right by day, and without hold where the inductor rests between pulses."""
    parts = [{"kind": "generic", "designator": "S71", "part": "smooth-switch", "settings": {"ron": "20m"},
              "pins": {"a": "in", "b": "sw", "control": "drive"}, "rating": {"voltage": "60", "current": "5"}},
             {"kind": "generic", "designator": "D71", "part": "diode", "pins": {"anode": "gnd", "cathode": "sw"},
              "rating": {"voltage": "40", "current": "3", "power": "1.5"}},
             {**_two("inductor", "L71", "33u", "sw", "out"), "rating": {"current": "2"}},
             {**_c("C71", "22u", "out"), "rating": {"voltage": "10"}}]  # fmt: skip
    gate = {"kind": "pulse", "level": "1", "rise": "3n", "fall": "3n", "width": "777n", "every": "3.33333u"}
    into = [{"kind": "supply", "name": "battery", "plus": "in", "volts": "24"},
            {**_source("drive", "gate", waveform=gate), "resistance": "0"}]  # fmt: skip
    source = "Erickson and Maksimovic, Fundamentals of Power Electronics, chapter 2; 0.8 V across the diode."
    above, below = "(battery-5V)*(5V+0.8V)", "(battery+0.8V)*300kHz"

    def check(identifier: str, title: str, load: str, *more: Json) -> Json:
        volts = {"id": "volts", "key": "mean", "of": "v(out)"}
        return {"id": identifier, "title": title, "fixtures": [*into, {**_load("out"), "resistance": load}],
                "analysis": {"kind": "steady state", "output": "out"}, "measurements": [volts, *more]}  # fmt: skip

    day = [
        {"id": "ripple", "key": "peak_to_peak", "of": "v(out)",
         "hand": {"formula": f"{above}/(8*{below}*300kHz*L71*C71)", "source": source}},
        {"id": "current", "key": "peak_to_peak", "of": "i(L71)",
         "hand": {"formula": f"{above}/({below}*L71)", "source": source}},
    ]  # fmt: skip
    checks = [check("supply-day", "By day, 1 A", "5", *day), check("supply-night", "At night, 20 mA", "250")]
    return _circuit("supply", "Supply, 24 V to 5 V", parts, checks)


def _line() -> Json:
    """A Butterworth low-pass of three elements between 50 Ω."""
    parts = [_c("C81", "1n5", "in"), _two("inductor", "L81", "8u2", "in", "out"), _c("C82", "1n5", "out")]
    ports = [{"kind": "port", "name": f"port-{k}", "plus": net, "number": k} for k, net in enumerate(("in", "out"), 1)]
    hand = {
        "formula": "1/(2*pi*C81*50ohm)",
        "source": "Butterworth of three elements, g = 1, 2, 1; any text on filters.",
    }
    measured = [
        {"id": "corner", "key": "upper_cutoff", "of": "s21", "hand": hand},
        {"id": "beyond", "key": "gain_at", "of": "s21", "settings": {"place": "10meg"}},
        {"id": "match", "key": "maximum", "of": "db(s11)", "settings": {"until": "1meg"}},
    ]  # fmt: skip
    check = {"id": "line-ports", "title": "S-parameters", "fixtures": ports, "measurements": measured,
             "analysis": {"kind": "ports", "start": "10k", "stop": "100meg"}}  # fmt: skip
    return _circuit("line", "Telemetry line filter", parts, [check])
