"""How holes are cut out of a hollow figure, and the plugs that close them once its inside is clean and cured."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh
from .cavities import Hollowed, HollowError

EDGES_OF_HOLE = 32
SINK_MM, SINK_SHARE = 0.8, 0.4
"""Priors: how deep a countersink is at most, in mm and of the wall."""
PLAY_MM = 0.1
"""Prior: a plug is so much thinner than its hole, all around."""
APART_MM = 4.0
"""Plugs stand so far apart on the plate, beside what they are wide."""


@dataclass(frozen=True)
class Hole:
    """A round hole of `diameter` mm from `point` on the outside along the unit vector `axis` into the cavity, `length`
    mm of wall.
    """

    point: tuple[float, float, float]
    axis: tuple[float, float, float]
    diameter: float
    length: float


def sink_of(hole: Hole) -> float:
    """Depth of a hole's countersink, 45° all around."""
    return min(SINK_MM, SINK_SHARE * hole.length)


def plug(hole: Hole) -> Mesh:
    """What closes a countersunk hole: a head that lies flush with the surface and a shaft through most of the wall. It
    stands on its head, as it prints.
    """
    sink, shaft = sink_of(hole), hole.diameter / 2 - PLAY_MM
    head = manifold3d.Manifold.cylinder(sink, shaft + sink, shaft, circular_segments=EDGES_OF_HOLE)
    stem = manifold3d.Manifold.cylinder(0.9 * hole.length, shaft, circular_segments=EDGES_OF_HOLE)
    out = (head + stem).to_mesh()
    return Mesh(np.array(out.vert_properties[:, :3], np.float64), np.array(out.tri_verts, np.int32))


def plugs_of(holes: Sequence[Hole]) -> dict[str, Mesh]:
    """A plug for every hole, side by side on the plate."""
    apart = APART_MM + max((h.diameter for h in holes), default=0.0)
    return {
        f"plug {i + 1}": Mesh((body := plug(hole)).vertices + [i * apart, 0.0, 0.0], body.faces)
        for i, hole in enumerate(holes)
    }


def _solid(mesh: Mesh) -> manifold3d.Manifold:
    return manifold3d.Manifold(
        manifold3d.Mesh(mesh.vertices.astype(np.float32), np.ascontiguousarray(mesh.faces, np.uint32))
    )


def drilled(hollowed: Hollowed, holes: Sequence[Hole], *, countersunk: bool = False) -> Mesh:
    """The hollow figure with its holes cut (manifold3d), closed and turned outwards; `countersunk` for plugs.

    Raises:
        HollowError: `not-drilled` where the boolean library refuses.
    """
    body = _solid(hollowed.mesh)
    bores = []
    for hole in holes:
        deep = hole.length + 0.6 * hole.diameter
        bore = manifold3d.Manifold.cylinder(deep + hole.diameter, hole.diameter / 2, circular_segments=EDGES_OF_HOLE)
        bores.append(bore.translate([0.0, 0.0, -hole.diameter]).transform(_frame(hole)))
        if countersunk:
            sink, wide = sink_of(hole), hole.diameter / 2
            cone = manifold3d.Manifold.cylinder(2 * sink, wide + 2 * sink, wide, circular_segments=EDGES_OF_HOLE)
            bores.append(cone.translate([0.0, 0.0, -sink]).transform(_frame(hole)))
    cut = body - manifold3d.Manifold.batch_boolean(bores, manifold3d.OpType.Add) if bores else body
    if cut.status() != manifold3d.Error.NoError or cut.is_empty():
        raise HollowError(
            "not-drilled", "The holes could not be cut out of this surface.", remedy="Repair the figure first."
        )
    out = cut.to_mesh()
    return Mesh(np.array(out.vert_properties[:, :3], np.float64), np.array(out.tri_verts, np.int32))


def _frame(hole: Hole) -> NDArray[np.float64]:
    """3 x 4: z of the bore along its axis, its origin on the surface."""
    z = np.array(hole.axis) / np.linalg.norm(hole.axis)
    x = np.cross(z, [1.0, 0, 0] if abs(z[0]) < 0.9 else [0, 1.0, 0])
    x /= np.linalg.norm(x)
    return np.column_stack([x, np.cross(z, x), z, np.array(hole.point)])
