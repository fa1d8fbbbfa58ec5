"""Cutting into a kit: volumes add up, pegs go in one way alone, limbs are found where they hang, faces are spared."""

from __future__ import annotations

import math

import manifold3d
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.mesh import Mesh, face_volumes
from tenugui.core.parting import Fit, Parted, PartingError, Peg, Plane, part, propose_cuts
from tenugui.core.parting.part import FITS, OLD, SEAM
from tenugui.core.parting.peg import outline, peg_in
from tenugui.core.parting.propose import _ellipse

BOX, BALL = manifold3d.Manifold.cube, manifold3d.Manifold.sphere
FIT = Fit(0.15, 1.2)


def mesh_of(solid: manifold3d.Manifold) -> Mesh:
    out = solid.to_mesh()
    return Mesh(np.array(out.vert_properties[:, :3], float), np.array(out.tri_verts, np.int32))


def solid_of(mesh: Mesh) -> manifold3d.Manifold:
    return manifold3d.Manifold(manifold3d.Mesh(mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32)))


def volume(mesh: Mesh) -> float:
    return float(face_volumes(mesh).sum())


def dumbbell(rod: float = 4.0) -> Mesh:
    """A box of 20 mm with a ball of 7 mm radius on a rod to its side, from x = 10 to 30."""
    box = BOX([20.0, 20.0, 20.0], True)
    bar = (
        manifold3d.Manifold.cylinder(26.0, rod / 2, circular_segments=64).rotate([0.0, 90.0, 0.0]).translate([5, 0, 0])
    )
    return mesh_of(box + bar + BALL(7.0, 64).translate([30.0, 0.0, 0.0]))


def cut(mesh: Mesh, x: float, fit: Fit | None = FIT) -> Parted:
    return part(mesh, Plane((x, 0.0, 0.0), (1.0, 0.0, 0.0)), fit)


def test_without_a_peg_both_parts_are_the_figure() -> None:
    mesh = dumbbell()
    done = cut(mesh, 16.0, None)
    assert volume(done.rest) + volume(done.limb) == pytest.approx(volume(mesh), rel=1e-6)
    assert volume(done.limb) == pytest.approx(volume(mesh) - 8000 - math.pi * 4 * 6, rel=1e-3)
    assert done.joint.area == pytest.approx(math.pi * 4, rel=0.01) and done.joint.peg is None
    assert done.joint.seam == pytest.approx(2 * math.pi * 2, rel=0.01)
    assert done.plane.normal == pytest.approx((1.0, 0.0, 0.0)), "it leaves along the rod, outwards"
    assert done.limb.lower[0] == pytest.approx(16.0, abs=1e-4) and done.rest.upper[0] == pytest.approx(16.0, abs=1e-4)


@pytest.mark.parametrize("way", [(1.0, 0.0, 0.0), (-1.0, 0.0, 0.0), (0.9, 0.3, -0.2)])
def test_a_peg_goes_into_its_socket_with_air_all_around(way: tuple[float, float, float]) -> None:
    mesh = dumbbell(8.0)
    done = part(mesh, Plane((16.0, 0.0, 0.0), way), FIT)
    peg = done.joint.peg
    assert peg is not None and peg.width >= FIT.least and peg.length >= peg.width
    rest, limb = solid_of(done.rest), solid_of(done.limb)
    assert (rest ^ limb).volume() < 1e-3, "they do not overlap"
    # Moved out along its way it leaves the socket free: what is missing then is the socket, larger than the peg.
    whole, socket, body = volume(mesh), volume(mesh), peg.prism(0.0, peg.length, 0.92)
    body = body.trim_by_plane([0.0, 0.0, 1.0], 0.0)
    socket = peg.prism(peg.clearance, peg.length + peg.clearance).trim_by_plane([0.0, 0.0, 1.0], 0.0).volume()
    assert volume(done.rest) + volume(done.limb) == pytest.approx(whole + body.volume() - socket, rel=1e-4)
    assert socket > 1.2 * body.volume()
    away = np.array(done.plane.normal)
    assert abs(float(away @ np.array(way)) / np.linalg.norm(way)) == pytest.approx(1.0) and away[0] > 0
    for step in (0.05, 1.0, peg.length + 1):
        assert (rest ^ limb.translate((away * step).tolist())).volume() < 1e-3, "it comes out along its way"


