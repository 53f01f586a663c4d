"""Which node of a subcircuit is which pin: proposals with a reason, from comments, node names and convention."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from verdad_core.errors import Finding, Place, Severity
from verdad_core.intake.kinds import Kind
from verdad_core.intake.sureness import Sureness
from verdad_core.netlist.lines import Comment
from verdad_core.netlist.scope import Scope


@dataclass(frozen=True)
class PinProposal:
    """The proposed role of one node, how sure it is, and why."""

    node: str
    role: str | None
    sureness: Sureness
    reason: str


@dataclass(frozen=True)
class Witness:
    """What one source says of each node: a role, or None, with the reason."""

    sureness: Sureness
    roles: tuple[str | None, ...]
    reasons: tuple[str, ...]


_SUPPLY = r"(?:suppl|power|rail|vs|vcc|vdd|vee|vss|versorg|aliment)"
#: Patterns in the order in which they are tried: the first that a label holds decides.
_LABELS = (
    ("control", r"\bcontrol|\bctrl|\bctl\b"),
    ("primary-", r"pri\w*?[ _]*(?:-|n\b|end|finish|2)|\bp(?:2|n|-)(?!\w)"),
    ("primary+", r"pri\w*?[ _]*(?:\+|p\b|start|dot|1)|\bp(?:1|p|\+)(?!\w)"),
    ("secondary-", r"sec\w*?[ _]*(?:-|n\b|end|finish|2)|\bs(?:2|n|-)(?!\w)"),
    ("secondary+", r"sec\w*?[ _]*(?:\+|p\b|start|dot|1)|\bs(?:1|p|\+)(?!\w)"),
    ("in+", r"n[io](?:n|cht)?.?inv|\+\s*in(?:put)?\b|\bin(?:put)?\s*\(?\+|positive in|\bplus in"
            r"|\bv?in(?:p|_p|_plus|\+)(?![a-z])"),
    ("in-", r"inv|-\s*in(?:put)?\b|\bin(?:put)?\s*\(?-|negative in|\bv?in(?:n|m|_n|_minus|-)(?![a-z])|\bminus in"),
    ("v+", rf"pos\w* {_SUPPLY}|{_SUPPLY}\w* pos|\+\s*{_SUPPLY}|{_SUPPLY}\w*\s*\+|\bv\+|\bv?vcc|\bvdd|\bvp\b|\bvpos"),
    ("v-", rf"neg\w* {_SUPPLY}|{_SUPPLY}\w* neg|-\s*{_SUPPLY}|{_SUPPLY}\w*\s*-|\bv-|\bv?vee|\bvss|\bvn\b|\bvneg"),
    ("enable", r"\benable|\bshut ?down|\bshdn|\ben\b|\bsd\b"),
    ("adjust", r"\badj"),
    ("trim", r"\btrim"),
    ("collector", r"\bcollector|^c$"),
    ("base", r"\bbase\b|^b$"),
    ("emitter", r"\bemitter|^e$"),
    ("substrate", r"\bsubstrate"),
    ("drain", r"\bdrain|^d$"),
    ("gate", r"\bgate|^g$"),
    ("source", r"\bsource|^s$"),
    ("bulk", r"\bbulk|\bbody\b"),
    ("anode", r"\banode|^a$"),
    ("cathode", r"\bcathode|\bkathode|^k$|^c$"),
    ("ground", r"\bground|\bgnd|\bcommon\b|\bmasse?\b|\bmassa\b|\btierra\b"),
    ("out", r"\bv?out|\bvo\b|^o$|\bausgang|\bsortie|\bsalida|\buscita|\bsa[ií]da"),
    ("in", r"\bv?in(?:put)?\b|^i$|\beingang|\bentr[ée]e|\bentrada|\bingresso"),
    ("a", r"\bterminal a\b|\bswitch(?:ed)? a\b|^a$|\bno1\b"),
    ("b", r"\bterminal b\b|\bswitch(?:ed)? b\b|^b$|\bcom\b"),
)  # fmt: skip
_PATTERNS = tuple((role, re.compile(pattern)) for role, pattern in _LABELS)

#: Single op-amps in packages of eight keep to these pins (common practice, no source); some files use them as nodes.
_PACKAGE = {"2": "in-", "3": "in+", "4": "v-", "6": "out", "7": "v+"}


def role_of(label: str, kind: Kind) -> str | None:
    """The role, among a kind's, that a label such as "non-inverting input" or "VCC" names, or None."""
    low = label.lower().strip()
    return next(
        (role for role, pattern in _PATTERNS if role in kind.known_roles and pattern.search(low)), None
    )  # fmt: skip


