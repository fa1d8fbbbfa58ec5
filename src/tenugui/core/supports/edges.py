"""Sharp edges that look down: a scar on one is cut off with a stroke, and is seen least."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..mesh import Mesh

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
SHARP_DEG = 50.0
"""Prior: faces that turn by so much at an edge make it one that a scar hides on."""


def sharp_edges(mesh: Mesh, faces: I8, normal: F8) -> tuple[I8, I8]:
    """Convex sharp edges of some faces (m,): which of them (k,), and which of its edges (k,), 0 for that of its first
    two corners. O(faces log faces).

    `normal` (faces, 3): unit normals of all faces of the mesh.
    """
    if not len(faces):
        return np.empty(0, np.int64), np.empty(0, np.int64)
    corners = mesh.faces.astype(np.int64)
    count = len(mesh.vertices)

    def keys(of: I8) -> I8:
        a, b = of, np.roll(of, -1, axis=1)
        return np.minimum(a, b) * count + np.maximum(a, b)

    wanted = keys(corners[faces])
    # Only faces beside those asked for can share an edge with them.
    beside = np.zeros(count, np.bool_)
    beside[corners[faces]] = True
    near = np.flatnonzero(beside[corners].sum(axis=1) >= 2)
    every = keys(corners[near]).ravel()
    order = np.argsort(every, kind="stable")
    first = np.searchsorted(every[order], wanted)
    found_face, found_edge = [], []
    for k in (0, 1):  # of the two that share an edge, the one that is not the face itself
        at = np.minimum(first + k, len(order) - 1)
        same = every[order[at]] == wanted
        other = near[order[at] // 3]
        row, edge = np.nonzero(same & (other != faces[:, None]))
        mine, beyond = faces[row], other[row, edge]
        turns = np.einsum("ij,ij->i", normal[mine], normal[beyond]) < math.cos(math.radians(SHARP_DEG))
        apex = mesh.vertices[corners[beyond]].mean(axis=1)
        on = mesh.vertices[corners[mine, edge]]
        convex = np.einsum("ij,ij->i", apex - on, normal[mine]) < 0
        found_face.append(row[turns & convex])
        found_edge.append(edge[turns & convex])
    return np.concatenate(found_face), np.concatenate(found_edge)


def points_on_edges(mesh: Mesh, faces: I8, normal: F8, pitches: F8, inset: float) -> tuple[F8, I8]:
    """Points (n, 3) along the sharp edges of faces (m,), a quarter of the `pitches` (m,) apart and `inset` mm from the
    edge, and whose each is (n,).
    """
    row, edge = sharp_edges(mesh, faces, normal)
    return _along(mesh, faces, row, edge, pitches=pitches[row], inset=inset)


def points_on_keels(
    mesh: Mesh, normal: F8, *, downward: I8, limit_angle: float, pitch: float, inset: float
) -> tuple[F8, I8]:
    """Points (n, 3) a quarter of `pitch` apart along the keels of a figure, and the faces they are on (n,): sharp edges
    that lie no steeper than a surface may hang, between `downward` faces (m,) of which neither needs holding itself. A
    layer starts there as a sliver as long as the edge, with nothing below it. Shorter ones than `pitch` are left.
    """
    row, edge = sharp_edges(mesh, downward, normal)
    if not len(row):
        return np.empty((0, 3)), np.empty(0, np.int64)
    corners = mesh.faces[downward[row]]
    pick = np.arange(len(row))
    a, b = corners[pick, edge], corners[pick, (edge + 1) % 3]
    way = mesh.vertices[b] - mesh.vertices[a]
    length = np.linalg.norm(way, axis=1)
    lies = np.abs(way[:, 2]) < length * math.cos(limit_angle)
    # Between two downward faces an edge is met from both sides.
    _, pair, met = np.unique(np.sort(np.stack([a, b], axis=1)), axis=0, return_inverse=True, return_counts=True)
    lies &= met[pair.ravel()] > 1
    row, edge, a, b, length = row[lies], edge[lies], a[lies], b[lies], length[lies]
    count = len(mesh.vertices)
    _, keel = connected_components(coo_matrix((np.ones(len(a)), (a, b)), (count, count)), directed=False)
    long = np.bincount(keel[a], length, minlength=1)[keel[a]] / 2 >= pitch if len(a) else np.zeros(0, np.bool_)
    row, edge = row[long], edge[long]
    points, index = _along(mesh, downward, row, edge, pitches=np.full(len(row), pitch), inset=inset)
    return points, downward[index]


def _along(mesh: Mesh, faces: I8, row: I8, edge: I8, *, pitches: F8, inset: float) -> tuple[F8, I8]:
    """Points along edges (k,) of faces[row], and their rows."""
    if not len(row):
        return np.empty((0, 3)), np.empty(0, np.int64)
    corners = mesh.faces[faces[row]]
    pick = np.arange(len(row))
    a, b, c = (mesh.vertices[corners[pick, (edge + k) % 3]] for k in range(3))
    way = b - a
    length = np.linalg.norm(way, axis=1)
    times = np.clip(np.ceil(4 * length / pitches), 1, 500).astype(int)
    index = np.repeat(pick, times)
    k = np.arange(len(index)) - np.repeat(np.cumsum(times) - times, times)
    share = (k + 0.5) / times[index]
    along = way / np.maximum(length, 1e-12)[:, None]
    into = c - a - np.einsum("ij,ij->i", c - a, along)[:, None] * along
    deep = np.linalg.norm(into, axis=1)
    into *= (np.minimum(inset, deep / 3) / np.maximum(deep, 1e-12))[:, None]
    return a[index] + share[:, None] * way[index] + into[index], row[index]
