"""`.model` statements: type, parameters, AKO, and which device family they describe."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from verdad_core.devices import FAMILY_OF
from verdad_core.devices.trade import TRADE, Trade, Word
from verdad_core.errors import Finding, NetlistError, Severity
from verdad_core.netlist.cards.card import number, write_values
from verdad_core.netlist.expressions import Value
from verdad_core.netlist.lines import Statement, Token

#: What the words after a model's name mean.
_WORDS: dict[str, tuple[Trade, Word]] = {word.word: (row, word) for row in TRADE.values() for word in row.words}
_TEMPERATURES = {"tref": "tnom", "t_measured": "tnom"}

#: Written on the element, or decided by the type's word.
_NOT_IN_A_MODEL = {"polarity", "lateral", "area", "rise", "temp", "initially"}

#: Read and passed over: they say how to compute, or are only notes.
_WITHOUT_EFFECT = {"mfg", "type", "vpk", "irms", "iave", "icrating", "vceo", "rel", "compactrel",
                   "compactabs", "nocontrol", "nosteplimit", "lininterp", "quadinterp", "mixedinterp"}  # fmt: skip

#: Zero means "none" for these in the published manuals.
_ZERO_IS_INFINITE = {"bv", "vaf", "var", "ikf", "ikr", "irb", "vtf"}


_TOLERANCE = re.compile(r"(?:lot|dev)(?:/\w+)*")


@dataclass(frozen=True)
class ModelCard:
    """A `.model`: numbers in SI units, or expressions, by the family's parameter names."""

    name: str
    #: The type's word, "" where only the model that this one is based on has it.
    kind: str
    values: Mapping[str, Value]
    statement: Statement = field(compare=False)
    #: The model that this one is a kind of: what is not given here is as there.
    base: str = ""
    #: Why it cannot be used: an error as soon as an element needs it.
    refusal: NetlistError | None = field(default=None, compare=False)

    @property
    def family(self) -> str:
        return _WORDS[self.kind][0].family if self.kind in _WORDS else ""

    @property
    def fixed(self) -> Mapping[str, float]:
        return _WORDS[self.kind][1].fixed

    @property
    def by_current(self) -> bool:
        """Whether what it describes follows a source's current."""
        return self.kind in _WORDS and _WORDS[self.kind][1].by_current


def read_model(statement: Statement, findings: list[Finding]) -> ModelCard:
    """The model in a `.model` statement; what cannot be used becomes a finding. Raises NetlistError."""
    tokens = list(statement.tokens[1:])
    if len(tokens) < 2:
        raise statement.error(".model is incomplete: expected a name and a type", "Write .model NAME D(IS=1e-14).")
    name, base = tokens.pop(0), ""
    if tokens[0].text.startswith("ako:"):
        base = tokens.pop(0).text.removeprefix("ako:")
        if not base:
            base = tokens.pop(0).text if tokens else ""
    follows_pair = len(tokens) > 1 and tokens[1].text == "="
    kind = tokens.pop(0) if tokens and not follows_pair else None
    if kind is None and not base:
        raise statement.error(f"model {name.text} has no type", "Write .model NAME D(IS=1e-14).")
    word = kind.text if kind else ""
    if word and word not in _WORDS:
        return _refused(statement, name, word, f"type '{word}' is not supported", findings, kind)
    given = _pairs(statement, tokens)
    level = given.get("level")
    levels = _WORDS[word][0].levels if word else ()
    if levels and level and number(statement, level) not in levels:
        return _refused(statement, name, word, f"level {level.text} is not supported", findings, level)
    if len(levels) == 1:
        given.pop("level", None)
    if base and not word:
        # The type, and with it the parameters' names, is only known where the base is looked up.
        values = {parameter: number(statement, token) for parameter, token in given.items()}
        return ModelCard(name.text, "", values, statement, base)
    return ModelCard(name.text, word, _values(statement, name, word, given, findings), statement, base)


