"""Where a figure was cut apart: flat faces, and the pegs and sockets on them.

A *flat face* is a connected set of faces in one plane; a *peg* rises from it, a *socket* sinks into it: a patch that
the flat face runs all the way round.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .edges import neighbours
from .mesh import F8, Mesh
from .shells import find, join

SMALLEST = 0.01
"""Prior: a flat face smaller than this share of the surface is detail."""
OFF_PLANE = 1e-3
"""Prior: how far from its plane a flat face may stray, as a share of the figure's extent."""
WITHIN_COS = 0.9994
"""2 degrees."""
MOST = 8


@dataclass(frozen=True)
class FlatFace:
    """`faces` of the mesh that lie in one plane, its outward unit normal, its area in mm² and its centre."""

    faces: NDArray[np.int64]
    normal: F8
    area: float
    centre: F8


@dataclass(frozen=True)
class Fit:
    """A peg or a socket on a flat face: its `faces`, how far it reaches from the plane in mm, and its centre."""

    kind: str
    faces: NDArray[np.int64]
    reach: float
    centre: F8


@njit()
def _grow(
    across: NDArray[np.int64],
    normals: F8,
    middles: F8,
    order: NDArray[np.int64],
    away: float,
    region: NDArray[np.int32],
) -> int:
    stack = np.empty(len(region), np.int64)
    count = 0
    for seed in order:
        if region[seed] >= 0:
            continue
        n = normals[seed]
        offset = n[0] * middles[seed, 0] + n[1] * middles[seed, 1] + n[2] * middles[seed, 2]
        region[seed] = count
        stack[0] = seed
        top = 1
        while top:
            top -= 1
            f = stack[top]
            for e in range(3):
                g = across[f, e]
                if g < 0 or region[g] >= 0:
                    continue
                m = normals[g]
                if n[0] * m[0] + n[1] * m[1] + n[2] * m[2] < WITHIN_COS:
                    continue
                if abs(n[0] * middles[g, 0] + n[1] * middles[g, 1] + n[2] * middles[g, 2] - offset) > away:
                    continue
                region[g] = count
                stack[top] = g
                top += 1
        count += 1
    return count


@njit()
def _patches(across: NDArray[np.int64], inside: NDArray[np.bool_], label: NDArray[np.int32]) -> None:
    """Label connected faces outside the flat face by their smallest member, -1 inside it."""
    for f in range(len(label)):
        label[f] = f
    for f in range(len(label)):
        if inside[f]:
            continue
        for e in range(3):
            g = across[f, e]
            if g >= 0 and not inside[g]:
                join(label, np.int32(f), np.int32(g))
    for f in range(len(label)):
        label[f] = -1 if inside[f] else find(label, np.int32(f))


def flat_faces(mesh: Mesh) -> list[FlatFace]:
    """The largest flat faces, at most MOST, largest first."""
    across, _ = neighbours(mesh.faces)
    normals, areas = mesh.normals_and_areas()
    middles = mesh.middles()
    region = np.full(len(mesh.faces), -1, np.int32)
    count = _grow(
        across, normals, middles, np.argsort(-areas, kind="stable"), OFF_PLANE * float(mesh.size.max()), region
    )
    total = np.bincount(region, areas, count)
    faces = []
    for r in np.argsort(-total)[:MOST]:
        members = np.flatnonzero(region == r)
        if total[r] < SMALLEST * areas.sum():
            break
        weight = areas[members, None]
        normal = (normals[members] * weight).sum(axis=0)
        faces.append(
            FlatFace(
                members,
                normal / np.linalg.norm(normal),
                float(total[r]),
                (middles[members] * weight).sum(axis=0) / total[r],
            )
        )
    return faces


def fits(mesh: Mesh, flat: FlatFace) -> list[Fit]:
    """Pegs and sockets on a flat face: patches no larger than it, that touch nothing but it."""
    across, _ = neighbours(mesh.faces)
    inside = np.zeros(len(mesh.faces), np.bool_)
    inside[flat.faces] = True
    label = np.empty(len(mesh.faces), np.int32)
    _patches(across, inside, label)
    _, areas = mesh.normals_and_areas()
    touching = np.unique(label[across[flat.faces][across[flat.faces] >= 0]])
    total = np.bincount(label[~inside], areas[~inside], len(label))
    pairs = []
    outer = max((int(t) for t in touching if t >= 0), key=lambda t: float(total[t]), default=-1)
    for patch in touching:
        if patch < 0 or patch == outer or total[patch] > 2 * flat.area:
            continue
        members = np.flatnonzero(label == patch)
        height = (mesh.vertices[mesh.faces[members]].reshape(-1, 3) - flat.centre) @ flat.normal
        reach = float(height[np.argmax(np.abs(height))])
        if abs(reach) > 10 * OFF_PLANE * float(mesh.size.max()):
            centre = np.average(mesh.vertices[mesh.faces[members]].mean(axis=1), axis=0, weights=areas[members])
            pairs.append(Fit("peg" if reach > 0 else "socket", members, abs(reach), centre))
    return pairs
