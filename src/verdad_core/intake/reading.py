"""The reading of a bundle: what can be placed from it, what each pin seems to be, and what is wrong with it."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import dataclass, replace

from verdad_core.devices import Element
from verdad_core.errors import Finding, Severity, VerdadError
from verdad_core.intake.bundle import Bundle
from verdad_core.intake.compares import compares
from verdad_core.intake.experiment import show
from verdad_core.intake.kinds import CLAMPS_BELOW, KINDS, KindProposal, is_inverted, placed_as, recognise
from verdad_core.intake.model import Model
from verdad_core.intake.pins import PinProposal, Witness, header_blocks, propose
from verdad_core.intake.sureness import Sureness
from verdad_core.intake.terms import terms_of_use
from verdad_core.intake.touchstone import is_touchstone
from verdad_core.netlist.expressions import Value
from verdad_core.netlist.models import ModelCard
from verdad_core.netlist.reader import read
from verdad_core.netlist.scope import Netlist, Scope

#: Subcircuits with more elements than this are listed without going to the bench, and so are those that come after
#: this many seconds of it.
MOST_ELEMENTS, PATIENCE = 400, 8.0


@dataclass(frozen=True)
class Entry:
    """A subcircuit or a `.model` that can be placed, unless `problem` says why not.

    `elements` counts what it expands to. `part_of` names another entry of the bundle that uses this one.
    """

    name: str
    form: str
    file: str
    line: int
    description: str
    elements: int
    kind: KindProposal
    pins: tuple[PinProposal, ...]
    problem: Finding | None = None
    part_of: str = ""
    #: Whether it is a transistor whose emitter or source stands on top.
    inverted: bool = False

    @property
    def nodes(self) -> tuple[str, ...]:
        return tuple(pin.node for pin in self.pins)

    @property
    def roles(self) -> tuple[str, ...]:
        """The proposed roles; a node without one is a pin of its own name."""
        return tuple(pin.role or pin.node for pin in self.pins)


@dataclass(frozen=True)
class Reading:
    """What a bundle holds. Findings carry the file and line they belong to."""

    entries: tuple[Entry, ...]
    findings: tuple[Finding, ...]
    terms: str

    def entry(self, name: str) -> Entry | None:
        return next((entry for entry in self.entries if entry.name == name), None)


def read_bundle(bundle: Bundle, *, experiment: bool = True, only: str | None = None) -> Reading:
    """Read every file. Never raises for what the texts say.

    Without `experiment`, nothing goes to the bench; with `only`, only the subcircuit of that name.
    """
    findings: list[Finding] = []
    entries: list[Entry] = []
    began = time.monotonic()
    for file in bundle.files:
        netlist = read(file.text, texts=bundle.texts)
        findings += [_in_file(finding, file.name) for finding in netlist.findings]
        own = [scope for scope in netlist.top.subcircuits.values() if scope.file is None]
        for scope in own:
            tried = experiment and only in (None, scope.name) and time.monotonic() - began < PATIENCE
            entry, more = _subcircuit(bundle, file.name, scope, tried)
            entries.append(entry)
            findings += more
        entries += [_model(file.name, card) for card in netlist.top.models.values() if card.statement.file is None]
    used = _used(bundle)
    entries = [_with_user(entry, used) for entry in entries]
    if not entries and not any(finding.severity is Severity.ERROR for finding in findings):
        findings.append(
            Finding(
                Severity.ERROR,
                "the text defines no subcircuit and no model",
                remedy="Paste the maker's whole file, from .subckt to .ends.",
            )
        )
    terms = "\n\n".join(dict.fromkeys(filter(None, (terms_of_use(file.text) for file in bundle.files))))
    return Reading(tuple(entries), tuple(dict.fromkeys(findings)), terms)


def _in_file(finding: Finding, file: str) -> Finding:
    return finding if finding.place.file else replace(finding, place=replace(finding.place, file=file))


def _subcircuit(bundle: Bundle, file: str, scope: Scope, experiment: bool) -> tuple[Entry, list[Finding]]:
    problem: Finding | None = None
    elements: list[Element] = []
    try:
        elements = Model(bundle, file, scope.name, scope.pins).check()
    except VerdadError as error:
        problem = _in_file(Finding.of(error), file)
    blocks = header_blocks(scope)
    description = next((c.text.strip("* ") for c in blocks[0] if any(ch.isalpha() for ch in c.text)), "")[:200]
    if is_touchstone(file):
        pins = tuple(PinProposal(node, node, Sureness.SAID, "the file's ports, in their order") for node in scope.pins)
        kind = KindProposal("other", Sureness.SAID, "S-parameters of a network")
        return Entry(scope.name, "subcircuit", file, scope.line, description, len(elements), kind, pins, problem), []
    comments = [comment.text for comment in [*reversed(blocks[0]), *blocks[1]]]
    kind = recognise(comments, len(scope.pins), elements)
    shown: Witness | None = None
    if experiment and problem is None and len(elements) <= MOST_ELEMENTS:
        shown = show(bundle, file, scope.name, scope.pins, kind.kind)
    if kind.kind == "op-amp" and kind.sureness is Sureness.GUESS and shown is not None and all(shown.roles):
        roles = [role for role in shown.roles if role]
        if why := compares(bundle, file, scope.name, roles):
            kind = KindProposal("comparator", Sureness.GUESS, why)
    if kind.kind == "regulator" and kind.sureness is Sureness.GUESS and shown is not None and not any(shown.roles):
        kind, shown = KindProposal("other", Sureness.UNKNOWN, "its output is not steady on the bench"), None
    pins, findings = propose(scope, KINDS[kind.kind], shown)
    entry = Entry(
        scope.name, "subcircuit", file, scope.line, description, len(elements), kind, pins, problem,
        inverted=is_inverted(elements),
    )  # fmt: skip
    return entry, [*([problem] if problem else []), *(_in_file(finding, file) for finding in findings)]


def _model(file: str, card: ModelCard) -> Entry:
    placed = placed_as(card)
    kind = placed[0] if placed else "other"
    roles = KINDS[kind].roles
    if kind == "diode" and (bv := card.values.get("bv")) is not None and _below(bv):
        kind = "clamp"
    order = "the order that the language fixes"
    pins = tuple(PinProposal(str(k), role, Sureness.SAID, order) for k, role in enumerate(roles, 1))
    problem = None
    if placed is None:
        what = card.family or f"{card.kind or card.base}, not supported"
        problem = Finding(Severity.NOTE, f"a model of type {what} is used by elements, not placed by itself")
    proposal = KindProposal(kind, Sureness.SAID, f"a .model of type {card.kind or card.base}")
    turned = card.kind != "" and card.fixed.get("polarity", 1.0) < 0
    return Entry(card.name, "model", file, card.statement.line, "", 1, proposal, pins, problem, inverted=turned)


def _below(value: Value) -> bool:
    return isinstance(value, float) and 0 < value < CLAMPS_BELOW


def _used(bundle: Bundle) -> dict[str, str]:
    """Names of subcircuits and models that another subcircuit of the bundle uses, with that one's name."""
    users: dict[str, str] = {}
    for file in bundle.files:
        for scope in _every(read(file.text, texts=bundle.texts)):
            for card in scope.cards:
                for name in (card.subcircuit, card.model):
                    if name and name != scope.outermost().name:
                        users.setdefault(name, scope.name)
    return users


def _every(netlist: Netlist) -> Iterator[Scope]:
    pending = [netlist.top]
    while pending:
        scope = pending.pop()
        pending += scope.subcircuits.values()
        if scope.name:
            yield scope


def _with_user(entry: Entry, used: dict[str, str]) -> Entry:
    return replace(entry, part_of=used.get(entry.name, ""))
