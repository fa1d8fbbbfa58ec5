"""Edges of a welded mesh, counted by direction: what decides whether a surface is closed and consistently turned."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .mesh import F8, Mesh

MANY = 32
"""Around so many edges of one vertex they are put in order by the library, around fewer one by one."""


@njit()
def _tally(
    faces: NDArray[np.int32],
    start: NDArray[np.int64],
    ends: NDArray[np.int64],
    pairs: NDArray[np.int64],
    forward: NDArray[np.int32],
    backward: NDArray[np.int32],
) -> int:
    """Edges by their lower vertex, which lie near each other in a file, and there by the higher; how many there are.

    start: (vertices + 2,) zeros; ends: (3 * faces,) room for twice the higher vertex, and one where a face runs down.
    """
    for f in range(len(faces)):
        for e in range(3):
            a, b = faces[f, e], faces[f, (e + 1) % 3]
            if a != b:
                start[min(a, b) + 2] += 1
    for v in range(2, len(start)):
        start[v] += start[v - 1]
    for f in range(len(faces)):
        for e in range(3):
            a, b = np.int64(faces[f, e]), np.int64(faces[f, (e + 1) % 3])
            if a != b:
                low = min(a, b)
                ends[start[low + 1]] = 2 * max(a, b) + (a > b)
                start[low + 1] += 1
    count = 0
    for v in range(len(start) - 2):
        first, last = start[v], start[v + 1]
        if last - first > MANY:
            ends[first:last] = np.sort(ends[first:last])
        else:
            for i in range(first + 1, last):
                end, j = ends[i], i
                while j > first and ends[j - 1] > end:
                    ends[j] = ends[j - 1]
                    j -= 1
                ends[j] = end
        for i in range(first, last):
            if i == first or ends[i] // 2 != ends[i - 1] // 2:
                pairs[count, 0], pairs[count, 1] = v, ends[i] // 2
                forward[count] = backward[count] = 0
                count += 1
            if ends[i] % 2:
                backward[count - 1] += 1
            else:
                forward[count - 1] += 1
    return count


@dataclass(frozen=True)
class Edges:
    """Undirected edges (e, 2) with how many faces run along them each way."""

    pairs: NDArray[np.int64]
    forward: NDArray[np.int32]
    backward: NDArray[np.int32]

    @property
    def boundary(self) -> NDArray[np.bool_]:
        """Edges with exactly one face."""
        return self.forward + self.backward == 1

    @property
    def crowded(self) -> NDArray[np.bool_]:
        """Non-manifold edges: more than two faces."""
        return self.forward + self.backward > 2

    @property
    def unbalanced(self) -> NDArray[np.bool_]:
        """Edges whose faces do not run in opposite directions: a hole, or neighbours turned against each other."""
        return self.forward != self.backward


def edges_of(mesh: Mesh) -> Edges:
    """Every edge of a welded mesh with its faces, in order of its vertices."""
    most = 3 * len(mesh.faces)
    pairs, forward, backward = np.empty((most, 2), np.int64), np.empty(most, np.int32), np.empty(most, np.int32)
    start, ends = np.zeros(len(mesh.vertices) + 2, np.int64), np.empty(most, np.int64)
    count = _tally(mesh.faces, start, ends, pairs, forward, backward)
    return Edges(pairs[:count].copy(), forward[:count].copy(), backward[:count].copy())


@njit()
def _across(
    faces: NDArray[np.int32],
    table: NDArray[np.int64],
    held: NDArray[np.int64],
    across: NDArray[np.int64],
    same: NDArray[np.bool_],
) -> None:
    """held: the face and edge first met at each slot, -2 where a third came."""
    mask = np.uint64(len(table) - 1)
    for f in range(len(faces)):
        for e in range(3):
            a, b = np.int64(faces[f, e]), np.int64(faces[f, (e + 1) % 3])
            across[f, e] = -1
            if a == b:
                continue
            key = (min(a, b) << 32) | max(a, b)
            mixed = np.uint64(key) * np.uint64(0x9E3779B97F4A7C15)
            slot = (mixed ^ (mixed >> np.uint64(31))) & mask
            while table[slot] != -1 and table[slot] != key:
                slot = (slot + np.uint64(1)) & mask
            if table[slot] == -1:
                table[slot] = key
                held[slot] = 3 * f + e
                continue
            other = held[slot]
            if other == -2:
                continue
            g, d = other // 3, other % 3
            if across[g, d] >= 0:  # a third face: nobody's neighbour
                third = across[g, d]
                across[g, d] = -1
                for k in range(3):
                    if (
                        across[third, k] == g
                        and min(faces[third, k], faces[third, (k + 1) % 3]) == min(a, b)
                        and max(faces[third, k], faces[third, (k + 1) % 3]) == max(a, b)
                    ):
                        across[third, k] = -1
                held[slot] = -2
                continue
            across[f, e], across[g, d] = g, f
            same[f, e] = same[g, d] = faces[g, d] == a


def neighbours(faces: NDArray[np.int32]) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """For each face's three edges the one face across (m, 3), or -1 where there is none or more than one; and whether
    both run the same way.
    """
    size = 1 << max(4, int(np.ceil(np.log2(max(1, len(faces)) * 3))))
    across, same = np.empty((len(faces), 3), np.int64), np.zeros((len(faces), 3), np.bool_)
    _across(faces, np.full(size, -1, np.int64), np.full(size, -1, np.int64), across, same)
    return across, same


@njit()
def _group(
    faces: NDArray[np.int32], table: NDArray[np.int32], group: NDArray[np.int32], first: NDArray[np.int32]
) -> int:
    mask = np.uint64(len(table) - 1)
    count = 0
    for f in range(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        low, high = min(a, b, c), max(a, b, c)
        middle = a + b + c - low - high
        mixed = np.uint64(low) * np.uint64(0x9E3779B97F4A7C15) ^ np.uint64(middle) * np.uint64(0xC2B2AE3D27D4EB4F)
        mixed ^= np.uint64(high) * np.uint64(0x165667B19E3779F9)
        mixed ^= mixed >> np.uint64(29)
        slot = (mixed * np.uint64(0xBF58476D1CE4E5B9) >> np.uint64(20)) & mask
        while True:
            g = table[slot]
            if g < 0:
                table[slot] = count
                first[count] = f
                group[f] = count
                count += 1
                break
            h = first[g]
            x, y, z = faces[h, 0], faces[h, 1], faces[h, 2]
            if min(x, y, z) == low and max(x, y, z) == high and x + y + z == low + middle + high:
                group[f] = g
                break
            slot = (slot + np.uint64(1)) & mask
    return count


def repeats(faces: NDArray[np.int32]) -> tuple[NDArray[np.int32], NDArray[np.int64]]:
    """The group of each face (m,) by its set of corners, whatever their order, and the groups' sizes."""
    group, first = np.empty(len(faces), np.int32), np.empty(len(faces), np.int32)
    size = 1 << max(4, int(np.ceil(np.log2(max(1, len(faces)) * 2))))
    count = int(_group(faces, np.full(size, -1, np.int32), group, first))
    return group, np.bincount(group, minlength=count)


@njit()
def _volumes(vertices: F8, faces: NDArray[np.int32], centre: F8, out: F8) -> None:
    for f in range(len(faces)):
        a, b, c = vertices[faces[f, 0]], vertices[faces[f, 1]], vertices[faces[f, 2]]
        ax, ay, az = a[0] - centre[0], a[1] - centre[1], a[2] - centre[2]
        bx, by, bz = b[0] - centre[0], b[1] - centre[1], b[2] - centre[2]
        cx, cy, cz = c[0] - centre[0], c[1] - centre[1], c[2] - centre[2]
        out[f] = (ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)) / 6


def face_volumes(mesh: Mesh) -> F8:
    """Signed volume (m,) of the tetrahedra from the mesh's centre to each face; they sum to the volume."""
    out = np.empty(len(mesh.faces))
    _volumes(mesh.vertices, mesh.faces, (mesh.lower + mesh.upper) / 2, out)
    return out
