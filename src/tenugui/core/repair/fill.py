"""Close the loops of a surface's open edges."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..formats.polygons import triangulate
from ..mesh import Mesh
from ..mesh.mesh import I4

LONGEST = 2000
"""A loop with more edges is closed from its middle: clipping its ears would take too long."""


def open_edges(mesh: Mesh) -> NDArray[np.int64]:
    """Directed edges (e, 2) that have a face on one side only, as that face runs along them."""
    edges = mesh.faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2).astype(np.int64)
    low, high = edges.min(axis=1), edges.max(axis=1)
    _, inverse, counts = np.unique((low << 32) | high, return_inverse=True, return_counts=True)
    return edges[(counts[inverse] == 1) & (low != high)]


def loops(edges: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    """Closed simple walks along directed edges, split wherever one comes back to a vertex; open ends are left out."""
    leaving: dict[int, list[int]] = {}
    for a, b in edges.tolist():
        leaving.setdefault(a, []).append(b)
    loops = []
    for start in list(leaving):
        while leaving.get(start):
            walk, at = [start], {start: 0}
            while leaving.get(walk[-1]):
                b = leaving[walk[-1]].pop()
                if b in at:
                    k = at[b]
                    loops.append(np.array(walk[k:], np.int64))
                    for v in walk[k + 1 :]:
                        del at[v]
                    walk = walk[: k + 1]
                else:
                    at[b] = len(walk)
                    walk.append(b)
    return [loop for loop in loops if len(loop) >= 3]


def fill(mesh: Mesh) -> tuple[Mesh, I4, int]:
    """The mesh with every loop closed, the faces added, and the number of loops. New faces come last."""
    walks = loops(open_edges(mesh)[:, ::-1])
    if not walks:
        return mesh, np.empty((0, 3), np.int32), 0
    points = [mesh.vertices]
    count = len(mesh.vertices)
    added = []
    short = [walk for walk in walks if len(walk) <= LONGEST]
    if short:
        starts = np.cumsum([0, *map(len, short)])
        added.append(triangulate(mesh.vertices.astype(np.float32), starts.astype(np.int64), np.concatenate(short))[0])
    for walk in walks:
        if len(walk) > LONGEST:
            points.append(mesh.vertices[walk].mean(axis=0, keepdims=True))
            added.append(np.stack([walk, np.roll(walk, -1), np.full(len(walk), count)], axis=1).astype(np.int32))
            count += 1
    new = np.concatenate(added)
    return Mesh(np.concatenate(points), np.concatenate([mesh.faces, new])), new, len(walks)
