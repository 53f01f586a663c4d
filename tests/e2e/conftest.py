"""The real interface in Debian's Chromium, on a real service."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect

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


@pytest.fixture
def sheet(page: Page, address: str) -> Page:
    """The demo board's sheet, opened from the list of boards."""
    expect.set_options(timeout=20_000)
    page.goto(address)
    page.get_by_role("link", name="Blast-vibration monitor").click()
    expect(page.get_by_role("heading", name="Geophone preamplifier")).to_be_visible()
    return page
