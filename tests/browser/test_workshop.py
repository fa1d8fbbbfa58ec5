"""The workshop on the screen. Its memory: a run is started, logged, found by its label, pinned and explained; a series
is planned, graded and read; what it tells of a machine is taken over, and the shelf shows it. Its days: copies are laid
on a plate, one is moved, the plate is begun and one piece fails; an order is woven into the week, pinned and made.
"""

from __future__ import annotations

import io
import re
from datetime import datetime, timedelta

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import Running, opened
from tests.browser.test_journey import drop, go_on_without_marks, settle_size
from tests.shapes import ball, stl_bytes


@pytest.fixture(scope="module")
def plan(browser: Browser, running: Running) -> str:
    """A small ball, proved; the address of its plan."""
    page = opened(browser, running)
    drop(page, "pebble.stl", stl_bytes(ball(4)))
    settle_size(page, "8")
    go_on_without_marks(page)
    page.get_by_role("button", name=re.compile("Take pose")).click()
    page.get_by_role("button", name="Take these supports").click()
    page.get_by_role("button", name="Take this height").click()
    page.get_by_role("button", name=re.compile("Accept")).click()
    expect(page.get_by_role("heading", name=re.compile("What became of it|became"))).to_be_visible()
    address = page.url.rsplit("/", 1)[0].removeprefix(running.address)
    page.close()
    return address


def photo() -> bytes:
    out = io.BytesIO()
    Image.fromarray(np.full((60, 80, 3), 120, np.uint8)).save(out, "JPEG")
    return out.getvalue()


def pick(page: Page, label: str, option: str | re.Pattern[str]) -> None:
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option).click()


def test_a_run_is_logged_found_by_its_label_pinned_and_explained(page: Page, plan: str) -> None:
    page.goto(f"{plan}/log")
    page.get_by_role("button", name="Start a run now").click()
    page.get_by_role("radio", name="part lost").click()
    page.get_by_label("Failed at layer").fill("40")
    pick(page, "What came true", "starts in mid air")
    page.get_by_role("button", name="Keep this outcome").click()
    link = page.get_by_role("link", name=re.compile(r"^run \d+")).first
    number = re.sub(r"\D", "", link.inner_text())

    page.goto("/log")
    page.get_by_label("a label's number, typed or scanned").fill(f"Run {number}")
    page.get_by_role("button", name="Find the run").click()
    expect(page.get_by_role("heading", name=f"Run {number} of Pebble")).to_be_visible()
    expect(page.get_by_text("It came to: part lost from layer 40")).to_be_visible()
    ways = page.get_by_role("region", name="Mend it, or print it again?")
    ways.get_by_role("button").first.click()
    expect(ways.get_by_role("button", name="chosen")).to_be_visible()

    pick(page, "What was seen", "a piece hangs, curls or is lost")
    page.get_by_label("at layer").fill("40")
    page.get_by_label("note").fill("left of the foot")
    page.get_by_role("button", name="Pin it").click()
    expect(
        page.get_by_role("heading", name="Where does it come from: a piece hangs, curls or is lost?")
    ).to_be_visible()
    expect(page.get_by_text(re.compile("^Next: "))).to_be_visible()

    page.get_by_label("Photos to keep").set_input_files(
        {"name": "pebble.jpg", "mimeType": "image/jpeg", "buffer": photo()}
    )
    shown = page.get_by_role("img", name="1, bare")
    expect(shown).to_be_visible()
    assert shown.evaluate("i => i.complete && i.naturalWidth") == 80
    page.get_by_label("Photos to keep").set_input_files(
        {"name": "pebble.jpg", "mimeType": "image/jpeg", "buffer": b"no photo"}
    )
    expect(page.get_by_text("This is no photo that can be read.").first).to_be_visible()
    page.get_by_text(re.compile("All that was set")).click()
    expect(page.get_by_text("Peel of the film (prior 8)")).to_be_visible()


