"""Thin parts with their cure, and the flat faces, pegs and sockets of a figure that was cut apart."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.machines import Context, load_printer, thin_limits, weak_parts
from tenugui.core.mesh import Mesh, face_thickness, fits, flat_faces, local_thickness, thin_places
from tenugui.core.plan.given import SizedGiven
from tests.shapes import ball, box, cylinder, knobbly, mesh_of


def fine_box(size: tuple[float, float, float], step: float = 0.4) -> Mesh:
    """A box whose faces are cut small, as a scanned figure's are."""
    import trimesh

    shape = trimesh.creation.box(size).subdivide_to_size(step)
    return Mesh(np.asarray(shape.vertices, float), np.asarray(shape.faces, np.int32))


@pytest.mark.parametrize("thick", [0.2, 0.5, 1.0])
def test_a_plate_is_as_thick_as_it_is(thick: float) -> None:
    plate = fine_box((12, 8, thick), 0.4)
    found = local_thickness(plate)
    normals, _ = plate.normals_and_areas()
    flat = np.abs(normals[found.faces][:, 2]) > 0.9
    assert np.median(found.mm[flat]) == pytest.approx(thick, rel=0.05)


@pytest.mark.parametrize("diameter", [0.3, 0.6])
def test_a_rod_is_as_thick_as_its_diameter_and_told_from_a_sheet(diameter: float) -> None:
    import trimesh

    shape = trimesh.creation.cylinder(diameter / 2, 9, sections=32).subdivide_to_size(0.4)
    rod = Mesh(np.asarray(shape.vertices, float), np.asarray(shape.faces, np.int32))
    (place,) = thin_places(local_thickness(rod), 0.8)
    assert (
        place.kind == "rod"
        and place.extent == pytest.approx(9, abs=0.5)
        and place.thickness == pytest.approx(diameter, rel=0.08)
    )
    sheet = fine_box((12, 8, diameter))
    (place,) = thin_places(local_thickness(sheet), 0.8)
    assert place.kind == "sheet" and place.width == pytest.approx(8, abs=0.6)


def test_every_face_can_be_measured() -> None:
    """Four rays of five lean by 15 degrees: across a ball their chord is shorter by its cosine, and its depth by that
    again.
    """
    stone = ball(6, fineness=4)
    found = face_thickness(stone)
    assert len(found.faces) == len(stone.faces) and np.median(found.mm) == pytest.approx(
        12 * np.cos(np.radians(15)) ** 2, rel=0.01
    )


def test_what_is_thick_is_told_as_such_and_what_is_thin_as_closely_as_ever() -> None:
    figure = Mesh.joined([ball(8, (0, 0, 8)), cylinder(0.3, 30, (0, 0, 14))])
    whole, quick = local_thickness(figure), local_thickness(figure, beyond=2.0)
    thin = whole.mm < 2.0
    assert thin.sum() > 100 and quick.mm[thin] == pytest.approx(whole.mm[thin], rel=1e-3)
    assert whole.mm[~np.isinf(whole.mm)].max() > 14 and np.isinf(quick.mm[~thin]).all()


@settings(max_examples=4, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_thickness_of_shells_pushed_into_each_other_is_that_of_their_union(seed: int) -> None:
    """The solid counts, not the surface: united by the boolean library, the same places are as thick."""
    rng = np.random.default_rng(seed)
    stone = knobbly(6, 3)
    parts = [Mesh(stone.vertices * rng.uniform(0.3, 1.0, 3) + rng.uniform(-3, 3, 3), stone.faces) for _ in range(3)]
    solids = [
        manifold3d.Manifold(manifold3d.Mesh(m.vertices.astype(np.float32), m.faces.astype(np.uint32))) for m in parts
    ]
    made = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add).to_mesh()
    union = Mesh(np.asarray(made.vert_properties[:, :3], float), np.asarray(made.tri_verts, np.int32))
    whole = local_thickness(union, 3.0, spacing=0.5)
    joined = local_thickness(Mesh.joined(parts), 3.0, spacing=0.5)
    # Samples differ, since inner walls are sampled too and told as inf: compare the area that is thin, and its
    # thickness.
    area = [
        m.normals_and_areas()[1].sum() * np.isfinite(t.mm).mean()
        for m, t in ((union, whole), (Mesh.joined(parts), joined))
    ]
    assert area[0] == pytest.approx(area[1], abs=0.02 * union.normals_and_areas()[1].sum())
    if np.isfinite(whole.mm).sum() > 200:
        assert np.median(whole.mm[np.isfinite(whole.mm)]) == pytest.approx(
            np.median(joined.mm[np.isfinite(joined.mm)]), rel=0.1
        )


