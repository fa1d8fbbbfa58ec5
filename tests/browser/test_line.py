"""A plan's line of decisions: gone back to as another plan, and the two compared."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import Page, expect

from tenugui.core.mesh import Mesh
from tests.browser.test_access import NAMELESS
from tests.browser.test_journey import drop, settle_size
from tests.shapes import ball, stl_bytes


def test_another_plan_from_a_decision_and_both_beside_each_other(page: Page) -> None:
    drop(page, "marsh-egg.stl", stl_bytes(ball(9, fineness=4).dropped()))
    settle_size(page, "18")
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    page.get_by_role("link", name="plan 1").click()
    expect(page.get_by_role("heading", name="What was decided, and why?")).to_be_visible()
    rows = page.get_by_role("region", name="Decisions").get_by_role("listitem")
    expect(rows).to_have_count(1)
    expect(rows.first).to_contain_text("18 mm")
    rows.first.get_by_role("button", name="another plan from here").click()
    expect(page.get_by_role("link", name="plan 2")).to_be_visible()
    page.keyboard.press("1")
    settle_size(page, "24")
    page.get_by_role("link", name="plan 2").click()
    expect(rows).to_have_count(2)
    rows.first.get_by_role("button", name="compare from here").click()
    rows.nth(1).get_by_role("link", name="compare with this").click()
    expect(page.get_by_role("heading", name="What does the other way take?")).to_be_visible()
    expect(page.get_by_role("region", name="What is set otherwise")).to_contain_text(re.compile("18 mm.*24 mm"))
    assert page.evaluate(NAMELESS) == []
    page.go_back()
    page.get_by_role("combobox", name="Compare this plan with").click()
    page.get_by_role("option", name="plan 1").click()
    expect(page).to_have_url(re.compile(r"/compare\?a=\d+&b=\d+$"))
    expect(page.get_by_role("region", name="What is set otherwise")).to_contain_text(re.compile("24 mm.*18 mm"))


def test_a_better_version_takes_over_and_both_stand_beside_each_other(page: Page) -> None:
    egg = ball(8.6, fineness=4).dropped()
    drop(page, "reed-egg.stl", stl_bytes(egg))
    settle_size(page, "17")
    expect(page.get_by_role("heading", name="Which surfaces matter?")).to_be_visible()
    page.goto("/")
    better = Mesh(egg.vertices * 25.4 + np.array([90.0, 0.0, 0.0]), egg.faces)
    drop(page, "reed-egg-two.stl", stl_bytes(better))
    expect(page.get_by_role("heading", name="How tall?")).to_be_visible()
    page.get_by_text("A better version of an earlier file?").click()
    expect(page.get_by_role("combobox", name="Take over from").locator("option:checked")).to_have_text(
        re.compile("^Reed egg, plan 1: Size")
    )
    page.get_by_role("button", name="Size, marks, pose and all that follows").click()
    expect(page.get_by_role("heading", name="What does the other way take?")).to_be_visible()
    expect(page.get_by_text(re.compile("Reed egg two, plan 1")).first).to_be_visible()
    expect(page.get_by_role("region", name="What they take")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("link", name=re.compile("^Size"))).to_contain_text("17 mm")
