"""Where loops begin, what is ironed, how layers of several heights are laid, and where a path will show."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from manifold3d import CrossSection

from tenugui.core.layers import prove
from tenugui.core.machines import FilamentPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.paths import Seen, blemishes_of, layer_of, planned, sampled_use, write_gcode
from tenugui.core.paths.drive import IRON_FLOW
from tenugui.core.paths.inside import Inside
from tenugui.core.paths.lines import BRIM, IRON, OUTER, RAFT, TRAVEL, line_mm2, rings
from tenugui.core.paths.plan import IRON_PITCH, ironing_s
from tenugui.core.paths.seams import BACK, HIDDEN
from tenugui.core.sections import outlines, outlines_at
from tenugui.core.sections.screen import SectionError
from tests.presets import FILAMENT, KESTREL
from tests.shapes import ball, box

assert isinstance(KESTREL, FilamentPrinter)
HIDES = KESTREL.model_copy(update={"seam_at": HIDDEN})


def starts_of(path) -> np.ndarray:  # type: ignore[no-untyped-def]
    return path.points[np.flatnonzero((path.kind[:-1] == TRAVEL) & (path.kind[1:] == OUTER)) + 1]


def test_seams_lie_where_a_mark_costs_least() -> None:
    """A ball whose front is shown and whose left flank is hidden: every loop begins on the left."""
    figure = ball(8, (0, 0, 8), 4)
    left = figure.middles()[:, 0] < -2.0
    path = planned(figure, {}, HIDES, 0.2, Seen(figure, np.where(left, 0.2, 3.0)))
    starts = starts_of(path)
    wide = np.sqrt(np.maximum(0.0, 64 - (starts[:, 2] - 8) ** 2)) > 3.5  # nearer to the poles no loop reaches so far
    assert (starts[wide, 0] < -1.6).all() and wide.sum() > 50
    behind = starts_of(planned(figure, {}, KESTREL.model_copy(update={"seam_at": BACK}), 0.2))
    assert np.abs(behind[wide[: len(behind)], 0]).mean() < 1.0
    found = blemishes_of(path, Seen(figure, np.where(left, 0.2, 3.0)), HIDES.least_layer_s)
    assert found.starts == len(starts) and found.shown <= (~wide).sum()


def test_strings_are_what_crosses_open_air_and_by_how_much() -> None:
    """Two towers 12 mm apart: of every layer one travel crosses, and what it crosses is the gap between them."""
    towers = Mesh.joined([box((-10, 0, 3), (8, 8, 6)), box((10, 0, 3), (8, 8, 6))])
    path = planned(towers, {}, KESTREL, 0.2)
    assert path.air is not None
    crossing = path.air > 1.0
    assert (path.air[crossing] >= 12 - 1e-6).all() and path.air[crossing].max() < 12 * np.sqrt(2)
    assert (np.bincount(path.layer[crossing], minlength=30) >= 1).all()
    assert (path.air[path.kind != TRAVEL] == 0).all()
    seen = Seen(towers, np.ones(len(towers.faces)))
    found = blemishes_of(path, seen, KESTREL.least_layer_s)
    assert found.strings == crossing.sum() and found.air_mm == pytest.approx(path.air[crossing].sum())
    unseen = Seen(towers, np.full(len(towers.faces), 0.2))
    assert blemishes_of(path, unseen, 8.0).near == 0
    assert found.near > 0 and {spot.code for spot in found.spots} >= {"string", "start"}
    alone = planned(box((0, 0, 3), (8, 8, 6)), {}, KESTREL, 0.2)
    assert alone.air is not None and alone.air.max(initial=0.0) == 0.0, "nothing leaves a block"


def test_the_file_itself_tells_where_its_lines_begin_and_what_it_strings() -> None:
    """Read from the words alone, without the plan: as many loops begin, and the same gap is crossed."""
    towers = Mesh.joined([box((-10, 0, 3), (8, 8, 6)), box((10, 0, 3), (8, 8, 6))])
    path = planned(towers, {}, KESTREL, 0.2)
    text = write_gcode(path, KESTREL, FILAMENT)
    assert path.air is not None
    for number in (2, 9, 20):
        played, mine = layer_of(text, number, KESTREL), path.layer == number - 1
        assert played.begin.sum() == 2, "one outermost line a tower"
        crossed = played.air[played.air > 1.0]
        assert len(crossed) == (path.air[mine] > 1.0).sum() >= 1
        assert crossed.sum() == pytest.approx(path.air[mine & (path.air > 1.0)].sum(), rel=0.01)
        at = played.points[np.flatnonzero(played.begin)]
        assert np.abs(np.abs(at[:, 0] - KESTREL.build_mm[0] / 2) - 10).max() <= 4.0
    alone = layer_of(write_gcode(planned(box((0, 0, 3), (8, 8, 6)), {}, KESTREL, 0.2), KESTREL, FILAMENT), 5, KESTREL)
    assert alone.air.max() == 0.0 and alone.begin.sum() == 1


def horseshoe() -> Mesh:
    """Two arms 12 mm apart that are joined at one end: straight across is open air, around the bend is not."""
    return Mesh.joined([box((-8, 0, 3), (4, 24, 6)), box((8, 0, 3), (4, 24, 6)), box((0, -10, 3), (12, 4, 6))])


def air(inside: Inside, a: np.ndarray, b: np.ndarray) -> float:
    return float(inside.airs(np.concatenate([a, b])[None])[0])


def test_a_travel_goes_around_inside_where_it_can() -> None:
    square = CrossSection.square((20, 24), True) - CrossSection.square((12, 20), True).translate((0, 2))
    lines = [line.points for line in rings(square, 0.2, 0.4, 1).lines]
    inside = Inside(square, lines)
    left, right = np.array([-8.0, -8.0]), np.array([8.0, -8.0])
    assert air(inside, left, right) == pytest.approx(12)
    way = inside.way(left, right)
    assert way is not None and len(way) >= 2
    whole = np.concatenate([left[None], way, right[None]])
    long = np.linalg.norm(np.diff(whole, axis=0), axis=1).sum()
    assert 16 < long < 30, "around the bend, close below the straight way"
    for a, b in pairwise(whole):
        assert air(inside, a, b) == pytest.approx(0, abs=1e-6)
    assert inside.way(np.array([-8.0, 11.5]), np.array([8.0, 11.5])) is None, "from end to end it is too far"
    straight = inside.way(left, np.array([-8.0, 4.0]))
    assert straight is not None and not len(straight)
    apart = Inside(CrossSection.square((4, 4), True) + CrossSection.square((4, 4), True).translate((9, 0)), lines)
    assert apart.way(np.array([0.0, 0.0]), np.array([9.0, 0.0])) is None, "between two bodies there is none"


def test_ways_inside_cross_less_air_and_draw_back_less_often() -> None:
    path = planned(horseshoe(), {}, KESTREL, 0.2)
    assert path.air is not None
    travels = path.kind == TRAVEL
    long = np.linalg.norm(np.diff(path.points[:, :2], axis=0), axis=1)
    straight = planned(Mesh.joined([box((-8, 0, 3), (4, 24, 6)), box((8, 0, 3), (4, 24, 6))]), {}, KESTREL, 0.2)
    assert straight.air is not None and path.air.sum() < 0.5 * straight.air.sum()
    assert (travels & (long > 1.5) & ~path.drawn).any(), "inside, what oozes is hidden"


def test_layers_that_are_slowed_are_counted_and_placed() -> None:
    pin = Mesh.joined([box((0, 0, 2), (30, 30, 4)), box((0, 0, 8), (2, 2, 8))])
    path = planned(pin, {}, KESTREL, 0.2)
    found = blemishes_of(path, None, KESTREL.least_layer_s)
    assert found.slowed == 40
    (spot,) = (s for s in found.spots if s.code == "slowed")
    assert (spot.layer, spot.count) == (20, 40)


def test_ironing_covers_what_faces_up_level_and_nothing_else() -> None:
    stairs = Mesh.joined([box((0, 0, 2), (20, 20, 4)), box((0, 0, 5), (10, 20, 2))])
    path = planned(stairs, {}, KESTREL.model_copy(update={"iron": 1}), 0.2)
    mine = path.kind == IRON
    assert set(path.layer[mine]) == {19, 29}
    long = np.linalg.norm(np.diff(path.points, axis=0), axis=1)
    pitch = line_mm2(KESTREL.line_mm, 0.2) / 0.2
    # 200 mm² at the top and two ledges of 5 x 20, each less a line at its rim.
    rim = pitch / 2
    level = (10 - 2 * rim) * (20 - 2 * rim) + 2 * (5 - 2 * rim) * (20 - 2 * rim)
    assert long[mine].sum() * pitch * IRON_PITCH == pytest.approx(level, rel=0.04)
    assert path.fed[mine].sum() == pytest.approx(long[mine].sum() * line_mm2(KESTREL.line_mm, 0.2) * IRON_FLOW)
    assert ironing_s(KESTREL, 0.2, level) == pytest.approx(long[mine].sum() / KESTREL.fill_mm_s, rel=0.04)
    assert not (planned(stairs, {}, KESTREL, 0.2).kind == IRON).any()


def test_layers_of_several_heights_fill_the_same_and_are_cut_at_their_own_middles() -> None:
    figure = box((0, 0, 4), (10, 10, 8))
    heights = np.array([0.2] * 10 + [0.12] * 20 + [0.08] * 10 + [0.2] * 14)
    full = KESTREL.model_copy(update={"infill": 1.0})
    path = planned(figure, {}, full, heights)
    tops = np.cumsum(path.heights)
    assert tops[-1] >= 8 - 1e-9 and tops[-2] < 8 and np.allclose(path.tops, tops)
    assert path.volume_mm3 == pytest.approx(100 * float(tops[-1]), rel=0.01)
    z = path.points[1:, 2]
    assert np.allclose(z, tops[path.layer])
    sphere = ball(6, (0, 0, 6), 5)
    for section, top, height in zip(outlines_at(sphere, np.cumsum(heights)), np.cumsum(heights), heights, strict=True):
        away = abs(top - height / 2 - 6)
        assert section.area() == pytest.approx(np.pi * max(0.0, 36 - away**2), rel=0.02, abs=0.2)
    same = outlines(sphere, 0.2)
    for one, other in zip(outlines_at(sphere, np.arange(1, 61) * np.float64(0.2)), same, strict=True):
        assert one.area() == pytest.approx(other.area(), rel=1e-6)


def test_heights_without_a_common_step_are_refused() -> None:
    with pytest.raises(SectionError, match="no whole numbers"):
        outlines_at(ball(3).dropped(), np.cumsum([0.2, 0.1000013, 0.12]))


def test_a_raft_lies_under_everything_and_the_figure_a_gap_above_it() -> None:
    rafted = KESTREL.model_copy(update={"raft_layers": 3, "brim_mm": 5.0})
    figure, post = box((0, 0, 3), (10, 10, 6)), box((12, 0, 2), (3, 3, 4))
    path, bare = (planned(figure, {None: post}, printer, 0.2) for printer in (rafted, KESTREL))
    mine = path.kind == RAFT
    assert path.layers == bare.layers + 3 and set(path.layer[mine]) == {0, 1, 2} and not (path.kind == BRIM).any()
    lift = 3 * 0.2 + min(KESTREL.support_gap_mm, 0.8 * KESTREL.nozzle_mm - 0.2)
    assert path.lift == pytest.approx(lift) and np.allclose(path.tops[3:], bare.tops + lift)
    assert path.volume_mm3 - path.fed[mine].sum() == pytest.approx(bare.volume_mm3, rel=1e-3)
    # The top layer is closed: the outline of both, 3 mm farther out.
    apart = 10 * 10 + 4 * 10 * 3 + np.pi * 9 + 3 * 3 + 4 * 3 * 3 + np.pi * 9
    overlap = 10 * 10 + 3 * 3 + 3 * (40 + 12)  # they meet between them
    closed = path.fed[mine & (path.layer == 2)].sum() / 0.2
    assert 0.8 * overlap < closed < apart
    assert path.fed[mine & (path.layer == 0)].sum() < 0.75 * path.fed[mine & (path.layer == 2)].sum()
    seen = Seen(figure, np.ones(len(figure.faces)))
    assert blemishes_of(path, seen.raised(path.lift), 8.0).shown == blemishes_of(bare, seen, 8.0).shown > 0


def test_the_board_knows_of_the_raft() -> None:
    rafted = KESTREL.model_copy(update={"raft_layers": 3})
    figure = box((0, 0, 3), (10, 10, 6))
    proof = prove(figure, 0.2, 0.21)
    rough = (proof.areas, proof.stack.contour_mm)
    with_raft, without = (
        sampled_use(figure, {}, printer, material=FILAMENT, height=0.2, rough=rough) for printer in (rafted, KESTREL)
    )
    path = planned(figure, {}, rafted, 0.2)
    assert with_raft.time_s == pytest.approx(
        KESTREL.start_s + path.seconds.sum() + path.layers * KESTREL.layer_change_s, rel=0.01
    )
    assert with_raft.volume_ml > without.volume_ml and with_raft.time_s > without.time_s + 20