@pytest.mark.parametrize("turn", [45.0, 90.0, 180.0, 270.0])
def test_a_peg_goes_in_one_way_alone(turn: float) -> None:
    peg = shapely.Polygon(outline(2.0))
    socket = peg.buffer(0.15, join_style="mitre")
    turned = shapely.affinity.rotate(peg, turn, origin=(0, 0))
    assert socket.contains(peg) and turned.difference(socket).area > 0.05 * peg.area


def test_a_place_too_narrow_gets_no_peg_and_is_parted_all_the_same() -> None:
    done = cut(dumbbell(2.0), 16.0)
    assert done.joint.peg is None and volume(done.limb) > 0
    assert cut(dumbbell(8.0), 16.0, Fit(0.15, 7.0)).joint.peg is None, "nor one that the machine cannot make"


def test_a_socket_never_breaks_through_a_thin_wall() -> None:
    thin = mesh_of(BOX([40.0, 40.0, 1.5], True) + BOX([6.0, 6.0, 20.0], True).translate([0.0, 0.0, 10.0]))
    done = part(thin, Plane((0.0, 0.0, 1.0), (0.0, 0.0, 1.0)), FIT)
    assert done.joint.peg is None, "1.75 mm of plate below are no room"
    host = BOX([20.0, 20.0, 5.0]).translate([-10.0, -10.0, 0.0])
    peg = peg_in(shapely.box(-4, -4, 4, 4), host, FIT)
    assert peg is not None and peg.length + peg.clearance < 5.0 - 0.4


def test_faces_say_where_they_come_from() -> None:
    done = cut(dumbbell(8.0), 16.0)
    for mesh, origin in ((done.rest, done.rest_from), (done.limb, done.limb_from)):
        _, area = mesh.normals_and_areas()
        middle = mesh.corners().mean(axis=1)
        assert np.abs(middle[origin == SEAM][:, 0] - 16.0).max() < 1e-3
        assert done.joint.peg is not None
        ring = area[origin == SEAM].sum()
        assert 0.4 * done.joint.area < ring < done.joint.area, "what the peg leaves of the section"
        inside = middle[origin == FITS]
        assert len(inside) and np.hypot(inside[:, 1], inside[:, 2]).max() < 4.0
        assert (np.abs(middle[origin == OLD][:, 0] - 16.0) > 1e-4).all()


def test_what_cannot_be_parted_is_said() -> None:
    ring = mesh_of(manifold3d.Manifold.revolve(manifold3d.CrossSection.circle(2.0, 32).translate([10.0, 0.0]), 64))
    for mesh, plane, code in (
        (ring, Plane((10.0, 0.0, 0.0), (0.0, 1.0, 0.0)), "hangs-together"),
        (dumbbell(), Plane((99.0, 0.0, 0.0), (1.0, 0.0, 0.0)), "misses"),
        (dumbbell(), Plane((36.99, 0.0, 0.0), (1.0, 0.0, 0.0)), "too-little"),
        (Mesh(dumbbell().vertices, dumbbell().faces[1:]), Plane((16.0, 0.0, 0.0), (1.0, 0.0, 0.0)), "not-closed"),
    ):
        with pytest.raises(PartingError) as refused:
            part(mesh, plane, FIT)
        assert refused.value.code == code and refused.value.remedy
    with pytest.raises(PartingError) as refused:
        part(dumbbell(), Plane((25.0, 0.0, 0.0), (1.0, 0.0, 0.0)), FIT, [(np.array([27.0, 0.0, 5.0]), 4.0)])
    assert refused.value.code == "through-a-face"


