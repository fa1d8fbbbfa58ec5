"""A keep-out or a fit is never broken without a word: listed with what it would cost not to, and taken only where a
person says so.
"""

from __future__ import annotations

from tenugui.core.contract import EditAsk, MarksChoice, StrokeDoc, SupportsAsk, SupportsBoard
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.plan import computed, held_of, spec_of
from tenugui.core.plan.given import SupportsGiven
from tenugui.core.supports import make_supports, manner_of
from tests.core.test_hollow_fold import chain_of, inputs
from tests.core.test_worth import tip
from tests.presets import HERON, RESIN
from tests.shapes import box

HOOK = Mesh.joined([box((0, 0, 10), (6, 6, 20)), box((5, 0, 19), (10, 6, 2)), box((9, 0, 14), (2, 2, 9))])
"""A post with an arm, from which a rod hangs down to 9.5 mm over the plate."""


def board_of(kind: str | None) -> SupportsBoard:
    shelf, base, choices = chain_of(HOOK)
    if kind:
        stroke = StrokeDoc(tool="brush", kind=kind, points=[(9.0, 0.0, 9.5)], radius=2.5)  # type: ignore[arg-type]
        choices["marks"] = MarksChoice(strokes=[stroke], kinds=[kind])
    return computed(shelf, "supports", inputs("supports", base, choices), SupportsBoard)


def test_a_tip_that_must_stand_on_a_keep_out_is_told_with_what_it_saves_and_wants_a_word() -> None:
    spec = spec_of("supports")
    assert spec is not None
    for kind in ("keep_out", "fit"):
        board = board_of(kind)
        best = board.choices[board.recommended]
        told = [f for f in best.findings if f.code == "breaks-marks"]
        broken = [s for s in best.spots if s.breaks]
        assert len(told) == 1 and told[0].severity == "severe" and told[0].count == len(broken) > 0
        assert "starts in mid air" in told[0].message and "lost" in told[0].message and told[0].place
        assert all(abs(s.at[0] - 9 - (best.matrix[12])) < 3 for s in broken), "only those on the rod's end"
        assert spec.unsaid(board, board.recommended, SupportsAsk()) == told[0].message
        assert spec.unsaid(board, board.recommended, SupportsAsk(may_break=True)) is None


def test_what_breaks_no_mark_wants_no_word() -> None:
    spec, board = spec_of("supports"), board_of(None)
    assert spec is not None and spec.unsaid(board, board.recommended, SupportsAsk()) is None
    assert not any(s.breaks for row in board.choices for s in row.spots)


def test_without_the_tip_the_part_is_lost_as_it_is_told() -> None:
    shelf, base, choices = chain_of(HOOK)
    given = inputs("supports", base, choices).to(SupportsGiven)
    rod = held_of(shelf, given, height=0.05, risk=0.05).row
    low = min(rod.spots, key=lambda s: s.at[2] if s.reason == "island" else 1e9)
    shift = rod.matrix[12:15]
    at = [low.at[k] - shift[k] for k in range(3)]
    edits = [EditAsk(op="remove", at=(at[0], at[1], at[2]))]
    bare = held_of(shelf, given, height=0.05, risk=0.05, edits=edits).row
    assert bare.islands_after > rod.islands_after and bare.numbers.risk > rod.numbers.risk + 0.3


def test_a_scattering_machine_spaces_its_tips_closer() -> None:
    """The margin that a risk asks for is the machine's own, in every law that divides by it."""
    usual = Context.of(HERON, RESIN, 0.05)
    wild = Context.of(HERON.model_copy(update={"scatter": 2.0}), RESIN, 0.05)  # type: ignore[arg-type]
    pitch = [manner_of(c).pitch_mm(0.0, 0.35, 0.05) for c in (usual, wild)]
    assert pitch[1] < 0.75 * pitch[0]
    table = Mesh.joined([box((0, 0, 5), (5, 5, 10)), box((0, 0, 11), (24, 24, 2))])
    tips = [len(make_supports(table, c, risk=0.05).tips) for c in (usual, wild)]
    assert tips[1] > 1.4 * tips[0] and tip(0, 0, 1).diameter > 0
