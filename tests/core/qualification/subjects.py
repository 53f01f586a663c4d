"""Models on the bench: from the catalogue, or from a few lines of netlist."""

from __future__ import annotations

from functools import cache

from verdad.catalogue.listings import listings
from verdad_core.intake.bundle import Bundle, ModelText, bundle
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.model import Model
from verdad_core.intake.reading import read_bundle
from verdad_core.qualification.bench import Measured, measure


def model(text: str, name: str, *roles: str) -> Model:
    return Model(Bundle((ModelText("a.lib", text, "ASCII"),)), "a.lib", name, roles)


def from_catalogue(slug: str) -> Model:
    """A listing's model with its true roles: the recipes write nodes in the order of the kind's roles."""
    listing = listings()[slug]
    files, _ = bundle(listing.files.items())
    entry = read_bundle(files, experiment=False).entry(listing.model)
    assert entry is not None
    return Model(files, entry.file, entry.name, KINDS[listing.kind].roles)


@cache
def on_the_bench(slug: str) -> Measured:
    return measure(from_catalogue(slug), listings()[slug].kind)


def value(measured: Measured, key: str) -> float:
    figure = measured.figure(key)
    assert figure is not None
    assert figure.value is not None, figure
    return figure.value
