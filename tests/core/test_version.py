"""Versions of a sculpt: how their files lie to each other, and what of the deeds at places is still on the surface."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.contract import EditAsk, HoleAsk, StrokeDoc
from tenugui.core.errors import CoreError
from tenugui.core.mesh import Mesh
from tenugui.core.plan.version import carried, lies
from tests.shapes import ball, box, knobbly

STONE = knobbly(10, 4)


def at(mesh: Mesh, times: float, shift: tuple[float, float, float]) -> Mesh:
    return Mesh(mesh.vertices * times + np.array(shift, float), mesh.faces)


@given(
    st.sampled_from([1.0, 10.0, 25.4, 0.1, 1.37]),
    st.tuples(st.floats(-40, 40), st.floats(-40, 40), st.floats(-40, 40)),
)
@settings(max_examples=12, deadline=None)
def test_another_unit_or_place_is_found_out(times: float, shift: tuple[float, float, float]) -> None:
    way = lies(STONE, at(STONE, times, shift))
    assert way.times == pytest.approx(times, rel=1e-6)
    assert np.abs(way.shift - shift).max() < 0.002 * times * float(np.linalg.norm(STONE.size))
    assert way.off < 0.004


def test_a_figure_that_was_given_a_spear_lies_where_it_did() -> None:
    """Its extents and its middle move; its surface does not."""
    better = Mesh.joined([STONE, box((14, 0, 6), (1, 1, 40))])
    way = lies(STONE, better)
    assert way.times == 1.0 and np.abs(way.shift).max() < 0.1 and way.off < 0.005


def test_what_is_another_figure_is_refused() -> None:
    with pytest.raises(CoreError) as refused:
        lies(STONE, box((0, 0, 0), (4, 30, 60)))
    assert refused.value.code == "not-alike" and "%" in refused.value.what


def test_deeds_go_along_and_what_lies_on_nothing_is_told() -> None:
    """A ball that comes again in cm, moved, with its right half cut away: what was on that half is lost."""
    old = ball(10.0, fineness=4)
    keep = old.vertices[old.faces].mean(axis=1)[:, 0] < 0
    half = Mesh(old.vertices * 0.1 + np.array([3.0, 0, 0]), old.faces[keep])
    way = lies(old, at(old, 0.1, (3.0, 0, 0)))
    left, right = (-10.0, 0.0, 0.0), (10.0, 0.0, 0.0)
    strokes = [
        StrokeDoc(tool="brush", kind="show", points=[left, right], radius=1.0),
        StrokeDoc(tool="brush", kind="fit", points=[right], radius=1.0),
        StrokeDoc(tool="propose", kind="hidden", what="base"),
        StrokeDoc(tool="file", what="marks"),
    ]
    factor = 2.0 / way.times  # the old one was printed at twice its numbers
    edits = [
        EditAsk(op="add", at=(-20.0, 0.0, 0.0)),
        EditAsk(op="remove", at=(20.0, 0.0, 0.0)),
        EditAsk(op="raft", raft="feet"),
    ]
    holes = [HoleAsk(x_mm=s * 20.0, y_mm=0, z_mm=0, axis=(-s, 0, 0), diameter_mm=2.0) for s in (-1.0, 1.0)]
    got = carried(way, half, factor, strokes=strokes, edits=edits, holes=holes)
    brush, proposed = got.strokes
    assert brush.points is not None and brush.points[0] == pytest.approx((2.0, 0.0, 0.0), abs=0.01)
    assert len(brush.points) == 1 and brush.radius == pytest.approx(0.1) and proposed.what == "base"
    put, raft = got.edits
    assert put.at == pytest.approx((2.0 * factor, 0.0, 0.0), abs=0.1) and raft.raft == "feet"
    (hole,) = got.holes
    assert hole.x_mm == pytest.approx(2.0 * factor, abs=0.1) and hole.axis == (1.0, 0, 0) and hole.diameter_mm == 2.0
    assert got.lost == {
        "marks": "2 strokes lie on the surface no more, and went",
        "supports": "1 change lies on the surface no more, and went",
        "hollow": "1 hole lies on the surface no more, and went",
    }
    same = carried(lies(old, old), old, 2.0, strokes=strokes[:3], edits=edits, holes=holes)
    assert same.lost == {} and len(same.edits) == 3 and len(same.holes) == 2
