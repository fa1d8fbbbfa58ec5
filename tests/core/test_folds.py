"""The folds' one rule for what is asked, what is stale, and where the work goes on; a made-up fold is one entry, one
task, one document.
"""

from __future__ import annotations

from collections.abc import Iterator
from types import SimpleNamespace
from typing import Any, Literal

import pytest

from tenugui.core.contract import (
    Ask,
    BoardChoice,
    Document,
    EditAsk,
    HoleAsk,
    HoleDoc,
    HollowAsk,
    HollowChoice,
    MarksChoice,
    OwnHollow,
    PoseAsk,
    PoseChoice,
    SupportsChoice,
    WishAsk,
)
from tenugui.core.errors import CoreError
from tenugui.core.plan import (
    FOLDS,
    FoldSpec,
    PlanBase,
    Progress,
    Shelf,
    Taken,
    computed,
    next_of,
    read_folds,
    spec_of,
    tasks,
)
from tenugui.core.plan.figure import MadeDoc
from tenugui.core.plan.folds import figure_inputs
from tenugui.core.plan.given import FigureGiven, HollowGiven, PoseGiven, SupportsGiven
from tenugui.core.plan.tasks import task
from tests.core.test_hollow_fold import BOX, chain_of, inputs
from tests.core.test_plan import BASE, CHOICES, Told, decided, size_choice, states, whole

ORDER, EVENING = WishAsk(rates="order"), WishAsk(rates="evening")


def test_rates_said_once_can_be_unsaid() -> None:
    """On order in Marks, then an evening's hobby in Pose: what is said now holds, whichever it is."""
    _, base, choices = chain_of(BOX)
    marked = choices | {"marks": MarksChoice(wish=ORDER)}
    del marked["pose"]
    assert inputs("pose", base, marked).to(PoseGiven).wish == ORDER, "as the marks had it"
    assert inputs("pose", base, marked, PoseAsk(wish=EVENING)).to(PoseGiven).wish is None, "what is said now"
    spec = spec_of("pose")
    assert spec is not None and spec.asked(marked) == PoseAsk(wish=ORDER)
    taken = marked | {"pose": PoseChoice(down=(0, 0, -1), wishes=PoseAsk(wish=EVENING))}
    assert spec.asked(taken) == PoseAsk() and inputs("pose", base, taken).to(PoseGiven).wish is None, (
        "and it stays said"
    )
    assert WishAsk() == EVENING, "the same wish is the same inputs, by whichever name"


def test_nothing_asked_is_what_was_asked_before_and_an_empty_ask_is_nothing() -> None:
    _, base, choices = chain_of(BOX)
    mine = HollowAsk(own=OwnHollow(wall_mm=2.5), plugs=True)
    held = choices | {"hollow": HollowChoice(wall=2.5, wishes=mine)}
    assert inputs("hollow", base, held).to(HollowGiven).own == mine.own
    assert inputs("hollow", base, held, HollowAsk()).to(HollowGiven).own is None
    cut = inputs("supports", base, held).to(SupportsGiven).hollow
    assert cut is not None and cut.plugs, "countersunk as it was asked"


@pytest.mark.parametrize("fold", ["supports", "layers", "proof"])
def test_a_stale_fold_is_never_built_on(fold: str) -> None:
    """After a new size the old holes miss: what follows waits for Hollow, and says so."""
    grown = [*whole(), ("size", size_choice(1.1), None)]
    for name in ("pose", "supports", "layers"):
        grown = decided(grown, name)
        if name == fold:
            break
    found = {f.name: f for f in read_folds(grown, BASE)}
    assert found["hollow"].state == "stale"
    assert not found[fold].ready and found[fold].given is None
    assert found["supports"].waits == "hollow", "it is asked for by its name"
    mended = {f.name: f for f in read_folds(decided(grown, "hollow"), BASE)}
    assert mended["supports"].ready
    assert (
        next_of(read_folds(decided(decided([*whole(), ("size", size_choice(1.1), None)], "pose"), "marks"), BASE))
        == "hollow"
    )


