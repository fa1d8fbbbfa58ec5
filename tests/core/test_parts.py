"""Thin parts with their cure, and the flat faces, pegs and sockets of a figure that was cut apart."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.machines import load_printer, thin_limits, weak_parts
from tenugui.core.mesh import Mesh, fits, flat_faces, local_thickness, thin_places
from tests.shapes import ball, box, cylinder, knobbly


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
    (place,) = thin_places(rod, local_thickness(rod), 0.8)
    assert place.kind == "rod" and place.extent == pytest.approx(9, abs=0.5) and place.thickness == pytest.approx(diameter, rel=0.08)
    sheet = fine_box((12, 8, diameter))
    (place,) = thin_places(sheet, local_thickness(sheet), 0.8)
    assert place.kind == "sheet" and place.width == pytest.approx(8, abs=0.6)


def test_every_face_can_be_measured() -> None:
    """Four rays of five lean by 15 degrees: across a ball their chord is shorter by its cosine, and its depth by that again."""
    stone = ball(6, fineness=4)
    found = local_thickness(stone, most=10**9)
    assert len(found.faces) == len(stone.faces) and np.median(found.mm) == pytest.approx(12 * np.cos(np.radians(15)) ** 2, rel=0.01)


def test_what_is_thick_is_told_as_such_and_what_is_thin_as_closely_as_ever() -> None:
    figure = Mesh.joined([ball(8, (0, 0, 8)), cylinder(0.3, 30, (0, 0, 14))])
    whole, quick = local_thickness(figure, most=10**9), local_thickness(figure, most=10**9, beyond=2.0)
    thin = whole.mm < 2.0
    assert thin.sum() > 100 and quick.mm[thin] == pytest.approx(whole.mm[thin], rel=1e-3)
    assert whole.mm[~np.isinf(whole.mm)].max() > 14 and np.isinf(quick.mm[~thin]).all()


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 2**32 - 1), st.floats(0.5, 6.0))
def test_the_grid_sees_what_the_hierarchy_sees(seed: int, beyond: float) -> None:
    """Two ways to trace the same rays, on bumpy stones pushed into each other, agree to a hundredth on all but a few faces."""
    rng = np.random.default_rng(seed)
    stone = knobbly(6, 4)
    figure = Mesh.joined([Mesh(stone.vertices * rng.uniform(0.2, 1.0, 3) + rng.uniform(-3, 3, 3), stone.faces) for _ in range(3)])
    whole, quick = local_thickness(figure, most=10**9).mm, local_thickness(figure, most=10**9, beyond=beyond).mm
    wanted = np.where(whole <= beyond, whole, np.inf)
    both = np.isfinite(wanted) & np.isfinite(quick)
    assert (np.isfinite(wanted) == np.isfinite(quick)).mean() > 0.995
    assert (np.abs(wanted[both] - quick[both]) > 0.01).sum() <= 0.005 * both.sum()


def test_a_weak_part_names_what_would_cure_it() -> None:
    sheet = fine_box((10, 6, 0.36))
    places = thin_places(sheet, local_thickness(sheet), 2.0)
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
    assert up.kind == "peg" and up.reach == pytest.approx(4) and down.kind == "socket" and down.reach == pytest.approx(3)
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
    from tenugui.core.contract.plan import thin_parts
    from tenugui.core.layers import prove
    from tenugui.core.machines import load_material
    from tenugui.core.mesh import ThinPlace
    from tenugui.core.risk import ledger

    heron = load_printer("heron")
    sheet = Mesh.joined([fine_box((12, 8, 0.25)), box((20, 0, 0), (6, 6, 6))])
    assert [w.place for w in weak_parts(thin_parts(sheet, heron), heron, 10.0)] == thin_parts(sheet, heron) != []
    strip, rod = ThinPlace(0, 0, 1, 0.25, 6.0, 0.5, "sheet"), ThinPlace(0, 0, 1, 0.25, 6.0, 0.5, "rod")
    proof = prove(box((0, 0, 3), (6, 6, 6)), 0.1, 0.1)
    found = [h for h in ledger(proof, heron, load_material(None, heron), [], False, [strip, rod]) if h.code == "thin"]
    assert sorted((h.cost == "scar", h.needs) for h in found) == [(False, 0.4), (True, 0.3)]


def test_the_thin_edge_of_a_wide_cloak_is_no_rod() -> None:
    # A wedge 20 mm deep that runs out into an edge: thin along a strip 30 mm long, and held all along it.
    profile = [(0, 0), (20, -1.0), (20, 1.0)]
    wedge = trimesh.PointCloud([(x, y, z) for x, y in profile for z in (0, 30)]).convex_hull.subdivide_to_size(0.5)
    edge = Mesh(np.asarray(wedge.vertices, float), np.asarray(wedge.faces, np.int32))
    places = thin_places(edge, local_thickness(edge, most=10**6), 0.25)
    assert places and all(p.kind == "sheet" for p in places)
    rod = trimesh.creation.cylinder(0.12, 30, sections=16).subdivide_to_size(0.5)
    free = Mesh(np.asarray(rod.vertices, float), np.asarray(rod.faces, np.int32))
    assert [p.kind for p in thin_places(free, local_thickness(free, most=10**6), 0.25)] == ["rod"]
