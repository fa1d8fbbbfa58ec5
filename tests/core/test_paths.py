"""Outlines, lines, motion and G-code of a filament print: closed forms, areas by another engine, and a file that is
read again by plain means.
"""

from __future__ import annotations

import math
import re

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from manifold3d import CrossSection

from tenugui.core.layers import prove
from tenugui.core.machines import FilamentPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.paths import (
    GcodeError,
    PathError,
    filament_use,
    layer_of,
    planned,
    read_gcode,
    sampled_use,
    write_gcode,
)
from tenugui.core.paths.gcode import filament_mm2
from tenugui.core.paths.infill import sparse, waves
from tenugui.core.paths.lines import (
    BRIM,
    INNER,
    INTERFACE,
    OUTER,
    SOLID,
    SPARSE,
    SUPPORT,
    TRAVEL,
    Line,
    fill,
    line_mm2,
    pitch_of,
    rings,
)
from tenugui.core.paths.motion import seconds
from tenugui.core.paths.order import RANK, laid
from tenugui.core.paths.sampled import SAMPLES
from tenugui.core.sections import loops_of, outlines
from tenugui.core.sections.screen import SectionError
from tests.presets import FILAMENT, KESTREL
from tests.shapes import ball, box, hollow_ball, knobbly

assert isinstance(KESTREL, FilamentPrinter)
FULL = KESTREL.model_copy(update={"infill": 1.0})
A = KESTREL.acceleration_mm_s2


def square(side: float) -> CrossSection:
    return CrossSection.square((side, side), True)


# Outlines.


def test_outlines_have_the_area_that_the_runs_have() -> None:
    """Overlapping shells, a hollow one, and a rough one; the other engine counts on scan lines of 0.02 mm."""
    figure = Mesh.joined([ball(5, (0, 0, 5), 4), ball(4, (4, 0, 5), 4), hollow_ball(4, 3).dropped(), knobbly(6, 4)])
    figure = Mesh(figure.vertices - [0, 0, figure.lower[2]], figure.faces)
    sections, areas = outlines(figure, 0.2), prove(figure, 0.2, 0.2, pitch=0.02).areas
    assert len(sections) == len(areas)
    assert max(abs(s.area() - a) / max(a, 1.0) for s, a in zip(sections, areas, strict=True)) < 2e-3


def test_outlines_of_a_tube_are_a_ring_and_its_hole_runs_the_other_way() -> None:
    (section, *_) = outlines(Mesh.joined([hollow_ball(6, 5).dropped()]), 6.0)
    outer, hole = sorted(loops_of(section), key=lambda loop: -abs(_area(loop)))
    assert _area(outer) > 0 > _area(hole)


def test_a_surface_with_holes_is_refused_rather_than_printed_without_them() -> None:
    whole = ball(5, (0, 0, 5), 4)
    open_ = Mesh(whole.vertices, whole.faces[:-40])
    with pytest.raises(SectionError) as refused:
        outlines(open_, 0.2)
    assert refused.value.code == "open-outline" and "Mend" in refused.value.remedy


def _area(loop: np.ndarray) -> float:
    x, y = loop.T
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)


# Lines.


def test_lines_that_lie_their_pitch_apart_fill_a_square() -> None:
    h, w = 0.2, 0.42
    region = square(20)
    made = rings(region, pitch_of(w, h) / 2, pitch_of(w, h), 3)
    walls, inside = made.lines, made.inside
    assert made.lost < 0.05, "but for its corners a square is drawn"
    assert [line.kind for line in walls] == [OUTER, INNER, INNER] and all(line.closed for line in walls)
    assert math.sqrt(inside.area()) == pytest.approx(20 - 6 * pitch_of(w, h), rel=1e-3)
    length = sum(
        np.linalg.norm(np.diff(line.points, axis=0), axis=1).sum() for line in fill(inside, pitch_of(w, h), 45, SOLID)
    )
    length += sum(4 * (20 - (2 * k + 1) * pitch_of(w, h)) for k in range(3))
    assert length * line_mm2(w, h) == pytest.approx(400 * h, rel=0.01)


