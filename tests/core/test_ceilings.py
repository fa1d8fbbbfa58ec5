"""Ceilings that close hang all around; shelves and bridges do not."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh

from tenugui.core.layers import closing_share, prove
from tenugui.core.machines import Context, load_material, load_printer
from tenugui.core.mesh import Mesh
from tenugui.core.risk import ledger
from tests.shapes import box, cup, mesh_of

HERON = load_printer("heron")
CONTEXT = Context.of(HERON, load_material(None, HERON), 0.1)


def carved(size: tuple[float, float, float], *cuts: trimesh.Trimesh) -> Mesh:
    """A block on the plate with pieces cut out of it."""
    block = trimesh.creation.box(size)
    block.apply_translation([0, 0, size[2] / 2])
    return mesh_of(trimesh.boolean.difference([block, *cuts], engine="manifold"))


def room(wide: float, low: float, tall: float, long: float | None = None) -> trimesh.Trimesh:
    cut = trimesh.creation.box((wide, wide if long is None else long, tall))
    cut.apply_translation([0, 0, low + tall / 2])
    return cut


def at_ceiling(mesh: Mesh, z: float):  # type: ignore[no-untyped-def]
    proof = prove(mesh, 0.1, CONTEXT.reach)
    layer = round(z / 0.1)
    parts = proof.components
    here = np.flatnonzero(parts.layer == layer)
    return proof, closing_share(proof.stack, parts.of_run, layer, int(here[0]))


def test_a_rooms_lid_hangs_all_around_with_a_drain_hole_in_its_wall_too() -> None:
    assert at_ceiling(carved((30, 30, 30), room(20, 5, 20)), 25.0)[1] > 0.99
    bore = trimesh.creation.cylinder(1.5, 40)
    bore.apply_transform(trimesh.transformations.rotation_matrix(math.pi / 2, [0, 1, 0]))
    bore.apply_translation([0, 0, 24.5])
    assert at_ceiling(carved((30, 30, 30), room(20, 5, 20), bore), 25.0)[1] > 0.9


def test_a_shelf_a_bridge_and_an_open_arch_do_not() -> None:
    table = Mesh.joined([box((0, 0, 10), (6, 6, 20)), box((0, 0, 22), (30, 30, 4))])
    assert at_ceiling(table, 20.0)[1] < 0.01
    assert at_ceiling(carved((30, 30, 30), room(20, 0, 25, long=40)), 25.0)[1] < 0.01
    assert at_ceiling(carved((30, 30, 30), room(20, 0, 25), room(8, 5, 20, long=40)), 25.0)[1] < 0.5, "a door of 8 mm"


def test_nothing_hangs_over_in_a_block_nor_at_the_plate() -> None:
    proof, share = at_ceiling(box((0, 0, 5), (10, 10, 10)), 5.0)
    assert share == 0.0
    assert closing_share(proof.stack, proof.components.of_run, 0, 0) == 0.0


@pytest.mark.parametrize("wide", [8.0, 12.0])
def test_the_roof_of_a_cavity_is_survived_as_a_shelf_of_a_twentieth_of_it_is(wide: float) -> None:
    def overhang(mesh: Mesh) -> float:
        found = [h for h in ledger(prove(mesh, 0.1, CONTEXT.reach), CONTEXT) if h.code == "overhang"]
        return max((h.chance for h in found), default=0.0)

    closed = overhang(carved((30, 30, 30), room(wide, 5, 20)))
    bridge = overhang(carved((30, 30, 30), room(wide, 0, 25, long=40)))
    assert closed < 0.2 < 0.9 < bridge
    small = math.sqrt(wide**2 / 20)
    shelf = overhang(carved((30, 30, 30), room(small, 5, 20)))
    assert shelf <= closed + 0.02, "a room with a lid so small is hardly asked"


def test_a_cup_upside_down_closes_over_its_own_air() -> None:
    tumbler = cup(10, 2, 3, 24)
    turned = Mesh(tumbler.vertices * [1, -1, -1], tumbler.faces).dropped()
    assert at_ceiling(turned, float(turned.size[2]) - 3.0)[1] > 0.99
