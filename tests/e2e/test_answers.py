"""Questions and their answers on the whole demo board, through the real interface."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.e2e.acting import step


def circuit(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Circuits").get_by_role("button", name=name).click()
    expect(page.get_by_role("heading", name=name, exact=True)).to_be_visible()


def test_an_inverter_that_oscillates_is_mended_by_another_model(whole: Page) -> None:
    """Found, shown by its poles, compared and mended: four actions after the circuit is opened."""
    circuit(whole, "Trim inverter")
    measured = whole.get_by_role("region", name="Measurements")
    expect(measured).to_contain_text("Unstable: it oscillates near 6.86 MHz.")
    expect(whole.locator("[data-card=poles]")).to_contain_text("grows")
    whole.get_by_role("button", name="Compare", exact=True).click()
    whole.get_by_label("OVN4183").check()
    row = whole.locator("tr[data-compared=phase-margin]")
    expect(row).to_contain_text(re.compile(r"67\.\d+ °.*holds"))
    # Candidates go through all checks of the circuit at once; an ideal one needs no supplies.
    whole.get_by_label("ideal amplifier").check()
    whole.get_by_label("through all checks of Trim inverter").check()
    candidates = whole.locator("[data-candidates]")
    expect(candidates.get_by_role("row", name="OVN4183")).to_contain_text("1 holds")
    expect(whole.locator("tr[data-compared=overshoot]").filter(has_text="OVN4183")).to_contain_text("%")
    whole.get_by_label("ideal amplifier").uncheck()
    whole.get_by_role("button", name="Put OVN4183 in the place of U2").click()
    expect(measured).to_contain_text("Stable: 67°")
    whole.get_by_role("button", name="Undo").click()
    expect(measured).to_contain_text("Unstable")
    # Or by parts around it, whose values are found.
    whole.get_by_label("resistor and capacitor between the inputs").check()
    whole.get_by_role("button", name="Put it onto the board").click()
    expect(measured).to_contain_text("Stable: 57°")
    expect(whole.get_by_role("button", name=re.compile(r"^R\d+, 220:"))).to_be_visible()
    whole.get_by_role("button", name="Undo").click()
    expect(measured).to_contain_text("Unstable")


def test_a_baseline_is_kept_and_compared_with(whole: Page) -> None:
    whole.get_by_role("button", name="Compare", exact=True).click()
    whole.get_by_label("Name of the baseline").fill("as ordered")
    whole.get_by_label("Name of the baseline").press("Enter")
    expect(whole.get_by_label("as ordered", exact=True)).to_be_visible()
    whole.get_by_role("button", name="C1, 33n").click()
    whole.get_by_label("Value of C1").fill("66n")
    whole.keyboard.press("Enter")
    whole.get_by_label("as ordered", exact=True).check()
    row = whole.locator("tr[data-compared=bandwidth]")
    expect(row).to_contain_text(re.compile(r"951\.5 Hz.*holds"))
    whole.get_by_role("button", name="Drop baseline as ordered").click()
    expect(whole.get_by_label("as ordered", exact=True)).to_have_count(0)


def test_noise_is_silenced_part_by_part_after_the_run(whole: Page) -> None:
    """Asked, silenced, shown: four actions from the sheet, the input-referred density beside it."""
    whole.get_by_role("button", name="Check", exact=True).click()
    whole.get_by_text("How much noise is there at out").click()
    shares = whole.locator("[data-card=shares]")
    expect(shares.locator("[data-share=U1]")).to_contain_text("thermal")
    whole.get_by_label("R2 is heard").uncheck()
    expect(shares.locator("[data-left]")).to_contain_text(re.compile(r"Without R2.*µV"))
    shares.get_by_role("button", name="as a curve").click()
    expect(whole.locator("[data-card=usual]")).to_contain_text("sqrt(max(noise^2-noise.R2^2,0))")
    expect(whole.locator("[data-card=usual]")).to_contain_text("input_noise")


def test_clipping_a_load_and_the_worst_case_are_told(whole: Page) -> None:
    circuit(whole, "Sum of three axes")
    measured = whole.get_by_role("region", name="Measurements")
    expect(measured).to_contain_text("U4 clips towards +5V")
    expect(measured).to_contain_text("Is the formula wrong, or the circuit?")
    circuit(whole, "Mid-supply reference")
    expect(measured).to_contain_text("It draws 2.36 mA from +5V at rest")
    whole.get_by_role("button", name="What it can drive").click()
    expect(measured).to_contain_text("45° are left with")
    step(whole, "Studies")
    whole.get_by_role("navigation", name="Studies").get_by_role("button", name="Worst case").click()
    whole.get_by_role("button", name="Run", exact=True).click()
    whole.get_by_role("button", name=re.compile("Upper -3 dB")).first.click()
    expect(whole.get_by_text("Up to date.")).to_be_visible(timeout=60_000)
    # All at their ends 1.067 kHz, and 1 % more with what C1 loses at 60 °C by its -300 ppm/°C.
    expect(whole.locator("[data-figure=greatest]")).to_have_text("1.078 kHz")
    # Each factor's half of it apart, then the root of their squares; and the corner by its parts.
    expect(whole.locator("[data-way='root sum of squares']")).to_contain_text("1.058 kHz")
    expect(whole.get_by_text("The greatest, row")).to_contain_text(
        re.compile(r"high R4, temperature; low C1, R1, R2, R3")
    )
    expect(whole.locator("[data-factor]").first).to_contain_text("C1")
    expect(whole.locator("[data-within=none]")).to_contain_text("none of 12 rows in between is worse")
    expect(whole.locator("[data-yield]")).to_contain_text("breaks")
    whole.get_by_role("button", name=re.compile(r"^row \d+$")).last.click()
    expect(whole.locator("[data-measured=bandwidth]")).to_contain_text("1.078 kHz")


def test_an_offset_varies_its_curves_are_shown_and_two_values_make_a_map(whole: Page) -> None:
    """An amplifier's offset by its data sheet's line; the response of all units; a filter over its two values."""
    step(whole, "Spreads")
    other = whole.get_by_label("Source, load, model parameter, or error of a part").first
    other.click()
    other.press_sequentially("U1.offset-v")
    whole.get_by_role("option", name="U1.offset-voltage").click()
    step(whole, "Studies")
    whole.get_by_role("navigation", name="Studies").get_by_role("button", name="Production").click()
    whole.get_by_role("group", name="Checks").get_by_label("Geophone preamplifier: At rest").check()
    whole.get_by_label("Rows", exact=True).fill("60")
    whole.get_by_role("button", name=re.compile("^Run")).click()
    expect(whole.get_by_text("Up to date.")).to_be_visible(timeout=60_000)
    whole.get_by_role("button", name="Curves of all units").click()
    expect(whole.get_by_role("img", name="db(response) as drawn and in 60 units")).to_be_visible()
    whole.get_by_role("group", name="Measurement").get_by_role("button", name="At rest: Value of v(out)").click()
    expect(whole.get_by_label("Curves of all units")).to_contain_text("This check shows no curve")
    expect(whole.get_by_role("row", name=re.compile("^U1.offset-voltage"))).to_contain_text(re.compile("9[0-9]|100"))
    whole.get_by_role("button", name="Study", exact=True).click()
    whole.locator(".v-list-item", has_text="Sweep of Frequency responseAnti-alias filter").click()
    whole.get_by_label("And of").select_option("C21")
    whole.get_by_label("Values", exact=True).fill("5")
    whole.get_by_label("Other values").fill("4")
    whole.get_by_role("button", name="Run", exact=True).click()
    expect(whole.get_by_role("img", name="Upper -3 dB frequency over R21 and C21")).to_be_visible(timeout=60_000)
    expect(whole.get_by_text("Up to date.")).to_be_visible()
    expect(whole.get_by_role("columnheader", name="C21")).to_be_visible()
