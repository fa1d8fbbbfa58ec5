"""Rays that need to see only a little way: a uniform grid of faces (Amanatides and Woo 1987), made in a fraction of a
hierarchy's time.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .distance import point_triangle
from .mesh import F8, I4, Mesh

I8 = NDArray[np.int64]
MOST_CELLS = 8_000_000
EDGES = 2.5
"""A cell is this many edges of a usual face wide: wider ones hold too many faces, narrower ones take too many steps."""


@njit()
def _tally(vertices: F8, faces: I4, lower: F8, cell: float, dims: I8, start: I8, items: I4, filling: bool) -> None:
    """Count the faces whose boxes meet each cell into `start`, or fill `items` where `start` tells each cell's next
    place.
    """
    low, high = np.empty(3, np.int64), np.empty(3, np.int64)
    for f in range(len(faces)):
        for axis in range(3):
            a, b, c = vertices[faces[f, 0], axis], vertices[faces[f, 1], axis], vertices[faces[f, 2], axis]
            low[axis] = min(max(int((min(a, b, c) - lower[axis]) / cell), 0), dims[axis] - 1)
            high[axis] = min(max(int((max(a, b, c) - lower[axis]) / cell), 0), dims[axis] - 1)
        for x in range(low[0], high[0] + 1):
            for y in range(low[1], high[1] + 1):
                for z in range(low[2], high[2] + 1):
                    place = (x * dims[1] + y) * dims[2] + z
                    if filling:
                        items[start[place]] = f
                    start[place] += 1


class FaceGrid(NamedTuple):
    """Faces by the cells that their boxes meet: those of cell c are `items[start[c]:start[c + 1]]`. A record that
    compiled loops take whole.
    """

    vertices: F8
    faces: I4
    lower: F8
    cell: float
    dims: I8
    start: I8
    items: I4


def face_grid(mesh: Mesh) -> FaceGrid:
    """The faces of a mesh in cells of some edges' width, at most MOST_CELLS of them. O(faces + cells)."""
    _, area = mesh.normals_and_areas()
    edge = float(np.sqrt(2 * area.mean()))
    size = np.maximum(mesh.size, 1e-9)
    cell = max(EDGES * edge, float((size.prod() / MOST_CELLS) ** (1 / 3)), float(size.max()) / 2000)
    dims = (size / cell).astype(np.int64) + 1
    cells = int(dims.prod())
    count, nothing = np.zeros(cells, np.int64), np.empty(0, np.int32)
    _tally(mesh.vertices, mesh.faces, mesh.lower, cell, dims, count, nothing, False)
    start = np.zeros(cells + 1, np.int64)
    np.cumsum(count, out=start[1:])
    items = np.empty(int(start[-1]), np.int32)
    _tally(mesh.vertices, mesh.faces, mesh.lower, cell, dims, start[:-1].copy(), items, True)
    return FaceGrid(mesh.vertices, mesh.faces, mesh.lower, cell, dims, start, items)


