"""Cut into a kit, settings of one's own, a log brought in, and stock by lot: by what a person sees and clicks."""

from __future__ import annotations

import io
import json
import re
import zipfile

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_access import NAMELESS
from tests.browser.test_journey import drop, settle_size
from tests.core.test_parting import dumbbell
from tests.shapes import ball, box, stl_bytes


@pytest.mark.long
def test_a_figure_is_cut_where_a_limb_hangs_and_its_parts_are_a_kit(page: Page) -> None:
    drop(page, "lantern-bearer.stl", stl_bytes(dumbbell(6.0)))
    settle_size(page, "30")
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    page.keyboard.press("1")
    page.get_by_role("link", name="Cut it into parts").click()
    expect(page.get_by_role("heading", name="Where does it come apart best?")).to_be_visible()
    places = page.get_by_role("list", name="Places to cut").get_by_role("button")
    expect(places.first).to_have_attribute("aria-pressed", "true")
    page.get_by_role("slider", name="Moved along").press("ArrowRight")
    page.get_by_role("button", name="Try this cut").click()
    told = page.get_by_role("region", name="What the cut comes to")
    expect(told).to_contain_text(re.compile(r"% of the figure comes off; the seam is \d+ mm long.*keyed peg"))
    assert page.evaluate(NAMELESS) == []
    told.get_by_label("the limb").fill("Lantern")
    told.get_by_role("button", name="Make the kit").click()
    expect(page.get_by_role("heading", name="Lantern bearer, in parts")).to_be_visible()
    expect(page.get_by_text("0 of 2 parts are there.")).to_be_visible()
    expect(page.get_by_role("region", name="Joints")).to_contain_text(re.compile("and Lantern: .* a keyed peg"))
    page.get_by_role("combobox", name="What was done with Lantern", exact=True).click()
    page.get_by_role("option", name="painted").click()
    expect(page.get_by_text("1 of 2 parts are there.")).to_be_visible()
    page.get_by_role("radio", name="what is missing").click()
    assert page.evaluate(NAMELESS) == []
    page.get_by_role("link", name="Lantern", exact=True).click()
    expect(page.get_by_role("heading", name="Which way up?")).to_be_visible()


def test_another_plan_has_settings_of_its_own(page: Page) -> None:
    drop(page, "marsh-pebble.stl", stl_bytes(ball(7.3, fineness=3).dropped()))
    settle_size(page, "15")
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    page.get_by_role("link", name="plan 1").click()
    own = page.get_by_role("region", name="Settings of its own")
    own.get_by_role("combobox", name="Set otherwise").click()
    page.get_by_role("option", name="Exposure that is known to work").click()
    field = own.get_by_role("textbox", name="Exposure that is known to work")
    field.fill("9999")
    expect(own.get_by_role("alert")).to_contain_text("Exposure that is known to work: from")
    expect(own.get_by_role("button", name="Another plan with these")).to_be_disabled()
    field.fill("4,5")
    own.get_by_role("button", name="Another plan with these").click()
    page.get_by_role("link", name="plan 2").click()
    expect(page.get_by_text("Set otherwise in this plan: exposure that is known to work 4.5 s.")).to_be_visible()
    assert page.evaluate(NAMELESS) == []


def test_a_log_is_brought_in_whole_or_not_at_all_and_stock_is_kept_by_lot(page: Page) -> None:
    run = {
        "figure_name": "Heron courier of another bench",
        "printer_name": "heron",
        "material_name": "lantern grey",
        "started_at": "2026-10-03T18:20:00",
        "planned_s": 7200,
        "planned_risk": 0.1,
        "planned_g": 12,
        "result": "good",
    }
    page.goto("/log")
    log = page.get_by_label("A log as CSV or JSON")
    bad = json.dumps([run, run | {"result": "fine"}]).encode()
    log.set_input_files({"name": "log.json", "mimeType": "application/json", "buffer": bad})
    said = page.get_by_role("region", name="Messages")
    expect(said.get_by_text(re.compile("Entry 2, column 'result': 'fine'"))).to_be_visible()
    log.set_input_files({"name": "log.json", "mimeType": "application/json", "buffer": json.dumps([run]).encode()})
    expect(said.get_by_text("1 taken in.")).to_be_visible()
    expect(page.get_by_text("Heron courier of another bench").first).to_be_visible()
    page.goto("/shelf")
    page.get_by_role("link", name="Stock, by bottle and spool").click()
    lots = page.get_by_role("form", name="Open a lot")
    lots.get_by_label("the lot’s name or number").fill("L-17")
    lots.get_by_label("it holds").fill("500")
    lots.get_by_role("button", name="Put it on the shelf").click()
    page.get_by_label(re.compile("How much of L-17 was counted")).fill("420")
    page.get_by_role("button", name="note it").click()
    expect(page.get_by_text(re.compile("420 g counted"))).to_be_visible()
    page.get_by_role("button", name="take that back").click()
    expect(page.get_by_text(re.compile("420 g counted"))).to_have_count(0)
    assert page.evaluate(NAMELESS) == []


def test_a_kit_of_seven_files_is_sized_once_and_followed_to_its_dry_fit(page: Page) -> None:
    names = ["Base", "Body", "Crest", "Left arm", "Pole", "Right arm", "Sail"]
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        for k, name in enumerate(names):
            archive.writestr(f"{name.lower().replace(' ', '-')}.stl", stl_bytes(box((0, 0, 3 + k / 2), (4, 3, 6 + k))))
    drop(page, "ferry-boat.zip", held.getvalue())
    expect(page.get_by_role("heading", name="Ferry boat")).to_be_visible()
    expect(page.get_by_text("0 of 7 parts are there.")).to_be_visible()
    page.get_by_role("link", name="Body", exact=True).click()
    settle_size(page, "14")
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    page.get_by_role("navigation", name="Folds").get_by_role("link", name=re.compile("^Size")).click()
    parts = page.get_by_role("navigation", name="Parts of Ferry boat")
    # It may still be examined now: it has the size of its kit as soon as it is.
    parts.get_by_role("link", name="Sail", exact=True).click()
    expect(page.get_by_label("Height of the whole figure, mm")).to_have_value("24.0")
    parts.get_by_role("link", name="Ferry boat").click()
    wanted = page.get_by_label("How many of Pole are wanted")
    wanted.fill("2")
    wanted.blur()
    expect(page.get_by_text("0 of 2", exact=True)).to_be_visible()
    for name in names:
        done = page.get_by_role("combobox", name=f"What was done with {name}", exact=True)
        done.click()
        page.get_by_role("option", name="dry-fitted").click()
        expect(done).to_contain_text("dry-fitted")
    expect(page.get_by_text("All of it is there.")).to_be_visible()
    assert page.evaluate(NAMELESS) == []
