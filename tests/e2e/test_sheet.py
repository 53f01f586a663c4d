"""Drawing on the sheet, through the real interface."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.core.circuits import EVERYTHING
from tests.e2e.acting import chosen, draw_wire, paper, press, saved, typed
from tests.e2e.netlists import CONVERTER, SIXTY_PARTS, SWAPPED


def document(page: Page) -> Any:
    """The board as the service has it."""
    saved(page)
    address = re.sub(r"/sheet.*", "", page.url).replace("/boards/", "/api/boards/")
    return page.request.get(address).json()["board"]


def nets(page: Page) -> dict[str, str]:
    """The net of each pin on the sheet's first circuit, as the service has it."""
    found: dict[str, str] = {}
    for circuit in document(page)["circuits"]:
        for part in circuit["parts"]:
            pins = part["pins"].items() if isinstance(part["pins"], dict) else enumerate(part["pins"], 1)
            found |= {f"{part['designator']}.{pin}": net for pin, net in pins}
    return found


def joined(page: Page, *ends: str) -> bool:
    found = nets(page)
    return len({found[end] for end in ends}) == 1


def test_a_two_stage_filter_by_keyboard_alone(blank: Page) -> None:
    """Two RC sections of 1/(2π 10 kΩ 10 nF) = 1591.5 Hz, each with a follower behind it.

    Two equal sections fall to half power at f √(√2 - 1) = 0.6436 f = 1024.3 Hz.
    """
    typed(blank, "r 10k 1%", "Enter")
    # It waits beside the resistor; upright, with its upper pin on the resistor's right one.
    typed(blank, "c 10n x7r", "Space", "ArrowLeft 5", "ArrowDown 3", "Enter")
    typed(blank, "gnd", "ArrowDown 3", "Enter")
    typed(blank, "u", "ArrowRight 2", "Shift+ArrowUp", "ArrowUp 3", "Enter", "Escape")
    # With the cursor: from the output, which is the next pin to the right, to the inverting input.
    press(blank, "Control+ArrowRight")
    press(blank, "Enter")
    press(blank, "ArrowLeft 12")
    press(blank, "ArrowUp 2")
    press(blank, "Enter")
    typed(blank, "wire R1.2 U1.in+")
    typed(blank, "rail +5V U1.v+")
    typed(blank, "rail -5V U1.v-")
    press(blank, "Control+a")
    press(blank, "Control+d")
    press(blank, "Shift+ArrowRight 8")
    press(blank, "Enter")
    typed(blank, "wire U1.out R2.1")
    typed(blank, "label in R1.1")
    typed(blank, "label out U2.out")
    assert joined(blank, "U1.in-", "U1.out", "R2.1")
    assert joined(blank, "R1.2", "C1.1", "U1.in+")
    assert joined(blank, "R2.2", "C2.1", "U2.in+")
    assert nets(blank)["U2.out"] == "out"
    for fixture in ("source in 0", "supply +5V 5", "supply -5V -5", "load out 10k"):
        typed(blank, fixture)
    expect(blank.locator(".review")).to_contain_text("nothing to remark")
    chosen(blank, "add frequency")
    expect(blank.locator("[data-measured=upper-cutoff]")).to_have_text(re.compile(r"102\d Hz|1\.02\d kHz"))


def test_four_typed_lines_are_a_measured_filter(blank: Page) -> None:
    """1/(2π 1 kΩ 100 nF) = 1591.5 Hz."""
    for line in ("source in 0", "r 1k 1% in out", "c 100n out gnd", "load out 100meg"):
        typed(blank, line)
    found = nets(blank)
    assert [found[end] for end in ("R1.1", "R1.2", "C1.1", "C1.2")] == ["in", "out", "out", "gnd"]
    expect(blank.locator(".review")).to_contain_text("nothing to remark")
    chosen(blank, "add frequency")
    expect(blank.locator("[data-measured=upper-cutoff]")).to_have_text(re.compile(r"1\.59\d? kHz|159\d Hz"))
    # Without nets they stand beside each other, unconnected.
    typed(blank, "r 2k2", "Enter")
    typed(blank, "r 2k2", "Enter")
    found = nets(blank)
    assert len({found[end] for end in ("R2.1", "R2.2", "R3.1", "R3.2")}) == 4


