"""From supports on other feet to the machine's own file."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tenugui.core.vat import read_archive
from tests.browser.test_journey import drop, go_on_without_marks, settle_size
from tests.shapes import ball, stl_bytes


@pytest.mark.long
def test_other_feet_the_machines_own_file_and_a_simulated_machine(page: Page) -> None:
    drop(page, "otter-egg.stl", stl_bytes(ball(4, fineness=4).dropped()))
    settle_size(page, "8")
    go_on_without_marks(page)
    page.get_by_role("button", name=re.compile("Take pose")).click()
    rows = page.get_by_role("table", name="Support sets").locator("tbody tr")
    # A draft of the board has fewer rows.
    expect(page.get_by_role("button", name="Take these supports")).to_be_enabled()
    many = rows.count()
    expect(page.get_by_role("radio", name="full raft")).to_be_checked()
    page.get_by_role("radio", name="wide feet").click()
    expect(rows).to_have_count(many + 1)
    expect(rows.last).to_contain_text("Yours")
    expect(page.get_by_role("radio", name="wide feet")).to_be_checked()
    expect(page.get_by_text(re.compile("Proved at 0.05 mm layers. Priors."))).to_be_visible()
    page.get_by_role("radio", name="hold", exact=True).click()
    page.get_by_role("button", name="Take these supports").click()
    scale = page.get_by_role("region", name="Drawn to scale")
    windows = scale.get_by_role("figure")
    expect(windows).to_have_count(4)
    first = windows.first.inner_text()
    scale.get_by_role("button", name=re.compile("mm up")).last.click()
    expect(page).to_have_url(re.compile("at="))
    expect(windows.first).not_to_have_text(first)
    expect(page.get_by_text(re.compile("Several at once: 2 in"))).to_be_visible()
    page.get_by_role("button", name="And with another nozzle, or another machine?").click()
    rows = page.get_by_role("table", name="By nozzle and machine").locator("tbody tr")
    expect(rows.first).to_contain_text("as chosen")
    page.get_by_role("button", name="Take this height").click()

    expect(page.get_by_text(re.compile(r"of 1,000 came off whole"))).to_be_visible()
    file = page.get_by_role("region", name="The machine's file")
    file.get_by_role("button", name="Write the file for the machine").click()
    expect(file.get_by_text(re.compile("Every pixel was read back"))).to_be_visible()
    with page.expect_download() as taken:
        file.get_by_role("link", name="Layers, ZIP of PNG").click()
    with open(taken.value.path(), "rb") as held:
        back = read_archive(held)
    assert taken.value.suggested_filename.endswith("-layers.zip") and back.differs == 0
    expect(file.get_by_text(re.compile(f"{back.manifest.layers:,} layers of"))).to_be_visible()
    played = file.get_by_role("region", name="Playback")
    picture = played.get_by_role("img", name="Layer 1 as the screen lights it")
    expect(picture).to_have_js_property("complete", True)
    assert picture.evaluate("image => image.naturalWidth") > 100
    played.get_by_role("slider", name="Layer played").press("End")
    expect(page).to_have_url(re.compile(f"played={back.manifest.layers}$"))
    expect(played.get_by_role("img")).to_have_attribute("alt", re.compile(f"Layer {back.manifest.layers} "))

    played.get_by_role("checkbox", name="stripe what is lit over nothing").check()
    expect(played.get_by_role("img")).to_have_attribute("alt", re.compile("what hangs striped"))
    expect(played.get_by_text(re.compile("The film pulls with"))).to_be_visible()

    page.get_by_role("button", name="Accept this plan").click()
    machine = page.get_by_role("region", name="Simulated machine")
    machine.get_by_role("button", name="Print it there").click()
    machine.get_by_role("button", name="hold").click()
    expect(machine.get_by_text(re.compile("^paused, layer"))).to_be_visible()
    machine.get_by_role("button", name="go on").click()
    expect(machine.get_by_role("button", name="log what lies on the plate")).to_be_visible()
    stations = machine.get_by_role("list", name="Stations")
    stations.get_by_role("button", name="Wash").click()
    expect(stations.get_by_role("listitem").first).to_contain_text("done.")
    machine.get_by_role("button", name="log what lies on the plate").click()
    expect(page.get_by_label("Note")).to_have_value(re.compile("^On a simulated machine"))
    page.get_by_role("button", name="Keep this outcome").click()
    expect(page.get_by_text(re.compile("On a simulated machine"))).to_be_visible()
    expect(page.get_by_text(re.compile("simulated: teaches nothing"))).to_be_visible()
