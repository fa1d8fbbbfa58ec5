"""Sharp edges that look down: a scar on one is cut off with a stroke, and is seen least."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..mesh import Mesh

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]
SHARP_DEG = 50.0
"""Prior: faces that turn by so much at an edge make it one that a scar hides on."""


@dataclass(frozen=True)
class Sharp:
    """Convex sharp edges (k,) of faces that look down: whose each is, which of its edges, 0 for that of its first two
    corners, and the face beyond it.
    """

    face: I8
    edge: I8
    beyond: I8


def sharp_edges(mesh: Mesh) -> Sharp:
    """Those of a placed mesh, found on first use and kept with it. O(faces log faces)."""
    kept: Sharp | None = mesh.__dict__.get("_sharp")
    if kept is None:
        kept = mesh.__dict__["_sharp"] = _found(mesh)
    return kept


def _found(mesh: Mesh) -> Sharp:
    normal, area = mesh.normals_and_areas()
    faces = np.flatnonzero((normal[:, 2] < 0) & (area > 0))
    if not len(faces):
        return Sharp(faces, faces, faces)
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
    parts = []
    for k in (0, 1):  # of the two that share an edge, the one that is not the face itself
        at = np.minimum(first + k, len(order) - 1)
        same = every[order[at]] == wanted
        other = near[order[at] // 3]
        row, edge = np.nonzero(same & (other != faces[:, None]))
        mine, beyond = faces[row], other[row, edge]
        turns = np.einsum("ij,ij->i", normal[mine], normal[beyond]) < math.cos(math.radians(SHARP_DEG))
        mine, beyond, edge = mine[turns], beyond[turns], edge[turns]
        apex = mesh.vertices[corners[beyond]].mean(axis=1)
        convex = np.einsum("ij,ij->i", apex - mesh.vertices[corners[mine, edge]], normal[mine]) < 0
        parts.append((mine[convex], edge[convex], beyond[convex]))
    return Sharp(*(np.concatenate(some) for some in zip(*parts, strict=True)))


def points_on_edges(mesh: Mesh, faces: I8, pitches: F8, inset: float) -> tuple[F8, I8]:
    """Points (n, 3) along the sharp edges of faces (m,) that look down, a quarter of the `pitches` (m,) apart and
    `inset` mm from the edge, and whose each is (n,).
    """
    sharp = sharp_edges(mesh)
    number = np.full(len(mesh.faces), -1)
    number[faces] = np.arange(len(faces))
    row = number[sharp.face]
    mine = np.flatnonzero(row >= 0)
    points, index = _along(mesh, sharp.face[mine], sharp.edge[mine], pitches=pitches[row[mine]], inset=inset)
    return points, row[mine][index]


def points_on_keels(mesh: Mesh, downward: B1, *, limit_angle: float, pitch: float, inset: float) -> tuple[F8, I8]:
    """Points (n, 3) a quarter of `pitch` apart along the keels of a figure, and the faces they are on (n,): sharp edges
    that lie no steeper than a surface may hang, between `downward` faces (faces,) of which neither needs holding
    itself. A layer starts there as a sliver as long as the edge, with nothing below it. Shorter ones than `pitch` are
    left.
    """
    sharp = sharp_edges(mesh)
    both = np.flatnonzero(downward[sharp.face] & downward[sharp.beyond])
    face, edge = sharp.face[both], sharp.edge[both]
    a, b = mesh.faces[face, edge], mesh.faces[face, (edge + 1) % 3]
    way = mesh.vertices[b] - mesh.vertices[a]
    length = np.linalg.norm(way, axis=1)
    lies = np.flatnonzero(np.abs(way[:, 2]) < length * math.cos(limit_angle))
    if not len(lies):
        return np.empty((0, 3)), np.empty(0, np.int64)
    face, edge, a, b, length = face[lies], edge[lies], a[lies], b[lies], length[lies]
    count = len(mesh.vertices)
    _, keel = connected_components(coo_matrix((np.ones(len(a)), (a, b)), (count, count)), directed=False)
    # Each edge is met from both sides.
    long = np.flatnonzero(np.bincount(keel[a], length)[keel[a]] / 2 >= pitch)
    points, index = _along(mesh, face[long], edge[long], pitches=np.full(len(long), pitch), inset=inset)
    return points, face[long][index]


def _along(mesh: Mesh, face: I8, edge: I8, *, pitches: F8, inset: float) -> tuple[F8, I8]:
    """Points along edges (k,) of faces (k,), and the edge that each is on."""
    if not len(face):
        return np.empty((0, 3)), np.empty(0, np.int64)
    corners = mesh.faces[face]
    pick = np.arange(len(face))
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
    return a[index] + share[:, None] * way[index] + into[index], index