def test_a_two_stage_filter_by_mouse_alone(blank: Page) -> None:
    box = paper(blank).bounding_box()
    assert box is not None
    for x in (300, 420):
        blank.get_by_role("button", name="Stages").click()
        blank.get_by_role("button", name="RC two-port").click()
        expect(blank.get_by_role("table", name="Values")).to_contain_text("1.000 µF")
        if x == 300:
            blank.get_by_label("with its bench").uncheck()
        blank.get_by_role("button", name="Place it").click()
        expect(blank.locator(".ghost [data-symbol]").first).to_be_visible()
        blank.mouse.move(box["x"] + x, box["y"] + 200)
        blank.mouse.click(box["x"] + x, box["y"] + 200)
        expect(blank.locator(".ghost")).to_have_count(0)
    draw_wire(blank, "C1.1", "R2.1")
    assert joined(blank, "R1.2", "C1.1", "R2.1")
    blank.get_by_role("button", name="Parts").click()
    blank.get_by_role("button", name="DC and AC source").click()
    pin = blank.locator("[data-end='R1.1']").bounding_box()
    assert pin is not None
    blank.mouse.click(pin["x"] + 3, pin["y"] + 3)
    expect(blank.locator("[data-fixture=source]")).to_be_visible()
    blank.get_by_role("button", name="Check", exact=True).click()
    blank.get_by_text("How does").filter(has_text="over frequency").click()
    blank.get_by_label("To net").select_option(nets(blank)["C2.1"])
    # Loaded by the second section: 1/(2π RC) times 0.3742 (poles of 1 + 3s + s²), a little less behind 50 Ω.
    expect(blank.locator("[data-measured=upper-cutoff]")).to_have_text(re.compile(r"5\d\.\d+ Hz"))


#: Words over words, and wires through symbols' bodies, as the browser has drawn them.
OVERLAPS = """() => {
  const found = new Set()
  const texts = [...document.querySelectorAll('.world text')].filter((text) => text.textContent.trim())
    .map((text) => ({ words: text.textContent, box: text.getBoundingClientRect() }))
  texts.forEach((a, k) => {
    for (const b of texts.slice(k + 1)) {
      // Boxes of text have air above and below.
      const aside = a.box.right - 1 < b.box.left || b.box.right - 1 < a.box.left
      const apart = aside || a.box.top + 3 >= b.box.bottom || b.box.top + 3 >= a.box.bottom
      if (!apart) found.add(`${a.words} over ${b.words}`)
    }
  })
  const bodies = [...document.querySelectorAll('[data-symbol]')].map((symbol) => {
    const filled = symbol.querySelector('.filled')
    const { left, right, top, bottom } = (filled ?? symbol.querySelector('.strokes')).getBoundingClientRect()
    return { name: symbol.dataset.symbol, left, right, top, bottom, open: !filled }
  })
  for (const path of document.querySelectorAll('path.wire')) {
    const matrix = path.getScreenCTM()
    for (let at = 0; at <= path.getTotalLength(); at += 4) {
      const { x, y } = path.getPointAtLength(at).matrixTransform(matrix)
      for (const { name, left, right, top, bottom, open } of bodies) {
        // Symbols without a filled body are measured with their leads, which wires may touch.
        const lead = open ? 14 * matrix.a : 2
        const [across, down] = right - left > bottom - top ? [lead, 2] : [2, lead]
        const beside = x <= left + across || x >= right - across
        if (!beside && y > top + down && y < bottom - down) found.add(`a wire over ${name}`)
      }
    }
  }
  return [...found]
}"""


def no_overlaps(page: Page) -> None:
    """No wire crosses a symbol's body, no words lie over words: measured on what the browser drew."""
    trouble = page.evaluate(OVERLAPS)
    assert trouble == []


