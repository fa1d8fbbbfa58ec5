"""Hollowing: depth, whole figures and floods beside general libraries on the same cells."""

from __future__ import annotations

import time
from typing import Any

import numpy as np

WALL_MM, PITCH_MM = 2.0, 0.2


def ours_field(mesh: Any) -> str:
    from tenugui.core.hollow import depth_field

    field = depth_field(mesh, PITCH_MM, WALL_MM)
    deep = int((field.depth > WALL_MM).sum())
    return f"{field.depth.size:,} cells, {deep:,} deeper than {WALL_MM} mm; run ends exact, crevices seen"


def _filled(mesh: Any, pitch: float) -> Any:
    """Cells inside, by our own scan lines."""
    from tenugui.core.layers import cut, grid_for
    from tenugui.core.layers.grid import SUB

    placed = mesh.dropped()
    grid = grid_for(placed, pitch, pitch)
    stack = cut(placed, grid)
    inside = np.zeros((grid.layers + 2, grid.rows + 2, int((placed.upper[0] - grid.x0) / pitch) + 4), bool)
    line = np.repeat(np.arange(grid.layers * grid.rows), np.diff(stack.row_start))
    for r, a, b in zip(line.tolist(), (stack.x_in // SUB).tolist(), (stack.x_out // SUB).tolist(), strict=True):
        inside[r // grid.rows + 1, r % grid.rows + 1, a + 1 : b + 1] = True
    return inside


def scipy_field(mesh: Any) -> str:
    """The same scan lines filled into cells, then the transform of every cell to the nearest outside one."""
    from scipy import ndimage

    inside = _filled(mesh, PITCH_MM)
    depth = ndimage.distance_transform_edt(inside) * PITCH_MM
    return f"{inside.size:,} cells, {int((depth > WALL_MM).sum()):,} deeper than {WALL_MM} mm; whole cells"


TALL_MM, GRID_MM, LATTICE_MM = 75.0, 0.15, 8.0
DOWN = np.array([0.0, 0.0, -1.0])


def _tall(mesh: Any) -> Any:
    tall = TALL_MM if len(mesh.faces) > 10_000 else TALL_MM / 4  # the ball that warms up is small
    return mesh.scaled(tall / mesh.size[2]).dropped()


def _drilled(mesh: Any, lattice: Any = None) -> str:
    from tenugui.core.hollow import drilled, hollow, suggest

    made = hollow(_tall(mesh), WALL_MM, lattice, pitch=GRID_MM)
    opened = [suggest(made, cavity, DOWN) for cavity in made.cavities]
    body = drilled(made, [hole for one in opened for hole in one.holes])
    cavity = made.cavities[0]
    assert made.field is not None
    return (
        f"{made.field.depth.size:,} cells, thinnest wall {cavity.min_wall:.3f} "
        f"mm, {len(opened[0].holes)} holes, {len(body.faces):,} triangles"
    )


def ours_hollow(mesh: Any) -> str:
    return _drilled(mesh)


def ours_lattice(mesh: Any) -> str:
    from tenugui.core.plan.cut_out import lattice_of

    return _drilled(mesh, lattice_of(LATTICE_MM))


def plain_hollow(mesh: Any) -> str:
    """What a script does: fill cells, transform, march, and join; no wall is measured, no hole is cut."""
    from scipy import ndimage
    from skimage.measure import marching_cubes

    from tenugui.core.mesh import Mesh

    tall = _tall(mesh)
    inside = _filled(tall, GRID_MM)
    depth = ndimage.distance_transform_edt(inside).astype(np.float32) * GRID_MM
    points, faces, _, _ = marching_cubes(depth, WALL_MM)
    joined = Mesh.joined([tall, Mesh(points[:, ::-1] * GRID_MM, np.ascontiguousarray(faces[:, ::-1], np.int32))])
    return f"{inside.size:,} cells, {len(joined.faces):,} triangles; walls not measured, no holes"


FLOOD_CELLS = 268


def _ball(cells: int) -> tuple[Any, Any]:
    """A ball of cells `cells` across with a sill in it, held askew, open at two places; as a space and as a grid."""
    at = np.argwhere(np.ones((cells,) * 3, bool))
    half = cells / 2
    inside = (np.linalg.norm(at - half, axis=1) < half - 1) & ~((at[:, 2] == cells // 2) & (at[:, 0] < half))
    return at[inside], inside.reshape((cells,) * 3)


def _held() -> Any:
    way = np.array([0.3, 0.2, -1.0])
    return way / np.linalg.norm(way)


def ours_flood(cells: Any) -> str:
    from tenugui.core.hollow import Mouth, drained
    from tenugui.core.hollow.liquid import space_between

    at, _ = _ball(cells if isinstance(cells, int) else 24)
    space = space_between(at, at[:, ::-1] * 0.2, 0.2)
    low = int(np.argmin(space.middles[:, 2]))
    mouths = [Mouth(np.array([low]), 1.0, 2.0), Mouth(np.array([len(at) - 1]), 1.0, 2.0)]
    began = time.perf_counter()
    out = drained(space, mouths, _held())
    took = time.perf_counter() - began
    return (
        f"{len(at):,} cells, {int(out.filled.sum()):,} stay filled; "
        f"flood and drain alone {took:.2f} s, the rest makes the cells"
    )


def skimage_flood(cells: int) -> str:
    """The same levels by reconstruction (Robinson and Whelan 2004 in scikit-image): no order, no draining."""
    from skimage.morphology import reconstruction

    at, grid = _ball(cells)
    middles = at[:, ::-1] * 0.2
    height = np.full(grid.shape, np.inf)
    height[grid] = -(middles @ _held())
    low = int(np.argmin(middles[:, 2]))
    seed = np.full(grid.shape, np.inf)
    for k in (low, len(at) - 1):
        seed[tuple(at[k])] = height[tuple(at[k])]
    height[~grid] = 1e6
    seed[~grid] = 1e6
    seed[np.isinf(seed)] = 1e6
    began = time.perf_counter()
    cross = ndimage_cross()
    level = reconstruction(seed, height, method="erosion", footprint=cross)
    took = time.perf_counter() - began
    kept = int((level[grid] > height[grid] + 0.1).sum())
    return f"{len(at):,} cells, {kept:,} stay filled; reconstruction alone {took:.2f} s"


def ndimage_cross() -> Any:
    """The six neighbours of a cell."""
    from scipy import ndimage

    return ndimage.generate_binary_structure(3, 1)


def tables(mesh: Any) -> tuple[Any, ...]:
    """Depth fields, whole figures, floods."""
    return (
        (
            "Hollow: a figure of 75 mm on cells of 0.15 mm",
            mesh,
            ours_hollow,
            (
                (ours_hollow, "Tenugui: hollowed, walls measured, holes cut"),
                (ours_lattice, "Tenugui: the same with struts every 8 mm"),
                (plain_hollow, "scipy's transform, scikit-image's surface, joined"),
            ),
        ),
        (
            "Hollow: a flood of ten million cells",
            FLOOD_CELLS,
            ours_flood,
            (
                (ours_flood, "Tenugui: cells, flood, and how long it drains"),
                (skimage_flood, "scikit-image: reconstruction of the levels"),
            ),
        ),
        (
            "Hollow: depth of every cell",
            mesh,
            ours_field,
            (
                (ours_field, "Tenugui: cut and depth up to the wall"),
                (scipy_field, "Tenugui's cut, then scipy: distance transform"),
            ),
        ),
    )
