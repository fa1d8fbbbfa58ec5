"""Shells: faces connected through shared vertices, by union-find."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .mesh import F8, I4, Mesh


@njit()
def find(parent: NDArray[np.int32], i: int) -> int:
    """Root of i, halving the path on the way (Tarjan and van Leeuwen 1984)."""
    while parent[i] != i:
        parent[i] = parent[parent[i]]
        i = parent[i]
    return i


@njit()
def join(parent: NDArray[np.int32], a: int, b: int) -> int:
    """Unite the sets of a and b under the smaller root and return it."""
    a, b = find(parent, a), find(parent, b)
    if a < b:
        parent[b] = a
        return a
    parent[a] = b
    return b


@njit()
def _label(faces: NDArray[np.int32], parent: NDArray[np.int32], label: NDArray[np.int32]) -> int:
    for f in range(len(faces)):
        join(parent, faces[f, 0], faces[f, 1])
        join(parent, faces[f, 0], faces[f, 2])
    names = np.full(len(parent), -1, np.int32)
    count = 0
    for f in range(len(faces)):
        root = find(parent, faces[f, 0])
        if names[root] < 0:
            names[root] = count
            count += 1
        label[f] = names[root]
    return count


def shell_labels(faces: I4, vertex_count: int) -> tuple[I4, int]:
    """Label (m,) of each face's shell, numbered by first appearance, and the number of shells."""
    label = np.empty(len(faces), np.int32)
    return label, int(_label(faces, np.arange(vertex_count, dtype=np.int32), label))


@njit()
def _boxes(vertices: F8, faces: NDArray[np.int32], label: NDArray[np.int32], lower: F8, upper: F8) -> None:
    for f in range(len(faces)):
        s = label[f]
        for k in range(3):
            for axis in range(3):
                value = vertices[faces[f, k], axis]
                lower[s, axis] = min(lower[s, axis], value)
                upper[s, axis] = max(upper[s, axis], value)


def shell_boxes(mesh: Mesh, label: I4, count: int) -> tuple[F8, F8]:
    """Lower and upper corners (count, 3) of each shell's box."""
    lower, upper = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    _boxes(mesh.vertices, mesh.faces, label, lower, upper)
    return lower, upper


@njit()
def _clusters(order: NDArray[np.int64], lower: F8, upper: F8, parent: NDArray[np.int32], most: int) -> None:
    """Join boxes that overlap, swept along x; of many that lie over one another at once the last `most` are
    looked at.
    """
    for i in range(len(order)):
        a = order[i]
        for j in range(i - 1, max(-1, i - 1 - most), -1):
            b = order[j]
            if (
                upper[b, 0] >= lower[a, 0]
                and upper[b, 1] >= lower[a, 1]
                and lower[b, 1] <= upper[a, 1]
                and upper[b, 2] >= lower[a, 2]
                and lower[b, 2] <= upper[a, 2]
            ):
                join(parent, np.int32(a), np.int32(b))
    for a in range(len(parent)):
        parent[a] = find(parent, np.int32(a))


def clusters_of(lower: F8, upper: F8, most: int = 4096) -> I4:
    """For each of some boxes (count, 3) the smallest number of those that it hangs together with, by overlapping boxes.
    O(count x most).
    """
    parent = np.arange(len(lower), dtype=np.int32)
    _clusters(np.argsort(lower[:, 0], kind="stable"), lower, upper, parent, most)
    return parent
