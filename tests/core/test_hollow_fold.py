"""The fold Hollow: turns after turns by hand, the level as it falls, what is kept, its board, and the body that later
folds print.
"""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import pytest

from tenugui.core.contract import (
    Ask,
    Choice,
    HoleDoc,
    HollowAsk,
    HollowBoard,
    OwnHollow,
    PoseChoice,
    SupportsChoice,
    unpack_values,
)
from tenugui.core.formats import pack_whole, read_whole
from tenugui.core.hollow import best_turns, drained, falling, hollow, judged, pack_hollowed, suggest, unpack_hollowed
from tenugui.core.hollow.field import Field
from tenugui.core.hollow.liquid import Mouth, Space, space_of
from tenugui.core.layers import prove
from tenugui.core.mesh import Mesh, measure
from tenugui.core.plan import (
    MemoryShelf,
    PlanBase,
    computed,
    judge_holes,
    run_chain,
    sized,
    sorted_holes,
    spec_of,
)
from tenugui.core.plan.given import FigureGiven, HollowGiven, SupportsGiven
from tenugui.core.plan.inputs import PosedInputs
from tenugui.core.plan.spec import must
from tests.presets import HERON, RESIN
from tests.shapes import ball, box

DOWN = np.array([0.0, 0.0, -1.0])
SIDE = np.array([1.0, 0.0, 0.0])


def space(empty: np.ndarray, width: float = 1.0) -> Space:
    return space_of(Field(width, np.zeros(3), np.zeros((1, 1, 1), np.float32), 1.0), empty, np.zeros(3))


def at(held: Space, x: float, z: float) -> np.ndarray:
    return np.flatnonzero((held.middles[:, 0] == x) & (held.middles[:, 2] == z))


def two_rooms() -> tuple[Space, list[Mouth]]:
    """A lower room with its hole in the ceiling of its far end, and a shelf: held upright its floor keeps a pool; on
    its side the shelf does.
    """
    empty = np.ones((6, 1, 12), bool)
    empty[2:, :, 4] = False  # a wall that hangs from the ceiling
    held = space(empty)
    return held, [Mouth(at(held, 11.0, 5.0), 1.0, 2.0)]


def test_what_one_position_keeps_the_next_lets_out() -> None:
    held, hole = two_rooms()
    only = best_turns(held, hole, [DOWN])
    assert only.left[0] == held.volume - 11, "the hole is in the ceiling: all but the uppermost row of both rooms stays"
    ways = [DOWN, -DOWN, SIDE]
    both = best_turns(held, hole, ways)
    assert both.left[0] < only.left[0]
    assert list(both.left) == sorted(both.left, reverse=True)
    overhead = next(i for i, w in enumerate(both.ways) if w == (0.0, 0.0, 1.0)) if (0.0, 0.0, 1.0) in both.ways else 0
    assert both.left[overhead] <= 4 * 4, (
        "upside down the room behind the wall keeps at most what lies above the wall's edge"
    )


def test_a_pocket_takes_no_more_than_what_flows_into_it() -> None:
    """Two cups side by side, full and held upright, keep both; on its side everything is out, and upright again nothing
    comes back.
    """
    empty = np.ones((6, 1, 9), bool)
    empty[:4, :, 4] = False
    held = space(empty)
    hole = [Mouth(at(held, 8.0, 5.0), 1.0, 2.0)]
    told = best_turns(held, hole, [SIDE, DOWN])
    assert told.left[0] == 0 and told.ways == ((1.0, 0.0, 0.0),)
    upright = best_turns(held, hole, [DOWN])
    assert upright.left[0] == held.volume - 9


