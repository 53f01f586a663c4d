"""Intake, qualification and the shelf through the real interface."""

from __future__ import annotations

import io
import re
import zipfile

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.acting import step
from verdad.demo.board import model_text

BUFFER = "* a made-up op-amp\n.subckt buf 3 2 7 4 6\nr1 3 2 1meg\ne1 6 0 2 3 1e5\nr2 7 4 10k\n.ends\n"


@pytest.fixture
def models(sheet: Page) -> Page:
    step(sheet, "Models")
    expect(sheet.get_by_role("heading", name="OVN4183")).to_be_visible()
    return sheet


def fetch(page: Page, part: str) -> None:
    page.get_by_role("button", name="Take in a model").click()
    page.get_by_label(f"Fetch {part}", exact=True).click()
    expect(page.get_by_role("button", name="Back", exact=True)).to_be_visible()


def store(page: Page, name: str) -> None:
    page.get_by_role("button", name="Store it").click()
    expect(page.get_by_role("heading", name=name)).to_be_visible()


def test_a_pasted_model_is_taken_in_with_corrected_pins(models: Page) -> None:
    models.get_by_role("button", name="Take in a model").click()
    text = models.get_by_label("Text of the model file")
    text.fill(BUFFER.replace(".ends\n", ""))
    models.get_by_role("button", name="Read the text").click()
    expect(models.get_by_text("subcircuit buf has no .ends").first).to_be_visible()
    expect(models.get_by_text("nothing was stored")).to_be_visible()
    expect(models.get_by_role("button", name="Store it")).to_have_count(0)
    models.get_by_role("button", name="Back", exact=True).click()
    text.fill(BUFFER)
    models.get_by_role("button", name="Read the text").click()
    expect(models.get_by_text("pin 3 of a package of eight")).to_be_visible()
    # The package's order is wrong here: the follower shows it at once, and exchanging the inputs mends it.
    expect(models.get_by_role("status")).to_contain_text("with this assignment the follower")
    models.get_by_label("Pin of node 3").fill("in-")
    models.get_by_label("Pin of node 3").press("Tab")
    expect(models.get_by_label("Pin of node 2")).to_have_value("in+")
    expect(models.get_by_role("status")).to_contain_text("the follower follows")
    models.get_by_label("Where it came from").fill("written for a test")
    store(models, "BUF")
    expect(models.get_by_text("written for a test")).to_be_visible()
    # The new model drives the board: an ideal gain of 1e5 makes the pass-band gain 40 * 12/12.38 / (1 + 40/1e5).
    models.get_by_role("button", name="Use it for U1").click()
    expect(models.get_by_text("U1 on this board uses it.")).to_be_visible()
    step(models, "Sheet")
    expect(models.locator("[data-measured=gain]")).to_have_text("38.76")


def test_swapped_inputs_in_a_comment_are_found_and_the_source_is_kept(models: Page) -> None:
    fetch(models, "QMD1120")
    expect(models.get_by_text('comment "INVERTING INPUT" says in-, but on the bench it is in+').first).to_be_visible()
    expect(models.get_by_label("Pin of node 1")).to_have_value("in+")
    expect(models.get_by_label("Where it came from")).to_have_value("Quillmark Devices, released 2025-03-03")
    store(models, "QMD1120")
    expect(models.get_by_role("link", name="parts/qmd1120")).to_be_visible()


def test_a_node_is_dragged_to_another_pin(models: Page) -> None:
    models.get_by_role("tab", name="Pins").click()
    symbol = models.get_by_role("img", name=re.compile("node 1 is in\\+"))
    plus, minus = (symbol.locator("g.node").nth(k).bounding_box() for k in (0, 1))
    assert plus is not None
    assert minus is not None
    models.mouse.move(plus["x"] + 10, plus["y"] + 8)
    models.mouse.down()
    models.mouse.move(minus["x"] + 12, minus["y"] + 8, steps=5)
    models.mouse.up()
    expect(models.get_by_label("Pin of node 1")).to_have_value("in-")
    expect(models.get_by_role("status")).to_contain_text("rail")
    models.get_by_role("button", name="As they were").click()
    expect(models.get_by_label("Pin of node 1")).to_have_value("in+")


