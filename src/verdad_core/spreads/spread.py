"""The spread of one quantity, as the board document keeps it."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import AfterValidator, Field, StringConstraints, field_validator, model_validator

from verdad_core.errors import BoardError, Place, ValueTextError
from verdad_core.schema import Document, Name
from verdad_core.spreads.amount import Amount, parse_amount, read_amount
from verdad_core.spreads.contributors import CONTRIBUTORS
from verdad_core.spreads.distributions import DISTRIBUTIONS

#: The name of quantities that vary together, such as the resistors of a network.
Group = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9][A-Za-z0-9 _-]{0,31}$", strip_whitespace=True)]


def _is_amount(text: str) -> str:
    # The unit is the quantity's, which is not known here.
    read_amount(text)
    return text.strip()


AmountText = Annotated[str, StringConstraints(min_length=1, max_length=40), AfterValidator(_is_amount)]


class Contribution(Document):
    """For one reason, the value lies as far from nominal as `amount` says (amount.py), distributed so within it.

    `form` is the number that the distribution's form depends on, its usual one where it is None.
    """

    contributor: str = "purchase"
    amount: AmountText
    distribution: str = "uniform"
    form: Annotated[float, Field(allow_inf_nan=False)] | None = None

    @field_validator("contributor")
    @classmethod
    def _contributes(cls, contributor: str) -> str:
        if contributor not in CONTRIBUTORS:
            raise BoardError(f"nothing contributes by '{contributor}'", remedy=f"Use one of {', '.join(CONTRIBUTORS)}.")
        return contributor

    @field_validator("distribution")
    @classmethod
    def _known(cls, distribution: str) -> str:
        if distribution not in DISTRIBUTIONS:
            raise BoardError(
                f"there is no distribution '{distribution}'", remedy=f"Use one of {', '.join(DISTRIBUTIONS)}."
            )
        return distribution

    @model_validator(mode="after")
    def _formed(self) -> Self:
        form = DISTRIBUTIONS[self.distribution].form
        if self.form is not None and (form is None or not form.least <= self.form <= form.most):
            raise BoardError(
                f"'{self.form:g}' is no form of a {self.distribution} distribution",
                remedy=f"Its {form.title} lies between {form.least:g} and {form.most:g}." if form else "Leave it out.",
            )
        return self


class Spread(Document):
    """How a quantity differs from unit to unit and over life: each contribution adds to the others.

    `of` names it: a part (R3), a source's or load's value (geophone.resistance), a parameter of a model (U1.gbw).
    Quantities of one `group` share what their contributors draw, but for their matching.
    """

    of: Name
    contributions: Annotated[tuple[Contribution, ...], Field(min_length=1, max_length=10)]
    group: Group | None = None

    @model_validator(mode="after")
    def _once(self) -> Self:
        names = [each.contributor for each in self.contributions]
        if twice := next((name for name in names if names.count(name) > 1), None):
            raise BoardError(f"{self.of} has '{twice}' twice", remedy="Give each contributor once.")
        if self.group is None and any(not CONTRIBUTORS[name].shared for name in names):
            raise BoardError(f"{self.of} is matched to nothing", remedy="Name the group that it belongs to.")
        return self

    def amounts(self, unit: str) -> tuple[Amount, ...]:
        """How far it lies from nominal, contribution by contribution.

        Raises ValueTextError where that is in another unit.
        """
        try:
            return tuple(parse_amount(each.amount, unit) for each in self.contributions)
        except ValueTextError as error:
            raise ValueTextError(error.message, place=Place(part=self.owner), remedy=error.remedy) from None

    @property
    def streams(self) -> tuple[str, ...]:
        """What each contribution is drawn from: a stream of its own, or of its group."""
        found = []
        for each in self.contributions:
            shared = self.group is not None and CONTRIBUTORS[each.contributor].shared
            subject = f"group {self.group}" if shared else self.of
            # What is bought has no name of its own here: a part's first draws are what they always were.
            found.append(subject if each.contributor == "purchase" else f"{subject}:{each.contributor}")
        return tuple(found)

    @property
    def owner(self) -> str:
        """The part or fixture that it belongs to."""
        return self.of.partition(".")[0]