def test_a_hole_that_opens_nothing_is_refused_before_anything_is_proved() -> None:
    shelf, base, choices = chain_of(BOX)
    away = {"x_mm": 300.0, "y_mm": 0.0, "z_mm": 5.0, "axis": [1.0, 0.0, 0.0], "diameter_mm": 3.0}
    cut = HollowChoice.model_validate({"wall": 2.0, "holes": [away]})
    with pytest.raises(CoreError, match="opens no cavity") as refused:
        computed(shelf, "body", inputs("supports", base, choices | {"hollow": cut}), MadeDoc)
    assert refused.value.code == "hole-misses" and "Hollow again" in refused.value.remedy


@pytest.mark.parametrize("fold", ["pose", "layers", "proof"])
def test_where_it_faces_is_heard_by_every_fold_that_asks(fold: str) -> None:
    turned = size_choice() | {"front": [1.0, 0.0, 0.0]}
    after = states([*whole(), ("size", turned, None)])
    assert after[fold] == "stale", "another front is another board"
    told: Told = [("size", turned, None)]
    for name in ("marks", "pose", "supports", "layers"):
        told = decided(told, name)
    given = next(f.given for f in read_folds(told, BASE) if f.name == fold)
    assert given is not None and given.front == (1.0, 0.0, 0.0)


def test_the_way_a_plans_file_stood_is_offered_beside_as_many_of_ones_own() -> None:
    _, base, choices = chain_of(BOX)
    came = PlanBase(base.sha, base.worked, base.printers, base.materials, "0" * 64)
    mine = PoseAsk(pinned=[(0, 0, 1), (0, 1, 0), (1, 0, 0), (-1, 0, 0)])
    spec = spec_of("pose")
    assert spec is not None
    given = spec.inputs(came, choices, mine)
    assert isinstance(given, PoseGiven) and given.pinned == ((0, 0, -1), *mine.pinned)
    again = spec.again(PoseChoice(down=(0, -1, 0)), mine)
    assert isinstance(again, PoseAsk) and len(again.pinned) == 4 and again.pinned[-1] == (0, -1, 0)
    assert PoseAsk.model_validate_json(again.model_dump_json()) == again, "it can be said again"


def test_where_the_work_goes_on() -> None:
    small, large = (read_folds([("size", size_choice(height=h), None)], BASE) for h in (30.0, 90.0))
    after = {name: {f.name: f.next for f in folds} for name, folds in (("small", small), ("large", large))}
    assert after["small"] == {
        "size": "marks",
        "marks": "pose",
        "pose": "supports",
        "hollow": "supports",
        "supports": "layers",
        "layers": "proof",
        "proof": "log",
        "log": None,
    }
    assert after["large"]["pose"] == "hollow"
    answered = read_folds([("size", size_choice(height=90.0), None), ("hollow", CHOICES["hollow"], None)], BASE)
    assert next(f.next for f in answered if f.name == "pose") == "supports", "it was answered before"


class BlessingBoard(Document):
    """Blessings of the marsh."""

    choices: list[str]
    recommended: int = 0


class BlessingAsk(Ask):
    """By whom."""

    fold: Literal["blessing"] = "blessing"
    by: str = "the toad abbot"


class BlessingChoice(BoardChoice):
    """Which."""

    fold: Literal["blessing"] = "blessing"
    words: str
    wishes: BlessingAsk | None = None


class BlessingGiven(FigureGiven):
    """By whom."""

    by: str


