"""The real interface in Debian's Chromium, on a real service."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from tests.e2e.acting import paper
from verdad.db.tables import BoardRow
from verdad.demo.load import load_demo

QUIET = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--no-first-run",
]


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    return {"executable_path": "/usr/bin/chromium", "args": QUIET, "headless": True}


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, Any]:
    return {"viewport": {"width": 1280, "height": 800}}


def patient(page: Page) -> None:
    """How long a busy machine may take; what takes longer is broken."""
    expect.set_options(timeout=15_000)
    page.set_default_timeout(15_000)


@pytest.fixture
def sheet(page: Page, address: str) -> Page:
    """The demo board's sheet, opened from the list of boards."""
    patient(page)
    page.goto(address)
    page.get_by_role("link", name="Blast-vibration monitor").click()
    expect(page.get_by_role("heading", name="Geophone preamplifier")).to_be_visible()
    return page


@pytest.fixture
def whole(page: Page, address: str, engine: Engine) -> Page:
    """The whole demo board's sheet."""
    with Session(engine) as session, session.begin():
        for row in session.query(BoardRow):
            session.delete(row)
        session.flush()
        assert load_demo(session)
    patient(page)
    page.goto(address)
    page.get_by_role("link", name="Blast-vibration monitor").click()
    expect(page.get_by_role("heading", name="Geophone preamplifier")).to_be_visible()
    return page


@pytest.fixture
def blank(page: Page, address: str) -> Page:
    """A new board's blank sheet, with the keys on it."""
    patient(page)
    page.goto(address)
    page.get_by_role("button", name="New board").click()
    page.get_by_label("Name of the board").fill("Trial")
    page.keyboard.press("Enter")
    expect(page.get_by_text("A blank sheet.")).to_be_visible()
    paper(page).focus()
    return page