def test_thin_does_not_depend_on_the_triangles() -> None:
    """What an independent check found: a sheet of twelve faces, a patch worn thin in a thicker plate, and cones said
    nothing.
    """
    sheet = box((0, 0, 0), (20, 20, 0.25))
    assert [(p.kind, round(p.thickness, 2)) for p in thin_places(local_thickness(sheet, 1.0), 0.3)] == [("sheet", 0.25)]
    plate = manifold3d.Manifold.cube((30, 30, 0.6), True) - manifold3d.Manifold.cube((6, 6, 1), True).translate(
        (5, 5, 0.6)
    )
    made = (plate - manifold3d.Manifold.cube((6, 6, 1), True).translate((5, 5, -0.6))).to_mesh()
    worn = Mesh(np.asarray(made.vert_properties[:, :3], float), np.asarray(made.tri_verts, np.int32))
    (patch,) = thin_places(local_thickness(worn, 1.0), 0.3)
    assert patch.thickness == pytest.approx(0.2, abs=0.02) and patch.extent == pytest.approx(8.5, abs=1.5)
    horn = mesh_of(trimesh.creation.cone(1.0, 12, sections=48))
    (tip,) = thin_places(local_thickness(horn, 1.0), 0.4)
    # 0.4 mm across at 2.4 mm below its point, where few samples reach the very point; the axis looks along the horn.
    assert tip.z > 9 and 1.2 < tip.extent < 3 and abs(tip.axis[2]) > 0.9


def test_overlapping_shells_and_doubled_skins_are_not_thin() -> None:
    """Two thick balls pushed into each other so that their lens is thin; and a skin that lies twice, a hair apart."""
    lens = Mesh.joined([ball(5, (-4.9, 0, 0)), ball(5, (4.9, 0, 0))])
    assert thin_places(local_thickness(lens, 1.0), 0.4) == []
    doubled = Mesh.joined([ball(6), ball(5.9)])
    assert thin_places(local_thickness(doubled, 1.0), 0.4) == []
    shell = Mesh.joined([ball(6), ball(5.8, inside_out=True)])  # but a wall of 0.2 mm around a hollow is
    assert [round(p.thickness, 1) for p in thin_places(local_thickness(shell, 1.0), 0.4)] == [0.2]


def test_a_weak_part_names_what_would_cure_it() -> None:
    sheet = fine_box((10, 6, 0.36))
    places = thin_places(local_thickness(sheet), 2.0)
    kestrel, heron = load_printer("kestrel"), load_printer("heron")
    (weak,) = weak_parts(places, kestrel, 50.0)
    line = thin_limits(kestrel)["sheet"]
    assert weak.limit == line and weak.scale == pytest.approx(line / 0.36, rel=0.03)
    said = " ".join(weak.remedies)
    assert f"{50 * weak.scale:.0f} mm tall" in said and "holds in resin" in said and "nozzle of 0.3" in said
    assert weak_parts(places, heron, 50.0) == []


def test_pegs_and_sockets_are_found_on_their_flat_faces() -> None:
    cube = manifold3d.Manifold.cube((20, 20, 20), True)
    peg = manifold3d.Manifold.cylinder(4, 3, 3, 64).translate((0, 0, 10))
    socket = manifold3d.Manifold.cylinder(6, 2, 2, 64).translate((0, 0, -13))
    made = (cube + peg - socket).to_mesh()
    part = Mesh(np.asarray(made.vert_properties[:, :3], float), np.asarray(made.tri_verts, np.int32))
    flat = flat_faces(part)
    assert len(flat) == 7 and flat[0].area == pytest.approx(400)
    found = {tuple(np.round(f.normal).astype(int).tolist()): fits(part, f) for f in flat if f.area > 300}
    (up,), (down,) = found[(0, 0, 1)], found[(0, 0, -1)]
    assert (
        up.kind == "peg" and up.reach == pytest.approx(4) and down.kind == "socket" and down.reach == pytest.approx(3)
    )
    assert all(not found[side] for side in ((1, 0, 0), (-1, 0, 0), (0, 1, 0), (0, -1, 0)))
    _, areas = part.normals_and_areas()
    assert areas[up.faces].sum() == pytest.approx(2 * np.pi * 3 * 4 + np.pi * 9, rel=0.01)


def test_a_round_figure_has_no_flat_face() -> None:
    assert flat_faces(ball(5)) == []
    assert [round(f.area) for f in flat_faces(cylinder(5, 9))] == [78, 78]


