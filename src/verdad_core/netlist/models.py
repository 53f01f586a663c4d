"""`.model` statements: type, parameters, and which device family they describe."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from verdad_core.devices import FAMILY_OF
from verdad_core.errors import Finding, Place, Severity
from verdad_core.netlist.cards import assignments, number
from verdad_core.netlist.expressions import Value
from verdad_core.netlist.lines import Statement, Token


@dataclass(frozen=True)
class ModelCard:
    """A `.model`: numbers in SI units, or expressions, by the family's parameter names."""

    name: str
    family: str
    values: Mapping[str, Value]
    statement: Statement


#: Family and fixed values of each model type that is read.
TYPES: dict[str, tuple[str, dict[str, float]]] = {
    "d": ("diode", {}),
    "npn": ("bipolar", {"polarity": 1.0}),
    "pnp": ("bipolar", {"polarity": -1.0}),
}

#: Other spellings of parameters that the published manuals or makers' files use.
_ALIASES = {
    "diode": {"cj0": "cjo", "cj": "cjo", "pb": "vj", "mj": "m", "jo": "is", "js": "is"},
    "bipolar": {"va": "vaf", "vb": "var", "ik": "ikf", "bfm": "bf", "pe": "vje", "me": "mje", "pc": "vjc", "mc": "mjc",
                "ccs": "cjs", "ps": "vjs", "ms": "mjs"},
}  # fmt: skip

#: Parameters that matter only to analyses Verdad does not have yet: read, kept out, and said so.
_LATER = {
    "diode": {"kf", "af", "isr", "nr", "ikf", "tbv1", "tbv2", "trs1", "trs2", "tnom"},
    "bipolar": {"kf", "af", "ptf", "tnom", "nk", "iss", "ns"},
}

#: Zero means "none" for these in the published manuals.
_ZERO_IS_INFINITE = {"bv", "vaf", "var", "ikf", "ikr", "irb", "vtf"}


def read_model(statement: Statement, findings: list[Finding]) -> ModelCard:
    """The model in a `.model` statement; unknown parameters become findings. Raises NetlistError."""
    if len(statement.tokens) < 3:
        raise statement.error(".model is incomplete: expected a name and a type", "Write .model NAME D(IS=1e-14).")
    name, kind = statement.tokens[1], statement.tokens[2]
    if kind.text not in TYPES:
        raise statement.error(
            f"model {name.text}: type '{kind.text}' is not read yet",
            f"Types that are read: {', '.join(sorted(TYPES)).upper()}.",
            kind,
        )
    family, values = TYPES[kind.text][0], dict[str, Value](TYPES[kind.text][1])
    known = {parameter.name: parameter for parameter in FAMILY_OF[family].parameters}
    for given, token in assignments(statement, statement.tokens[3:]).items():
        parameter = _ALIASES[family].get(given, given)
        if parameter in _LATER[family]:
            findings.append(_finding(Severity.NOTE, name, given, token, "has no effect on the analyses there are"))
        elif parameter not in known or parameter in ("polarity", "area"):
            findings.append(_finding(Severity.WARNING, name, given, token, "is not known and is left out"))
        else:
            value = number(statement, token)
            if is_none(parameter, value):
                continue
            if isinstance(value, float) and (refusal := known[parameter].refusal(value)):
                raise statement.error(f"model {name.text}: {refusal}", "Correct the model.", token)
            values[parameter] = value
    return ModelCard(name.text, family, values, statement)


def is_none(parameter: str, value: Value) -> bool:
    """Whether a model's value says that the effect is left out."""
    return parameter in _ZERO_IS_INFINITE and value == 0


def _finding(severity: Severity, model: Token, parameter: str, token: Token, what: str) -> Finding:
    return Finding(
        severity, f"model {model.text}: parameter {parameter} {what}", Place(line=token.line, column=token.column)
    )
