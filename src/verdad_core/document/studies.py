"""Studies: checks repeated over rows, each row one unit as built."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from verdad_core.document.kinds import OfKind
from verdad_core.schema import Slug, Title, setting


class Study(OfKind):
    """The settings of a kind of study (studies/kinds). A row is one unit, measured in every check that it covers."""

    _table = "verdad_core.studies.kinds"
    _called = "kind of study"
    _usual = "monte carlo"

    id: Slug
    title: Title
    checks: Annotated[tuple[Slug, ...], Field(min_length=1, max_length=50)] = setting(
        label="Checks", chooses="check", hint="What every row is measured in"
    )
    judged: bool = setting(
        True, label="held against the limits", hint="Unticked it only explores, and has no column in the verdict"
    )