def test_off_the_plate_one_step_at_a_time_with_a_timer_that_rings_everywhere(page: Page, plan: str) -> None:
    page.goto(f"{plan}/log")
    page.get_by_role("link", name="Off the plate: what comes next").click()
    expect(page.get_by_role("heading", name="let it drip")).to_be_visible()
    page.get_by_role("button", name="Done, next").click()
    expect(page.get_by_role("heading", name="off the plate")).to_be_visible()
    page.get_by_label("Minutes that it took: off the plate").fill("6")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("Kept: 6 minutes, where 4 min were reckoned.").first).to_be_visible()
    page.get_by_role("heading", name="off the plate").click()  # a key that is typed into a field is none of the page
    page.keyboard.press("n")
    expect(page.get_by_role("heading", name="first bath")).to_be_visible()
    assert "step=2" in page.url
    page.get_by_role("button", name="Start 3 min").click()
    timers = page.get_by_role("list", name="Timers")
    expect(timers.get_by_text(re.compile("Pebble: first bath"))).to_be_visible()
    page.reload()
    expect(page.get_by_role("heading", name="first bath")).to_be_visible()
    page.goto("/log")
    expect(timers.get_by_text(re.compile(r"^2:\d\d$"))).to_be_visible()
    page.get_by_role("button", name="Put the timer of first bath away").click()
    expect(timers).to_have_count(0)


def test_a_series_is_planned_graded_read_and_tells_of_a_machine(page: Page) -> None:
    page.goto("/series")
    pick(page, "For which printer", "kestrel")
    page.get_by_role("button", name=re.compile("^Clean bridge")).click()
    page.get_by_label("span mm, levels").fill("10, 20, 40")
    page.get_by_role("button", name="Plan 6 prints").click()
    expect(page.get_by_role("heading", name="Clean bridge on kestrel")).to_be_visible()
    expect(page.get_by_text("6 specimens in 3 cells, none looked at yet.")).to_be_visible()
    for k, seen in enumerate(("yes", "yes", "yes", "yes", "no", "no")):
        field = page.get_by_label(f"clean of specimen {k + 1}")
        field.fill(seen)
        field.press("Enter")
        expect(page.get_by_text(f"{k + 1} of 6 looked at.")).to_be_visible()
    wrong = page.get_by_label("clean of specimen 1")
    wrong.fill("perhaps")
    wrong.press("Enter")
    expect(page.get_by_text(re.compile("neither yes nor no")).first).to_be_visible()
    expect(page.get_by_role("table", name="Swatches").get_by_role("button")).to_have_count(3)
    expect(page.get_by_role("heading", name="What each level does")).to_be_visible()

    pick(page, "Capability", "Clean bridge")
    page.get_by_role("button", name="Tell it").click()
    page.get_by_role("link", name="What kestrel can do").click()
    expect(page.get_by_role("heading", name="What can kestrel do?")).to_be_visible()
    row = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name="Clean bridge"))
    expect(row.get_by_text("Rests on 6 prints")).to_be_visible()
    row.get_by_role("button", name="Use it in every fold").click()
    expect(row.get_by_text("Every fold uses what was taken over.")).to_be_visible()
    page.goto("/shelf?of=printers&name=kestrel")
    bridge = page.get_by_label("Longest bridge (prior 20)")
    assert 20 < float(bridge.input_value()) < 40
    page.get_by_role("link", name="What kestrel can do").click()
    row.get_by_role("button", name="Put back").click()
    expect(row.get_by_role("button", name="Use it in every fold")).to_be_visible()
    page.goto("/shelf?of=printers&name=kestrel")
    expect(bridge).to_have_value("20")


