"""The door to the folds: sound figures pass untouched, broken ones come out mended or are refused in words; whatever
way they lie.
"""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tenugui.core.mesh import Mesh, fit_for_work, measure
from tenugui.core.mesh.edges import face_volumes
from tenugui.core.repair import RepairError, loose_specks, make_ready, repair, solid_volume
from tests.shapes import ball, box, cup, fork, hollow_ball, knobbly


def turned(mesh: Mesh, seed: int) -> Mesh:
    return mesh.transformed(Rotation.random(random_state=seed).as_matrix())


def volume(mesh: Mesh) -> float:
    return float(face_volumes(mesh).sum())


@pytest.mark.parametrize(
    "mesh", [ball(5), fork(), hollow_ball(), cup(), knobbly()], ids=["ball", "boxes", "hollow", "cup", "stone"]
)
def test_a_sound_figure_is_worked_on_as_it_is(mesh: Mesh) -> None:
    ready = make_ready(mesh)
    assert ready.mesh is mesh and not ready.changed and np.array_equal(ready.faces, np.arange(len(mesh.faces)))


def test_faces_that_name_a_vertex_twice_and_idle_vertices_are_left_out_with_a_map() -> None:
    stone = knobbly(fineness=3)
    odd = np.array([[5, 5, 9], [7, 8, 7]], np.int32)
    faces = np.vstack([stone.faces[:10], odd[:1], stone.faces[10:], odd[1:]])
    made = fit_for_work(Mesh(np.vstack([stone.vertices, [[0, 0, -90.0]]]), faces))
    assert np.array_equal(made.mesh.faces, stone.faces) and made.mesh.lower[2] == pytest.approx(0)
    assert np.array_equal(faces[made.faces], stone.faces)
    labels = np.arange(len(faces))
    assert 10 not in make_ready(Mesh(stone.vertices, faces)).carried(labels)


@pytest.mark.parametrize("seed", range(10))
def test_turning_does_not_depend_on_how_the_figure_lies(seed: int) -> None:
    """An animal inside out is righted, a right cavity stays, a figure that is inside out with its cavity is righted
    with it.
    """
    animal = turned(Mesh(knobbly(12, 4).vertices, knobbly(12, 4).faces[:, ::-1]), seed)
    assert volume(make_ready(animal).mesh) == pytest.approx(volume(knobbly(12, 4)))
    hollow = turned(hollow_ball(fineness=4), seed)
    assert make_ready(hollow).mesh is hollow
    wrong = Mesh(hollow.vertices, hollow.faces[:, ::-1])
    assert volume(make_ready(wrong).mesh) == pytest.approx(volume(hollow), rel=1e-9)
    pair = turned(Mesh.joined([ball(6, fineness=4), ball(2, (1, 0, 0), 3)]), seed)
    assert make_ready(pair).mesh is pair  # a solid within a solid: the same way round, no cavity


@pytest.mark.parametrize("seed", range(4))
def test_open_and_inside_out_is_righted_too(seed: int) -> None:
    stone = knobbly(12, 4)
    lost = np.random.default_rng(seed).choice(len(stone.faces), 20, replace=False)
    wrong = turned(Mesh(stone.vertices, np.delete(stone.faces, lost, axis=0)[:, ::-1]), seed)
    made = make_ready(wrong)
    assert volume(made.mesh) == pytest.approx(volume(stone), rel=0.01) and measure(made.mesh).watertight


def test_vertices_of_removed_faces_do_not_stay() -> None:
    stone = knobbly(12, 4)
    fin = np.array([[0, 0, 60.0], [1, 0, 60], [0, 1, 60]])
    back_to_back = np.array([[0, 1, 2], [0, 2, 1]], np.int32) + len(stone.vertices)
    broken = Mesh(np.vstack([stone.vertices, fin]), np.vstack([stone.faces[1:], stone.faces[1:2], back_to_back]))
    made = make_ready(broken, specks=True)
    assert made.mesh.size[2] == pytest.approx(stone.size[2]) and made.open_left == 0