@settings(max_examples=40, deadline=None)
@given(st.floats(0, 180), st.floats(0.3, 3))
def test_infill_stays_inside_and_keeps_its_spacing(degrees: float, spacing: float) -> None:
    region = square(12) - square(5)
    lines = fill(region, spacing, degrees, SPARSE)
    turn = math.radians(degrees)
    across = np.array([-math.sin(turn), math.cos(turn)])
    for line in lines:
        for t in np.linspace(0.01, 0.99, 9):
            x, y = np.abs(line.points[0] + t * (line.points[1] - line.points[0]))
            assert max(x, y) <= 6 + 1e-6 and max(x, y) >= 2.5 - 1e-6
        offset = float(line.points[0] @ across) / spacing
        assert offset == pytest.approx(round(offset), abs=1e-6)


def test_lines_are_drawn_from_the_nearest_end_and_loops_from_the_back() -> None:
    far, near = (fill(square(2).translate((x, 0)), 5, 0, SPARSE) for x in (10, 3))
    moves = laid([*far, *near], np.zeros(2))
    assert moves.line.tolist() == [1, 1, 0, 0] and moves.travel.tolist() == [True, False] * 2
    assert moves.points[0, 0] == pytest.approx(2) and moves.points[2, 0] == pytest.approx(9)
    loop = rings(square(8), 0.2, 0.4, 1).lines
    moves = laid(loop, np.array([0.0, -9.0]))
    assert moves.points[0, 1] == pytest.approx(3.8) and np.allclose(moves.points[0], moves.points[-1])


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_each_line_is_drawn_once_and_is_the_nearest_of_its_kind(seed: int) -> None:
    """Against the plain rule, one line after the other."""
    rng = np.random.default_rng(seed)
    kinds = rng.choice([SUPPORT, INNER, SPARSE], 14)
    lines = [Line(rng.uniform(0, 20, (2, 2)), int(kind), False) for kind in kinds]
    moves = laid(lines, np.zeros(2))
    here, left = np.zeros(2), list(range(len(lines)))
    drawn = moves.points.reshape(-1, 2, 2)
    for line, (begin, end) in zip(moves.line[::2].tolist(), drawn, strict=True):
        rank = min(RANK[lines[k].kind] for k in left)
        ends = [
            (np.hypot(*(p - here)), k, i)
            for k in left
            if RANK[lines[k].kind] == rank
            for i, p in enumerate(lines[k].points)
        ]
        _, nearest, i = min(ends)
        assert (
            line == nearest
            and np.allclose(begin, lines[line].points[i])
            and np.allclose(end, lines[line].points[1 - i])
        )
        left.remove(line)
        here = end
    assert not left


# Motion.


@settings(max_examples=80, deadline=None)
@given(st.floats(0.01, 200), st.floats(5, 300), st.floats(100, 20_000))
def test_a_straight_move_takes_its_trapezoid(length: float, speed: float, acceleration: float) -> None:
    (took,) = seconds(np.array([[0, 0, 0], [length, 0, 0]]), np.array([speed]), acceleration, 0.02)
    ramp = speed**2 / acceleration
    by_hand = length / speed + speed / acceleration if ramp <= length else 2 * math.sqrt(length / acceleration)
    assert took == pytest.approx(by_hand)


def test_moves_in_a_line_are_one_and_a_turn_about_stops() -> None:
    whole = seconds(np.array([[0, 0, 0], [30, 0, 0]]), np.array([60.0]), A, 0.02).sum()
    parts = seconds(np.array([[0, 0, 0], [7, 0, 0], [19, 0, 0], [30, 0, 0]]), np.full(3, 60.0), A, 0.02).sum()
    assert parts == pytest.approx(whole)
    back = seconds(np.array([[0, 0, 0], [30, 0, 0], [0, 0, 0]]), np.full(2, 60.0), A, 0.02).sum()
    assert back == pytest.approx(2 * whole, rel=1e-6)


def test_a_right_angle_is_passed_at_the_speed_of_its_deviation() -> None:
    """v² = a δ sin(45°) / (1 - sin(45°)); by hand for two moves of 30 mm."""
    v = 60.0
    corner = math.sqrt(A * 0.02 * math.sin(math.pi / 4) / (1 - math.sin(math.pi / 4)))
    one = (v - 0) / A + (v - corner) / A + (30 - (2 * v * v - corner**2) / (2 * A)) / v
    took = seconds(np.array([[0, 0, 0], [30, 0, 0], [30, 30, 0]]), np.full(2, v), A, 0.02)
    assert took == pytest.approx([one, one])


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(*[st.floats(-20, 20)] * 3), min_size=2, max_size=30), st.floats(10, 100))
def test_no_move_is_faster_than_its_speed_and_more_acceleration_never_slower(
    points: list[tuple[float, ...]], speed: float
) -> None:
    at = np.array(points)
    long = np.linalg.norm(np.diff(at, axis=0), axis=1)
    slow, quick = (seconds(at, np.full(len(long), speed), a, 0.02) for a in (500.0, 4000.0))
    assert (slow >= long / speed - 1e-9).all() and quick.sum() <= slow.sum() + 1e-9