def test_copies_are_laid_on_a_plate_one_is_moved_and_one_fails(page: Page, plan: str) -> None:
    page.goto("/plates")
    pick(page, "Printer", "heron")
    page.get_by_role("checkbox", name=re.compile("Pebble")).check()
    page.get_by_label("how many Pebble").fill("3")
    page.get_by_label("how many Pebble").press("Enter")
    page.get_by_label("Its name").fill("Three pebbles")
    page.get_by_role("button", name="Lay 3 pieces on a plate").click()
    expect(page.get_by_role("heading", name="What lies together?")).to_be_visible()
    lay = page.get_by_role("button", name="Lay it out")
    expect(lay).to_be_enabled()
    lay.click()
    expect(page.get_by_role("group", name=re.compile("Plate 1 from above: 3 pieces"))).to_be_visible()
    expect(page.get_by_text(re.compile("a piece that comes off whole"))).to_be_visible()

    page.get_by_role("button", name=re.compile("Choose piece 2")).click()
    said = page.get_by_text(re.compile(r"2: Pebble at [\d.]+, [\d.]+ mm"))
    before = said.inner_text()
    page.keyboard.press("Shift+ArrowUp")
    expect(page.get_by_text("pinned.", exact=False).first).to_be_visible()
    assert said.inner_text() != before
    with page.expect_response(lambda answer: answer.request.method != "GET"):
        page.keyboard.press("r")
    page.wait_for_timeout(500)  # what is drawn anew would let go of what is dragged
    expect(page.get_by_text(re.compile(r"turned by \d+\.5°|turned by (22|45|67|90|112|135|157)"))).to_be_visible()
    outline = page.locator("[data-item='0']").first
    box, other = outline.bounding_box(), page.locator("[data-item='1']").first.bounding_box()
    assert box and other
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] * 0.8)
    page.mouse.down()
    page.mouse.move(other["x"] + other["width"] / 2, other["y"] + other["height"] * 0.8, steps=4)
    page.mouse.up()
    expect(page.get_by_text(re.compile("nearer to each other than the gap"))).to_be_visible()
    expect(page.get_by_role("button", name="Begin it now")).to_be_disabled()
    page.keyboard.press("z")
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(page.get_by_text(re.compile("nearer to each other than the gap"))).to_have_count(0)

    page.get_by_role("checkbox", name="nitrile gloves, safety glasses, wipes").check()
    page.get_by_role("button", name="Begin it now").click()
    outcome = page.get_by_role("radiogroup", name=re.compile(r"What became of run \d+"))
    expect(outcome).to_have_count(3)
    outcome.nth(0).get_by_role("radio", name="good").click()
    outcome.nth(1).get_by_role("radio", name="part lost").click()
    expect(page.get_by_text(re.compile("1 of 3 came off whole, 1 not looked at"))).to_be_visible()
    page.reload()
    expect(page.get_by_text(re.compile("1 of 3 came off whole, 1 not looked at"))).to_be_visible()
    expect(page.get_by_role("checkbox", name="nitrile gloves, safety glasses, wipes")).to_be_checked()


def test_an_order_is_woven_pulled_along_and_made(page: Page, plan: str) -> None:
    page.goto("/week")
    expect(page.get_by_text(re.compile("Nothing is ordered"))).to_be_visible()
    page.get_by_role("button", name="Order something").click()
    pick(page, "Of which", re.compile("^Pebble$"))
    page.get_by_label("How many", exact=True).fill("2")
    page.get_by_label("By when").fill((datetime.now() + timedelta(days=5)).strftime("%Y-%m-%dT20:00"))
    page.get_by_label("Its name").fill("Two for the gate")
    page.get_by_role("button", name=re.compile("^Order it")).click()
    expect(page.get_by_role("group", name=re.compile("The week: 2 runs"))).to_be_visible()
    expect(
        page.get_by_text(re.compile(r"In a thousand simulated weeks Two for the gate is ready in \d+ %"))
    ).to_be_visible()

    run = page.locator("[data-job]").first
    box = run.bounding_box()
    assert box
    page.mouse.move(box["x"] + 2, box["y"] + 10)
    page.mouse.down()
    page.mouse.move(box["x"] + 300, box["y"] + 10, steps=4)
    page.mouse.up()
    expect(page.get_by_text(re.compile("does not start before it was pulled to"))).to_be_visible()
    page.get_by_role("button", name="Let it go").click()
    expect(page.get_by_role("button", name="Not before then")).to_be_visible()

    page.goto(f"{plan}/log")
    page.get_by_role("button", name="Start a run now").click()
    page.get_by_role("radio", name="print lost").click()
    page.get_by_role("button", name="Keep this outcome").click()
    expect(page.get_by_text(re.compile("print lost")).first).to_be_visible()
    page.goto("/week")
    expect(page.get_by_role("group", name=re.compile("The week: 2 runs"))).to_be_visible()

    page.get_by_role("radio", name="what is ordered").click()
    page.get_by_label("made of Two for the gate").fill("1")
    page.get_by_label("made of Two for the gate").press("Tab")
    expect(page.get_by_role("group", name=re.compile("The week: 1 runs"))).to_be_visible()
    page.get_by_role("radio", name="what fits a slot").click()
    expect(page.get_by_text(re.compile(r"in 19 of 20 cases: fits"))).to_be_visible()
    page.get_by_role("radio", name="calendar").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="This week as a calendar file").click()
    assert b"BEGIN:VCALENDAR" in download.value.path().read_bytes()
    page.get_by_role("button", name="Open a private address").click()
    expect(page.get_by_role("button", name="Close it")).to_be_visible()
