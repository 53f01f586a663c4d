"""A whole text: its subcircuits, models, elements, analyses and comments, and findings for what could not be read.

`.include` and `.lib` are resolved only among the texts that are handed in together with it.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import TypeVar

from verdad_core.devices import FAMILIES
from verdad_core.devices.base import ZERO_CELSIUS
from verdad_core.errors import Finding, NetlistError, Place, Severity
from verdad_core.netlist.assignments import assignments
from verdad_core.netlist.cards import Card, read_card
from verdad_core.netlist.cards.card import Words
from verdad_core.netlist.cards.instance import split_parameters
from verdad_core.netlist.command import is_command, read_command
from verdad_core.netlist.expressions import Expression, UserFunction, Value, read_expression, read_value
from verdad_core.netlist.lines import MAX_TEXT, Comment, Statement, Token, split
from verdad_core.netlist.models import read_model
from verdad_core.netlist.parameters import Parameters, evaluate
from verdad_core.netlist.scope import Netlist, Scope

Item = TypeVar("Item")

#: Gives the text of an included file by its name as written, or None.
Texts = Callable[[str], str | None]

GROUND = "0"

#: Names that expressions have for what no parameter can be.
RESERVED = {"time": "time", "temp": "temperature", "temper": "temperature"}

#: Subcircuits may be defined, and files included, inside each other to this depth.
MAX_DEPTH = 20

#: Characters that all includes together may come to.
MAX_INCLUDED = 2 * MAX_TEXT

#: Findings beyond this number are counted, not listed.
MAX_FINDINGS = 200


#: Statements that ask for a listing of results, which has no effect here.
_PASSED_OVER = {".print", ".plot", ".probe", ".width", ".save", ".meas", ".measure", ".distribution",
                ".alias", ".endl", ".backanno", ".wcase", ".autoconverge"}  # fmt: skip

#: Options that the transient takes.
_TOLERANCES = ("reltol", "vntol", "abstol")
_METHODS = {"trap": "trap", "trapezoidal": "trap", "gear": "gear"}

_HAVE_TNOM = frozenset(
    family.name for family in FAMILIES if any(parameter.name == "tnom" for parameter in family.parameters)
)

_ENCRYPTED = re.compile(
    r"\bencrypt(?:ed|ion)?\b.*\b(?:begin|start|block|text)|\b(?:begin|start)\w*\s+encrypt", re.IGNORECASE
)
_ENCRYPTION_WORDS = (".prot", ".protect", ".encrypt", ".protected")

_FUNCTION = re.compile(r"\.func\s+([a-z_]\w*)\s*\(([^()]*)\)\s*=?\s*(.*)", re.IGNORECASE | re.DOTALL)
_QUOTED = re.compile(r"\"([^\"]*)\"|'([^']*)'|(\S+)")
_LOGARITHM = re.compile(r"\blog\s*\(", re.IGNORECASE)


def among(texts: Mapping[str, str]) -> Texts:
    """Texts by name, whatever the case and the folders before it."""
    by_name = {_base_name(name): text for name, text in texts.items()}
    return lambda name: by_name.get(_base_name(name))


def _base_name(name: str) -> str:
    return re.split(r"[/\\]", name)[-1].lower()


def read(text: str, *, has_title: bool = False, texts: Texts | Mapping[str, str] | None = None) -> Netlist:
    """Read a netlist (`has_title`: its first line is the title) or a model file.

    `texts` holds what its `.include` and `.lib` statements may ask for, by name. Never raises for what the text says:
    what is wrong is in the findings, with its line.
    """
    title = ""
    if has_title:
        title, _, body = text.partition("\n")
        text = "\n" + body
    find: Texts = texts if callable(texts) else among(texts or {})
    reader = _Reader(find)
    reader.netlist.title = title.strip()
    reader.read(text, None)
    reader.close()
    findings = reader.netlist.findings
    if len(findings) > MAX_FINDINGS:
        more = len(findings) - MAX_FINDINGS
        del findings[MAX_FINDINGS:]
        findings.append(Finding(Severity.ERROR, f"and {more} more findings", remedy="Mend the first ones first."))
    return reader.netlist


@dataclass
class _Branch:
    """An `.if` that is open: the statement, how deep in subcircuits it stands, and the condition that holds now."""

    statement: Statement
    depth: int
    now: list[Expression]
    #: Conditions of the branches before this one.
    before: list[Expression] = field(default_factory=list)

    def conditions(self) -> list[tuple[Expression, bool]]:
        return [*((condition, False) for condition in self.before), *((condition, True) for condition in self.now)]


def _condition(statement: Statement) -> Expression:
    words = Words(statement)
    return words.last_expression("a condition")


class _Reader:
    def __init__(self, texts: Texts) -> None:
        self.netlist = Netlist()
        self.scope = self.netlist.top
        self.texts = texts
        self.depth = 0
        self.ended = False
        self.included = 0
        self.files: list[str] = []
        self.branches: list[_Branch] = []

    def read(self, text: str, file: str | None, section: str | None = None) -> None:
        """All of a text, or of one `.lib` section of it."""
        open_section: str | None = None
        try:
            for item in split(text, file):
                if isinstance(item, Comment):
                    self._comment(item, file)
                    continue
                if item.keyword == ".lib" and len(item.tokens) == 2 and not self._is_file(item):
                    open_section = item.words[1]
                    if section is None:
                        self._note(
                            item,
                            Severity.NOTE,
                            f"section {open_section} is read only where .lib asks for it",
                        )
                elif item.keyword == ".endl":
                    open_section = None
                elif open_section == section:
                    self.take(item)
        except NetlistError as error:
            self.netlist.findings.append(Finding.of(error))

    def _is_file(self, statement: Statement) -> bool:
        return "." in statement.words[1] or self.texts(_file_name(statement)[0]) is not None

    def _comment(self, comment: Comment, file: str | None) -> None:
        self.scope.comments.append(comment)
        if _ENCRYPTED.search(comment.text):
            self._refuse_encrypted(Place(file, comment.line))

    def _refuse_encrypted(self, place: Place) -> None:
        raise NetlistError(
            "this section is encrypted, and Verdad reads only plain text",
            place=place,
            remedy="Ask the maker for a model in plain text.",
        )

    def take(self, statement: Statement) -> None:
        if self.ended:
            return
        try:
            self._statement(statement)
        except NetlistError as error:
            self.netlist.findings.append(Finding.of(error))

    def _note(self, statement: Statement, severity: Severity, message: str, remedy: str = "") -> None:
        self.netlist.findings.append(Finding(severity, message, statement.error("").place, remedy))

    def _statement(self, statement: Statement) -> None:
        keyword = statement.keyword
        if hidden := statement.invisible:
            codes = ", ".join(f"U+{ord(c):04X}" for c in hidden.text if not c.isprintable())
            raise statement.error(f"a word holds a character that nobody sees: {codes}", "Delete it.", hidden)
        if _LOGARITHM.search(statement.text):
            self._note(statement, Severity.NOTE, "log is read as the natural logarithm", "Write ln or log10.")
        if keyword in _ENCRYPTION_WORDS:
            self.ended = True
            self._refuse_encrypted(statement.error("").place)
        if keyword in _BRANCHES:
            _BRANCHES[keyword](self, statement)
        elif not self._is_wanted(statement):
            return
        elif keyword in _DIRECTIVES:
            _DIRECTIVES[keyword](self, statement)
        elif is_command(keyword):
            self.netlist.commands.append(read_command(statement))
        elif keyword in _PASSED_OVER:
            self._note(statement, Severity.NOTE, f"{keyword} has no effect here")
        elif keyword.startswith("."):
            self._note(
                statement, Severity.WARNING, f"the statement {keyword} is not supported; what it asks for is not done"
            )
        else:
            self._card(statement)

    def _card(self, statement: Statement) -> None:
        try:
            card = read_card(statement)
        except NetlistError as error:
            self.scope.cards.append(Card(statement.keyword, (), statement, refusal=error))
            raise
        if self.scope.parent is not None and (when := self._conditions()):
            card = replace(card, when=when)
        self.scope.cards.append(card)

    def _conditions(self) -> tuple[tuple[Expression, bool], ...]:
        """Those of the scope at hand; the ones around a subcircuit have let it be."""
        here = (branch for branch in self.branches if branch.depth == self.depth)
        return tuple(condition for branch in here for condition in branch.conditions())

    def _is_wanted(self, statement: Statement) -> bool:
        """Whether the `.if`s around a statement let it be.

        Outside of subcircuits they are decided here; inside, where each instance has its own parameters, an element
        takes them along, and nothing else can. Raises NetlistError.
        """
        conditions = self._conditions()
        if not conditions:
            return True
        if self.scope.parent is None:
            known = Parameters(self.scope.parameters, self.scope.functions)
            return all((evaluate(condition, known) != 0.0) == wanted for condition, wanted in conditions)
        if statement.keyword.startswith("."):
            raise statement.error(
                f"{statement.keyword} inside .if inside a subcircuit is not read: each instance could have its own",
                "Move it out of the .if, under a name of its own.",
            )
        return True

    def _if(self, statement: Statement) -> None:
        self.branches.append(_Branch(statement, self.depth, [_condition(statement)]))

    def _else_if(self, statement: Statement) -> None:
        branch = self._branch(statement)
        branch.before.append(branch.now.pop())
        branch.now.append(_condition(statement))

    def _else(self, statement: Statement) -> None:
        Words(statement).done()
        branch = self._branch(statement)
        branch.before.append(branch.now.pop())

    def _end_if(self, statement: Statement) -> None:
        Words(statement).done()
        self._branch(statement, ends=True)
        self.branches.pop()

    def _branch(self, statement: Statement, ends: bool = False) -> _Branch:
        if not self.branches or (not self.branches[-1].now and not ends):
            raise statement.error(f"{statement.keyword} without .if", "Remove it, or put the missing .if above it.")
        return self.branches[-1]

    def _model(self, statement: Statement) -> None:
        model = read_model(statement, self.netlist.findings)
        self._redefine(statement, "model", model.name, self.scope.models, model)

    def _parameters(self, statement: Statement) -> None:
        """`name = value` pairs, and functions."""
        for one in assignments(statement):
            try:
                if one.arguments is not None:
                    self._function(statement, one.name, one.arguments, one.value)
                else:
                    self._allow(statement, one.name, one.value)
                    read = read_value(one.value, bare=True)
                    self._redefine(statement, "parameter", one.name, self.scope.parameters, read)
            except NetlistError as error:
                raise statement.error(f".param: {error.message}", error.remedy, one.value) from None

    def _allow(self, statement: Statement, name: str, token: Token | None = None) -> None:
        """Raise NetlistError for a parameter that would hide the time or the temperature."""
        if name in RESERVED:
            raise statement.error(
                f"{name} is the {RESERVED[name]} itself, and no name for a parameter", "Choose another name.", token
            )

    def _function_statement(self, statement: Statement) -> None:
        match = _FUNCTION.fullmatch(statement.text.strip())
        if match is None or not match[3].strip():
            raise statement.error(".func is incomplete: expected a name and an expression", "Write .func f(x) {2*x}.")
        token = statement.tokens[1]
        arguments = tuple(match[2].lower().replace(",", " ").split())
        body = Token(match[3].strip().lower(), token.line, token.column)
        self._function(statement, match[1].lower(), arguments, body)

    def _function(self, statement: Statement, name: str, arguments: tuple[str, ...], body: Token) -> None:
        for argument in arguments:
            self._allow(statement, argument)
        try:
            function = UserFunction(arguments, read_expression(body))
        except NetlistError as error:
            raise statement.error(f".func: {error.message}", error.remedy) from None
        self._define(statement, "function", name, self.scope.functions, function)

    def _open(self, statement: Statement) -> None:
        tokens, parameters = split_parameters(statement, statement.tokens[1:])
        words = [token.text for token in tokens]
        if len(words) < 2:
            raise statement.error(".subckt is incomplete: expected a name and its nodes", "Write .subckt NAME 1 2 3.")
        if self.depth >= MAX_DEPTH:
            raise statement.error(f"subcircuits are nested deeper than {MAX_DEPTH}", "Flatten the innermost ones.")
        name, pins = words[0], tuple(words[1:])
        if GROUND in pins:
            raise statement.error(
                f".subckt {name} has a pin named 0, which is ground everywhere", "Give the pin another name.",
                tokens[1 + pins.index(GROUND)],
            )  # fmt: skip
        for parameter in parameters:
            self._allow(statement, parameter)
        twice = next((pin for pin in pins if pins.count(pin) > 1), None)
        inner = Scope(name, pins, statement.line, self.scope, parameters=parameters, file=statement.file)
        if twice is not None:
            self.netlist.findings.append(
                Finding.of(statement.error(f".subckt {name} names node {twice} twice", "Give each pin its own node."))
            )
        self._define(statement, "subcircuit", name, self.scope.subcircuits, inner)
        self.scope = inner
        self.depth += 1

    def _define(self, statement: Statement, what: str, name: str, among: dict[str, Item], item: Item) -> None:
        if name in among:
            self.netlist.findings.append(
                Finding.of(statement.error(f"{what} {name} is defined twice", "Remove one; the first is used."))
            )
        among.setdefault(name, item)

    def _redefine(self, statement: Statement, what: str, name: str, among: dict[str, Item], item: Item) -> None:
        if name in among:
            self._note(statement, Severity.NOTE, f"{what} {name} is defined again here; this one is used everywhere")
        among[name] = item

    def _close(self, statement: Statement) -> None:
        if self.scope.parent is None:
            raise statement.error(".ends without .subckt", "Remove it, or put the missing .subckt above it.")
        words = Words(statement)
        words.rest = words.rest[1:]
        words.done()
        named = statement.words[1] if len(statement.words) > 1 else self.scope.name
        if self.branches and self.branches[-1].depth == self.depth:
            branch = self.branches.pop()
            raise branch.statement.error(".if has no .endif before .ends", "Add .endif after its last statement.")
        if named != self.scope.name:
            self._note(
                statement, Severity.WARNING, f".ends {named} closes subcircuit {self.scope.name}",
                "Check that no .ends is missing above.",
            )  # fmt: skip
        self.scope.last = statement.line
        self.scope = self.scope.parent
        self.depth -= 1

    def _include(self, statement: Statement) -> None:
        name, section = _file_name(statement)
        if not name:
            raise statement.error(f"{statement.keyword} names no file", 'Write .include "file".')
        try:
            text = self.texts(name)
        except NetlistError as error:
            raise statement.error(error.message, error.remedy) from None
        if text is None:
            raise statement.error(
                f"the file {name} is not here", "Hand it in together with this one; nothing else is looked at."
            )
        self.included += len(text)
        if len(self.files) >= MAX_DEPTH or self.included > MAX_INCLUDED:
            raise statement.error(f"the file {name} includes itself, or too much is included", "Include less.")
        self.files.append(name)
        self.read(text, name, section)
        self.files.pop()
        self.ended = False

    def _nodes(self, statement: Statement) -> None:
        words = Words(statement)
        target = self.scope.initial if statement.keyword == ".ic" else self.scope.nodesets
        while words.rest or not target:
            what = words.take("v(node)=volts")
            node = words.take("a node") if what.text == "v" else None
            if node is None or not words.skip("="):
                raise words.error(
                    f"'{(words.rest[0] if node and words.rest else what).text}' is not understood here",
                    f"Write {statement.keyword} v(out)=1; a winding's current is its own ic=.", what,
                )  # fmt: skip
            target[node.text] = words.number("a voltage")

    def _everywhere(self, statement: Statement) -> None:
        self.netlist.everywhere += [word for word in statement.words[1:] if word not in self.netlist.everywhere]

    def _temperature(self, statement: Statement) -> None:
        words = Words(statement)
        celsius = words.number("a temperature in °C")
        if isinstance(celsius, float) and celsius <= -ZERO_CELSIUS:
            raise statement.error(f".temp: {celsius:g} °C is below absolute zero", "Write a temperature in °C.")
        self.netlist.celsius = celsius
        if words.rest:
            self._note(
                statement, Severity.WARNING, "only the first temperature of .temp is used", "Sweep temp with .dc."
            )

    def _options(self, statement: Statement) -> None:
        words = Words(statement)
        while words.rest:
            name = words.take("an option")
            given = words.skip("=")
            if name.text == "method" and given:
                self._method(statement, words.take("trap or gear"))
                continue
            value = words.number() if given else None
            if name.text == "temp" and value is not None:
                self.netlist.celsius = value
            elif name.text == "tnom" and value is not None:
                self.netlist.nominal = value
            elif name.text in _TOLERANCES and value is not None:
                self.netlist.tolerances[name.text] = value
            else:
                place = statement.error("", "", name).place
                self.netlist.findings.append(
                    Finding(Severity.NOTE, f"option {name.text} has no effect here: the engine sets it itself", place)
                )

    def _method(self, statement: Statement, word: Token) -> None:
        known = _METHODS.get(word.text)
        if known is None:
            raise statement.error(f"the method '{word.text}' is not known", "Write method=trap or method=gear.", word)
        self.netlist.method = known

    def _title(self, statement: Statement) -> None:
        self.netlist.title = statement.text.strip()[len(".title") :].strip()

    def _end(self, statement: Statement) -> None:
        self.ended = True

    def close(self) -> None:
        for branch in self.branches:
            self.netlist.findings.append(
                Finding.of(branch.statement.error(".if has no .endif", "Add .endif after its last statement."))
            )
        while self.scope.parent is not None:
            self.netlist.findings.append(
                Finding(
                    Severity.ERROR,
                    f"subcircuit {self.scope.name} has no .ends",
                    Place(self.scope.file, self.scope.line),
                    "Add .ends after its last statement.",
                )
            )
            self.scope = self.scope.parent
        if self.netlist.nominal is not None:
            _hold_at(self.netlist.nominal, self.netlist.top)


def _hold_at(nominal: Value, scope: Scope) -> None:
    """Write the temperature at which values hold (`.options tnom`) into all that does not say it itself.

    So it goes along wherever a model or an element is taken.
    """
    for name, model in scope.models.items():
        if model.family in _HAVE_TNOM and not model.base and "tnom" not in model.values:
            scope.models[name] = replace(model, values={**model.values, "tnom": nominal})
    for k, card in enumerate(scope.cards):
        follows = {"tc1", "tc2", "tce"} & set(card.values) and not card.model
        if card.family in _HAVE_TNOM and follows and "tnom" not in card.values:
            scope.cards[k] = replace(card, values={**card.values, "tnom": nominal})
    for inner in scope.subcircuits.values():
        _hold_at(nominal, inner)


def _file_name(statement: Statement) -> tuple[str, str | None]:
    """The file that an include names, as written, and the section of it."""
    rest = statement.text.split(maxsplit=1)[1] if len(statement.tokens) > 1 else ""
    words = ["".join(groups) for groups in _QUOTED.findall(rest)]
    return (words[0] if words else ""), (words[1].lower() if len(words) > 1 else None)


_BRANCHES: dict[str, Callable[[_Reader, Statement], None]] = {
    ".if": _Reader._if, ".elseif": _Reader._else_if, ".else": _Reader._else, ".endif": _Reader._end_if,
}  # fmt: skip

_DIRECTIVES: dict[str, Callable[[_Reader, Statement], None]] = {
    ".subckt": _Reader._open, ".ends": _Reader._close, ".eom": _Reader._close, ".macro": _Reader._open,
    ".model": _Reader._model, ".param": _Reader._parameters, ".params": _Reader._parameters,
    ".func": _Reader._function_statement, ".include": _Reader._include, ".inc": _Reader._include,
    ".lib": _Reader._include, ".ic": _Reader._nodes, ".nodeset": _Reader._nodes, ".global": _Reader._everywhere,
    ".temp": _Reader._temperature, ".options": _Reader._options, ".option": _Reader._options,
    ".title": _Reader._title, ".end": _Reader._end,
}  # fmt: skip
