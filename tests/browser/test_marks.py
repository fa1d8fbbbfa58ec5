"""Marks painted on the turntable, the map of poses, a figure turned by hand, two poses beside each other."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.test_journey import drop, settle_size
from tests.figures import hound, y_up
from tests.shapes import knobbly, stl_bytes

CANVAS = "[data-turntable] canvas"


def drag(page: Page, dx: int = 60, dy: int = 10, beside: int = 0) -> None:
    """Draw a line across the middle of the turntable, or `beside` pixels from it."""
    box = page.locator(CANVAS).first.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2 + beside, box["y"] + box["height"] / 2
    page.mouse.move(x - dx / 2, y)
    page.mouse.down()
    for step in range(1, 7):
        page.mouse.move(x - dx / 2 + dx * step / 6, y + dy * step / 6)
    page.mouse.up()


def paint(page: Page, dx: int = 60, dy: int = 10, beside: int = 0) -> None:
    """`drag`, once there is something to paint on."""
    expect(page.locator(CANVAS).first).to_have_css("cursor", "crosshair")
    drag(page, dx, dy, beside)


def mark(page: Page, kind: str) -> Locator:
    return page.get_by_role("radio", name=re.compile(f"^{kind}"))


def test_paint_propose_take_back_and_keep(page: Page) -> None:
    drop(page, "stone.stl", stl_bytes(knobbly(fineness=5)))
    settle_size(page, "30")
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    expect(page.get_by_role("button", name="Lay on as show")).to_be_visible()
    expect(page.get_by_role("radio", name="marks")).to_be_checked()
    expect(mark(page, "Hidden")).not_to_contain_text("mm²")
    page.keyboard.press("h")
    paint(page)
    expect(page.get_by_text("1 stroke", exact=True)).to_be_visible()
    expect(mark(page, "Hidden")).to_contain_text("mm²")
    paint(page, beside=170, dx=20)  # beside the figure: the table turns, nothing is painted
    expect(page.get_by_text("1 stroke", exact=True)).to_be_visible()
    page.get_by_role("button", name="Lay on as show").click()
    expect(page.get_by_role("button", name="laid on")).to_be_disabled()
    expect(mark(page, "Show")).to_contain_text("mm²")
    page.keyboard.press("z")
    expect(page.get_by_role("button", name="Lay on as show")).to_be_enabled()
    expect(mark(page, "Show")).not_to_contain_text("mm²")
    page.keyboard.press("Shift+Z")
    expect(mark(page, "Show")).to_contain_text("mm²")
    # What was painted and not taken outlives the page.
    page.reload()
    expect(page.get_by_text("2 strokes")).to_be_visible()
    expect(page.get_by_text("Not taken yet; what you painted is kept here.")).to_be_visible()
    page.get_by_role("button", name="Take these marks").click()
    expect(page.get_by_role("heading", name="Which way up?")).to_be_visible()
    band = page.get_by_role("navigation", name="Folds")
    expect(band.get_by_role("link", name=re.compile("Marks"))).to_contain_text("show, hidden")
    expect(page.get_by_text(re.compile("directions weighed for your marks"))).to_be_visible()
    expect(page.get_by_role("columnheader", name=re.compile("scars by"))).to_be_visible()
    expect(page.get_by_role("radio", name="scars")).to_be_visible()
    page.keyboard.press("z")
    expect(band.get_by_role("link", name=re.compile("Marks"))).not_to_contain_text("hidden")


def test_flat_faces_fill_and_bare_all(page: Page) -> None:
    drop(page, "stone.stl", stl_bytes(knobbly(fineness=4)))
    settle_size(page, "25")
    page.get_by_role("radio", name="To the creases").click()
    expect(page.get_by_role("button", name="Lay on as show")).to_be_visible()
    paint(page, dx=2, dy=0)
    expect(page.get_by_text("1 stroke", exact=True)).to_be_visible()
    expect(mark(page, "Show")).to_contain_text("100 %")  # a rounded stone has no crease: it fills whole
    page.get_by_role("button", name="Bare all").click()
    expect(mark(page, "Show")).not_to_contain_text("mm²")
    page.get_by_role("button", name="Take back").click()
    expect(mark(page, "Show")).to_contain_text("100 %")


@pytest.mark.long
def test_choose_from_the_map_turn_by_hand_and_compare(page: Page) -> None:
    drop(page, "boulder.stl", stl_bytes(knobbly(fineness=5)))
    settle_size(page, "28")
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    page.keyboard.press("3")
    poses = page.get_by_role("table", name="Poses")
    expect(poses.locator("tbody tr")).to_have_count(4)
    poses.get_by_role("button", name="Lay pose 2 beside the one shown").or_(
        poses.get_by_role("button", name="Lay pose 1 beside the one shown")
    ).first.click()
    expect(page.get_by_role("slider", name="Cut height")).to_have_count(2)
    expect(page.locator("[data-turntable]")).to_have_count(2)
    page.get_by_role("button", name=re.compile("beside the one shown")).and_(
        page.locator("[aria-pressed=true]")
    ).click()
    expect(page.get_by_role("slider", name="Cut height")).to_have_count(1)

    page.keyboard.press("m")
    expect(page).to_have_url(re.compile("view=map"))
    feet = page.get_by_role("application", name=re.compile("On its feet"))
    feet.click(position={"x": 150, "y": 70})
    expect(page.get_by_role("heading", name="Why not this way?")).to_be_visible()
    expect(page.get_by_text(re.compile("against .*: (worse|better), ")).first).to_be_visible()
    told = page.get_by_role("heading", level=2).first.inner_text()
    drag(page, dx=80, dy=40)
    expect(page.get_by_role("heading", level=2).first).not_to_have_text(told)
    page.get_by_role("button", name="Let go").click()
    page.get_by_role("slider", name="A machine hour").focus()
    page.keyboard.press("End")
    expect(page.get_by_text("Ranked anew, at once; its layers are not read yet.")).to_be_visible()
    expect(page.get_by_role("button", name="Read the layers of these")).to_be_visible()
    page.get_by_role("button", name="As they were").click()
    feet.click(position={"x": 150, "y": 70})
    page.get_by_role("button", name="Keep this way as a row").click()
    expect(poses.locator("tbody tr")).to_have_count(5)
    expect(poses.get_by_text("by hand", exact=True)).to_be_visible()
    page.get_by_role("button", name="Take pose 5").click()
    expect(page.get_by_role("heading", name="How is it held?")).to_be_visible()
    page.keyboard.press("3")
    expect(poses.locator("tbody tr").nth(4).get_by_text("taken")).to_be_visible()


def test_up_is_guessed_set_and_heard_and_soft_marks_are_bared(page: Page) -> None:
    """A hound whose file has y up stands at once; another up is chosen and taken back; what it says itself is bared;
    rates move the board.
    """
    drop(page, "hound.stl", stl_bytes(y_up(hound())))
    height = page.get_by_label("Height of the whole figure, mm")
    expect(page.get_by_role("combobox", name="It stands")).to_contain_text("y up")
    expect(height).to_have_value("30.2")
    page.get_by_role("combobox", name="It stands").click()
    page.get_by_role("option", name=re.compile("as in the file")).click()
    expect(height).not_to_have_value("30.2")
    page.get_by_role("combobox", name="It stands").click()
    page.get_by_role("option", name=re.compile("y up")).first.click()
    expect(height).to_have_value("30.2")
    page.get_by_role("button", name="Take this size").click()
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    expect(page.get_by_role("radio", name="counts softly")).to_be_checked()
    page.get_by_role("radio", name="bare: not at all").click()
    expect(page.get_by_text("Bare: every surface counts alike.").or_(page.get_by_text("Not taken yet"))).to_be_visible()
    page.get_by_role("button", name=re.compile("Go on without marks|Take these marks")).click()
    poses = page.get_by_role("table", name="Poses")
    expect(poses.locator("tbody tr").first).to_contain_text("Leaning back")
    expect(poses.locator("tbody tr").first).to_contain_text("recommended")
    before = poses.get_by_role("img", name=re.compile("coins, give or take")).first.get_attribute("aria-label")
    page.keyboard.press("m")
    page.get_by_role("radio", name="Work on order").click()
    expect(page.get_by_text("Ranked anew, at once; its layers are not read yet.")).to_be_visible()
    page.get_by_role("button", name="Read the layers of these").click()
    expect(page.get_by_role("button", name=re.compile("Take pose"))).to_be_enabled()
    page.keyboard.press("m")
    bars = poses.get_by_role("img", name=re.compile("coins, give or take")).first
    expect(bars).not_to_have_attribute("aria-label", before or "")
