"""For everyone: names for assistive technology, the keyboard alone, night and day, deep links, and no page wider than
its window.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import Running, opened
from tests.browser.test_journey import drop, go_on_without_marks, settle_size
from tests.shapes import knobbly, stl_bytes

NAMELESS = """() => [...document.querySelectorAll(
    'button, a, input, select, textarea, [role=slider], [role=application], [tabindex="0"]')]
  .filter(e => e.offsetParent !== null && !e.closest('[aria-hidden=true]'))
  .filter(e => {
    const label = e.getAttribute('aria-label') || e.getAttribute('title') || e.innerText || e.labels?.[0]?.innerText
      || (e.getAttribute('aria-labelledby')
        && document.getElementById(e.getAttribute('aria-labelledby'))?.innerText) || '';
    return !label.trim();
  })
  .map(e => e.outerHTML.slice(0, 120))"""
PICTURES = (
    "() => [...document.querySelectorAll('img')].filter(e => "
    "!e.hasAttribute('alt')).map(e => e.outerHTML.slice(0, 120))"
)
WIDER = "() => document.documentElement.scrollWidth > window.innerWidth + 1"


@pytest.fixture(scope="module")
def planned(browser: Browser, running: Running) -> str:
    """A stone with size and pose settled; the address of its plan."""
    page = opened(browser, running)
    drop(page, "stone.stl", stl_bytes(knobbly(fineness=4)))
    settle_size(page, "24")
    go_on_without_marks(page)
    expect(page.get_by_role("table", name="Poses").locator("tbody tr")).to_have_count(4)
    page.get_by_role("button", name=re.compile("Take pose")).click()
    expect(page.get_by_role("table", name="Support sets").locator("tbody tr").nth(3)).to_be_visible()
    address = page.url.rsplit("/", 1)[0].removeprefix(running.address)
    page.close()
    return address


@pytest.mark.parametrize("fold", ["size", "marks", "pose?view=map", "supports", "log"])
def test_everything_that_can_be_reached_has_a_name(page: Page, planned: str, fold: str) -> None:
    page.goto(f"{planned}/{fold}")
    expect(page.get_by_role("heading").first).to_be_visible()
    page.wait_for_timeout(800)
    assert page.evaluate(NAMELESS) == [] and page.evaluate(PICTURES) == []
    assert not page.evaluate(WIDER)
    assert page.locator("main").count() == 1 and page.title().endswith("Tenugui")


@pytest.mark.parametrize(
    "path",
    ["/", "/log", "/settings", "/series?new=heights", "/able/1", "/plates", "/week", "/week?part=house", "/drills"],
)
def test_pages_beside_the_plan_have_names_and_fit_a_tablet(page: Page, planned: str, path: str) -> None:
    page.set_viewport_size({"width": 1024, "height": 768})
    page.goto(path)
    expect(page.get_by_role("heading").first).to_be_visible()
    assert page.evaluate(NAMELESS) == [] and not page.evaluate(WIDER)


def test_a_plan_by_the_keyboard_alone(page: Page, planned: str) -> None:
    page.goto(f"{planned}/size")
    expect(page.get_by_role("heading", name="How tall?")).to_be_visible()
    for key, heading in (
        ("2", "Which surfaces matter?"),
        ("3", "Which way up?"),
        ("4", "Solid or hollow?"),
        ("5", "How is it held?"),
        ("8", "What became of it?"),
        ("3", "Which way up?"),
    ):
        page.keyboard.press(key)
        expect(page.get_by_role("heading", name=heading)).to_be_visible()
    rows = page.get_by_role("table", name="Poses").locator("tbody tr")
    expect(rows).to_have_count(4)
    for _ in range(4):
        page.keyboard.press("k")
    expect(rows.nth(0)).to_have_attribute("aria-selected", "true")
    page.keyboard.press("j")
    page.keyboard.press("j")
    expect(rows.nth(2)).to_have_attribute("aria-selected", "true")
    page.keyboard.press("m")
    feet = page.get_by_role("application", name=re.compile("On its feet"))
    feet.focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("heading", name="Why not this way?")).to_be_visible()
    page.get_by_role("button", name="Let go").press("Enter")
    expect(page.get_by_role("heading", name="Why not this way?")).to_have_count(0)
    page.keyboard.press("m")
    expect(rows.nth(2)).to_have_attribute("aria-selected", "true")
    page.get_by_role("slider", name="Cut height").focus()
    page.keyboard.press("End")
    page.keyboard.press("PageDown")
    expect(page).to_have_url(re.compile("layer="))
    page.keyboard.press("Escape")
    expect(page).not_to_have_url(re.compile("layer="))


def test_marks_tools_by_their_keys(page: Page, planned: str) -> None:
    page.goto(f"{planned}/marks")
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    for key, name in (
        ("h", "Hidden"),
        ("f", "Fit"),
        ("k", "Keep out"),
        ("o", "Hold here"),
        ("x", "Bare"),
        ("s", "Show"),
    ):
        page.keyboard.press(key)
        expect(page.get_by_role("radio", name=re.compile(f"^{name}"))).to_be_checked()
    for key, name in (("c", "To the creases"), ("e", "Flat face"), ("a", "Brush")):
        page.keyboard.press(key)
        expect(page.get_by_role("radio", name=name, exact=True)).to_be_checked()
    brush = page.get_by_role("slider", name=re.compile("^Brush"))
    expect(brush).to_have_attribute("aria-valuetext", "4.0 mm")
    page.keyboard.press("BracketRight")
    expect(brush).to_have_attribute("aria-valuetext", "5.0 mm")
    page.keyboard.press("BracketLeft")
    page.keyboard.press("BracketLeft")
    expect(brush).to_have_attribute("aria-valuetext", "3.2 mm")


def test_night_is_remembered(page: Page, planned: str) -> None:
    page.goto("/")
    expect(page.get_by_role("heading", name="On the bench")).to_be_visible()
    page.get_by_role("button", name="Change to night").click()
    expect(page.locator("html")).to_have_attribute("data-theme", "night")
    page.reload()
    expect(page.locator("html")).to_have_attribute("data-theme", "night")
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_attribute("data-theme", "day")


def test_the_palette_goes_to_a_fold_and_a_figure(page: Page, planned: str) -> None:
    page.goto(f"{planned}/pose")
    expect(page.get_by_role("heading", name="Which way up?")).to_be_visible()
    for word, heading in (("marks", "Which surfaces matter?"), ("supports", "How is it held?")):
        page.keyboard.press("Control+k")
        page.get_by_placeholder("a figure, a fold, something to do").fill(word)
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name=heading)).to_be_visible()


def test_a_deep_link_opens_row_layer_and_view(page: Page, planned: str) -> None:
    page.goto(f"{planned}/pose?option=2&layer=40")
    rows = page.get_by_role("table", name="Poses").locator("tbody tr")
    expect(rows.nth(2)).to_have_attribute("aria-selected", "true")
    expect(page.get_by_test_id("cut-readout")).to_contain_text("layer 41 of")
    page.goto(f"{planned}/pose?view=map&option=1")
    expect(page.get_by_text("Row 2 of the board.")).to_be_visible()
    page.goto(f"{planned}/pose?option=77")
    expect(rows.nth(3)).to_have_attribute("aria-selected", "true")


def test_limits_are_kept_and_nonsense_is_not(page: Page) -> None:
    page.goto("/settings")
    field = page.get_by_label("Triangles of one figure, million")
    expect(field).not_to_have_value("")
    was = field.input_value()
    field.fill("lots")
    expect(page.get_by_role("alert").first).to_contain_text("give a number above zero")
    expect(page.get_by_role("button", name="Keep these limits")).to_be_disabled()
    field.fill("4")
    page.get_by_role("button", name="Keep these limits").click()
    expect(page.get_by_text("The limits are kept.", exact=True).first).to_be_visible()
    page.reload()
    expect(field).to_have_value("4")
    field.fill(was)
    page.get_by_role("button", name="Keep these limits").click()
    expect(page.get_by_text("The limits are kept.", exact=True).first).to_be_visible()
