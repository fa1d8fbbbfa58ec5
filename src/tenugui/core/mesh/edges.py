"""Edges of a welded mesh, counted by direction: what decides whether a surface is closed and consistently turned."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .mesh import F8, Mesh


@njit()
def _tally(faces: NDArray[np.int32], table: NDArray[np.int64], forward: NDArray[np.int32], backward: NDArray[np.int32]) -> None:
    mask = np.uint64(len(table) - 1)
    for f in range(len(faces)):
        for e in range(3):
            a, b = np.int64(faces[f, e]), np.int64(faces[f, (e + 1) % 3])
            if a == b:
                continue
            low, high = min(a, b), max(a, b)
            key = (low << 32) | high
            mixed = np.uint64(key) * np.uint64(0x9E3779B97F4A7C15)
            slot = (mixed ^ (mixed >> np.uint64(31))) & mask
            while table[slot] != -1 and table[slot] != key:
                slot = (slot + np.uint64(1)) & mask
            table[slot] = key
            if a < b:
                forward[slot] += 1
            else:
                backward[slot] += 1


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
    """Tally every edge of a welded mesh in one pass over a hash table."""
    size = 1 << max(4, int(np.ceil(np.log2(max(1, len(mesh.faces)) * 3))))
    table = np.full(size, -1, np.int64)
    forward, backward = np.zeros(size, np.int32), np.zeros(size, np.int32)
    _tally(mesh.faces, table, forward, backward)
    used = table >= 0
    keys = table[used]
    return Edges(np.stack([keys >> 32, keys & 0xFFFFFFFF], axis=1), forward[used], backward[used])


def face_volumes(mesh: Mesh) -> F8:
    """Signed volume (m,) of the tetrahedra from the mesh's centre to each face; they sum to the volume."""
    centre = (mesh.lower + mesh.upper) / 2
    a, b, c = (mesh.vertices[mesh.faces[:, i]] - centre for i in range(3))
    return np.asarray(np.einsum("ij,ij->i", a, np.cross(b, c)) / 6)
