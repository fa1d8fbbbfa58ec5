"""The two repairs that make a new surface: the union of overlapping shells, and a surface around what the layer stack
calls solid.
"""

from __future__ import annotations

import manifold3d
import numpy as np
from numpy.typing import NDArray
from skimage.measure import marching_cubes

from ..compiled import njit
from ..layers import cut, grid_for
from ..mesh import Mesh, shell_labels

CELLS = 40_000_000
"""Cells of the field that a remesh may fill: 160 MB of 32-bit floats."""


def unite(mesh: Mesh) -> Mesh | None:
    """The union of a mesh's shells (manifold3d), or None where a shell is not closed."""
    labels, count = shell_labels(mesh.faces, len(mesh.vertices))
    solids = []
    for shell in range(count):
        faces = mesh.faces[labels == shell]
        used, inverse = np.unique(faces, return_inverse=True)
        solid = manifold3d.Manifold(
            manifold3d.Mesh(mesh.vertices[used].astype(np.float32), inverse.reshape(-1, 3).astype(np.uint32))
        )
        if solid.status() != manifold3d.Error.NoError:
            return None
        solids.append(solid)
    hollow = [s for s in solids if s.volume() < 0]
    if hollow:
        return None  # a cavity is a shell turned inwards; a union would fill it
    union = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add).to_mesh()
    return Mesh(np.asarray(union.vert_properties[:, :3], np.float64), np.asarray(union.tri_verts, np.int32))


@njit()
def cover(
    row_start: NDArray[np.int64],
    x_in: NDArray[np.int32],
    x_out: NDArray[np.int32],
    rows: int,
    sub: int,
    field: NDArray[np.float32],
) -> None:
    """Share of each cell that lies inside, exact along x."""
    for layer in range(field.shape[0] - 2):
        for row in range(rows):
            line = layer * rows + row
            for r in range(row_start[line], row_start[line + 1]):
                a, b = x_in[r] / sub, x_out[r] / sub
                for x in range(int(a), min(int(b), field.shape[2] - 3) + 1):
                    field[layer + 1, row + 1, x + 1] += max(0.0, min(b, x + 1.0) - max(a, float(x)))


def field_pitch(mesh: Mesh) -> float:
    """The finest pitch in mm whose field stays within CELLS."""
    return float((float(np.prod(mesh.size)) / CELLS) ** (1 / 3))


def remesh(mesh: Mesh, pitch: float | None = None) -> tuple[Mesh, float]:
    """A closed surface around the inside by winding number, by marching cubes (Lorensen and Cline 1987) on the layer
    stack's cells; and the pitch.

    Detail below the pitch is lost; the caller measures how far the surface moved.
    """
    p = max(field_pitch(mesh), float(mesh.size.max()) / 1500) if pitch is None else pitch
    placed = mesh.dropped()
    grid = grid_for(placed, p, p)
    stack = cut(placed, grid)
    columns = int(np.ceil((placed.upper[0] - grid.x0) / p)) + 2
    field = np.zeros((grid.layers + 2, grid.rows + 2, columns + 2), np.float32)
    cover(stack.row_start, stack.x_in, stack.x_out, grid.rows, 256, field)
    points, faces, _, _ = marching_cubes(field, 0.5)
    places = np.stack(
        [grid.x0 + (points[:, 2] - 0.5) * p, grid.y0 + (points[:, 1] - 0.5) * p, (points[:, 0] - 0.5) * p], axis=1
    )
    shift = mesh.vertices[0] - placed.vertices[0]
    # Marching cubes turns its faces by the order of the axes, which is reversed here.
    surface = Mesh(places + shift, np.ascontiguousarray(faces, np.int32))
    return surface, p