@pytest.mark.parametrize(
    "source", [SIXTY_PARTS, CONVERTER, EVERYTHING], ids=["sixty parts", "converter", "elements of many kinds"]
)
def test_a_pasted_netlist_is_drawn_legibly(blank: Page, source: str) -> None:
    blank.get_by_role("button", name="Paste", exact=True).click()
    blank.get_by_label("Netlist", exact=True).fill(source)
    blank.get_by_role("button", name="Draw it").click()
    blank.get_by_role("button", name="Look at it").click()
    expect(blank.locator("[data-symbol]").first).to_be_visible()
    no_overlaps(blank)


def test_the_demo_circuit_is_drawn_legibly(sheet: Page) -> None:
    expect(sheet.get_by_text("−4.870 mV")).to_be_visible()
    no_overlaps(sheet)


def test_swapped_inputs_are_found_by_the_review(blank: Page) -> None:
    blank.get_by_role("button", name="Paste", exact=True).click()
    blank.get_by_label("Netlist", exact=True).fill(SWAPPED)
    blank.get_by_role("button", name="Draw it").click()
    blank.get_by_role("button", name="Look at it").click()
    remark = blank.locator("[data-rule='inputs likely swapped']")
    expect(remark).to_contain_text("comes back to in+")
    remark.get_by_role("button", name="Show it").click()
    expect(blank.locator("[data-symbol=U1].selected")).to_be_visible()


def test_a_netlist_that_cannot_be_read_says_where(blank: Page) -> None:
    blank.get_by_role("button", name="Paste", exact=True).click()
    blank.get_by_label("Netlist", exact=True).fill("r1 a 0 1k\nr2 a\n")
    blank.get_by_role("button", name="Draw it").click()
    expect(blank.get_by_role("alert")).to_contain_text("line 2")
    expect(blank.get_by_label("Netlist", exact=True)).to_have_value("r1 a 0 1k\nr2 a\n")


def test_copies_go_from_circuit_to_circuit(sheet: Page) -> None:
    paper(sheet).focus()
    press(sheet, "Control+a")
    press(sheet, "Control+c")
    sheet.get_by_role("button", name="Circuit, files").click()
    sheet.get_by_text("New circuit").click()
    expect(sheet.get_by_text("A blank sheet.")).to_be_visible()
    paper(sheet).focus()
    press(sheet, "Control+v")
    press(sheet, "Enter")
    expect(sheet.locator("[data-symbol=U2]")).to_be_visible()
    found = nets(sheet)
    assert found["U2.out"] == found["R7.2"] != found["R7.1"] == found["U2.in-"]
    assert found["U2.v+"] == "+5V"


def test_everything_typed_is_undone_and_done_again(blank: Page) -> None:
    before = [document(blank)]
    for line, *keys in (
        ("r 1k 1% in a",), ("c 100n x7r a gnd",), ("ovn4183 a fb +5V -5V out",), ("q +5V a gnd",), ("source in 0",),
        ("load out 10k",), ("supply +5V 5",), ("note mind the gap", "Enter"), ("u", "Enter"), ("ovn4183 x2", "Enter"),
    ):  # fmt: skip
        typed(blank, line, *keys, "Escape")
        before.append(document(blank))
    for state in range(len(before) - 1, 0, -1):
        press(blank, "Control+z")
        assert document(blank) == before[state - 1]
    expect(blank.get_by_role("button", name="Undo")).to_be_disabled()
    for state in range(1, len(before)):
        press(blank, "Control+Shift+z")
        assert document(blank) == before[state]


