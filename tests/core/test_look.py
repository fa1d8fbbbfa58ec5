"""What people look at: a face where there is one, what bends otherwise than around it, and what is in sight."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tenugui.core.contract import PoseBoard
from tenugui.core.look import FACE_FROM, around, find_faces, look_at, saliency, sight
from tenugui.core.marks import KEPT_FREE, underside
from tenugui.core.marks.propose import FACE_WEIGHT, UNDERSIDE_WEIGHT
from tenugui.core.mesh import Mesh, decimate
from tenugui.core.plan import MemoryShelf, computed
from tenugui.core.plan.given import PoseGiven
from tenugui.core.plan.inputs import Inputs
from tenugui.core.plan.look import told_on_faces
from tenugui.core.plan.marks import proposed
from tenugui.core.pose import front_of, guess_up, is_sure
from tenugui.core.supports import Tip, tip_minutes
from tests.figures import CASES, portrait
from tests.given import figure_given
from tests.presets import FILAMENT, KESTREL
from tests.shapes import ball, box, mesh_of

FACE_AT = (0.0, -12.6, 21.2)
UP = (0.0, 0.0, 1.0)


@pytest.fixture(scope="module")
def head() -> Mesh:
    """The portrait, thinned as figures are before they are looked at."""
    return decimate(portrait(), 24_000)


def about_z(degrees: float) -> np.ndarray:
    """A turn about z."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])


@pytest.mark.parametrize("degrees", [30 * k for k in range(12)])
def test_the_portraits_face_is_found_however_its_file_is_turned(head: Mesh, degrees: float) -> None:
    turn = about_z(degrees + 3.0)
    (face, *more) = find_faces(head.transformed(turn), UP)
    assert more == []
    assert np.linalg.norm(np.array(face.middle) - turn @ FACE_AT) < 0.4 * face.radius
    assert 7 < face.radius < 16
    assert float(np.array(face.toward) @ (turn @ [0, -1, 0])) > 0.9


@pytest.mark.parametrize("name", ["marsh hound, y up", "winged hound", "sleeping abbot", "game piece"])
def test_no_face_is_found_where_there_is_none(name: str) -> None:
    assert find_faces(CASES[name].make(), CASES[name].up) == []


def test_a_face_that_lies_or_stands_on_its_head_is_none_and_says_which_way_is_up(head: Mesh) -> None:
    assert find_faces(head, (0, 0, -1)) == []
    assert find_faces(head, (0, 1, 0)) == []
    lying = Mesh(head.vertices[:, [0, 2, 1]] * [1, 1, -1], head.faces)  # y up, as sculptors save
    found = guess_up(lying)
    assert found[0].direction == pytest.approx((0, 1, 0), abs=0.1) and is_sure(found)


def test_the_front_is_where_the_face_looks(head: Mesh) -> None:
    turn = about_z(77)
    turned = head.transformed(turn)
    found = find_faces(turned, UP)
    assert float(np.array(front_of(turned, UP, faces=found)) @ (turn @ [0, -1, 0])) > 0.97


def test_one_bump_on_a_ball_is_all_that_is_salient() -> None:
    """A ball bends alike everywhere: its saliency is that of its facets."""
    stone = ball(10, (0, 0, 0), 5)
    away = np.linalg.norm(stone.vertices - [0, 0, 10], axis=1)
    bumped = Mesh(stone.vertices * (1 + 0.06 * np.exp(-(away**2) / 2))[:, None], stone.faces)
    told = saliency(bumped)
    middles = bumped.middles()
    far = np.linalg.norm(middles - [0, 0, 10.5], axis=1)
    assert told[far < 1.0].mean() > 0.8
    assert told[far > 5].mean() < 0.12 * told[far < 1.0].mean()
    assert (told[far > 5] > 0.5).mean() < 0.01