def test_the_level_falls_to_the_sill_in_the_time_that_draining_takes() -> None:
    held = space(np.ones((40, 8, 8), bool), 0.5)
    bottom, top = Mouth(at(held, 0.0, 0.0), 1.5, 2.0), Mouth(at(held, 0.0, 19.5), 1.5, 2.0)
    seconds, level = falling(held, [bottom, top], DOWN)
    assert seconds == sorted(seconds) and level == sorted(level, reverse=True)
    assert seconds[0] == 0 and level[0] == pytest.approx(19.5)
    assert seconds[-1] == pytest.approx(drained(held, [bottom, top], DOWN).seconds, rel=0.02)
    assert falling(held, [], DOWN)[0] == [0.0]


def test_what_is_kept_of_a_hollowed_figure_judges_as_it_did() -> None:
    made = hollow(ball(14, (3, -5, 14), fineness=4), 2.0)
    again = unpack_hollowed(pack_hollowed(made))
    assert again.wall == made.wall and len(again.cavities) == 1
    assert np.allclose(again.cavities[0].space.middles, made.cavities[0].space.middles)
    assert (again.cavities[0].space.beside == made.cavities[0].space.beside).all()
    holes = suggest(made, made.cavities[0], DOWN).holes
    one, other = judged(made.cavities[0], holes, DOWN), judged(again.cavities[0], holes, DOWN)
    assert one.drips.retained == other.drips.retained and one.drips.seconds == pytest.approx(other.drips.seconds)


BOX = box((0, 0, 18), (30, 30, 36))


def chain_of(mesh: Mesh, factor: float = 1.0) -> tuple[MemoryShelf, PlanBase, dict[str, Choice]]:
    """A shelf, a base and the choices of Size and Pose, for a figure as it stands on the resin preset."""
    shelf = MemoryShelf()
    sha = shelf.put(pack_whole(mesh))
    base = PlanBase(sha, sha, {1: HERON.model_dump(mode="json")}, {1: RESIN.model_dump(mode="json")})
    size = sized(base, factor=factor, height_mm=1.0, printer_id=1, material_id=1)
    return shelf, base, {"size": size, "pose": PoseChoice(down=(0.0, 0.0, -1.0))}


def inputs(fold: str, base: PlanBase, choices: dict[str, Choice], ask: Ask | None = None) -> FigureGiven:
    """Inputs of a fold's task."""
    spec = spec_of(fold)
    assert spec is not None
    return spec.inputs(base, choices, ask)


def board_of(shelf: MemoryShelf, base: PlanBase, choices: dict[str, Choice], **own: Any) -> HollowBoard:
    asked = HollowAsk(own=OwnHollow.model_validate(own)) if own else None
    return computed(shelf, "hollow", inputs("hollow", base, choices, asked), HollowBoard)


def test_a_small_figure_stays_solid_and_a_large_one_is_hollowed() -> None:
    small = board_of(*chain_of(ball(8, fineness=4).dropped()))
    assert small.choices[small.recommended].wall_mm is None
    shelf, base, choices = chain_of(ball(25, fineness=4).dropped())
    large = board_of(shelf, base, choices)
    best = large.choices[large.recommended]
    assert best.wall_mm is not None and best.hollow is not None
    solid = large.choices[0]
    assert best.peak_pull_n < 0.5 * solid.peak_pull_n and best.numbers.cost < 0.5 * solid.numbers.cost
    assert best.hollow.saved_ml == pytest.approx(4 / 3 * np.pi * (25 - best.wall_mm) ** 3 / 1000, rel=0.04)
    assert best.gift.hands_min > 0 and best.holes >= 2 and best.drain_s is not None
    assert best.wall_sha is not None and solid.wall_sha is None
    wall = unpack_values(shelf.get(best.wall_sha))
    assert np.median(wall[np.isfinite(wall)]) == pytest.approx(best.wall_mm, rel=0.06), "the dye tells the wall"


@pytest.mark.long
def test_a_thicker_wall_never_saves_more() -> None:
    rows = [r for r in board_of(*chain_of(BOX)).choices if r.hollow and not r.lattice_mm]
    thin, thick = sorted(rows, key=lambda r: r.wall_mm or 0)
    assert thin.hollow and thick.hollow and thin.hollow.saved_ml > thick.hollow.saved_ml
    # What it pulls is no such law: until its vent is printed a wider cavity seals more of the film.
    assert thin.strip.sealed_mm2 != [] and max(thin.strip.sealed_mm2) > max(thick.strip.sealed_mm2)


