"""The eye, trained: a round of five by the keyboard alone, and what it says of the skills after it."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect


def test_a_round_of_five_by_keyboard(page: Page) -> None:
    page.goto("/drills")
    begin = page.get_by_role("button", name="A round of five")
    expect(page.get_by_text(re.compile(r"^The laws of the craft come first. None was asked yet.$"))).to_be_visible()
    begin.focus()
    page.keyboard.press("Enter")
    asked = page.get_by_role("region", name="The question")
    for k in range(1, 6):
        expect(asked.get_by_text(re.compile(f"^Question {k} of 5"))).to_be_visible()
        answer = asked.get_by_label("Your answer")
        if answer.count():
            expect(answer).to_be_focused()
            page.keyboard.type("45")
        else:
            page.keyboard.press("1")
            expect(asked.get_by_role("listitem").first.get_by_role("button")).to_have_attribute("aria-pressed", "true")
        expect(asked.get_by_role("status")).to_have_count(0)
        page.keyboard.press("Enter")
        expect(asked.get_by_role("status")).to_contain_text(re.compile("by 1 answer|by 2 answers"))
        page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name=re.compile(r"^[0-5] of 5 right$"))).to_be_visible()
    expect(page.get_by_role("table", name="Skills")).to_contain_text("%")
    with page.expect_download() as download:
        page.get_by_role("link", name="What I answered").click()
    page.get_by_label("Take a set in").set_input_files(download.value.path())
    expect(page.get_by_text("0 new drills came.", exact=True)).to_be_visible()
    page.get_by_label("Take a set in").set_input_files({"name": "x.json", "mimeType": "text/json", "buffer": b"{"})
    expect(page.get_by_text(re.compile("^x.json is no JSON"))).to_be_visible()