@njit()
def nearest_hit(
    grid: FaceGrid,
    ox: float,
    oy: float,
    oz: float,
    dx: float,
    dy: float,
    dz: float,
    reach: float,
) -> tuple[float, int]:
    """Length, in lengths of the direction, at which a ray first meets a face, and the face; (reach, -1) where it meets
    none within `reach`.
    """
    vertices, faces, lower, cell, dims, start, items = grid
    best, face = reach, -1
    x = min(max(int((ox - lower[0]) / cell), 0), dims[0] - 1)
    y = min(max(int((oy - lower[1]) / cell), 0), dims[1] - 1)
    z = min(max(int((oz - lower[2]) / cell), 0), dims[2] - 1)
    big = 1e300
    sx, sy, sz = (1 if dx > 0 else -1), (1 if dy > 0 else -1), (1 if dz > 0 else -1)
    tx = (lower[0] + (x + (dx > 0)) * cell - ox) / dx if dx != 0 else big
    ty = (lower[1] + (y + (dy > 0)) * cell - oy) / dy if dy != 0 else big
    tz = (lower[2] + (z + (dz > 0)) * cell - oz) / dz if dz != 0 else big
    ax, ay, az = (
        (cell / abs(dx) if dx != 0 else big),
        (cell / abs(dy) if dy != 0 else big),
        (cell / abs(dz) if dz != 0 else big),
    )
    while True:
        place = (x * dims[1] + y) * dims[2] + z
        for k in range(start[place], start[place + 1]):
            f = items[k]
            a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
            # Möller and Trumbore 1997, a hair wider than the face so that no ray slips between two.
            ux, uy, uz = (
                vertices[b, 0] - vertices[a, 0],
                vertices[b, 1] - vertices[a, 1],
                vertices[b, 2] - vertices[a, 2],
            )
            vx, vy, vz = (
                vertices[c, 0] - vertices[a, 0],
                vertices[c, 1] - vertices[a, 1],
                vertices[c, 2] - vertices[a, 2],
            )
            px, py, pz = dy * vz - dz * vy, dz * vx - dx * vz, dx * vy - dy * vx
            det = ux * px + uy * py + uz * pz
            if det == 0.0:
                continue
            qx, qy, qz = ox - vertices[a, 0], oy - vertices[a, 1], oz - vertices[a, 2]
            u = (qx * px + qy * py + qz * pz) / det
            if u < -1e-9 or u > 1.0 + 1e-9:
                continue
            rx, ry, rz = qy * uz - qz * uy, qz * ux - qx * uz, qx * uy - qy * ux
            v = (dx * rx + dy * ry + dz * rz) / det
            if v < -1e-9 or u + v > 1.0 + 1e-9:
                continue
            t = (vx * rx + vy * ry + vz * rz) / det
            if 0.0 < t < best:
                best, face = t, f
        out = min(tx, ty, tz)
        if best <= out or out >= reach:
            return best, face
        if tx <= ty and tx <= tz:
            x += sx
            tx += ax
        elif ty <= tz:
            y += sy
            ty += ay
        else:
            z += sz
            tz += az
        if x < 0 or y < 0 or z < 0 or x >= dims[0] or y >= dims[1] or z >= dims[2]:
            return best, face


MOST_HITS = 64
"""Crossings of one cell that a ray keeps apart; more are a fault of the surface and end it."""


@njit()
def leave_solid(
    grid: FaceGrid,
    ox: float,
    oy: float,
    oz: float,
    dx: float,
    dy: float,
    dz: float,
    reach: float,
    winding: int,
) -> tuple[float, int, int]:
    """Walk a ray that begins where the winding number is `winding` (> 0) until it has fallen to zero.

    Returns the length there, in lengths of the direction, the face through which it leaves, and the sum of all changes
    so far; (reach, -1, sum) where it stays in the solid that far. With `winding` large it runs to `reach` and the sum
    tells what lay at its start. Every crossing counts once: a face met in several cells belongs to the cell that holds
    the crossing.
    """
    vertices, faces, lower, cell, dims, start, items = grid
    at = np.empty(MOST_HITS)
    change = np.empty(MOST_HITS, np.int64)
    named = np.empty(MOST_HITS, np.int64)
    total = 0
    x = min(max(int((ox - lower[0]) / cell), 0), dims[0] - 1)
    y = min(max(int((oy - lower[1]) / cell), 0), dims[1] - 1)
    z = min(max(int((oz - lower[2]) / cell), 0), dims[2] - 1)
    big = 1e300
    sx, sy, sz = (1 if dx > 0 else -1), (1 if dy > 0 else -1), (1 if dz > 0 else -1)
    tx = (lower[0] + (x + (dx > 0)) * cell - ox) / dx if dx != 0 else big
    ty = (lower[1] + (y + (dy > 0)) * cell - oy) / dy if dy != 0 else big
    tz = (lower[2] + (z + (dz > 0)) * cell - oz) / dz if dz != 0 else big
    ax, ay, az = (
        (cell / abs(dx) if dx != 0 else big),
        (cell / abs(dy) if dy != 0 else big),
        (cell / abs(dz) if dz != 0 else big),
    )
    inward = 0.0
    while True:
        place = (x * dims[1] + y) * dims[2] + z
        outward = min(tx, ty, tz)
        last = (
            (tx == outward and (x + sx < 0 or x + sx >= dims[0]))
            or (ty == outward and tx != outward and (y + sy < 0 or y + sy >= dims[1]))
            or (tz == outward and tx != outward and ty != outward and (z + sz < 0 or z + sz >= dims[2]))
        )
        end = (
            big if last else outward
        )  # beyond the grid there is nothing, but its last cells hold what lies on their rim
        count = 0
        for k in range(start[place], start[place + 1]):
            f = items[k]
            a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
            ux, uy, uz = (
                vertices[b, 0] - vertices[a, 0],
                vertices[b, 1] - vertices[a, 1],
                vertices[b, 2] - vertices[a, 2],
            )
            vx, vy, vz = (
                vertices[c, 0] - vertices[a, 0],
                vertices[c, 1] - vertices[a, 1],
                vertices[c, 2] - vertices[a, 2],
            )
            px, py, pz = dy * vz - dz * vy, dz * vx - dx * vz, dx * vy - dy * vx
            det = ux * px + uy * py + uz * pz
            if det == 0.0:
                continue
            qx, qy, qz = ox - vertices[a, 0], oy - vertices[a, 1], oz - vertices[a, 2]
            u = (qx * px + qy * py + qz * pz) / det
            if u < 0.0 or u > 1.0:
                continue
            rx, ry, rz = qy * uz - qz * uy, qz * ux - qx * uz, qx * uy - qy * ux
            v = (dx * rx + dy * ry + dz * rz) / det
            if v < 0.0 or u + v > 1.0:
                continue
            t = (vx * rx + vy * ry + vz * rz) / det
            if t <= 0.0 or t < inward or t >= end or t >= reach or count == MOST_HITS:
                continue
            q = count
            while q > 0 and at[q - 1] > t:
                at[q], change[q], named[q] = at[q - 1], change[q - 1], named[q - 1]
                q -= 1
            # det > 0: the ray meets the face's front and goes in.
            at[q], change[q], named[q] = t, (1 if det > 0 else -1), f
            count += 1
        for q in range(count):
            total += change[q]
            if winding + total <= 0:
                return at[q], named[q], total
        if last or outward >= reach:
            return reach, -1, total
        inward = outward
        if tx <= ty and tx <= tz:
            x += sx
            tx += ax
        elif ty <= tz:
            y += sy
            ty += ay
        else:
            z += sz
            tz += az


