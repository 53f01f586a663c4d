"""The cards of a check: its own, or the usual ones of its kind."""

from __future__ import annotations

from verdad_core.checks.kind import kind_of
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check


def cards_of(circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
    """What is shown of a check in the margin of the sheet."""
    return kind_of(check).usual_cards(circuit, check) if check.cards is None else check.cards
