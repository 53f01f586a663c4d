"""Fixtures and waveforms as the interface is told of them: each can be drawn as a form, and attached as it is."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import TypeAdapter

from verdad_core.document.attachments import ATTACHMENTS, FRESH_WAVEFORMS, Attachment
from verdad_core.document.fixtures import FIXTURES, Fixture
from verdad_core.document.waveforms import WAVEFORMS

#: What a form can choose among, and the pieces that show what is no plain field.
CHOOSES, SHOWN = {"terminal"}, {"waveform", "corners", "recording", "samples"}


@pytest.mark.parametrize("piece", [*FIXTURES, *WAVEFORMS], ids=lambda piece: piece.__name__)
def test_every_field_can_be_filled_in(piece: Any) -> None:
    assert piece.title
    for name, field in piece.model_json_schema()["properties"].items():
        if name == "kind":
            continue
        assert type(piece.model_fields[name].title) is str, f"{name} has no label"
        assert field.get("chooses", "terminal") in CHOOSES
        plain = {"string", "boolean", "integer", "null"} >= {each.get("type") for each in field.get("anyOf", [field])}
        assert plain or field["shown"] in SHOWN


def test_each_waveform_has_one_to_begin_with() -> None:
    assert [type(wave) for wave in FRESH_WAVEFORMS] == list(WAVEFORMS)


@pytest.mark.parametrize("attachment", ATTACHMENTS, ids=lambda each: each.key)
def test_what_is_attached_is_a_fixture_under_its_key(attachment: Attachment) -> None:
    document = {"name": attachment.key, "plus": "out", **attachment.fields}
    fixture = TypeAdapter(Fixture).validate_python(document)
    assert fixture.kind == attachment.fields["kind"]
    assert not fixture.main or hasattr(fixture, fixture.main)