def test_saliency_is_of_the_surface_and_not_of_its_triangles() -> None:
    stone = ball(10, (0, 0, 0), 5)
    away = np.linalg.norm(stone.vertices - [0, 0, 10], axis=1)
    bumped = Mesh(stone.vertices * (1 + 0.06 * np.exp(-(away**2) / 2))[:, None], stone.faces)
    few = decimate(bumped, len(bumped.faces) // 2)
    near, far = (np.linalg.norm(m.middles() - [0, 0, 10.5], axis=1) for m in (bumped, few))
    for low, high in ((0, 1), (1, 3), (6, 20)):
        whole, less = (float(saliency(m)[(d >= low) & (d < high)].mean()) for m, d in ((bumped, near), (few, far)))
        assert less == pytest.approx(whole, abs=0.12)


def test_the_front_half_counts_three_times() -> None:
    """A ball's face is seen by the eyes to whose side it turns; by hand of every one of them."""
    stone = ball(10, (0, 0, 0), 3)
    normals, _ = stone.normals_and_areas()
    eyes = around()
    weight = np.where(eyes @ np.array([0, -1.0, 0]) > 0, 3.0, 1.0)
    by_hand = ((normals @ eyes.T > 0.05) * weight).sum(axis=1) / weight.sum()
    assert sight(stone, UP, (0, -1, 0)) == pytest.approx(by_hand, abs=1e-9)


def test_a_found_face_outranks_all_and_what_nobody_sees_counts_nothing(head: Mesh) -> None:
    found = find_faces(head, UP)
    told = look_at(head, UP, (0, -1, 0), found)
    middles, (normals, area) = head.middles(), head.normals_and_areas()
    cheeks = (np.linalg.norm(middles - [0, -12, 20], axis=1) < 6) & (normals[:, 1] < -0.6)
    assert (told.importance[cheeks] >= FACE_FROM).mean() > 0.95
    assert told.importance[middles[:, 1] > 6].max() < FACE_FROM, "hair is no face"
    under = (normals[:, 2] < -0.95) & (middles[:, 2] < head.lower[2] + 0.5)
    assert told.importance[under].max() < 0.05
    assert 0.03 < area[told.importance >= FACE_FROM].sum() / area.sum() < 0.35
    plain = look_at(head, UP, (0, -1, 0), ())
    assert plain.importance.max() < FACE_FROM and plain.faces == ()


def test_the_head_matters_more_than_the_foot_where_no_face_is_found() -> None:
    pile = Mesh.joined([box((0, 0, 5), (8, 8, 10)), box((0, 0, 35), (8, 8, 10)), box((0, 0, 20), (3, 3, 22))])
    told = look_at(pile, UP, None, (), salient=np.zeros(len(pile.faces)))
    normals, _ = pile.normals_and_areas()
    middles = pile.middles()
    side = np.abs(normals[:, 0]) > 0.9
    low, high = (told.importance[side & (np.abs(middles[:, 2] - z) < 3)].mean() for z in (5, 35))
    assert high > 1.3 * low > 0


def test_tips_on_a_face_are_told_with_their_price() -> None:
    """By hand: what sanding a scar costs there more than on a plain place, for each of them."""
    ways = [((0.0, 0.0, 0.0), (0.0, 0.0, z)) for z in (5.0, 6.0, 7.0)]
    tips = [Tip(0.0, 0.0, way[1][2], 0.3, (0.8,), "island", "plate", way) for way in ways]
    costs = np.array([FACE_WEIGHT, 1.0, FACE_WEIGHT])
    (told,) = told_on_faces(tips, costs, "resin")
    dearer = float((tip_minutes(tips, costs, "resin") - tip_minutes(tips, np.ones(3), "resin")).sum())
    assert told.code == "tip-on-face" and told.count == 2 and told.place == (0.0, 0.0, 5.0)
    assert f"about {max(1, round(dearer))} minutes" in told.message
    assert told_on_faces(tips, np.array([5.0, 1.0, KEPT_FREE]), "resin") == [], "what is kept free is told elsewhere"


def test_a_hollowed_underside_costs_nearly_nothing_and_its_figure_stands_on_filament() -> None:
    profile = np.array([[0, 1.2], [20, 0], [20, 3.5], [7, 4], [7, 34], [0, 36]])
    figure = mesh_of(trimesh.creation.revolve(profile, sections=64).subdivide_to_size(2.5))
    shelf = MemoryShelf()
    given = figure_given(shelf, figure, KESTREL, FILAMENT)
    weights = Inputs(shelf, given).weights
    assert weights is not None
    normals, area = figure.normals_and_areas()
    heights = figure.middles()[:, 2]
    under = (normals[:, 2] < -0.5) & (heights < 1.3)
    assert area[under].sum() == pytest.approx(np.pi * 20 * np.hypot(20, 1.2), rel=0.01)
    assert weights[under] == pytest.approx(UNDERSIDE_WEIGHT) and weights[~under].min() > 2 * UNDERSIDE_WEIGHT
    board = computed(shelf, "pose", PoseGiven(**given.plain()), PoseBoard)
    assert board.candidates[board.recommended].pose.down[2] < -0.99


def test_a_peg_is_no_underside() -> None:
    block = trimesh.creation.box((24, 24, 40)).subdivide_to_size(2)
    peg = trimesh.creation.cylinder(2.5, 6, transform=trimesh.transformations.translation_matrix((0, 0, -22)))
    shelf = MemoryShelf()
    given = figure_given(shelf, mesh_of(trimesh.boolean.union([block, peg], engine="manifold")), KESTREL, FILAMENT)
    inputs = Inputs(shelf, given)
    fits = proposed(shelf, given)["fits"]
    assert fits.any() and inputs.weights is not None and inputs.weights[fits].min() > 2 * UNDERSIDE_WEIGHT


def test_what_is_high_or_looks_sideways_or_is_seen_is_no_underside() -> None:
    table = Mesh.joined([box((0, 0, 31), (40, 40, 2)), box((0, 0, 15), (6, 6, 30))])
    normals, _ = table.normals_and_areas()
    found = underside(table, UP, np.zeros(len(table.faces)))
    assert found.any() and (table.middles()[found, 2] < 1).all() and (normals[found, 2] < -0.99).all()
    assert not underside(table, UP, np.ones(len(table.faces))).any()
