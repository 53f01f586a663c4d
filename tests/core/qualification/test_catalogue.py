"""The makers' catalogue: what is sound qualifies, and each flaw shows as what it is."""

from __future__ import annotations

import pytest

from tests.core.qualification.subjects import on_the_bench
from verdad.catalogue.listings import listings
from verdad_core.intake.bundle import bundle
from verdad_core.intake.reading import read_bundle
from verdad_core.qualification.bench import BENCHES, figure_types
from verdad_core.qualification.datasheet import read_csv
from verdad_core.qualification.judgement import Agreement, Badge, judge_all, summary

#: Models that cannot be used at all, with what the reading says.
UNUSABLE = {"qmd1415": "quillmark_common.inc is not here", "qmd2208": "this section is encrypted"}

#: Models that do not behave as their data sheets say, with the lines that tell.
WRONG = {
    "ovn2201-copy": {"gain_bandwidth", "slew_rate_rising", "phase_margin_follower"},
    "ovn6050": {"phase_margin_follower"},
}


@pytest.mark.parametrize("slug", [slug for slug in listings() if slug not in UNUSABLE])
def test_each_model_stands_to_its_data_sheet_as_it_was_made_to(slug: str) -> None:
    kinds = figure_types(listings()[slug].kind)
    measured = on_the_bench(slug)
    judgements = judge_all(read_csv(listings()[slug].data_sheet, kinds).lines, measured.figures, kinds)
    off = {judgement.figure for judgement in judgements if judgement.agreement is Agreement.OFF}
    assert off == WRONG.get(slug, set())
    assert summary(judgements).badge is (Badge.CONTRADICTS if slug in WRONG else Badge.QUALIFIED)
    if slug == "qmd1900":
        assert {j.figure for j in judgements if j.agreement is Agreement.ABSENT} == {"voltage_noise"}


@pytest.mark.parametrize(("slug", "reason"), UNUSABLE.items())
def test_what_cannot_be_used_says_why(slug: str, reason: str) -> None:
    files, _ = bundle(listings()[slug].files.items())
    reading = read_bundle(files)
    entry = reading.entry(listings()[slug].model)
    assert entry is not None
    assert entry.problem is not None
    assert any(reason in finding.message for finding in reading.findings)


def test_the_catalogue_has_the_dialects_that_occur() -> None:
    every = listings().values()
    assert len(every) >= 24
    assert {listing.kind for listing in every} >= set(BENCHES)
    assert any(len(listing.files) > 1 for listing in every)
    assert any(b"\r\n" in data for listing in every for data in listing.files.values())
    encodings = {file.encoding for listing in every for file in bundle(listing.files.items())[0].files}
    assert "Windows-1252" in encodings