def test_limbs_are_found_where_they_hang() -> None:
    mesh = dumbbell(4.0)
    looked = np.full(len(mesh.faces), 0.5)
    first, *_ = propose_cuts(mesh, np.array([0.0, 0.0, 1.0]), looked, FIT)
    ball = (volume(mesh) - 8000) / volume(mesh)
    assert first.share == pytest.approx(ball, abs=0.03) and first.area == pytest.approx(math.pi * 4, rel=0.02)
    assert 9.5 < first.plane.point[0] < 24 and abs(first.plane.normal[0]) > 0.99
    done = part(mesh, first.plane, None)
    assert volume(done.limb) / volume(mesh) == pytest.approx(first.share, abs=0.02)
    assert float(np.array(done.plane.normal) @ np.array(first.plane.normal)) > 0.99, "both point at the limb"


def test_hidden_seams_come_before_seen_ones_and_faces_are_spared() -> None:
    two = mesh_of(solid_of(dumbbell(4.0)) + solid_of(dumbbell(4.0)).rotate([0.0, 0.0, 180.0]))
    looked = np.where(two.corners().mean(axis=1)[:, 0] > 0, 1.0, 0.0)
    proposed = propose_cuts(two, np.array([0.0, 0.0, 1.0]), looked, FIT)
    sides = [p.plane.point[0] for p in proposed if p.share < 0.2 and abs(p.plane.normal[0]) > 0.9]
    assert sides[0] < 0 and max(sides) > 0, "what nobody looks at first"
    by_side = {p.plane.point[0] > 0: p for p in reversed(proposed) if abs(p.plane.normal[0]) > 0.9}
    assert by_side[True].seen > 0.9 and by_side[False].seen < 0.1
    assert by_side[True].minutes > by_side[False].minutes
    spared = propose_cuts(two, np.array([0.0, 0.0, 1.0]), looked, FIT, [(np.array([17.0, 0.0, 0.0]), 9.0)])
    assert all(not 8 < p.plane.point[0] < 26 for p in spared) and spared


def test_what_only_looks_like_a_limb_is_not_proposed() -> None:
    """A ring through the ball: the rod is no place where one limb hangs alone."""
    ring = manifold3d.Manifold.revolve(manifold3d.CrossSection.circle(1.5, 24).translate([12.0, 0.0]), 96)
    both = mesh_of(solid_of(dumbbell(4.0)) + ring.translate([18.0, 0.0, 0.0]))
    for one in propose_cuts(both, np.array([0.0, 0.0, 1.0]), np.full(len(both.faces), 0.5), FIT):
        done = part(both, one.plane, None)
        assert volume(done.limb) / volume(both) == pytest.approx(min(one.share, 1 - one.share), abs=0.03)


def test_what_has_no_limb_is_proposed_nothing() -> None:
    for solid in (BALL(10.0, 64), BOX([20.0, 10.0, 8.0], True)):
        mesh = mesh_of(solid)
        assert propose_cuts(mesh, np.array([0.0, 0.0, 1.0]), np.ones(len(mesh.faces)), FIT) == []


@settings(max_examples=15, deadline=None)
@given(st.floats(12.0, 21.0), st.floats(3.0, 9.0), st.floats(0.05, 0.4))
def test_volumes_add_up_whatever_the_place_the_rod_and_the_clearance(x: float, rod: float, clearance: float) -> None:
    mesh = dumbbell(rod)
    done = cut(mesh, x, Fit(clearance, 1.2))
    peg = done.joint.peg
    more = 0.0
    if peg is not None:
        assert peg.width < rod and isinstance(peg, Peg)
        more = peg.prism(0.0, peg.length, 0.92).trim_by_plane([0.0, 0.0, 1.0], 0.0).volume()
        more -= peg.prism(clearance, peg.length + clearance).trim_by_plane([0.0, 0.0, 1.0], 0.0).volume()
    assert volume(done.rest) + volume(done.limb) == pytest.approx(volume(mesh) + more, rel=1e-3)
    assert (solid_of(done.rest) ^ solid_of(done.limb)).volume() < 1e-3


def test_an_ellipse_is_as_long_as_its_integral() -> None:
    t = np.linspace(0, 2 * math.pi, 100_001)
    ring = np.column_stack([3.0 * np.cos(t), 1.0 * np.sin(t)])
    assert _ellipse(6.0, 2.0) == pytest.approx(np.linalg.norm(np.diff(ring, axis=0), axis=1).sum(), rel=1e-4)
