"""What came as an open shell, given a floor or filled: volumes to the closed form, its outside as it was."""

from __future__ import annotations

import math

import manifold3d
import numpy as np
import pytest

from tenugui.core.contract import IntakeDoc, MendDoc
from tenugui.core.hollow import came_hollow
from tenugui.core.layers import prove
from tenugui.core.mesh import Mesh
from tenugui.core.plan import MemoryShelf, computed
from tenugui.core.plan.given import MendGiven, MeshGiven
from tenugui.core.repair import RepairError, filled, solid_volume, with_floor
from tests.shapes import box, hollow_ball, stl_bytes

OUTER, INNER, FOOT = 20.0, 18.0, -14.0
DOWN = np.array([0.0, 0.0, -1.0])


def dome(turn: np.ndarray | None = None) -> Mesh:
    """A ball of 20 mm, 2 mm thick, cut off below z = -14: open at its foot."""
    outer, inner = (manifold3d.Manifold.sphere(r, 96) for r in (OUTER, INNER))
    whole = (outer - inner).trim_by_plane((0.0, 0.0, 1.0), FOOT).to_mesh()
    points = np.asarray(whole.vert_properties[:, :3], np.float64)
    return Mesh(points if turn is None else points @ turn.T, np.asarray(whole.tri_verts, np.int32))


def cap(radius: float) -> float:
    """Volume of a ball above the foot."""
    h = radius - FOOT
    return math.pi * h**2 * (3 * radius - h) / 3


def test_filled_it_holds_what_a_ball_holds_and_its_outside_stays() -> None:
    shell = dome()
    done = filled(shell, DOWN, OUTER - INNER)
    assert done.open_left == 0
    assert (done.mesh.vertices[: len(shell.vertices)] == shell.vertices).all(), "bit for bit"
    assert (done.mesh.faces[: len(shell.faces)] == shell.faces).all() and done.new.sum() == (done.faces < 0).sum()
    assert solid_volume(done.mesh) == pytest.approx(cap(OUTER), rel=0.02)
    (step,) = done.steps
    assert step.volume_mm3 == pytest.approx(cap(INNER), rel=0.04) and step.deviation_mm == 0.0


def test_a_floor_shuts_the_inside_in_and_hollow_finds_it() -> None:
    done = with_floor(dome(), DOWN, OUTER - INNER)
    (step,) = done.steps
    wall = OUTER - INNER
    rim = math.pi * (INNER**2 - (FOOT + wall / 2) ** 2)
    assert step.volume_mm3 is not None
    assert step.volume_mm3 == pytest.approx(rim * wall, rel=0.12), "as thick as the wall"
    proof = prove(done.mesh.dropped(), 0.2, 0.2)
    (trapped,) = proof.voids.trapped
    inside = cap(INNER) - step.volume_mm3
    assert trapped.volume == pytest.approx(inside, rel=0.05)
    (cavity,) = came_hollow(done.mesh).cavities
    assert cavity.volume == pytest.approx(inside, rel=0.05)
    assert prove(dome().dropped(), 0.2, 0.2).voids.trapped == [], "which it was not before"


def test_the_way_it_opens_may_be_any() -> None:
    turn = np.array([[0.0, 0.0, 1.0], [0.0, 1.0, 0.0], [-1.0, 0.0, 0.0]])  # z to x
    done = filled(dome(turn), turn @ DOWN, OUTER - INNER)
    assert solid_volume(done.mesh) == pytest.approx(cap(OUTER), rel=0.02)


def test_what_opens_elsewhere_or_has_no_inside_is_refused() -> None:
    turn = np.array([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]])
    holed = manifold3d.Manifold(
        manifold3d.Mesh(np.asarray(dome(turn).vertices, np.float32), np.asarray(dome(turn).faces, np.uint32))
    ) - manifold3d.Manifold.cylinder(60, 6, 6, 48, True).rotate((90.0, 0.0, 0.0))
    mesh = holed.to_mesh()
    through = Mesh(np.asarray(mesh.vert_properties[:, :3], np.float64), np.asarray(mesh.tri_verts, np.int32))
    with pytest.raises(RepairError, match="opens elsewhere"):
        filled(through, DOWN, 2.0)
    with pytest.raises(RepairError, match="No wall runs all round"):
        with_floor(box((0, 0, 0), (10, 10, 10)), DOWN, 2.0)


@pytest.mark.parametrize("way", ["floored", "filled"])
def test_a_file_is_told_to_be_a_shell_and_its_copies_are_offered(way: str) -> None:
    shelf = MemoryShelf()
    sha = shelf.put(stl_bytes(dome()))
    intake = computed(shelf, "intake", MeshGiven(sha=sha), IntakeDoc)
    assert intake.shell is not None and intake.shell.opens == "foot"
    assert intake.shell.wall_mm == pytest.approx(2.0, rel=0.15)
    made = computed(shelf, "mend", MendGiven(sha=intake.ready.sha or sha, way=way), MendDoc)
    assert made.repair.watertight and made.repair.volume_mm3 > intake.ready.volume_mm3


def test_what_is_closed_is_told_to_be_no_shell() -> None:
    shelf = MemoryShelf()
    for other in (hollow_ball(), box((0, 0, 0), (20, 20, 30))):
        plain = shelf.put(stl_bytes(other))
        assert computed(shelf, "intake", MeshGiven(sha=plain), IntakeDoc).shell is None