@pytest.fixture
def blessed() -> Iterator[FoldSpec]:
    """A fold after Proof, for the length of a test."""

    @task("blessing", BlessingGiven, BlessingBoard)
    def bless(shelf: Shelf, given: BlessingGiven, progress: Progress) -> BlessingBoard:
        return BlessingBoard(choices=[f"{given.by} nods", "nobody nods"])

    def take(board: BlessingBoard, index: int) -> Taken:
        return Taken(BlessingChoice(option=index, words=board.choices[index]), board.choices[index], None)

    def given(base: PlanBase, choices: Any, asked: BlessingAsk) -> BlessingGiven:
        return figure_inputs(base, choices).to(BlessingGiven, by=asked.by)

    spec = FoldSpec(
        "blessing",
        "Blessing",
        "Who nods?",
        ("size",),
        BlessingChoice,
        lambda c: c.words,
        task="blessing",
        given=given,
        take=take,
        ask=BlessingAsk,
        first=lambda choices: BlessingAsk(),
    )
    FOLDS.insert(len(FOLDS) - 1, spec)
    yield spec
    FOLDS.remove(spec)
    del tasks._TASKS["blessing"]


def test_a_made_up_fold_is_in_chain_and_staleness(blessed: FoldSpec) -> None:
    told = decided(decided([], "size"), "blessing", {"words": "the toad abbot nods"})
    assert states(told)["blessing"] == "settled"
    other = [*told, ("size", size_choice() | {"sha": "another"}, None)]
    assert states(other)["blessing"] == "stale"
    assert next(f.next for f in read_folds(told, BASE) if f.name == "proof") == "blessing"
    shelf, base, choices = chain_of(BOX)
    board = computed(shelf, "blessing", blessed.inputs(base, choices, BlessingAsk(by="a heron")), BlessingBoard)
    taken = blessed.taken(board, 0, BlessingAsk(by="a heron"))
    assert taken.reason == "a heron nods" and taken.choice.wishes == BlessingAsk(by="a heron")  # type: ignore[attr-defined]


def test_the_same_set_is_the_one_with_the_same_changes_by_hand() -> None:
    put = EditAsk(op="add", at=(1.0, 2.0, 3.0))
    rows = [
        SimpleNamespace(style="pillars", risk=0.05, edits=[]),
        SimpleNamespace(style="pillars", risk=0.05, edits=[put]),
    ]
    board = SimpleNamespace(choices=rows)
    spec = next(s for s in FOLDS if s.name == "supports")
    plain = SupportsChoice(risk=0.05, style="pillars")
    assert spec.same(plain, board) == 0
    assert spec.same(plain.model_copy(update={"edits": [put]}), board) == 1, "what was done by hand is not let go"
    other = EditAsk(op="remove", at=(1.0, 2.0, 3.0))
    assert spec.same(plain.model_copy(update={"edits": [other]}), board) is None
    assert spec.same(plain.model_copy(update={"style": "trees"}), board) is None


def test_the_same_way_to_hollow_is_the_one_with_the_same_holes() -> None:
    def row(x: float, own: bool) -> SimpleNamespace:
        hole = HoleDoc(x_mm=x, y_mm=0, z_mm=0, axis=(1, 0, 0), diameter_mm=2, wall_mm=2)
        hollow = SimpleNamespace(cavities=[SimpleNamespace(holes=[hole])])
        return SimpleNamespace(wall_mm=2.0, lattice_mm=None, own=own, hollow=hollow)

    board = SimpleNamespace(choices=[row(0.0, False), row(5.0, True)])
    spec = next(s for s in FOLDS if s.name == "hollow")

    def choice(x: float, asked: HollowAsk | None) -> HollowChoice:
        hole = HoleAsk(x_mm=x, y_mm=0, z_mm=0, axis=(1, 0, 0), diameter_mm=2)
        return HollowChoice(wall=2.0, holes=[hole], wishes=asked)

    own = HollowAsk(own=OwnHollow(wall_mm=2.0))
    assert spec.same(choice(0.0, None), board) == 0 and spec.same(choice(5.0, None), board) == 1
    assert spec.same(choice(3.0, None), board) == 0, "holes that the engine places otherwise today"
    assert spec.same(choice(3.0, own), board) == 1 and spec.same(choice(0.0, own), board) == 0
    assert spec.same(choice(0.0, None).model_copy(update={"wall": 3.0}), board) is None
