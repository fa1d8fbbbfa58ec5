"""Hollowing: the depth field beside a general library's exact transform, on the same cells."""

from __future__ import annotations

from typing import Any

import numpy as np

WALL_MM, PITCH_MM = 2.0, 0.2


def ours_field(mesh: Any) -> str:
    from tenugui.core.hollow import depth_field

    field = depth_field(mesh, PITCH_MM, WALL_MM)
    deep = int((field.depth > WALL_MM).sum())
    return f"{field.depth.size:,} cells, {deep:,} deeper than {WALL_MM} mm; run ends exact, crevices seen"


def scipy_field(mesh: Any) -> str:
    """The same scan lines filled into cells, then the transform of every cell to the nearest outside one."""
    from scipy import ndimage

    from tenugui.core.layers import cut, grid_for
    from tenugui.core.layers.grid import SUB

    placed = mesh.dropped()
    grid = grid_for(placed, PITCH_MM, PITCH_MM)
    stack = cut(placed, grid)
    inside = np.zeros((grid.layers + 2, grid.rows + 2, int((placed.upper[0] - grid.x0) / PITCH_MM) + 4), bool)
    line = np.repeat(np.arange(grid.layers * grid.rows), np.diff(stack.row_start))
    for r, a, b in zip(line.tolist(), (stack.x_in // SUB).tolist(), (stack.x_out // SUB).tolist(), strict=True):
        inside[r // grid.rows + 1, r % grid.rows + 1, a + 1 : b + 1] = True
    depth = ndimage.distance_transform_edt(inside) * PITCH_MM
    return f"{inside.size:,} cells, {int((depth > WALL_MM).sum()):,} deeper than {WALL_MM} mm; whole cells"


def tables(mesh: Any) -> tuple[Any, ...]:
    """The table of depth fields."""
    return (
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