def said(scope: Scope, kind: Kind) -> Witness | None:
    """What the comments above or inside a subcircuit say of its nodes, or None where they list no pins."""
    for block in header_blocks(scope):
        for labels in (_keyed(block, scope.pins), _ladder(block), *_lists(block, scope.pins)):
            if (witness := _labelled(scope, kind, labels, Sureness.SAID, "comment")) is not None:
                return witness
    return None


def named(scope: Scope, kind: Kind) -> Witness | None:
    """What the nodes' own names say, or None."""
    return _labelled(scope, kind, list(scope.pins), Sureness.LIKELY, "node name")


def usual(scope: Scope, kind: Kind) -> Witness | None:
    """What the conventions of the trade say: package pins as node numbers, or the usual order; or None."""
    pins = scope.pins
    if kind.roles[:1] == ("in+",) and set(_PACKAGE) == set(pins):
        return Witness(
            Sureness.LIKELY,
            tuple(_PACKAGE[pin] for pin in pins),
            tuple(f"pin {pin} of a package of eight" for pin in pins),
        )
    if kind.ordered and kind.roles and len(pins) == len(kind.roles):
        reasons = tuple(f"the usual order: node {k} of {len(pins)}" for k in range(1, len(pins) + 1))
        return Witness(Sureness.GUESS, kind.roles, reasons)
    return None


def propose(
    scope: Scope, kind: Kind, shown: Witness | None = None
) -> tuple[tuple[PinProposal, ...], list[Finding]]:  # fmt: skip
    """A role for each node in the order of the nodes, and findings where the sources contradict each other.

    `shown` is what the bench found; it goes before all else, node by node. A role is never given twice.
    """
    written = next((w for w in (said(scope, kind), named(scope, kind), usual(scope, kind)) if w is not None), None)
    proposals = []
    findings = []
    for k, node in enumerate(scope.pins):
        told = _of(written, k, node)
        measured = _of(shown, k, node)
        if measured.role is None:
            proposals.append(told)
            continue
        if told.role == measured.role:
            measured = replace(measured, reason=f"{measured.reason}; {told.reason}")
        elif told.role is not None:
            measured = replace(measured, reason=f"{measured.reason}; but {told.reason}")
            if told.sureness is not Sureness.GUESS:
                findings.append(_contradiction(scope, node, told, measured))
        proposals.append(measured)
    return _each_once(proposals), findings


def _contradiction(scope: Scope, node: str, told: PinProposal, measured: PinProposal) -> Finding:
    return Finding(
        Severity.WARNING,
        f"node {node} of {scope.name}: {told.reason} says {told.role}, but on the bench it is {measured.role}",
        Place(scope.file, scope.line, nodes=(node,)),
        "Compare with the data sheet's pins; if the file is a copy, fetch it from its maker.",
    )


def _of(witness: Witness | None, k: int, node: str) -> PinProposal:
    if witness is None or witness.roles[k] is None:
        why = witness.reasons[k] if witness and witness.reasons[k] else "nothing in the file says"
        return PinProposal(node, None, Sureness.UNKNOWN, why)
    return PinProposal(node, witness.roles[k], witness.sureness, witness.reasons[k])


def _each_once(proposals: list[PinProposal]) -> tuple[PinProposal, ...]:
    """Where two nodes would have one role, the surer proposal keeps it; equals both become unknown."""
    order = list(Sureness)
    result = []
    for proposal in proposals:
        rivals = [other for other in proposals if other is not proposal and other.role == proposal.role]
        if proposal.role is not None and any(
            order.index(rival.sureness) <= order.index(proposal.sureness) for rival in rivals
        ):
            proposal = replace(proposal, role=None, sureness=Sureness.UNKNOWN)
        result.append(proposal)
    return tuple(result)


