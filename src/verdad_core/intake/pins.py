"""Which node of a subcircuit is which pin: proposals with a reason, from comments, node names and convention."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from verdad_core.netlist.lines import Comment
from verdad_core.netlist.reader import Scope


class Role(StrEnum):
    """What a pin is for. An op-amp has one of each."""

    INPUT_PLUS = "in+"
    INPUT_MINUS = "in-"
    SUPPLY_PLUS = "v+"
    SUPPLY_MINUS = "v-"
    OUTPUT = "out"


class Sureness(StrEnum):
    """How much a proposal should be trusted."""

    SAID = "said in the file"
    LIKELY = "likely"
    GUESS = "guess"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class PinProposal:
    """The proposed role of one node of a subcircuit, how sure it is, and why."""

    node: str
    role: Role | None
    sureness: Sureness
    reason: str


_SUPPLY = r"(?:suppl|power|rail|vs|vcc|vdd|vee|vss)"
#: Patterns in the order in which they are tried: the first that a label holds decides.
_LABELS = (
    (
        Role.INPUT_PLUS,
        re.compile(r"non.?inv|\+\s*in\b|\bin(?:put)?\s*\(?\+|positive in|\bv?in(?:p|_p|\+)(?![a-z])"),
    ),
    (Role.INPUT_MINUS, re.compile(r"inv|-\s*in\b|\bin(?:put)?\s*\(?-|negative in|\bv?in(?:n|m|_n|-)(?![a-z])")),
    (Role.SUPPLY_PLUS, re.compile(rf"pos\w* {_SUPPLY}|\+\s*{_SUPPLY}|{_SUPPLY}\w*\s*\+|\bv\+|\bvcc|\bvdd|\bvp\b")),
    (Role.SUPPLY_MINUS, re.compile(rf"neg\w* {_SUPPLY}|-\s*{_SUPPLY}|{_SUPPLY}\w*\s*-|\bv-|\bvee|\bvss|\bvn\b")),
    (Role.OUTPUT, re.compile(r"\bv?out|\bvo\b")),
)

#: The usual order of a five-node op-amp in makers' files (common practice, no source).
_CONVENTION = tuple(Role)


def role_of(label: str) -> Role | None:
    """The role that a label such as "non-inverting input" or "VCC" names, or None."""
    return next((role for role, pattern in _LABELS if pattern.search(label.lower())), None)


def propose(scope: Scope) -> tuple[PinProposal, ...]:
    """A role for each node of a subcircuit, in the order of its nodes."""
    for labels, sureness, source in (
        (_comment_labels(scope), Sureness.SAID, "comment"),
        (list(scope.pins), Sureness.LIKELY, "node name"),
    ):
        roles = [role_of(label) for label in labels]
        named = [role for role in roles if role is not None]
        if len(roles) == len(scope.pins) and len(named) >= 3 and len(set(named)) == len(named):
            return tuple(
                PinProposal(pin, role, sureness if role else Sureness.UNKNOWN, f'{source} "{label}"')
                for pin, role, label in zip(scope.pins, roles, labels, strict=True)
            )
    if len(scope.pins) == len(_CONVENTION):
        return tuple(
            PinProposal(pin, role, Sureness.GUESS, f"the usual order: node {position} of 5")
            for position, (pin, role) in enumerate(zip(scope.pins, _CONVENTION, strict=True), 1)
        )
    return tuple(PinProposal(pin, None, Sureness.UNKNOWN, "nothing in the file says") for pin in scope.pins)


def _comment_labels(scope: Scope) -> list[str]:
    """One label per node from the header comment, where its lines name the nodes one after the other.

    Two shapes occur: a ladder of lines in which bars lead down to the nodes, and a list "node order: a, b, c".
    """
    for block in _header_blocks(scope):
        labels = _ladder(block)
        if len(labels) == len(scope.pins):
            return labels
        for comment in block:
            if _is_heading(comment.text):
                words = re.split(r"[,;]\s*|\s{1,}", comment.text.split(":", 1)[-1].strip())
                if len(words) == len(scope.pins):
                    return words
    return []


def _ladder(block: Sequence[Comment]) -> list[str]:
    """The words at the end of each bar; the first line of a ladder stands above its first bar."""
    barred = [k for k, comment in enumerate(block) if "|" in comment.text]
    if not barred:
        return []
    rungs = block[max(barred[0] - 1, 0) : barred[-1] + 1]
    return [label for label in (_without_bars(rung.text) for rung in rungs) if label]


def _header_blocks(scope: Scope) -> list[Sequence[Comment]]:
    above = scope.parent.comments if scope.parent else []
    first_card = min((card.statement.line for card in scope.cards), default=scope.line + 1000)
    return [
        [comment for comment in above if scope.line - 40 <= comment.line < scope.line],
        [comment for comment in scope.comments if comment.line < first_card],
    ]


def _is_heading(text: str) -> bool:
    return re.search(r"(connections|pins?|nodes?|node order|pin order|pinout)\s*:", text.lower()) is not None


def _without_bars(text: str) -> str:
    label = text.rsplit("|", 1)[-1] if "|" in text else text.split(":", 1)[-1]
    return label.strip(" |:")