# The whole path.


@pytest.mark.parametrize("height", [0.1, 0.2, 0.28])
def test_a_full_cube_takes_its_volume(height: float) -> None:
    cube = box((0, 0, 5.6 / 2), (20, 20, 5.6))
    path = planned(cube, {}, FULL, height)
    assert path.volume_mm3 == pytest.approx(20 * 20 * 5.6, rel=0.01)
    assert path.layers == round(5.6 / height) and path.lost.max() < 0.5


def test_roofs_and_floors_are_closed_and_the_middle_is_sparse() -> None:
    path = planned(box((0, 0, 5), (20, 20, 10)), {}, KESTREL, 0.2)
    closed = round(KESTREL.roof_mm / 0.2)
    kinds = [set(path.kind[path.layer == k].tolist()) for k in range(path.layers)]
    for k in range(path.layers):
        middle = closed <= k < path.layers - closed
        assert (SPARSE in kinds[k]) == middle and (SOLID in kinds[k]) != middle
    drawn = np.linalg.norm(np.diff(path.points, axis=0), axis=1)
    sparse = drawn[(path.kind == SPARSE) & (path.layer == 25)].sum() * pitch_of(KESTREL.line_mm, 0.2)
    inside = (20 - 2 * KESTREL.perimeters * pitch_of(KESTREL.line_mm, 0.2)) ** 2
    assert sparse / inside == pytest.approx(KESTREL.infill, rel=0.1)


def test_what_is_thinner_than_a_line_is_told_as_lost() -> None:
    blade = Mesh.joined([box((0, 0, 2), (8, 8, 4)), box((7, 0, 2), (6, 0.3, 4))])
    path = planned(blade, {}, KESTREL, 0.2)
    assert path.lost == pytest.approx(np.full(20, 6 * 0.3), rel=0.15)


def test_supports_are_sparse_and_close_under_the_figure() -> None:
    table, post = box((0, 0, 11), (12, 12, 2)), box((0, 0, 4.9), (10, 10, 9.8))
    path = planned(table, {None: post}, KESTREL, 0.2)
    top = [k for k in range(path.layers) if INTERFACE in path.kind[path.layer == k]]
    assert top == [47, 48], "two closed layers end a gap of 0.2 mm below z = 10"
    assert SUPPORT in path.kind[path.layer == 10] and OUTER not in path.kind[path.layer == 10]


def test_a_short_layer_is_slowed_and_a_longer_travel_is_drawn_back() -> None:
    pins = Mesh.joined([box((0, 0, 2), (5, 5, 4)), box((30, 0, 2), (5, 5, 4))])
    path = planned(pins, {}, KESTREL, 0.2)
    assert path.by_layer()[1:] == pytest.approx(np.full(19, KESTREL.least_layer_s), rel=0.02)
    assert path.by_layer()[0] > KESTREL.least_layer_s, "the first layer is slow by itself"
    again = seconds(path.points, path.speed, A, KESTREL.corner_mm).sum()
    assert again == pytest.approx(path.seconds.sum(), rel=0.1), "its speeds are those that the file has"
    crumb = planned(box((0, 0, 1), (0.9, 0.9, 2)), {}, KESTREL, 0.2)
    assert crumb.speed[crumb.kind != TRAVEL].min() == pytest.approx(5.0), "and no line slower than a crawl"
    long = np.linalg.norm(np.diff(path.points, axis=0), axis=1)
    assert path.drawn[(path.kind == TRAVEL) & (long > 20)].all() and not path.drawn[path.kind != TRAVEL].any()


@pytest.mark.parametrize("height", [0.0, -0.1, 0.35])
def test_a_layer_that_no_nozzle_lays_is_refused(height: float) -> None:
    with pytest.raises(PathError) as refused:
        planned(box((0, 0, 1), (4, 4, 2)), {}, KESTREL, height)
    assert refused.value.code == "bad-height" and "0.32" in refused.value.remedy


# G-code.