@pytest.mark.long
def test_an_own_wall_with_holes_of_ones_own_is_a_row_and_later_folds_print_it() -> None:
    shelf, base, choices = chain_of(BOX)
    holes = [
        {"x_mm": 15.0, "y_mm": 0.0, "z_mm": z, "axis": [-1.0, 0.0, 0.0], "diameter_mm": 4.0, "wall_mm": 0.0}
        for z in (5.0, 31.0)
    ]
    board = board_of(shelf, base, choices, wall_mm=2.5, lattice_mm=None, holes=holes)
    row = next(r for r in board.choices if r.own)
    assert row.hollow and [h.diameter_mm for h in row.hollow.cavities[0].holes] == [4.0, 4.0]
    assert row.hollow.cavities[0].min_wall_mm == pytest.approx(2.5, abs=0.1)
    taken = spec_of("hollow").take(board, board.choices.index(row))  # type: ignore[union-attr,misc]
    choices["hollow"] = taken.choice
    assert "wall 2.5 mm, 2 holes" in taken.reason
    given = inputs("supports", base, choices)
    assert isinstance(given, SupportsGiven) and given.hollow and given.hollow.wall == 2.5
    held = PosedInputs(shelf, given)
    body = held.body
    assert measure(body).watertight and measure(body).volume_mm3 == pytest.approx(
        row.hollow.hollow_volume_mm3, rel=1e-3
    )
    inside = held.on_body < 0
    assert 0.2 < inside.mean() < 0.9995 and len(inside) == len(body.faces)
    assert (np.abs(body.middles()[inside][:, 0]) < 15 - 1.0).mean() > 0.95, "all but the mouths of the bores"
    assert not inside[np.abs(body.middles()[:, 2] - 36) < 1e-3].any(), "the top is the figure's own"
    made = run_chain(shelf, base, choices, until="proof")
    files = made.boards["proof"].files  # type: ignore[attr-defined]
    from tenugui.core.formats import load

    written = load(io.BytesIO(shelf.get(files.stl)))
    assert abs(float(measure(written).volume_mm3)) < 0.5 * 30 * 30 * 36
    solid = run_chain(shelf, base, {k: v for k, v in choices.items() if k != "hollow"}, until="supports")
    assert must(solid.choices, SupportsChoice).tips == 0, "solid it stands on its flat foot"
    assert read_whole(shelf.get(base.sha)).faces.shape[0] == 12


@pytest.mark.long
def test_what_is_asked_for_is_judged_alone_and_the_other_rows_are_remembered(monkeypatch: pytest.MonkeyPatch) -> None:
    shelf, base, choices = chain_of(BOX)
    first = board_of(shelf, base, choices)
    cut: list[float] = []

    def counted(mesh: Mesh, wall: float, *more: Any, **named: Any) -> Any:
        cut.append(wall)
        return hollow(mesh, wall, *more, **named)

    read: list[int] = []

    def proved(*given: Any, **named: Any) -> Any:
        read.append(1)
        return prove(*given, **named)

    monkeypatch.setattr("tenugui.core.plan.cut_out.hollow", counted)
    monkeypatch.setattr("tenugui.core.plan.hollow_alternative.prove", proved)
    second = board_of(shelf, base, choices, wall_mm=2.7, lattice_mm=None, holes=None)
    assert cut == [2.7] and len(read) == 1
    assert second.choices[:-1] == [
        r.model_copy(update={"worth": s.worth, "pull": s.pull})
        for r, s in zip(first.choices, second.choices, strict=False)
    ]