def _labelled(scope: Scope, kind: Kind, labels: list[str], sureness: Sureness, source: str) -> Witness | None:
    """A witness whose labels name most of the kind's roles, each at most once; None where they do not."""
    if len(labels) != len(scope.pins):
        return None
    roles = _single_supply(tuple(role_of(label, kind) for label in labels), kind)
    found = [role for role in roles if role is not None]
    if len(found) < max(2, len(kind.roles) // 2 + 1) or len(set(found)) < len(found):
        return None
    return Witness(sureness, roles, tuple(f'{source} "{label}"' for label in labels))


def _single_supply(roles: tuple[str | None, ...], kind: Kind) -> tuple[str | None, ...]:
    """The ground of a part with a positive supply and no negative one is where its current comes back."""
    if "v-" not in kind.roles or "v-" in roles or "v+" not in roles:
        return roles
    return tuple("v-" if role == "ground" else role for role in roles)


def header_blocks(scope: Scope) -> list[list[Comment]]:
    """The comments right above a subcircuit, and those between its first line and its first element."""
    above = scope.parent.comments if scope.parent else []
    others = scope.parent.subcircuits.values() if scope.parent else ()
    floor = max((other.last for other in others if other.file == scope.file and other.last < scope.line), default=0)
    first_card = min((card.statement.line for card in scope.cards), default=scope.line + 1000)
    return [
        [
            comment
            for comment in above
            if comment.file == scope.file and max(floor, scope.line - 60) <= comment.line < scope.line
        ],
        [comment for comment in scope.comments if comment.file == scope.file and comment.line < first_card],
    ]


def _ladder(block: Sequence[Comment]) -> list[str]:
    """One label per node from lines in which bars lead down to the nodes; the first one stands above its first bar."""
    barred = [k for k, comment in enumerate(block) if "|" in comment.text]
    if not barred:
        return []
    rungs = block[max(barred[0] - 1, 0) : barred[-1] + 1]
    return [label for label in (_without_bars(rung.text) for rung in rungs) if label]


def _keyed(block: Sequence[Comment], pins: Sequence[str]) -> list[str]:
    """Labels given to the nodes by their names, as in "1=out 2=in-" or in lines "3: non-inverting input"."""
    found: dict[str, str] = {}
    for comment in block:
        pairs = _PAIR.findall(comment.text)
        if len(pairs) < 2:
            match = _ITEM.match(comment.text) or _NUMBERED.match(comment.text)
            pairs = [(match[1], match[2].strip())] if match else []
        for key, label in pairs:
            found.setdefault(key.lower(), label)
    return [found[pin] for pin in pins] if all(pin in found for pin in pins) else []


def _lists(block: Sequence[Comment], pins: Sequence[str]) -> list[list[str]]:
    """Labels in the order of the nodes: after headings such as "node order: a, b, c", or in lines below them whose own
    keys are no nodes.
    """
    found = []
    for k, comment in enumerate(block):
        heading = _HEADING.search(comment.text.lower())
        if not heading:
            # Without a heading only what has as many words as there are nodes can be their list.
            text = comment.text.strip("* \t")
            found += [words for words in (re.split(r"[,;/]\s*", text), text.split()) if len(words) == len(pins)]
            continue
        rest = comment.text[heading.end() :].strip()
        if rest:
            found.append([word for word in re.split(r"[,;/]\s*", rest) if word])
            found.append(rest.split())
        items = []
        for following in block[k + 1 :]:
            match = _ITEM.match(following.text)
            if match is None:
                break
            if match[1].lower() not in pins:
                items.append(match[2].strip())
        found.append(items)
    return found


_HEADING = re.compile(
    r"(?:connections|pins?|nodes?|node order|pin order|pin ?out|pin ?out order|pin config\w*|terminals)\s*:"
    r"|(?:node|pin|pin ?out) order(?=\s)"
)
_ITEM = re.compile(r"\A\s*+(?:pin\s++|node\s++)?([\w+-]++)\s*+[:=.)]\s*+(.+)", re.IGNORECASE)
#: A node's number, with what it is behind it: "1 IN   supply".
_NUMBERED = re.compile(r"\A\s*+(\d{1,2})\s++(\S.*)")
_PAIR = re.compile(r"(?<![\w+-])([\w+-]++)\s*+=\s*+([^\s,;=]+)")


def _without_bars(text: str) -> str:
    label = text.rsplit("|", 1)[-1] if "|" in text else text.split(":", 1)[-1]
    return label.strip(" |:")
