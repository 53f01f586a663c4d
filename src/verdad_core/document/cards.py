"""Cards: what is shown of a check in the margin of the sheet, and where. Results do not depend on them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from verdad_core.document.measurements import ExpressionText
from verdad_core.schema import Document, Slug, Title

Pixels = Annotated[float, Field(ge=-20_000, le=20_000, allow_inf_nan=False)]


class CardCurve(Document):
    """An expression, and the pane of the card that it is drawn in, counted from the top."""

    expression: ExpressionText
    pane: Annotated[int, Field(ge=0, le=7)] = 0


class CardPlace(Document):
    """Where a card lies on the page, for one that was taken out of the margin's column."""

    x: Pixels
    y: Pixels


class CheckCard(Document):
    """Curves over one axis, what adds to an output ("shares"), natural frequencies ("poles"), or reflections on the
    chart of impedances ("smith": the curves of the first pane, with what they are in ohms in the second).

    `shape` is how they are drawn; phasors over the axis, or in the complex plane.
    """

    id: Slug
    title: Title
    curves: Annotated[tuple[CardCurve, ...], Field(max_length=200)] = ()
    shape: Literal["axis", "nyquist", "polar", "shares", "poles", "smith"] = "axis"
    place: CardPlace | None = None
    width: Annotated[float, Field(ge=200, le=4_000)] | None = None
    height: Annotated[float, Field(ge=80, le=4_000)] | None = None
    hidden: bool = False