def test_undo_leaves_what_another_window_did(sheet: Page) -> None:
    def change(page: Page, name: str, value: str) -> None:
        part = name.split(",", maxsplit=1)[0]
        page.get_by_role("button", name=name).click()
        page.get_by_label(f"Value of {part}").fill(value)
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name=f"{part}, {value}")).to_be_visible()
        saved(page)

    change(sheet, "C1, 33n", "66n")
    other = sheet.context.new_page()
    other.goto(sheet.url)
    change(other, "R2, 4k7", "5k1")
    # Coming back to a window, one sees what was done in the other.
    sheet.evaluate("window.dispatchEvent(new Event('visibilitychange'))")
    expect(sheet.get_by_role("button", name="R2, 5k1")).to_be_visible()
    paper(sheet).focus()
    press(sheet, "Control+z")
    expect(sheet.get_by_role("button", name="C1, 33n")).to_be_visible()
    expect(sheet.get_by_role("button", name="R2, 5k1")).to_be_visible()
    press(sheet, "Control+Shift+z")
    saved(sheet)
    other.reload()
    change(other, "C1, 66n", "47n")
    sheet.evaluate("window.dispatchEvent(new Event('visibilitychange'))")
    expect(sheet.get_by_role("button", name="C1, 47n")).to_be_visible()
    press(sheet, "Control+z")
    expect(sheet.get_by_role("alert").filter(has_text="C1 was changed in another window")).to_be_visible()
    expect(sheet.get_by_role("button", name="C1, 47n")).to_be_visible()


def test_five_hundred_steps_are_undone(blank: Page) -> None:
    typed(blank, "r 1k", "Enter")
    start = nets(blank)
    where = blank.locator("[data-end='R1.1']").get_attribute("cx")
    for _ in range(250):
        press(blank, "ArrowRight")
        press(blank, "ArrowDown")
    expect(blank.locator("[data-end='R1.1']")).to_have_attribute("cx", str(int(where or 0) + 2500))
    expect(blank.locator("[data-saving=false]")).to_be_visible(timeout=60_000)
    for _ in range(500):
        blank.keyboard.press("Control+z")
    expect(blank.locator("[data-end='R1.1']")).to_have_attribute("cx", where or "", timeout=60_000)
    assert nets(blank) == start
    blank.keyboard.press("Control+z")
    expect(blank.get_by_text("A blank sheet.")).to_be_visible()


def test_a_reload_in_the_middle_of_a_drag_loses_nothing(sheet: Page) -> None:
    before = nets(sheet)
    box = sheet.locator("[data-symbol=R2] .strokes").bounding_box()
    assert box is not None
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    sheet.mouse.move(*middle)
    sheet.mouse.down()
    sheet.mouse.move(middle[0] + 40, middle[1] + 60, steps=5)
    expect(sheet.locator(".wire.selected").first).to_be_visible()
    sheet.reload()
    expect(sheet.locator("[data-symbol=R2]")).to_be_visible()
    assert nets(sheet) == before


def test_a_part_that_is_moved_keeps_its_nets(sheet: Page) -> None:
    before = nets(sheet)
    box = sheet.locator("[data-symbol=R2] .strokes").bounding_box()
    assert box is not None
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    sheet.mouse.move(*middle)
    sheet.mouse.down()
    sheet.mouse.move(middle[0] + 30, middle[1] + 90, steps=5)
    sheet.mouse.up()
    expect(sheet.get_by_role("button", name="Undo")).to_be_enabled()
    assert nets(sheet) == before
    after = sheet.locator("[data-symbol=R2] .strokes").bounding_box()
    assert after is not None
    assert after["y"] > box["y"] + 50
    no_overlaps(sheet)
    expect(sheet.locator("[data-measured=bandwidth]")).to_have_text("951.5 Hz")


def in_two_windows(page: Page, change: Callable[[Page, str], None]) -> Page:
    """The same board in a second window, changed in both; the second one's change meets the first one's."""
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.locator("[data-symbol]").first).to_be_visible()
    change(page, "66n")
    expect(page.get_by_role("button", name="C1, 66n")).to_be_visible()
    saved(page)
    change(other, "10n")
    return other