@njit()
def _closest_within(points: F8, grid: FaceGrid, reach: float, out: F8) -> None:
    vertices, faces, lower, cell, dims, start, items = grid
    low, high = np.empty(3, np.int64), np.empty(3, np.int64)
    for i in range(len(points)):
        best = reach * reach
        for axis in range(3):
            low[axis] = min(max(int(np.floor((points[i, axis] - reach - lower[axis]) / cell)), 0), dims[axis] - 1)
            high[axis] = min(max(int(np.floor((points[i, axis] + reach - lower[axis]) / cell)), 0), dims[axis] - 1)
        for x in range(low[0], high[0] + 1):
            for y in range(low[1], high[1] + 1):
                for z in range(low[2], high[2] + 1):
                    place = (x * dims[1] + y) * dims[2] + z
                    for k in range(start[place], start[place + 1]):
                        f = items[k]
                        best = min(
                            best,
                            point_triangle(points[i], vertices, faces[f, 0], faces[f, 1], faces[f, 2]),
                        )
        out[i] = np.sqrt(best)


def distance_within(points: F8, grid: FaceGrid, reach: float) -> F8:
    """Exact distance (n,) from points (n, 3) to the faces of a grid, `reach` where it is farther. O(faces near
    each point).
    """
    out = np.empty(len(points))
    _closest_within(
        np.ascontiguousarray(points, float),
        grid,
        reach,
        out,
    )
    return out


@njit()
def _windings(
    points: F8,
    grid: FaceGrid,
    far: float,
    ways: F8,
    out: I8,
) -> None:
    everything = 1_000_000
    windings = np.empty(len(ways), np.int64)
    for i in range(len(points)):
        for k in range(len(ways)):
            _, _, total = leave_solid(
                grid,
                points[i, 0],
                points[i, 1],
                points[i, 2],
                ways[k, 0],
                ways[k, 1],
                ways[k, 2],
                far,
                everything,
            )
            windings[k] = -total
        out[i] = np.sort(windings)[len(ways) // 2]


WAYS = np.array(
    [[0.37, 0.56, 0.74], [-0.61, 0.23, 0.76], [0.29, -0.83, 0.47], [0.71, 0.44, -0.55], [-0.33, -0.52, -0.79]]
)


def winding_numbers(points: F8, grid: FaceGrid) -> NDArray[np.int64]:
    """The surface's winding number (n,) around points (n, 3): the median over five rays, so that no grazed edge
    decides.
    """
    out = np.empty(len(points), np.int64)
    far = (
        2 * float(np.linalg.norm(np.ptp(grid.vertices, axis=0)))
        + float(np.abs(points).max(initial=0.0))
        + float(np.abs(grid.vertices).max())
        + 1e-9
    )
    _windings(
        np.ascontiguousarray(points, float),
        grid,
        far,
        WAYS,
        out,
    )
    return out
