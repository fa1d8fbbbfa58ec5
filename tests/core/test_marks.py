"""Marks: strokes against arithmetic, replay on other meshes, proposals, the mirror, and their way through files."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import orjson
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.contract import pack_labels, pack_values, unpack_labels, unpack_values
from tenugui.core.formats import read, write_3mf
from tenugui.core.look import look_at
from tenugui.core.marks import (
    KINDS,
    MarkError,
    Stroke,
    labels_from_lists,
    lists_of,
    mirror_plane,
    propose,
    replay,
    scar_weights,
    strokes_from,
    transfer,
)
from tenugui.core.mesh import Mesh, decimate
from tests.shapes import ball, box, cylinder, knobbly, mesh_of

SHOW, HIDDEN = 1, 2


def fine_box() -> Mesh:
    """A box of 20 x 12 x 8 mm, cut small."""
    return mesh_of(trimesh.creation.box((20, 12, 8)).subdivide_to_size(0.6))


def stroke(**row: object) -> Stroke:
    return strokes_from([row])[0]


def test_a_brush_covers_a_disc_and_no_more() -> None:
    plate = fine_box()
    labels = replay(plate, [stroke(tool="brush", kind="show", points=[[0, 0, 4]], radius=3.0)])
    _, area = plate.normals_and_areas()
    middles = plate.corners().mean(axis=1)
    assert area[labels == SHOW].sum() == pytest.approx(np.pi * 9, rel=0.06)
    assert np.linalg.norm(middles[labels == SHOW] - [0, 0, 4], axis=1).max() <= 3.0


def test_a_brush_stops_at_a_crease_and_does_not_jump_through_the_figure() -> None:
    plate = fine_box()
    at_edge = {"tool": "brush", "kind": "show", "points": [[0, 5.5, 4]], "radius": 3.0}
    round_it = replay(plate, [stroke(**at_edge)])
    stopped = replay(plate, [stroke(**at_edge, crease=40)])
    normals, _ = plate.normals_and_areas()
    assert (normals[round_it == SHOW][:, 1] > 0.9).any() and not (normals[stopped == SHOW][:, 1] > 0.9).any()
    thin = mesh_of(trimesh.creation.box((20, 12, 1)).subdivide_to_size(0.6))
    through = replay(thin, [stroke(tool="brush", kind="show", points=[[0, 0, 0.5]], radius=3.0)])
    assert (thin.normals_and_areas()[0][through == SHOW][:, 2] > 0.9).all(), (
        "the other side is near, but does not hang together"
    )


def test_fill_and_flat_take_the_face_under_the_hand() -> None:
    plate = fine_box()
    _, area = plate.normals_and_areas()
    for tool, more in (("fill", {"crease": 30}), ("flat", {})):
        labels = replay(plate, [stroke(tool=tool, kind="hidden", points=[[2, 1, 4]], **more)])
        assert area[labels == HIDDEN].sum() == pytest.approx(20 * 12), tool
    stone = ball(6)
    assert (replay(stone, [stroke(tool="fill", kind="hidden", points=[[0, 0, 6]], crease=60)]) == HIDDEN).all()


def test_later_strokes_win_and_bare_takes_away() -> None:
    plate = fine_box()
    top = {"tool": "flat", "points": [[0, 0, 4]]}
    rows = [
        {**top, "kind": "show"},
        {**top, "kind": "hidden"},
        {"tool": "brush", "kind": "none", "points": [[0, 0, 4]], "radius": 2.0},
    ]
    labels = replay(plate, strokes_from(rows))
    assert not (labels == SHOW).any() and (labels == HIDDEN).any()
    middles = plate.corners().mean(axis=1)
    assert (labels[np.linalg.norm(middles - [0, 0, 4], axis=1) < 1.9] == 0).all()
    assert not replay(plate, strokes_from([*rows, {"tool": "clear"}])).any()


def test_a_mirrored_stroke_marks_both_sides() -> None:
    plate = fine_box()
    plane = mirror_plane(plate)
    assert plane is not None and abs(plane.offset) < 0.05 and plane.error < 0.2
    side = np.argmax(np.abs(plane.normal))
    place = np.zeros(3)
    place[side] = 0.8 * plate.upper[side]
    place[2] = 4.0 if side != 2 else place[2]
    labels = replay(
        plate, [stroke(tool="brush", kind="show", points=[place.tolist()], radius=1.5, mirror=True)], plane=plane
    )
    middles = plate.corners().mean(axis=1)[labels == SHOW]
    assert (middles[:, side] > 0).sum() == pytest.approx((middles[:, side] < 0).sum(), rel=0.25) and len(middles) > 10


def test_a_lopsided_figure_has_no_mirror() -> None:
    lopsided = Mesh.joined([box((0, 0, 0), (10, 7, 20)), ball(5, (9, 4, 7)), box((-7, -6, -4), (6, 3, 9))])
    assert mirror_plane(lopsided) is None


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_strokes_mark_the_same_places_on_a_coarser_copy(seed: int) -> None:
    """Marks survive a thinner copy: what is marked differs only along the rim."""
    rng = np.random.default_rng(seed)
    stone = knobbly(12, 5)
    coarse = decimate(stone, len(stone.faces) // 3)
    points = stone.corners().mean(axis=1)[rng.integers(0, len(stone.faces), 3)]
    strokes = [stroke(tool="brush", kind="show", points=points.tolist(), radius=4.0)]
    whole, few = (m.normals_and_areas()[1][replay(m, strokes) == SHOW].sum() for m in (stone, coarse))
    assert few == pytest.approx(whole, rel=0.12)


def test_labels_carried_to_another_mesh_stay_where_they_were() -> None:
    stone = knobbly(12, 5)
    coarse = decimate(stone, 4000)
    upper = (stone.corners().mean(axis=1)[:, 2] > 12).astype(np.uint8)
    carried = transfer(stone, upper, coarse)
    heights = coarse.corners().mean(axis=1)[:, 2]
    clear = np.abs(heights - 12) > 0.6
    assert (carried[clear] == (heights[clear] > 12)).all()


def test_what_is_seen_and_what_is_not() -> None:
    rng = np.random.default_rng(3)
    rough, plate = knobbly(8, 5), mesh_of(trimesh.creation.box((30, 30, 2)).subdivide_to_size(0.8))
    plate = Mesh(plate.vertices + [0, 0, 1], plate.faces)
    hut = Mesh.joined(
        [Mesh(rough.vertices + rng.normal(0, 0.05, rough.vertices.shape) + [0, 0, 2], rough.faces), plate]
    )
    look = look_at(hut, faces=())
    found = propose(hut, look)
    normals, _ = hut.normals_and_areas()
    under = (normals[:, 2] < -0.99) & (hut.corners()[:, :, 2].max(axis=1) < 0.01)
    assert (look.sight[under] == 0).all() and (found.faces["unseen"] | found.faces["cuts"])[under].all()
    assert look.sight[np.argmax(hut.corners().mean(axis=1)[:, 2])] > 0.5
    assert (look.importance[: len(rough.faces)].mean()) > look.importance[len(rough.faces) :].mean()
    assert found.faces["seen"][: len(rough.faces)].sum() > 0 and not (found.faces["seen"] & found.faces["unseen"]).any()


def test_pegs_are_proposed_as_fits() -> None:
    peg = mesh_of(
        trimesh.boolean.union(
            [
                trimesh.creation.box((20, 20, 10)).subdivide_to_size(1.5),
                trimesh.creation.cylinder(
                    2.5, 6, sections=48, transform=trimesh.transformations.translation_matrix((0, 0, 7))
                ),
            ]
        )
    )
    found = propose(peg, look_at(peg, faces=()))
    middles = peg.corners().mean(axis=1)
    on_peg = (np.hypot(middles[:, 0], middles[:, 1]) < 2.6) & (middles[:, 2] > 5.2)
    assert found.faces["fits"][on_peg].mean() > 0.9


def test_a_scar_costs_by_what_it_is_on() -> None:
    weights = scar_weights(np.arange(6, dtype=np.uint8))
    assert weights[1] > weights[0] > weights[2] and weights[3] > weights[1] and weights[4] > weights[1]


@given(st.lists(st.integers(0, len(KINDS)), min_size=1, max_size=60))
def test_lists_and_packing_keep_labels(labels: list[int]) -> None:
    held = np.array(labels, np.uint8)
    assert (labels_from_lists(lists_of(held), len(held)) == held).all()
    assert (unpack_labels(pack_labels(held)) == held).all()
    values = held / 7
    assert unpack_values(pack_values(values)) == pytest.approx(values)


BAD_STROKES = {
    "no list": {"a": 1},
    "no tool": [{"tool": "axe"}],
    "no such kind": [{"tool": "brush", "kind": "pretty", "points": [[0, 0, 0]]}],
    "no points": [{"tool": "brush", "kind": "show"}],
    "words for points": [{"tool": "fill", "kind": "show", "points": "here"}],
    "not finite": [{"tool": "flat", "kind": "show", "points": [[0, float("nan"), 0]]}],
    "too large": [{"tool": "brush", "kind": "show", "points": [[0, 0, 0]], "radius": 1e9}],
    "too many points": [{"tool": "brush", "kind": "show", "points": [[0, 0, 0]] * 4001}],
    "too many strokes": [{"tool": "clear"}] * 5001,
}


@pytest.mark.parametrize("name", BAD_STROKES)
def test_bad_strokes_are_refused_in_words(name: str) -> None:
    with pytest.raises(MarkError) as refused:
        strokes_from(BAD_STROKES[name])
    assert refused.value.code == "bad-stroke" and refused.value.what


@pytest.mark.parametrize(
    "lists",
    [None, {"pretty": [1]}, {"show": "all"}, {"show": [-1]}, {"show": [99]}, {"show": [0.5]}, {"show": [[1], [2, 3]]}],
)
def test_bad_lists_are_refused(lists: object) -> None:
    with pytest.raises(MarkError):
        labels_from_lists(lists, 10)


def test_marks_travel_in_3mf_and_return() -> None:
    parts = {"figure": knobbly(8, 3), "plinth": cylinder(9, 3)}
    rng = np.random.default_rng(5)
    labels = rng.integers(0, 6, len(parts["figure"].faces)).astype(np.uint8)
    held = io.BytesIO()
    write_3mf(parts, held, {"figure": labels})
    back = read(held)
    assert set(back.marks) == {"figure"} and (back.marks["figure"] == labels).all()
    plain = io.BytesIO()
    write_3mf(parts, plain)
    assert read(plain).marks == {}
    with zipfile.ZipFile(held) as package:
        model = package.read("3D/3dmodel.model").decode()
    assert all(f'name="{kind}"' in model for kind in KINDS), "any reader of 3MF shows them by name"


SHARED = orjson.loads((Path(__file__).parents[1] / "fixtures" / "strokes.json").read_bytes())


@pytest.mark.parametrize("case", SHARED["cases"], ids=lambda c: c["strokes"][0]["tool"])
def test_the_core_replays_what_the_page_shows(case: dict[str, Any]) -> None:
    """The page replays the same file (web/src/turntable/surface.test.ts): a rule changed on one side alone fails here
    or there.
    """
    mesh = Mesh(np.array(SHARED["vertices"]), np.array(SHARED["faces"]))
    labels = replay(mesh, strokes_from(case["strokes"]))
    assert labels.tolist() == case["labels"]
    assert 0 < np.count_nonzero(labels) < len(mesh.faces)