def test_two_windows_ask_before_one_overwrites_the_other(sheet: Page) -> None:
    def change(page: Page, value: str) -> None:
        page.get_by_role("button", name="C1, 33n").click()
        page.get_by_label("Value of C1").fill(value)
        page.keyboard.press("Enter")

    other = in_two_windows(sheet, change)
    expect(other.get_by_text("changed in another window")).to_be_visible()
    other.get_by_role("button", name="Put mine on top").click()
    expect(other.get_by_role("button", name="C1, 10n")).to_be_visible()
    expect(other.get_by_text("changed in another window")).to_have_count(0)
    saved(other)
    sheet.reload()
    expect(sheet.get_by_role("button", name="C1, 10n")).to_be_visible()


def test_an_earlier_revision_is_looked_at_and_returned_to(sheet: Page) -> None:
    sheet.get_by_role("button", name="C1, 33n").click()
    sheet.get_by_label("Value of C1").fill("47n")
    sheet.keyboard.press("Enter")
    expect(sheet.get_by_role("button", name="C1, 47n")).to_be_visible()
    sheet.get_by_role("button", name="Circuit, files").click()
    sheet.get_by_text("Revisions").click()
    expect(sheet.get_by_role("cell", name="C1 set to 47n")).to_be_visible()
    sheet.get_by_role("button", name="Look at it").last.click()
    expect(sheet.get_by_role("status").filter(has_text="Nothing can be changed here")).to_be_visible()
    expect(sheet.get_by_role("button", name="C1, 33n")).to_be_visible()
    sheet.get_by_role("button", name="Return to it").click()
    expect(sheet.locator("[data-measured=bandwidth]")).to_have_text("951.5 Hz")


def test_files_are_exported(sheet: Page) -> None:
    def exported(entry: str) -> str:
        sheet.get_by_role("button", name="Circuit, files").click()
        with sheet.expect_download() as download:
            sheet.get_by_text(entry, exact=True).click()
        return download.value.path().read_bytes().decode("utf-8", "replace")

    board = exported("Netlist, board only")
    assert "ovn4183" in board
    assert "geophone" not in board.splitlines()[0:14]
    assert ".ac dec 50" in exported("Netlist with fixture")
    drawing = exported("Drawing as SVG")
    assert drawing.startswith("<svg")
    assert ">R2<" in drawing
    assert "PNG" in exported("Drawing as PNG")[:8]
    assert "C2 C3,2,capacitor,100 nF," in exported("Parts list (CSV)")


def click_wire(page: Page, net: str) -> None:
    """A click on the longest wire of a net, a third of the way along."""
    x, y = page.evaluate(
        """(net) => {
          const wires = [...document.querySelectorAll(`path[data-net="${net}"]`)]
          const path = wires.sort((a, b) => b.getTotalLength() - a.getTotalLength())[0]
          const { x, y } = path.getPointAtLength(path.getTotalLength() / 3).matrixTransform(path.getScreenCTM())
          return [x, y]
        }""",
        net,
    )
    page.mouse.click(x, y)


def test_a_net_is_named_by_a_click_on_its_wire(sheet: Page) -> None:
    expect(sheet.locator("path[data-net=filt]").first).to_be_attached()
    click_wire(sheet, "filt")
    name = sheet.get_by_label("Name of the net")
    name.fill("smooth")
    name.press("Enter")
    expect(sheet.locator("path[data-net=smooth]").first).to_be_attached()
    assert nets(sheet)["C1.1"] == "smooth"
    click_wire(sheet, "smooth")
    name.fill("out")
    name.press("Enter")
    expect(sheet.get_by_role("alert")).to_contain_text("There is a net out already")


def test_a_generic_part_is_set_in_the_margin(blank: Page) -> None:
    typed(blank, "u", "Enter")
    blank.get_by_label("gbw of U1").fill("10kk")
    blank.get_by_label("gbw of U1").press("Tab")
    expect(blank.get_by_role("alert")).to_contain_text("two prefixes")
    blank.get_by_label("gbw of U1").fill("8M")
    blank.get_by_label("gbw of U1").press("Tab")
    expect(blank.get_by_role("alert")).to_have_count(0)
    saved(blank)
    blank.reload()
    box = blank.locator("[data-symbol=U1] .filled").bounding_box()
    assert box is not None
    blank.mouse.click(box["x"] + box["width"] / 3, box["y"] + box["height"] / 2)
    expect(blank.get_by_label("gbw of U1")).to_have_value("8M")