PATH = planned(Mesh.joined([ball(6, (0, 0, 6), 4)]), {}, KESTREL, 0.2)
TEXT = write_gcode(PATH, KESTREL, FILAMENT)


def test_gcode_reads_back_as_the_same_lines_time_and_grams() -> None:
    back = read_gcode(TEXT)
    nozzle = KESTREL.retract_mm * filament_mm2(KESTREL)
    assert back.volume_mm3(KESTREL) + nozzle == pytest.approx(PATH.volume_mm3, rel=1e-5)
    assert back.layers == PATH.layers
    drawn = back.fed > 0
    moved = np.linalg.norm(np.diff(back.points, axis=0), axis=1) > 0
    assert int((drawn & moved).sum()) == int((PATH.fed > 0).sum())
    assert back.seconds(KESTREL) == pytest.approx(PATH.seconds.sum(), rel=0.03), "homing and the way off aside"


def test_gcode_by_plain_means_lays_the_same_volume_on_the_same_heights() -> None:
    """No reader of ours: the extruder's last word is what goes in, and every move lies on the plate."""
    told = [float(e) for e in re.findall(r"^G1 X\S+ Y\S+ E(\S+)", TEXT, re.M)]
    assert told == sorted(told) and told[-1] * filament_mm2(KESTREL) == pytest.approx(PATH.volume_mm3, rel=1e-5)
    z = sorted({float(v) for v in re.findall(r"Z(\S+)", TEXT)})
    assert z == pytest.approx([*(round(0.2 * (k + 1), 3) for k in range(60)), 17.0]), "and it leaves upwards"
    assert TEXT.index("; layer 2 of 60") < TEXT.index("M106 S255") < TEXT.rindex("M107") < TEXT.index("Z17.000")
    assert not re.search(r"^G0 X.*Z", TEXT, re.M), "up before across"
    x = np.array([float(v) for v in re.findall(r"X(\S+)", TEXT)])
    assert x.min() > 0 and x.max() < KESTREL.build_mm[0] and abs((x.min() + x.max()) / 2 - KESTREL.build_mm[0] / 2) < 1
    words = {line.split()[0] for line in TEXT.splitlines() if line and not line.startswith(";")}
    assert words == {"G0", "G1", "G28", "G21", "G90", "M82", "G92", "M104", "M106", "M107", "M109", "M140", "M190"}
    assert TEXT.index("M109") < TEXT.index("G28") < TEXT.index("; layer 1 of 60")


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("G28\nG5 X1 Y1", "unknown-word"),
        ("G1 Xten", "bad-number"),
        ("G1 X1e999", "bad-number"),
        ("G91\nG1 X1", "relative"),
        ("M83", "relative"),
        ("G1 X5", "no-speed"),
    ],
)
def test_gcode_that_cannot_be_read_is_refused_by_its_line(text: str, code: str) -> None:
    with pytest.raises(GcodeError) as refused:
        read_gcode(text)
    assert refused.value.code == code and "line" in refused.value.where


def plainly_read(text: str) -> tuple[str, list[list[float]]]:
    """Moves of G-code by Python's own floats: x, y, z, mm/s and mm of filament; and what is refused."""
    at, fed, pace, rows = {"X": 0.0, "Y": 0.0, "Z": 0.0}, 0.0, 0.0, list[list[float]]()
    for raw in text.split("\n"):
        words = raw.split(";", 1)[0].split()
        told = {}
        for word in words[1:]:
            if not re.fullmatch(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?", word[1:], re.A) or not math.isfinite(
                float(word[1:])
            ):
                return "bad-number", rows
            told[word[0]] = float(word[1:])
        if not words:
            continue
        if words[0] in ("G0", "G1"):
            pace = told.get("F", pace * 60) / 60
            if pace <= 0:
                return "no-speed", rows
            at = {axis: told.get(axis, at[axis]) for axis in at}
            rows.append([*at.values(), pace, told.get("E", fed) - fed])
            fed += rows[-1][4]
        elif words[0] == "G92":
            fed = told.get("E", fed)
        elif words[0] in ("G91", "M83"):
            return "relative", rows
        elif words[0] not in ("G28", "G21", "G90", "M82", "M104", "M106", "M107", "M109", "M140", "M190"):
            return "unknown-word", rows
    return "", rows


