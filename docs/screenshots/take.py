"""Takes the pictures of the README: `.venv/bin/python docs/screenshots/take.py ADDRESS`, on a freshly loaded demo."""

from __future__ import annotations

import re
import sys
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

HERE = Path(__file__).parent
sys.path.insert(0, str(HERE.parents[1]))

from tests.e2e.netlists import SIXTY_PARTS  # noqa: E402


def take(page: Page, name: str) -> None:
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(500)
    page.screenshot(path=HERE / f"{name}.png")


def step(page: Page, name: str) -> None:
    page.get_by_label("Steps of the work").get_by_role("link", name=name).click()


def fetch(page: Page, part: str) -> None:
    page.get_by_role("button", name="Take in a model").click()
    page.get_by_label(f"Fetch {part}", exact=True).click()
    expect(page.get_by_role("button", name="Store it")).to_be_visible(timeout=30_000)


def qualify(page: Page) -> None:
    page.get_by_role("button", name="Put it on the bench").click()
    expect(page.get_by_role("button", name="Measure again")).to_be_visible(timeout=60_000)


def main(address: str) -> None:
    with sync_playwright() as playwright:
        quiet = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=quiet)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        page.get_by_role("link", name="Blast-vibration monitor").click()
        expect(page.locator("[data-measured=bandwidth]")).to_contain_text("951.5 Hz")
        take(page, "sheet")
        page.get_by_role("navigation", name="Checks").get_by_role("button", name="Stability").click()
        expect(page.get_by_role("region", name="Measurements")).to_contain_text("Stable:")
        take(page, "stability")
        page.get_by_role("navigation", name="Checks").get_by_role("button", name="Frequency response").click()
        page.get_by_role("button", name="Trim", exact=True).click()
        page.get_by_label("What is turned").select_option("C1")
        page.get_by_label("C1 by slider").focus()
        for _ in range(20):
            page.keyboard.press("ArrowUp")
        take(page, "trim")
        page.get_by_role("button", name="Close trim").click()
        page.get_by_role("button", name="Frequency response at full size").click()
        page.locator(".evidence").focus()
        page.keyboard.press("x")
        page.keyboard.press("d")
        page.get_by_label("Which cursor moves").select_option("B")
        page.get_by_label("Level").fill("0")
        page.get_by_label("Level").press("Enter")
        take(page, "evidence")
        page.locator(".evidence").focus()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Upper -3 dB frequency").click()
        expect(page.get_by_role("region", name="Measurement", exact=True)).to_be_visible()
        take(page, "measurement")
        page.get_by_role("button", name="Close the measurement").click()
        page.get_by_role("button", name="Check", exact=True).click()
        page.get_by_text("How much noise is there").click()
        expect(page.locator("[data-share=U1]")).to_be_visible()
        page.get_by_role("button", name="Close the settings").click()
        take(page, "noise")
        page.get_by_role("button", name="Undo").click()
        page.get_by_role("button", name="Stages").click()
        page.get_by_role("button", name="Low-pass with multiple feedback").click()
        expect(page.get_by_role("table", name="Values")).to_contain_text("174.0 kΩ")
        take(page, "stages")
        page.get_by_role("button", name="Cancel").click()
        page.get_by_role("navigation", name="Circuits").get_by_role("button", name="Trim inverter").click()
        page.get_by_role("button", name="Compare", exact=True).click()
        page.get_by_label("OVN4183").check()
        expect(page.locator("tr[data-compared=phase-margin]")).to_contain_text("holds")
        take(page, "candidates")
        page.get_by_role("button", name="Close the comparison").click()
        page.get_by_role("navigation", name="Circuits").get_by_role("button", name="Supply, 24 V to 5 V").click()
        expect(page.get_by_role("region", name="Measurements")).to_contain_text("conducts continuously")
        take(page, "steady-state")
        step(page, "Models")
        qualify(page)
        take(page, "models")
        fetch(page, "QMD1120")
        expect(page.get_by_role("status")).to_contain_text("the follower follows")
        take(page, "intake")
        page.get_by_role("button", name="Back", exact=True).click()
        for part in ("OVN2201-COPY", "OVN2201"):
            fetch(page, part)
            page.get_by_role("button", name="Store it").click()
            qualify(page)
        for box in page.get_by_label(re.compile("Compare OVN(4183|2201)")).all():
            box.check()
        page.get_by_role("button", name="Compare 3 models").click()
        expect(page.get_by_role("img", name="Open-loop gain")).to_be_visible()
        take(page, "compare")
        step(page, "Spreads")
        take(page, "spreads")
        step(page, "Studies")
        page.get_by_role("button", name="Run").click()
        expect(page.locator("[data-figure=n]")).to_have_text("500", timeout=60_000)
        take(page, "studies")
        page.get_by_role("navigation", name="Studies").get_by_role("button", name="Temperature").click()
        page.get_by_role("button", name="Run").click()
        expect(page.locator("[data-figure=least]")).to_be_visible(timeout=60_000)
        expect(page.get_by_text("Up to date.")).to_be_visible(timeout=60_000)
        page.get_by_role("button", name=re.compile("Upper -3 dB")).first.click()
        take(page, "sweep")
        page.get_by_role("navigation", name="Studies").get_by_role("button", name="Worst case").click()
        page.get_by_role("button", name="Run").click()
        expect(page.get_by_text("Up to date.")).to_be_visible(timeout=60_000)
        page.get_by_role("button", name=re.compile("Upper -3 dB")).first.click()
        take(page, "worst-case")
        step(page, "Verdict")
        take(page, "verdict")
        page.goto(address)
        page.get_by_role("button", name="New board").click()
        page.get_by_label("Name of the board").fill("Trigger chain")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Paste", exact=True).click()
        page.get_by_label("Netlist", exact=True).fill(SIXTY_PARTS)
        page.get_by_role("button", name="Draw it").click()
        page.get_by_role("button", name="Look at it").click()
        expect(page.locator("[data-measured=passband-gain]")).to_be_visible(timeout=30_000)
        page.get_by_role("application").focus()
        page.keyboard.press("Home")
        take(page, "pasted")
        dark = browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme="dark")
        dark.goto(address)
        dark.get_by_role("link", name="Blast-vibration monitor").click()
        expect(dark.locator("[data-measured=bandwidth]")).to_contain_text("951.5 Hz")
        dark.get_by_role("navigation", name="Circuits").get_by_role("button", name="Telemetry line filter").click()
        expect(dark.get_by_role("region", name="Matching")).to_be_visible()
        take(dark, "ports-dark")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
