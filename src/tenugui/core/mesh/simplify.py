"""Fewer triangles for the picture on the screen; never for a proof."""

from __future__ import annotations

import fast_simplification
import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .mesh import Mesh


def decimate(mesh: Mesh, faces: int) -> Mesh:
    """At most about `faces` triangles, by quadric error (Garland and Heckbert 1997); the mesh itself where it is
    smaller.
    """
    if len(mesh.faces) <= faces:
        return mesh
    # The library wants arrays that it might write to, and what a boolean library gave may be read only.
    given, corners = np.array(mesh.vertices, np.float32, order="C"), np.array(mesh.faces, np.int32, order="C")
    points, triangles = fast_simplification.simplify(given, corners, target_reduction=1 - faces / len(mesh.faces))
    return Mesh(np.asarray(points, np.float64), np.ascontiguousarray(triangles, np.int32))


@njit()
def _gather(
    points: NDArray[np.float64],
    lower: NDArray[np.float64],
    cell: float,
    table: NDArray[np.int64],
    slots: NDArray[np.int32],
    index: NDArray[np.int32],
    sums: NDArray[np.float64],
) -> int:
    """Sum the points of every cubic cell; `index` is each point's cell by first appearance."""
    mask = np.uint64(len(table) - 1)
    count = 0
    for i in range(len(points)):
        a = np.int64((points[i, 0] - lower[0]) / cell)
        b = np.int64((points[i, 1] - lower[1]) / cell)
        c = np.int64((points[i, 2] - lower[2]) / cell)
        key = (a << 42) | (b << 21) | c
        mixed = np.uint64(key) * np.uint64(0x9E3779B97F4A7C15)
        slot = (mixed ^ (mixed >> np.uint64(31))) & mask
        while table[slot] != -1 and table[slot] != key:
            slot = (slot + np.uint64(1)) & mask
        if table[slot] == -1:
            table[slot] = key
            slots[slot] = count
            count += 1
        other = slots[slot]
        index[i] = other
        for axis in range(3):
            sums[other, axis] += points[i, axis]
        sums[other, 3] += 1
    return count


@njit()
def _keep(faces: NDArray[np.int32], index: NDArray[np.int32], out: NDArray[np.int32]) -> int:
    count = 0
    for f in range(len(faces)):
        a, b, c = index[faces[f, 0]], index[faces[f, 1]], index[faces[f, 2]]
        if a != b and b != c and a != c:
            out[count, 0], out[count, 1], out[count, 2] = a, b, c
            count += 1
    return count


@njit()
def _area(points: NDArray[np.float64], faces: NDArray[np.int32]) -> float:
    total = 0.0
    for f in range(len(faces)):
        p, q, r = faces[f, 0], faces[f, 1], faces[f, 2]
        ux, uy, uz = points[q, 0] - points[p, 0], points[q, 1] - points[p, 1], points[q, 2] - points[p, 2]
        vx, vy, vz = points[r, 0] - points[p, 0], points[r, 1] - points[p, 1], points[r, 2] - points[p, 2]
        x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        total += np.sqrt(x * x + y * y + z * z) / 2
    return total


def cluster(mesh: Mesh, faces: int) -> Mesh:
    """About `faces` triangles at once, by vertex clustering (Rossignac and Borrel 1993): a first sight while `decimate`
    is at work.

    Vertices of a cubic cell become their mean; faces within a cell vanish. Far faster than `decimate`, and coarser.
    """
    if len(mesh.faces) <= faces:
        return mesh
    # Cells no smaller than the extents over 2^20, so that three steps fit one 64-bit key.
    cell = max(float(np.sqrt(2 * _area(mesh.vertices, mesh.faces) / faces)), float(mesh.size.max()) / (1 << 20))
    size = 1 << int(np.ceil(np.log2(len(mesh.vertices) * 2)))
    index = np.empty(len(mesh.vertices), np.int32)
    sums = np.zeros((len(mesh.vertices), 4))
    count = _gather(mesh.vertices, mesh.lower, cell, np.full(size, -1, np.int64), np.empty(size, np.int32), index, sums)
    mapped = np.empty_like(mesh.faces)
    kept = _keep(mesh.faces, index, mapped)
    return Mesh(sums[:count, :3] / sums[:count, 3:], mapped[:kept].copy())
