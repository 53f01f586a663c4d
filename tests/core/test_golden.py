"""Keys hold a version that must change when numbers do."""

from __future__ import annotations

import json

import pytest

from tests.core.golden import CASES, KEPT, results
from verdad_core import ENGINE_VERSION


def test_numbers_are_what_this_version_of_the_engine_says() -> None:
    kept = json.loads(KEPT.read_text())
    remedy = "raise ENGINE_VERSION, then run python -m tests.core.golden"
    assert kept["version"] == ENGINE_VERSION, f"the golden results are of version {kept['version']}: {remedy}"
    found = results()
    assert set(found) == set(kept["results"]) > set(CASES)
    moved = [
        f"{name}, {key}: {value} was {kept['results'][name].get(key)}"
        for name, numbers in found.items()
        for key, value in numbers.items()
        if value != pytest.approx(kept["results"][name].get(key), rel=2e-9, abs=1e-30)
    ]
    assert moved == [], f"numbers moved: {remedy}"


def test_the_set_is_worth_looking_at() -> None:
    assert sum(map(len, json.loads(KEPT.read_text())["results"].values())) >= 30