def _values(
    statement: Statement, name: Token, word: str, given: Mapping[str, Token], findings: list[Finding]
) -> dict[str, Value]:
    trade = _WORDS[word][0]
    known = {parameter.name: parameter for parameter in FAMILY_OF[trade.family].parameters}
    names = set(known) | trade.more
    values: dict[str, Value] = {}
    for written, token in given.items():
        parameter = {**_TEMPERATURES, **trade.aliases}.get(written, written)
        if parameter in _WITHOUT_EFFECT:
            findings.append(_finding(statement, Severity.NOTE, name, written, token, "has no effect"))
        elif parameter not in names or parameter in _NOT_IN_A_MODEL:
            findings.append(_finding(statement, Severity.WARNING, name, written, token, "is not known; it is left out"))
        else:
            value = number(statement, token)
            if is_none(parameter, value):
                continue
            limits = known.get(parameter)
            if isinstance(value, float) and limits and (refusal := limits.refusal(value)):
                raise statement.error(f"model {name.text}: {refusal}", "Correct the model.", token)
            values[parameter] = value
    return values


def with_base(model: ModelCard, base: ModelCard) -> ModelCard:
    """`model` with what its base says filled in."""
    kind = model.kind or base.kind
    aliases = {**_TEMPERATURES, **_WORDS[kind][0].aliases} if kind in _WORDS else {}
    own = {aliases.get(name, name): value for name, value in model.values.items()}
    return ModelCard(model.name, kind, {**base.values, **own}, model.statement, refusal=base.refusal)


def _pairs(statement: Statement, tokens: list[Token]) -> dict[str, Token]:
    """`name = value`, each perhaps with a maker's tolerance after it (`LOT 5%`, `DEV=1%`), which is passed over."""
    pairs: dict[str, Token] = {}
    k = 0
    while k < len(tokens):
        equals = k + 1 < len(tokens) and tokens[k + 1].text == "="
        if pairs and _TOLERANCE.fullmatch(tokens[k].text) and k + 1 + equals < len(tokens):
            k += 2 + equals
        elif equals and k + 2 < len(tokens):
            if tokens[k].text in pairs:
                raise statement.error(f"{tokens[k].text} is given twice", "Remove one.", tokens[k])
            pairs[tokens[k].text] = tokens[k + 2]
            k += 3
        elif k + 1 < len(tokens) and tokens[k + 1].text == "=":
            raise statement.error(f"{tokens[k].text} has no value", "Write name=value.", tokens[k])
        else:
            remedy = "Write name=value; decimals follow a point."
            raise statement.error(f"'{tokens[k].text}' is not understood here", remedy, tokens[k])
    return pairs


def _refused(
    statement: Statement, name: Token, word: str, why: str, findings: list[Finding], token: Token | None
) -> ModelCard:
    error = statement.error(
        f"model {name.text}: {why}",
        f"Types that are read: {', '.join(sorted(_WORDS)).upper()}; level 1, MOS levels 1 to 3.",
        token,
    )
    message = f"{error.message}; an element that uses it cannot be simulated"
    findings.append(Finding(Severity.WARNING, message, error.place, error.remedy))
    return ModelCard(name.text, word, {}, statement, refusal=error)


def write_model(model: ModelCard) -> str:
    """The statement that reads back as the same model."""
    base = f" ako:{model.base}" if model.base else ""
    return f".model {model.name}{base} {model.kind}{write_values(model.values)}".rstrip()


def is_none(parameter: str, value: Value) -> bool:
    """Whether a model's value says that the effect is left out."""
    return parameter in _ZERO_IS_INFINITE and value == 0


def _finding(
    statement: Statement, severity: Severity, model: Token, parameter: str, token: Token, what: str
) -> Finding:
    place = statement.error("", "", token).place
    return Finding(severity, f"model {model.text}: parameter {parameter} {what}", place)
