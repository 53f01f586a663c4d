"""Whether everybody can use it: the rules of axe over all views and dialogs, in light and in dark."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.acting import step
from verdad.settings import PROJECT

#: Deque's rules for WCAG 2.2, A and AA, and what is good practice beside them.
AXE = PROJECT / "web" / "node_modules" / "axe-core" / "axe.min.js"


def violations(page: Page) -> list[str]:
    """What the rules find on the page as it is: rule and place."""
    # Run as the browser's own words, as the page lets no foreign script in.
    page.evaluate(AXE.read_text())
    found: dict[str, Any] = page.evaluate("axe.run(document, {rules: {'target-size': {enabled: true}}})")
    return [f"{each['id']}: {node['target']}" for each in found["violations"] for node in each["nodes"]]


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_no_view_and_no_dialog_breaks_a_rule(sheet: Page, scheme: str) -> None:
    sheet.emulate_media(color_scheme="dark" if scheme == "dark" else "light")
    expect(sheet.locator("[data-measured]").first).to_be_visible()
    found = {"sheet": violations(sheet)}
    for opener, name in (("Paste", "Paste a netlist"), ("Stages", "Ready stages"), ("Parts", "Parts")):
        button = sheet.get_by_role("button", name=opener, exact=True)
        button.click()
        sheet.wait_for_function("() => document.getAnimations().every(({ playState }) => playState !== 'running')")
        found[name] = violations(sheet)
        sheet.keyboard.press("Escape")
        expect(button).to_be_focused()
    for name in ("Models", "Spreads", "Studies", "Verdict"):
        step(sheet, name)
        expect(sheet.get_by_role("heading", level=1)).to_be_visible()
        found[name] = violations(sheet)
    assert {name: each for name, each in found.items() if each} == {}


def test_nothing_is_cut_off_at_twice_the_size(sheet: Page) -> None:
    """1280 points at 200 % are 640 wide: no view has to be scrolled sideways (WCAG 1.4.10 asks for 320)."""
    sheet.set_viewport_size({"width": 640, "height": 400})
    for name in ("Models", "Spreads", "Studies", "Verdict"):
        step(sheet, name)
        expect(sheet.get_by_role("heading", level=1)).to_be_visible()
        wide = sheet.evaluate("() => document.documentElement.scrollWidth")
        assert wide <= 640, name