def test_needles_are_taken_out_and_not_filled_around() -> None:
    """184 faces of no area across the middles of edges: 368 open edges, none left (552 before this was mended)."""
    stone = ball(10, fineness=4)
    rng = np.random.default_rng(3)
    picked = rng.choice(len(stone.faces), 184, replace=False)
    a, b = stone.faces[picked, 0], stone.faces[picked, 1]
    middle = np.arange(184) + len(stone.vertices)
    needles = np.stack([a, b, middle], axis=1).astype(np.int32)
    dirty = Mesh(
        np.vstack([stone.vertices, (stone.vertices[a] + stone.vertices[b]) / 2]), np.vstack([stone.faces, needles])
    )
    done = repair(dirty)
    assert (
        done.open_left == 0
        and len(done.mesh.faces) == len(stone.faces)
        and volume(done.mesh) == pytest.approx(volume(stone))
    )


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 10**6), st.floats(0.02, 0.3))
def test_faces_given_twice_change_nothing(seed: int, share: float) -> None:
    stone = knobbly(12, 4)
    twice = stone.faces[np.random.default_rng(seed).random(len(stone.faces)) < share]
    made = make_ready(Mesh(stone.vertices, np.vstack([stone.faces, twice])))
    assert len(made.mesh.faces) == len(stone.faces) and made.open_left == 0
    assert volume(made.mesh) == pytest.approx(volume(stone))


def test_crumbs_are_left_out_unless_they_belong() -> None:
    """Loose ones go; a stud on the surface, one inside, and one that hangs on the stud stay; and so do all parts of
    like size.
    """
    bust = knobbly(20, 4)
    x, y, top = bust.vertices[np.argmax(bust.vertices[:, 2])]
    crumb = ball(0.2, (0, 0, -1.5), 2)
    stud, bead = ball(0.3, (x, y, top + 0.05), 2), ball(0.3, (x, y, top + 0.62), 2)
    inside = ball(0.2, (0, 0, 15), 2)
    figure = Mesh.joined([bust, crumb, stud, bead, inside])
    gone = loose_specks(figure)
    assert gone.sum() == len(crumb.faces) and gone[len(bust.faces) : len(bust.faces) + len(crumb.faces)].all()
    ready = make_ready(figure)
    assert ready.specks == 1 and ready.mesh.lower[2] == pytest.approx(0) and ready.changed
    assert make_ready(figure, specks=True).specks == 0
    assert not loose_specks(Mesh.joined([ball(1, (3 * k, 0, 0), 2) for k in range(9)])).any()


def test_sheets_and_folded_paper_are_refused_with_what_to_do() -> None:
    n = 24
    x, y = np.meshgrid(np.arange(n), np.arange(n))
    wave = np.stack([x.ravel(), y.ravel(), 2 * np.sin(x.ravel() / 4)], axis=1).astype(float)
    i = (np.arange(n - 1)[:, None] * n + np.arange(n - 1)).ravel()
    sheet = np.vstack([np.stack([i, i + 1, i + n], 1), np.stack([i + 1, i + n + 1, i + n], 1)]).astype(np.int32)
    with pytest.raises(RepairError, match="open sheet.*thickness"):
        make_ready(Mesh(wave, sheet))
    folded = Mesh(np.vstack([wave, wave]), np.vstack([sheet, sheet[:, ::-1] + n * n]).astype(np.int32))
    with pytest.raises(RepairError):
        make_ready(folded)


def test_volume_counts_overlaps_once_and_cavities_not_at_all() -> None:
    pair = Mesh.joined([box((0, 0, 5), (10, 10, 10)), box((5, 5, 10), (10, 10, 10))])
    assert volume(pair) == pytest.approx(2000) and solid_volume(pair) == pytest.approx(1875, rel=1e-6)
    assert solid_volume(hollow_ball()) == pytest.approx(4 / 3 * np.pi * (1000 - 512), rel=2e-3)
    assert solid_volume(Mesh.joined([ball(6), ball(3)])) == pytest.approx(4 / 3 * np.pi * 216, rel=2e-3)
