"""Documents of earlier versions, carried over one version at a time by pure functions."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

Json = dict[str, Any]


def upgraded(document: Any) -> Any:
    """A board's JSON as the present version writes it; what is no document of an earlier one stays as it is."""
    while isinstance(document, dict) and document.get("schema_version") in tuple(_UPGRADES):
        document = _UPGRADES[document["schema_version"]](document)
    return document


def _mapped(values: Any, change: Callable[[Json], Json]) -> Any:
    """A list of pieces, each changed; what is none is left to be refused where it stands."""
    return [change(each) if isinstance(each, dict) else each for each in values] if isinstance(values, list) else values


def _first_to_second(document: Json) -> Json:
    """Source and output become settings of the analysis, `at` one of the measurement; studies have titles and name the
    checks that they cover.
    """
    circuits = _mapped(document.get("circuits", []), lambda c: {**c, "checks": _mapped(c.get("checks", []), _check_2)})
    studies = _mapped(document.get("studies", []), _study_2)
    return {**document, "schema_version": 2, "circuits": circuits, "studies": studies}


def _check_2(check: Json) -> Json:
    rest = {name: value for name, value in check.items() if name not in ("output", "source")}
    analysis = check.get("analysis")
    if isinstance(analysis, dict):
        kind = analysis.get("kind", "frequency response")
        takes = {"frequency response": ("output", "source"), "dc sweep": ("output",), "transient": ("output",)}
        moved = {name: check[name] for name in takes.get(str(kind), ()) if check.get(name) is not None}
        rest["analysis"] = {**analysis, **moved}
    return {**rest, "measurements": _mapped(check.get("measurements", []), _measurement_2)}


#: What the place or level of a measurement is called now.
_AT = {"value": "place", "crossing": "level", "settling_time": "band"}


def _measurement_2(measurement: Json) -> Json:
    rest = {name: value for name, value in measurement.items() if name != "at"}
    at, name = measurement.get("at"), _AT.get(str(measurement.get("key")))
    return {**rest, "settings": {name: at}} if at is not None and name else rest


def _study_2(study: Json) -> Json:
    rest = {name: value for name, value in study.items() if name != "check"}
    return {"title": "Monte Carlo", "checks": [study.get("check")], **rest}


def _second_to_third(document: Json) -> Json:
    """A spread is of a quantity and has contributions; those there were are of what was bought. The main quantity of a
    fixture has no name besides the fixture's.
    """
    main = {f"{name}.{_MAIN[kind]}": name for name, kind in _fixtures(document) if kind in _MAIN}

    def study(each: Json) -> Json:
        return {**each, "over": main.get(each["over"], each["over"])} if isinstance(each.get("over"), str) else each

    spreads, studies = _mapped(document.get("spreads", []), _spread_3), _mapped(document.get("studies", []), study)
    return {**document, "schema_version": 3, "spreads": spreads, "studies": studies}


_MAIN = {"supply": "volts", "source": "dc", "load": "resistance", "port": "impedance"}


def _fixtures(document: Json) -> list[tuple[str, str]]:
    """Names and kinds of all fixtures."""
    checks = [check for circuit in _pieces(document.get("circuits")) for check in _pieces(circuit.get("checks"))]
    fixtures = [fixture for check in checks for fixture in _pieces(check.get("fixtures"))]
    return [(str(fixture.get("name")), str(fixture.get("kind"))) for fixture in fixtures]


def _pieces(values: Any) -> list[Json]:
    return [each for each in values if isinstance(each, dict)] if isinstance(values, list) else []


def _spread_3(spread: Json) -> Json:
    own = {name: spread[name] for name in ("tolerance", "distribution") if name in spread}
    rest = {name: value for name, value in spread.items() if name not in ("part", *own)}
    return {**rest, "of": spread.get("part"), "contributions": [{"contributor": "purchase", **own}]}


def _third_to_fourth(document: Json) -> Json:
    """A hand value is a formula; it was the key of a closed form, with what stood for its symbols."""

    def measurement(each: Json) -> Json:
        hand = each.get("hand")
        return {**each, "hand": _hand_4(hand)} if isinstance(hand, dict) and "form" in hand else each

    def check(each: Json) -> Json:
        return {**each, "measurements": _mapped(each.get("measurements", []), measurement)}

    circuits = _mapped(document.get("circuits", []), lambda c: {**c, "checks": _mapped(c.get("checks", []), check)})
    return {**document, "schema_version": 4, "circuits": circuits}


#: The closed forms that there were, with where they were from.
_FORMS = {
    "rc_cutoff": ("1/(2*pi*R*C)", "first-order section; any text on circuits"),
    "source_rc_cutoff": ("1/(2*pi*(R + Rs||Rp)*C)", "first-order section behind its Thévenin source"),
    "noninverting_gain": ("1 + Rf/Rg", "ideal op-amp; any text on op-amps"),
    "loaded_noninverting_gain": ("(1 + Rf/Rg)*Rp/(Rp + Rs)", "ideal op-amp and divider; any text on op-amps"),
    "divider": ("Vin*R2/(R1 + R2)", "unloaded divider; any text on circuits"),
}


def _hand_4(hand: Json) -> Json:
    formula, source = _FORMS.get(str(hand["form"]), (str(hand["form"]), ""))
    names = hand["inputs"] if isinstance(hand.get("inputs"), dict) else {}

    def name(symbol: re.Match[str]) -> str:
        known = str(names.get(symbol[0], symbol[0]))
        return known if re.fullmatch(r"[A-Za-z_]\w*(\.\w+)*", known) else f'"{known}"'

    return {"formula": re.sub(r"[A-Za-z]\w*", name, formula), "source": source}


def _fourth_to_fifth(document: Json) -> Json:
    """How far a quantity may lie from nominal is written out; it was a number of per cent, both ways."""

    def contribution(each: Json) -> Json:
        rest = {name: value for name, value in each.items() if name != "tolerance"}
        return {**rest, "amount": f"{each['tolerance']:g}"} if isinstance(each.get("tolerance"), int | float) else each

    def spread(each: Json) -> Json:
        return {**each, "contributions": _mapped(each.get("contributions", []), contribution)}

    return {**document, "schema_version": 5, "spreads": _mapped(document.get("spreads", []), spread)}


_UPGRADES: dict[int, Callable[[Json], Json]] = {
    1: _first_to_second, 2: _second_to_third, 3: _third_to_fourth, 4: _fourth_to_fifth,
}  # fmt: skip
