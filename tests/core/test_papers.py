"""The run sheet as a page, pictures as PNG, and the log as it is read."""

from __future__ import annotations

import io
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from pypdf import PdfReader

from tenugui.core.formats import RunSheet, write_run_sheet
from tenugui.core.learn import Logged, left_of, read_log
from tenugui.core.machines import cautions
from tenugui.core.mesh import picture
from tenugui.core.plan.sheet import clock
from tests.shapes import box, knobbly


def written(sheet: RunSheet) -> PdfReader:
    held = io.BytesIO()
    write_run_sheet(sheet, held)
    return PdfReader(held)


def sheet(**change) -> RunSheet:  # type: ignore[no-untyped-def]
    given = {
        "title": "Reed warden <second> & last",
        "subtitle": "plan 2 on heron",
        "settings": [("Layer height", "0.05 mm"), ("Exposure", "2.4 s")],
        "hazards": [("severe", "Starts in mid air at 12.30 mm.", "Support it.")],
        "cautions": cautions("resin"),
    }
    return RunSheet(**{**given, **change})


def text_of(pdf: PdfReader) -> str:
    return " ".join(" ".join(page.extract_text() for page in pdf.pages).split())


def test_a_run_sheet_holds_all_that_it_was_given_on_one_page() -> None:
    pdf = written(sheet())
    text = text_of(pdf)
    assert len(pdf.pages) == 1
    for words in (
        "Reed warden <second> & last",
        "Layer height",
        "0.05 mm",
        "mid air at 12.30 mm",
        "Support it.",
        "Outcome",
    ):
        assert words in text
    assert all(" ".join(c.split())[:40] in text for c in cautions("resin"))
    width, height = (float(v) for v in pdf.pages[0].mediabox[2:])
    assert (round(width), round(height)) == (595, 842), "A4"


def test_a_run_sheet_without_hazards_says_that_there_are_none() -> None:
    assert "The ledger holds no hazard" in text_of(written(sheet(hazards=[])))


def test_a_picture_goes_onto_the_sheet_whole() -> None:
    png = picture(knobbly(fineness=3), size=(300, 420))
    pdf = written(sheet(picture=png))
    (image,) = pdf.pages[0].images
    assert image.image is not None and image.image.size == (300, 420)
    assert len(pdf.pages) == 1


@pytest.mark.parametrize("size", [(64, 64), (220, 260), (260, 120)])
def test_a_picture_is_of_the_size_asked_for_and_shows_the_figure_in_its_middle(size: tuple[int, int]) -> None:
    image = Image.open(io.BytesIO(picture(box((5, 5, 5), (10, 10, 10)), size=size)))
    assert image.size == size and image.mode == "RGBA"
    alpha = image.getchannel("A")
    left, top, right, bottom = alpha.getbbox()  # type: ignore[misc]
    assert alpha.getpixel((size[0] // 2, size[1] // 2)) == 255 and alpha.getpixel((0, 0)) == 0
    assert abs((left + right) / 2 - size[0] / 2) < 3 and abs((top + bottom) / 2 - size[1] / 2) < 3


@pytest.mark.parametrize(
    ("seconds", "text"), [(0, "0 h 00"), (59, "0 h 01"), (3599, "1 h 00"), (86_400 + 1800, "24 h 30")]
)
def test_hours_and_minutes_never_show_sixty(seconds: float, text: str) -> None:
    assert clock(seconds).startswith(text)


runs = st.builds(
    Logged,
    st.floats(60, 1e5),
    st.floats(0, 0.95),
    st.one_of(st.none(), st.floats(60, 1e5)),
    st.sampled_from([None, "good", "scarred", "part lost", "print lost"]),
)


@given(st.lists(runs, max_size=40))
def test_the_log_counts_what_ended_and_times_what_ran_to_its_end(given_runs: list[Logged]) -> None:
    read = read_log(given_runs)
    ended = [r for r in given_runs if r.result]
    timed = [r for r in ended if r.result != "print lost" and r.real_s]
    assert read.outcomes == len(ended) and read.timed == len(timed)
    assert read.whole == sum(r.result in ("good", "scarred") for r in ended)
    assert 0 <= read.predicted_whole <= len(ended)
    if timed:
        product = math.prod((r.real_s or 0.0) / r.planned_s for r in timed)
        assert read.time_ratio == pytest.approx(product ** (1 / len(timed)), rel=1e-6)
    else:
        assert read.time_ratio is None
    assert (read.time_spread is None) == (len(timed) < 2)


@given(st.floats(0.2, 5))
def test_a_machine_that_is_always_so_much_slower_is_told_so_without_spread(times: float) -> None:
    read = read_log([Logged(s, 0.1, s * times, "good") for s in (100.0, 2000.0, 30000.0)])
    assert read.time_ratio == pytest.approx(times) and read.time_spread == pytest.approx(0, abs=1e-9)


@given(st.floats(0, 5000), st.floats(0, 5000))
def test_nothing_is_left_of_less_than_nothing(stock: float, used: float) -> None:
    left = left_of(stock, used)
    assert left is not None and left == max(0.0, stock - used)