def test_a_model_is_qualified_and_its_data_sheet_corrected(models: Page) -> None:
    models.get_by_role("button", name="Put it on the bench").click()
    expect(models.get_by_text("qualified (7 of 7)").first).to_be_visible()
    expect(models.locator("[data-figure=slew_rate_rising]")).to_contain_text("agrees")
    expect(models.get_by_role("img", name="Open-loop gain")).to_be_visible()
    models.get_by_role("button", name="Data sheet …").click()
    models.get_by_label("Or paste a table").fill("Figure\tTyp\tUnit\nVoltage noise density\t3\tnV/√Hz\nmood\t1\t\n")
    models.get_by_role("button", name="Read the table").click()
    expect(models.get_by_text("'mood' is no figure that this bench measures")).to_be_visible()
    models.get_by_role("button", name="Keep the data sheet").click()
    expect(models.get_by_text("contradicts its data sheet (7 of 8)").first).to_be_visible()
    expect(models.locator("[data-figure=voltage_noise]")).to_contain_text("off")
    models.get_by_role("button", name="Conditions …").click()
    models.get_by_label("load, to mid-supply").fill("1k")
    models.get_by_role("button", name="Keep the conditions").click()
    expect(models.get_by_text("The figures are out of date")).to_be_visible()


def test_a_copy_with_a_slip_is_told_from_the_original(models: Page) -> None:
    for part, badge in (("OVN2201-COPY", "contradicts its data sheet (5 of 8)"), ("OVN2201", "qualified (8 of 8)")):
        fetch(models, part)
        store(models, "OVN2201")
        models.get_by_role("button", name="Put it on the bench").click()
        expect(models.get_by_text(badge).first).to_be_visible()
    models.get_by_role("tab", name="What changed").click()
    changed = models.get_by_role("row", name=re.compile("ovn2201.c2"))
    expect(changed).to_contain_text("C2 G D 3.0P")
    expect(changed).to_contain_text("C2 G D 30P")
    for box in models.get_by_role("checkbox", name=re.compile("Compare OVN2201")).all():
        box.check()
    models.get_by_role("button", name="Compare 2 models").click()
    expect(models.get_by_role("row", name=re.compile("Gain-bandwidth product"))).to_contain_text("11.92 MHz")
    expect(models.get_by_role("img", name="Open-loop gain")).to_be_visible()


def test_an_encrypted_and_an_incomplete_model_are_refused_with_their_lines(models: Page) -> None:
    fetch(models, "QMD2208")
    expect(models.get_by_text("this section is encrypted").first).to_be_visible()
    expect(models.get_by_role("button", name="Store it")).to_have_count(0)
    models.get_by_role("button", name="Back", exact=True).click()
    models.get_by_label("Fetch QMD1415").click()
    expect(models.get_by_text("the file quillmark_common.inc is not here").first).to_be_visible()
    expect(models.get_by_role("button", name="Store it")).to_have_count(0)


