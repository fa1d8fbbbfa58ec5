"""What a plan is offered at: its worth by hand, for many, with a share on top; and a page that says it."""

from __future__ import annotations

import io

import pytest
from pypdf import PdfReader

from tenugui.core.contract import ProofBoard, priced_at
from tenugui.core.formats import OfferSheet, write_offer
from tenugui.core.plan import computed, offer_sheet
from tenugui.core.plan.given import ProofGiven
from tenugui.core.worth import rates_of
from tests.core.test_shared import plan_of
from tests.shapes import ball


@pytest.fixture(scope="module")
def proved() -> tuple[ProofBoard, ProofGiven, bytes]:
    held, _ = plan_of(ball(4).dropped())
    given = held.held.to(ProofGiven)
    board = computed(held.shelf, "proof", given, ProofBoard)
    return board, given, held.shelf.get(board.files.sheet_sha)


@pytest.mark.parametrize(("pieces", "more"), [(1, 0.0), (12, 0.25)])
def test_an_offer_adds_up_to_what_the_plan_takes(
    proved: tuple[ProofBoard, ProofGiven, bytes], pieces: int, more: float
) -> None:
    board, given, picture = proved
    sheet = offer_sheet("Marsh bead", board, given, picture, pieces=pieces, more=more, unit="reeds")
    amounts = [float(text.removesuffix(" reeds")) for _, text in sheet.costs]
    worth = priced_at(board.held.gift, rates_of(given.rates))
    assert amounts[-1] == pytest.approx(pieces * (1 + more) * worth.total, abs=0.006)
    assert sum(amounts[:-1]) == pytest.approx(amounts[-1], abs=0.03), "its lines add up"
    assert len(sheet.costs) == (6 if more else 5)
    about = dict(sheet.about)
    assert about["Height as it is printed"] == "8 mm" and "resin" in about["Made of"]
    out = io.BytesIO()
    write_offer(sheet, out)
    text = PdfReader(io.BytesIO(out.getvalue())).pages[0].extract_text()
    assert "Marsh bead" in text and f"{pieces} piece" in text and sheet.costs[-1][1] in text
    assert "no toy" in text


def test_what_stands_in_a_name_stands_as_it_is() -> None:
    out = io.BytesIO()
    write_offer(OfferSheet("<b>Toad & son</b>", "1 piece", [("Made of", "&")], [("Together", "1 <i>")], []), out)
    assert "<b>Toad & son</b>" in PdfReader(io.BytesIO(out.getvalue())).pages[0].extract_text()
