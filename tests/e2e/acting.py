"""What tests of the sheet do with keys and pointer."""

from __future__ import annotations

from playwright.sync_api import Locator, Page, expect


def paper(page: Page) -> Locator:
    return page.get_by_role("application")


def step(page: Page, name: str) -> None:
    """Go to a step of the work."""
    page.get_by_label("Steps of the work").get_by_role("link", name=name).click()


def typed(page: Page, text: str, *keys: str) -> None:
    """Type a line on the sheet, take what it means, then press keys."""
    page.keyboard.type(text)
    expect(page.get_by_role("option").first).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("listbox", name="What can be placed")).to_have_count(0)
    for key in keys:
        press(page, key)


def press(page: Page, key: str) -> None:
    """A key, or several presses of it: "ArrowLeft 3"."""
    name, _, count = key.partition(" ")
    for _ in range(int(count or 1)):
        page.keyboard.press(name)


def chosen(page: Page, words: str) -> None:
    """The first of what can be done that these words find."""
    page.keyboard.press("Control+k")
    page.keyboard.type(words)
    expect(page.get_by_role("dialog", name="What can be done").get_by_role("option").first).to_be_visible()
    page.keyboard.press("Enter")


def draw_wire(page: Page, start: str, end: str) -> None:
    """Drag from pin to pin."""
    a, b = (page.locator(f"[data-end='{name}']").bounding_box() for name in (start, end))
    assert a is not None
    assert b is not None
    page.mouse.move(a["x"] + a["width"] / 2, a["y"] + a["height"] / 2)
    page.mouse.down()
    page.mouse.move(b["x"] + b["width"] / 2 + 20, b["y"] + 20, steps=4)
    page.mouse.move(b["x"] + b["width"] / 2, b["y"] + b["height"] / 2, steps=4)
    page.mouse.up()


def middle(where: Locator) -> tuple[float, float]:
    """The middle of something that is drawn."""
    box = where.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def saved(page: Page) -> None:
    """Wait until every edit is saved: who leaves before is asked, and loses it if they insist."""
    expect(page.locator("[data-saving=false]")).to_be_visible()


def pasted(page: Page, title: str, text: str) -> None:
    """Paste a netlist and have it drawn."""
    page.get_by_role("button", name="Paste", exact=True).click()
    # The dialog takes the keys once it is open.
    expect(page.get_by_label("Netlist", exact=True)).to_be_focused()
    for label, words in (("Netlist", text), ("Name of the circuit", title)):
        field = page.get_by_label(label, exact=True)
        field.click()
        field.fill(words)
        expect(field).to_have_value(words)
    page.get_by_role("button", name="Draw it").click()
    # What was not taken over is told first.
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_role("heading", name=title)).to_be_visible()
    expect(page.locator(".v-overlay__scrim")).to_have_count(0)