NUMBERS = st.one_of(
    st.floats(-500, 500).map(lambda v: f"{v:.3f}"),
    st.floats(0, 1e6).map(repr),
    st.sampled_from(
        ["7", "+.5", "3.", "-0", "1e2", "2E-3", "00012.50", "", ".", "1-", "nan", "1e999", "٣", "12345678901234567890"]
    ),
)
WORDS = st.sampled_from(["G0", "G1", "G1", "G1", "G28", "G92", "M104", "M107", "G91", "G5", "g1", "G1X", "MM", "é"])
LINES = st.tuples(
    WORDS,
    st.lists(st.tuples(st.sampled_from("XYZEFS"), NUMBERS), max_size=4),
    st.sampled_from(["", " ; note", "\t", "\r"]),
)


@settings(max_examples=300, deadline=None)
@given(st.lists(LINES, max_size=12))
@example([("G0", [("F", "1.4432967303850594e-304")], "")])
def test_gcode_is_read_as_plain_means_read_it(lines: list[tuple[str, list[tuple[str, str]], str]]) -> None:
    text = "\n".join(
        f"{word} {' '.join(a + n for a, n in told)}{note}" for word, told, note in [("G0", [("F", "600")], ""), *lines]
    )
    code, rows = plainly_read(text)
    if code:
        with pytest.raises(GcodeError) as refused:
            read_gcode(text)
        assert refused.value.code == code
        return
    back = read_gcode(text)
    assert np.allclose(back.points[1:], np.array(rows)[:, :3], rtol=1e-13, atol=1e-18)
    assert np.allclose(back.speed, np.array(rows)[:, 3], rtol=1e-13) and np.allclose(
        back.fed, np.array(rows)[:, 4], rtol=1e-9, atol=1e-9
    )


def test_what_a_print_takes_from_some_of_its_layers_agrees_with_the_whole_path() -> None:
    """A knobbly stone on supports as they are printed: seconds and volume of the path itself, to within 2.5 %; rough
    lengths over speeds are off by more.
    """
    figure = knobbly(12, 4).scaled(1.2)
    figure = Mesh(figure.vertices - [0, 0, figure.lower[2] - 3.0], figure.faces)
    legs = Mesh.joined([box((x, y, 3), (1.5, 1.5, 6)) for x in (-4, 0, 4) for y in (-4, 0, 4)])
    whole = prove(Mesh.joined([figure, legs]), 0.12, 0.4)
    path = planned(figure, {None: legs}, KESTREL, 0.12)
    took = KESTREL.start_s + path.seconds.sum() + KESTREL.layer_change_s * path.layers
    laid = path.volume_mm3 / 1000 * (1 + FILAMENT.waste)
    areas, contours = whole.areas, whole.stack.contour_mm
    told = sampled_use(figure, {None: legs}, KESTREL, material=FILAMENT, height=0.12, rough=(areas, contours))
    rough = filament_use(KESTREL, FILAMENT, 0.12, areas, contours)
    assert path.layers > 2 * SAMPLES, "most layers are not planned"
    assert told.time_s == pytest.approx(took, rel=0.025) and told.volume_ml == pytest.approx(laid, rel=0.025)
    assert abs(rough.volume_ml / laid - 1) > 0.1
    assert told.clock_s[-1] == told.time_s and (np.diff(told.clock_s) > 0).all()


def test_where_every_layer_is_planned_what_it_takes_is_the_path_exactly() -> None:
    figure = box((0, 0, 2.5), (14, 9, 5))
    whole = prove(figure, 0.2, 0.4)
    path = planned(figure, {}, KESTREL, 0.2)
    told = sampled_use(figure, {}, KESTREL, material=FILAMENT, height=0.2, rough=(whole.areas, whole.stack.contour_mm))
    assert told.time_s == pytest.approx(KESTREL.start_s + path.seconds.sum() + KESTREL.layer_change_s * path.layers)
    assert told.layer_mm3.sum() == pytest.approx(path.volume_mm3, rel=1e-3)
    with pytest.raises(PathError, match="cannot be laid"):
        sampled_use(figure, {}, KESTREL, material=FILAMENT, height=0.5, rough=(whole.areas, whole.stack.contour_mm))


