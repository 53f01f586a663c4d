"""All listings of the catalogue."""

from __future__ import annotations

from functools import cache

from verdad.catalogue.discretes import discretes
from verdad.catalogue.listing import Listing
from verdad.catalogue.op_amps import op_amps
from verdad.catalogue.others import others


@cache
def listings() -> dict[str, Listing]:
    """Every listing by its slug, in the order of makers and parts."""
    every = sorted([*op_amps(), *discretes(), *others()], key=lambda listing: (listing.maker, listing.part))
    return {listing.slug: listing for listing in every}