def test_two_boxes_have_their_own_flat_faces() -> None:
    assert len(flat_faces(Mesh.joined([box((0, 0, 0), (4, 4, 4)), box((9, 0, 0), (4, 4, 4))]))) == 8


def test_list_and_ledger_speak_of_the_same_thin_parts() -> None:
    """One limit for each kind, whoever asks; a strip along an edge chips, a rod of the same length breaks off."""
    from tenugui.core.formats import pack_whole
    from tenugui.core.layers import prove
    from tenugui.core.machines import load_material
    from tenugui.core.mesh import ThinPlace
    from tenugui.core.plan import MemoryShelf, thin_of
    from tenugui.core.risk import ledger

    heron = load_printer("heron")
    sheet = Mesh.joined([fine_box((12, 8, 0.25)), box((20, 0, 0), (6, 6, 6))])
    shelf = MemoryShelf()
    given = SizedGiven(sha=shelf.put(pack_whole(sheet)))
    told = thin_of(shelf, given, heron)
    assert [w.place for w in weak_parts(told, heron, 10.0)] == told != []
    strip, rod = ThinPlace(0, 0, 1, 0.25, 6.0, 0.5, "sheet"), ThinPlace(0, 0, 1, 0.25, 6.0, 0.5, "rod")
    proof = prove(box((0, 0, 3), (6, 6, 6)), 0.1, 0.1)
    found = [
        h
        for h in ledger(proof, Context.of(heron, load_material(None, heron), 0.1), thin=[strip, rod])
        if h.code == "thin"
    ]
    assert sorted((h.loss == "scar", h.needs) for h in found) == [(False, 0.4), (True, 0.3)]


def test_the_thin_edge_of_a_wide_cloak_is_no_rod() -> None:
    # A wedge 20 mm deep that runs out into an edge: thin along a strip 30 mm long, and held all along it.
    profile = [(0, 0), (20, -1.0), (20, 1.0)]
    wedge = trimesh.PointCloud([(x, y, z) for x, y in profile for z in (0, 30)]).convex_hull.subdivide_to_size(0.5)
    edge = Mesh(np.asarray(wedge.vertices, float), np.asarray(wedge.faces, np.int32))
    places = thin_places(local_thickness(edge), 0.25)
    assert places and all(p.kind == "edge" for p in places)
    rod = trimesh.creation.cylinder(0.12, 30, sections=16).subdivide_to_size(0.5)
    free = Mesh(np.asarray(rod.vertices, float), np.asarray(rod.faces, np.int32))
    assert [p.kind for p in thin_places(local_thickness(free), 0.25)] == ["rod"]


def kinds_of(mesh: Mesh, limit: float = 0.5) -> list[str]:
    """What its thin places are, worst first."""
    return [p.kind for p in thin_places(local_thickness(mesh, limit), limit)]


def wedge(degrees: float, high: float = 10.0, long: float = 20.0) -> Mesh:
    """A roof of two planes that meet at an angle."""
    half = high * np.tan(np.radians(degrees / 2))
    corners = [(x, y, z) for y in (0.0, long) for x, z in ((-half, 0.0), (half, 0.0), (0.0, high))]
    hull = trimesh.convex.convex_hull(np.array(corners))
    return Mesh(np.asarray(hull.vertices), np.asarray(hull.faces, np.int32))


@pytest.mark.parametrize("degrees", [5, 10, 20])
def test_a_wedge_thins_out_into_an_edge(degrees: float) -> None:
    """Its thickness runs evenly from nothing to the limit: half of what is thin is thinner than half of it."""
    assert kinds_of(wedge(degrees)) == ["edge"]


def test_a_rod_and_a_blade_are_parts_and_a_short_pin_is_none() -> None:
    block = box((0, 0, 5), (10, 10, 10))
    rod = cylinder(0.15, 10).transformed(np.eye(3), np.array([0.0, 0.0, 9.5]))
    assert kinds_of(Mesh.joined([block, rod])) == ["rod"]
    assert kinds_of(Mesh.joined([block, box((0, 0, 14), (6, 0.3, 8.4))])) == ["sheet"]
    stub = cylinder(0.2, 1.2).transformed(np.eye(3), np.array([0.0, 0.0, 9.5]))
    assert set(kinds_of(Mesh.joined([block, stub]))) <= {"edge"}, "0.7 mm of 0.4 mm"


def test_a_crease_where_surfaces_cross_is_no_part() -> None:
    """Two shells that overlap in a sliver of two hundredths."""
    sliver = Mesh.joined([box((0, 0, 5), (10, 10, 10)), box((9.98, 0, 5), (10, 6, 6))])
    assert set(kinds_of(sliver)) <= {"edge"}