def test_a_layer_of_a_file_plays_as_the_layer_of_the_plan() -> None:
    figure = Mesh.joined([box((0, 0, 2), (12, 8, 4)), box((3, 2, 5), (4, 4, 2))])
    path = planned(figure, {}, KESTREL, 0.2)
    text = write_gcode(path, KESTREL, FILAMENT)
    for number in (1, 11, path.layers):
        played = layer_of(text, number, KESTREL)
        mine = path.layer == number - 1
        drawn = played.kind != TRAVEL
        assert (played.kind[drawn] == path.kind[mine & (path.kind != TRAVEL)]).all()
        laid = played.fed[drawn].sum() * filament_mm2(KESTREL)
        assert laid == pytest.approx(path.fed[mine].sum(), abs=0.01)
        assert played.seconds.sum() == pytest.approx(path.seconds[mine].sum(), rel=0.03, abs=1.5), (
            "the last leaves the print too"
        )
        assert played.points[1:][drawn][:, 2] == pytest.approx(number * 0.2)
    with pytest.raises(GcodeError, match="no layer 0"):
        layer_of(text, 0, KESTREL)


@settings(max_examples=6, deadline=None)
@given(st.sampled_from([0, 1, 2]), st.floats(0.08, 0.4))
def test_every_form_of_infill_lays_its_share(form: int, share: float) -> None:
    """Of a square of 60 mm, over the layers of a whole cell: length by line over area, to within 6 %."""
    pitch, layers, height = 0.4, 24, 0.25
    laid = [sparse(square(60), pitch, share, layer=k, z=(k + 0.5) * height, form=form) for k in range(layers)]
    long = sum(float(np.linalg.norm(np.diff(line.points, axis=0), axis=1).sum()) for one in laid for line in one)
    assert long * pitch / (60 * 60 * layers) == pytest.approx(share, rel=0.06)
    inside = np.concatenate([line.points for one in laid for line in one])
    assert np.abs(inside).max() < 30 + 1e-6


def test_waves_stay_inside_and_out_of_holes() -> None:
    region = square(40) - square(15)
    points = np.concatenate([line.points for line in waves(region, 5.0, 1.3)])
    far = np.abs(points).max(axis=1)
    assert far.max() <= 20 and far.min() >= 7.5 and len(points) > 1000
    a, b, c = (2 * np.pi / 5.0 * v for v in (points[:, 0], points[:, 1], 1.3))
    on = np.sin(a) * np.cos(b) + np.sin(b) * np.cos(c) + np.sin(c) * np.cos(a)
    assert np.abs(on).max() < 0.12


def test_a_brim_is_drawn_first_around_the_foot_and_only_there() -> None:
    wide = KESTREL.model_copy(update={"brim_mm": 4.0})
    path, bare = (planned(box((0, 0, 2), (10, 10, 4)), {}, printer, 0.2) for printer in (wide, KESTREL))
    mine = path.kind == BRIM
    assert set(path.layer[mine]) == {0} and int(np.flatnonzero(path.kind != TRAVEL)[0]) == int(np.flatnonzero(mine)[0])
    pitch = pitch_of(KESTREL.line_mm, 0.2)
    wide_mm = math.ceil(4.0 / pitch) * pitch
    around = 4 * 10 * wide_mm + math.pi * wide_mm**2
    assert path.fed[mine].sum() == pytest.approx(around * 0.2, rel=0.02)
    assert path.volume_mm3 - path.fed[mine].sum() == pytest.approx(bare.volume_mm3, rel=1e-3)


def test_loops_begin_in_their_crease_and_the_nozzle_rises_to_cross() -> None:
    notched = Mesh.joined([box((-5, 0, 2), (4, 12, 4)), box((5, 0, 2), (4, 12, 4)), box((0, -4, 2), (8, 4, 4))])
    creased = KESTREL.model_copy(update={"seam_at": 1, "perimeters": 1, "infill": 0.0, "roof_mm": 0.0})
    path = planned(notched, {}, creased, 0.2)
    starts = np.flatnonzero((path.kind[1:] == OUTER) & (path.kind[:-1] == TRAVEL)) + 1
    x, y = path.points[starts, 0], path.points[starts, 1]
    assert (np.abs(np.abs(x) - 3.2) < 0.4).all() and (np.abs(y + 1.8) < 0.4).all(), "where the notch meets its sides"
    text = write_gcode(path, creased, FILAMENT)
    high = [float(z) for z in re.findall(r"^G0 Z([\d.]+)", text, re.M)]
    assert any(abs(z % 0.2) < 1e-6 or abs(z % 0.2 - 0.2) < 1e-6 for z in high)
    flat = write_gcode(path, creased.model_copy(update={"hop_mm": 0.0}), FILAMENT)
    assert flat.count("\nG0 Z") < text.count("\nG0 Z")