def test_several_files_in_an_archive_are_taken_in(models: Page) -> None:
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w") as archive:
        archive.writestr("models/main.lib", '.include "core.inc"\n.subckt outer a b\nx1 a b inner\n.ends\n')
        archive.writestr("models/core.inc", ".subckt inner 1 2\nr1 1 2 1k\n.ends\n")
        archive.writestr("sheet.pdf", b"%PDF-1.4 nothing")
    models.get_by_role("button", name="Take in a model").click()
    models.get_by_label("Model files").set_input_files(
        {"name": "both.zip", "mimeType": "application/zip", "buffer": target.getvalue()}
    )
    expect(models.get_by_text("left out: this is not a text file but a PDF document")).to_be_visible()
    expect(models.get_by_role("radio", name=re.compile("^OUTER"))).to_be_checked()
    expect(models.get_by_role("radio", name=re.compile("^INNER"))).to_contain_text("part of OUTER")
    models.get_by_label("Where it came from").fill("an archive")
    store(models, "OUTER")
    models.get_by_role("textbox", name="Search").fill("outer archive")
    expect(models.get_by_label("Models on the shelf").get_by_role("listitem")).to_have_count(1)
    models.get_by_role("button", name="Remove").click()
    models.get_by_role("textbox", name="Search").fill("")
    expect(models.get_by_label("Models on the shelf").get_by_role("listitem")).to_have_count(1)


def test_generic_parts_are_looked_up_with_preferred_values(models: Page) -> None:
    models.get_by_role("button", name="Generic parts").click()
    models.get_by_role("textbox", name="Search generic parts").fill("op-amp from")
    models.get_by_role("button", name="op-amp from data-sheet figures").click()
    expect(models.get_by_role("row", name=re.compile("slew"))).to_contain_text("1 M")
    expect(models.get_by_role("row", name=re.compile("thick film, 1 %"))).to_contain_text("±100 ppm/°C")
    expect(models.get_by_role("status")).to_contain_text("4.87 k, −0.61 %")
    models.get_by_label("Wanted").fill("4k9k")
    expect(models.get_by_role("alert")).to_contain_text("two prefixes")


def test_a_symbol_is_adjusted_and_stays_so(models: Page) -> None:
    models.get_by_role("tab", name="Symbol").click()
    models.get_by_label("Draw it as a box").check()
    models.get_by_label("Name of out").fill("OUT")
    models.get_by_role("button", name="Keep the symbol").click()
    expect(models.get_by_role("button", name="Keep the symbol")).to_have_count(0)
    models.reload()
    models.get_by_role("tab", name="Symbol").click()
    expect(models.get_by_label("Name of out")).to_have_value("OUT")
    expect(models.locator("svg.symbol text", has_text="OUT")).to_be_visible()


def test_the_board_is_told_of_a_newer_version_and_takes_it(models: Page) -> None:
    """Undo goes back to the old one, whose evidence is current again."""
    text = model_text().replace("C2 G D 30P", "C2 G D 33P")
    models.get_by_role("button", name="Take in a model").click()
    models.get_by_label("Text of the model file").fill(text)
    models.get_by_role("button", name="Read the text").click()
    expect(models.get_by_text("stored beside it, as its newer version")).to_be_visible()
    models.get_by_label("Where it came from").fill("release 2.2")
    store(models, "OVN4183")
    board = models.get_by_label("Models on this board")
    expect(board).to_contain_text("version 1")
    board.get_by_role("button", name="Use version 2").click()
    expect(board).to_contain_text("version 2")
    models.get_by_role("button", name="Undo").click()
    expect(board.get_by_role("button", name="Use version 2")).to_be_visible()
    step(models, "Sheet")
    expect(models.get_by_text("a newer version of OVN4183 is on the shelf")).to_be_visible()


def test_several_files_are_dropped(models: Page) -> None:
    models.get_by_role("button", name="Take in a model").click()
    dropped = models.evaluate_handle(
        """() => {
            const transfer = new DataTransfer()
            const text = '.include "core.inc"\\n.subckt outer a b\\nx1 a b inner\\n.ends\\n'
            transfer.items.add(new File([text], 'main.lib'))
            transfer.items.add(new File(['.subckt inner 1 2\\nr1 1 2 1k\\n.ends\\n'], 'core.inc'))
            return transfer
        }"""
    )
    models.get_by_label("Text of the model file").dispatch_event("drop", {"dataTransfer": dropped})
    expect(models.get_by_text("Every statement was read.")).to_be_visible()
    expect(models.get_by_role("radio", name=re.compile("^OUTER"))).to_be_checked()
