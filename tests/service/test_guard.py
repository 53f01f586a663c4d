"""Only Verdad's own pages may write, and they load nothing from elsewhere."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

BOARD = {"title": "another"}


@pytest.mark.parametrize(
    "headers",
    [{"Sec-Fetch-Site": "cross-site"}, {"Sec-Fetch-Site": "same-site"}, {"Origin": "http://elsewhere.example"},
     {"Origin": "null"}],
)  # fmt: skip
def test_another_sites_page_cannot_write(api: TestClient, headers: dict[str, str]) -> None:
    before = len(api.get("/api/boards").json())
    answer = api.post("/api/boards", json=BOARD, headers=headers)
    assert answer.status_code == 403
    assert "another" in answer.json()["message"]
    assert len(api.get("/api/boards").json()) == before


def test_a_form_of_a_browser_needs_the_header_of_our_own(api: TestClient) -> None:
    """Forms and bodies without JSON are sent across origins without asking."""
    same = {"Sec-Fetch-Site": "same-origin", "Origin": "http://testserver"}
    files = {"files": ("a.lib", b".model d d(is=1n)")}
    assert api.post("/api/intake/readings", files=files, headers=same).status_code == 403
    assert api.post("/api/intake/readings", files=files, headers=same | {"X-Verdad": "1"}).status_code != 403


def test_pages_may_load_from_here_only(api: TestClient) -> None:
    headers = api.get("/api/boards").headers
    assert "default-src 'self'" in headers["content-security-policy"]
    assert "frame-ancestors 'none'" in headers["content-security-policy"]
    assert headers["x-content-type-options"] == "nosniff"
    assert api.get("/docs").status_code == 404