@pytest.mark.long
def test_struts_are_weighed_in_what_is_large_and_cost_some_of_what_is_saved() -> None:
    assert not any(r.lattice_mm for r in board_of(*chain_of(BOX)).choices)
    rows = board_of(*chain_of(box((0, 0, 0), (30, 30, 62)).dropped())).choices
    (strut,) = [r for r in rows if r.lattice_mm]
    plain = next(r for r in rows if r.wall_mm == strut.wall_mm and not r.lattice_mm)
    assert strut.hollow and plain.hollow and 0.6 * plain.hollow.saved_ml < strut.hollow.saved_ml < plain.hollow.saved_ml


def test_holes_that_miss_or_merge_are_told_and_change_nothing_else() -> None:
    made = hollow(BOX, 2.5)

    def hole(z: float, axis: tuple[float, float, float] = (-1.0, 0.0, 0.0)) -> HoleDoc:
        return HoleDoc(x_mm=15, y_mm=0, z_mm=z, axis=axis, diameter_mm=3, wall_mm=0)

    good, told = sorted_holes(made, [hole(8), hole(28)])
    assert [h.length for h in good[0]] == pytest.approx([2.5, 2.5], abs=0.2) and not told
    _, told = sorted_holes(made, [hole(8, (1.0, 0.0, 0.0))])
    assert [f.code for f in told] == ["hole-misses"]
    _, told = sorted_holes(made, [hole(8), hole(10)])
    assert [f.code for f in told] == ["holes-merge"]
    _, told = sorted_holes(made, [hole(8, (-0.2, 0.0, 0.98))])
    assert [f.code for f in told] == ["hole-deep"]


def test_moved_holes_are_judged_at_once_with_a_cut_to_look_into() -> None:
    shelf, base, choices = chain_of(BOX)
    given = inputs("hollow", base, choices).to(HollowGiven)
    low, high = (HoleDoc(x_mm=15, y_mm=0, z_mm=z, axis=(-1, 0, 0), diameter_mm=4, wall_mm=0) for z in (8.0, 31.0))
    told = judge_holes(shelf, given, 2.5, pitch=None, rows=[low, high], ways=[(0, 0, -1)])
    assert told and told.liquid and told.cavities[0].vented
    below = 25 * 25 * (8.0 - 2.0 - 2.5) / 1000
    assert told.liquid.retained_ml == pytest.approx(below, rel=0.12), "what lies below the lower hole's mouth"
    outline = np.array(told.liquid.figure[0])
    assert np.ptp(outline[:, 1]) == pytest.approx(36, abs=0.1) and len(told.liquid.cavity) == 1
    assert told.turns[0][0].left_ml < 0.05 * below, "tilted towards a hole it runs empty"
    assert [t.left_ml for t in told.sequence] == [pytest.approx(told.liquid.retained_ml)]
    turned = judge_holes(shelf, given, 2.5, pitch=None, rows=[low, high], ways=[(0, 0, -1), (-1, 0, 0), (0, 0, 1)])
    assert turned and turned.liquid
    first, then, last = (t.left_ml for t in turned.sequence)
    assert first == pytest.approx(told.liquid.retained_ml)
    assert then == pytest.approx(first, rel=0.02), "with its holes on top it loses nothing of so little"
    assert last < 0.02 * first, "on its head the upper hole is lowest"
    assert turned.liquid.retained_ml == pytest.approx(last, abs=0.05), "the cut shows what all the turns leave"
    none = judge_holes(shelf, given, 2.5, pitch=None, rows=[], ways=[])
    assert none and none.cavities[0].drain_s is None and not none.turns[0]
    assert any(f.code == "sealed-cavity" for f in none.findings)


def test_an_open_sheet_is_refused_in_words_and_the_solid_row_stays() -> None:
    cut = box((0, 0, 15), (30, 30, 30))
    board = board_of(*chain_of(Mesh(cut.vertices, cut.faces[:-2])))
    assert board.refused is not None and board.refused.code == "not-closed" and board.refused.remedy
    assert [r.wall_mm for r in board.choices] == [None] and board.recommended == 0