def test_a_fixture_is_added_changed_and_removed(sheet: Page) -> None:
    paper(sheet).focus()
    typed(sheet, "load out 1k")
    load = sheet.locator("[data-fixture=load]")
    expect(load).to_be_visible()
    sheet.get_by_role("button", name="load, resistance").click()
    sheet.get_by_label("Value of load, resistance").fill("-5")
    sheet.keyboard.press("Enter")
    expect(sheet.get_by_role("alert")).to_contain_text("must be above zero")
    sheet.get_by_label("Value of load, resistance").fill("2k2")
    sheet.keyboard.press("Enter")
    expect(sheet.get_by_role("button", name="load, resistance, 2k2")).to_be_visible()
    load.locator(".designator").click()
    paper(sheet).focus()
    press(sheet, "Delete")
    expect(load).to_have_count(0)
    press(sheet, "Control+z")
    expect(load).to_be_visible()


def test_a_box_selects_what_lies_in_it_and_a_copy_goes_to_another_board(sheet: Page, address: str) -> None:
    (left, top), (right, bottom) = (
        (box["x"], box["y"]) if corner == 0 else (box["x"] + box["width"], box["y"] + box["height"])
        for corner, name in ((0, "C2"), (1, "C3"))
        if (box := sheet.locator(f"[data-symbol={name}]").bounding_box()) is not None
    )
    sheet.mouse.move(left - 20, top - 20)
    sheet.mouse.down()
    sheet.mouse.move(right + 25, bottom + 25, steps=5)
    sheet.mouse.up()
    expect(sheet.locator("[data-symbol].selected")).to_have_count(2)
    expect(sheet.locator("[data-mark].selected")).to_have_count(4)
    press(sheet, "Control+c")
    sheet.goto(address)
    sheet.get_by_role("button", name="New board").click()
    sheet.get_by_label("Name of the board").fill("Another")
    sheet.keyboard.press("Enter")
    expect(sheet.get_by_text("A blank sheet.")).to_be_visible()
    paper(sheet).focus()
    press(sheet, "Control+v")
    press(sheet, "Enter")
    assert nets(sheet) == {"C2.1": "+5V", "C2.2": "gnd", "C3.1": "-5V", "C3.2": "gnd"}


def test_a_note_is_written_and_changed(blank: Page) -> None:
    typed(blank, "note mind the gap", "Enter")
    note = blank.locator("[data-note]")
    expect(note).to_contain_text("mind the gap")
    box = note.bounding_box()
    assert box is not None
    blank.mouse.dblclick(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    blank.get_by_label("Words of the note").fill("mind the step")
    blank.keyboard.press("Enter")
    expect(note).to_contain_text("mind the step")
    press(blank, "Control+z")
    expect(note).to_contain_text("mind the gap")


def test_a_part_is_called_otherwise_and_all_that_speaks_of_it_goes_along(sheet: Page) -> None:
    bandwidth = sheet.locator("[data-measured=bandwidth]")
    expect(bandwidth).to_contain_text("951.5 Hz")
    sheet.locator("[data-symbol=C1] .strokes").click(force=True)
    name = sheet.get_by_label("Name of C1")
    name.fill("r1")
    name.press("Enter")
    expect(sheet.get_by_role("alert")).to_contain_text("is called R1 already")
    expect(name).to_have_value("C1")
    name.fill("c9")
    name.press("Enter")
    expect(sheet.get_by_role("button", name="C9, 33n")).to_be_visible()
    expect(sheet.get_by_label("Name of C9")).to_be_visible()
    # The hand value rests on it, and so does its spread.
    expect(bandwidth).to_contain_text("951.5 Hz")
    expect(sheet.get_by_label("Part C9")).to_contain_text("±")
    saved(sheet)
    paper(sheet).focus()
    sheet.keyboard.press("Control+z")
    expect(sheet.get_by_role("button", name="C1, 33n")).to_be_visible()
