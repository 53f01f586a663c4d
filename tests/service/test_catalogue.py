"""The makers' catalogue, and fetching from it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi import FastAPI, Response
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from tests.conftest import running
from verdad.api.app import create_app
from verdad.catalogue.listings import listings
from verdad.catalogue.site import create_site


@pytest.fixture
def api(database_url: str, engine: Engine, catalogue: str) -> Iterator[TestClient]:
    with TestClient(create_app(database_url, catalogue=catalogue), raise_server_exceptions=False) as client:
        yield client


def test_it_has_pages_of_its_own() -> None:
    with TestClient(create_site()) as site:
        home = site.get("/").text
        assert all(listing.part in home for listing in listings().values())
        page = site.get("/parts/ovn4183").text
        assert "ovenna_ovn4183.lib" in page
        assert "Gain-bandwidth product" in page
        assert (
            site.get("/parts/ovn4183/files/ovenna_ovn4183.lib").content
            == listings()["ovn4183"].files["ovenna_ovn4183.lib"]
        )
        assert site.get("/parts/ovn4183/files/passwd").status_code == 404
        assert site.get("/parts/nothing").status_code == 404
        assert site.get("/parts/ovn4183/data-sheet.csv").text.startswith("Figure,Min,Typ,Max,Unit,Conditions")


def test_a_part_is_fetched_with_its_source_and_data_sheet(api: TestClient, catalogue: str) -> None:
    browsed = api.get("/api/catalogue").json()
    assert browsed["address"] == catalogue
    assert len(browsed["listings"]) == len(listings())
    reading = api.post("/api/catalogue/ovn9001/reading").json()
    assert reading["files"][0]["encoding"] == "Windows-1252"
    assert "3 V/µs" in reading["files"][0]["text"]
    assert reading["origin"]["link"] == f"{catalogue}/parts/ovn9001"
    assert reading["origin"]["source"] == "Ovenna Silicon, released 2026-01-19"
    assert reading["model"] == "ovn9001"
    assert "Slew rate" in reading["data_sheet"]
    assert api.post("/api/catalogue/nothing/reading").status_code == 404


def test_a_catalogue_that_does_not_answer_is_said(database_url: str, engine: Engine) -> None:
    with running(create_site()) as gone:
        pass
    with TestClient(create_app(database_url, catalogue=gone)) as client:
        answer = client.get("/api/catalogue")
    assert answer.status_code == 502
    assert "does not answer" in answer.json()["message"]


@pytest.mark.parametrize(
    ("sent", "said"),
    [(b"{]", "trouble of its own"), (b'[{"slug": 3}]', "trouble of its own"), (b" " * 21_000_000, "too much")],
)
def test_a_catalogue_that_answers_nonsense_or_without_end_is_said(
    database_url: str, engine: Engine, sent: bytes, said: str
) -> None:
    site = FastAPI()
    site.add_api_route("/{path:path}", lambda: Response(sent, media_type="application/json"))
    with running(site) as address, TestClient(create_app(database_url, catalogue=address)) as client:
        for answer in (client.get("/api/catalogue"), client.post("/api/catalogue/any/reading")):
            assert answer.status_code == 502
            assert said in answer.json()["message"]
