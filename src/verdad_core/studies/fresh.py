"""Fresh studies: settings for a check as it is drawn, ready to run."""

from __future__ import annotations

from verdad_core.document.board import Board
from verdad_core.document.studies import Study
from verdad_core.names import free_name
from verdad_core.studies.kind import StudyKind


def fresh_study(board: Board, kind: str, check: str) -> Study:
    """A new study of the kind, of one check. Raises BoardError where it cannot be asked, with what is missing."""
    found = StudyKind.called(kind)
    identifier = free_name(f"{check[:40]}-{kind.replace(' ', '-')}", {study.id for study in board.studies}, "-")
    title = free_name(found.name, {study.title for study in board.studies}, " ")
    return found.proposed(board, identifier, title, [check])
