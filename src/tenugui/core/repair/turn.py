"""Make neighbouring faces run the same way round, and shells face outwards.

Terms. *Sheet*: faces connected over edges that exactly two of them share. *Body*: what is turned as one: a sheet that
is closed by itself, or all open sheets of a shell. *Closed* here means that the oriented areas of the faces sum to next
to nothing, so that a pinhole does not count. *Container*: another body that winds around a body's points (generalised
winding number, not a count of crossings).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..mesh import Mesh, cluster, shell_labels, subset
from ..mesh.edges import neighbours
from ..mesh.mesh import F8, I4
from ..mesh.winding import solid_angles

CLOSED = 0.02
"""Prior: a body is closed where its faces' oriented areas sum to less than this share of its area."""
FLAT = 1e-4
"""A body whose volume is less than this share of its area to the power 3/2 has no inside to speak of, and keeps its
turning.
"""
WITNESSES = 9
"""Points of a body that are asked whether another winds around them; two thirds must agree."""
EXACT_FACES = 40_000
"""A container of more faces is asked as a coarse copy, which winds around everything but what is close to its surface.
"""


@njit()
def _flood(neighbour: NDArray[np.int64], same: NDArray[np.bool_], sheet: I4, flip: NDArray[np.bool_]) -> int:
    """Walk over edges with exactly two faces; label sheets, and mark faces that run against the first of their
    sheet.
    """
    n = len(sheet)
    stack = np.empty(n, np.int64)
    count = 0
    for seed in range(n):
        if sheet[seed] >= 0:
            continue
        sheet[seed] = count
        stack[0] = seed
        top = 1
        while top:
            top -= 1
            f = stack[top]
            for e in range(3):
                g = neighbour[f, e]
                if g >= 0 and sheet[g] < 0:
                    sheet[g] = count
                    flip[g] = flip[f] != same[f, e]
                    stack[top] = g
                    top += 1
        count += 1
    return count


@dataclass(frozen=True)
class Bodies:
    """`of` (faces,): the body of each face; signed volume, and corners of the box, of each."""

    of: NDArray[np.int64]
    volume: F8
    closed: NDArray[np.bool_]
    lower: F8
    upper: F8


def _vector_sums(of: NDArray[np.int64], count: int, rows: F8) -> F8:
    return np.stack([np.bincount(of, rows[:, axis], count) for axis in range(3)], axis=1)


def _openness(of: NDArray[np.int64], count: int, oriented: F8, area: F8) -> F8:
    return np.asarray(
        np.linalg.norm(_vector_sums(of, count, oriented), axis=1) / np.maximum(np.bincount(of, area, count), 1e-300)
    )


def _bodies(mesh: Mesh, sheet: NDArray[np.int64], sheets: int, flip: NDArray[np.bool_]) -> Bodies:
    """Group sheets into bodies and measure them with `flip` applied."""
    normals, area = mesh.normals_and_areas()
    sign = np.where(flip, -1.0, 1.0)
    oriented = normals * (area * sign)[:, None]
    alone = _openness(sheet, sheets, oriented, area) < CLOSED
    shell, _ = shell_labels(mesh.faces, len(mesh.vertices))
    of = np.where(alone[sheet], sheet, sheets + shell.astype(np.int64))
    of = np.asarray(np.unique(of, return_inverse=True)[1].ravel(), np.int64)
    count = int(of.max()) + 1
    corners = mesh.corners()
    lower, upper = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    np.minimum.at(lower, of, corners.min(axis=1))
    np.maximum.at(upper, of, corners.max(axis=1))
    # From the middle of each body's own box: a hole far from the origin must not weigh.
    a, b, c = (corners[:, k] - ((lower + upper) / 2)[of] for k in range(3))
    volume: F8 = np.bincount(of, np.einsum("ij,ij->i", a, np.cross(b, c)) / 6 * sign, count).astype(np.float64)
    full = np.bincount(of, area, count)
    flat = np.abs(volume) < FLAT * full**1.5
    return Bodies(of, volume, (_openness(of, count, oriented, area) < CLOSED) & ~flat, lower, upper)


def _around(mesh: Mesh, bodies: Bodies, inner: int) -> int:
    """The outermost body that winds around `inner`, or -1."""
    box = (bodies.lower <= bodies.lower[inner] + 1e-12).all(axis=1) & (bodies.upper >= bodies.upper[inner] - 1e-12).all(
        axis=1
    )
    box[inner] = False
    faces = np.flatnonzero(bodies.of == inner)
    picked = mesh.corners()[faces[np.linspace(0, len(faces) - 1, min(WITNESSES, len(faces))).astype(int)]].mean(axis=1)
    largest = np.prod(bodies.upper - bodies.lower, axis=1)
    for outer in sorted(np.flatnonzero(box & bodies.closed), key=lambda k: -largest[k]):
        shell = subset(mesh, bodies.of == outer)
        shell = cluster(shell, EXACT_FACES) if len(shell.faces) > 2 * EXACT_FACES else shell
        if (np.abs(solid_angles(picked, shell.vertices, shell.faces)) > 0.5).mean() >= 2 / 3:
            return int(outer)
    return -1


def turn(mesh: Mesh) -> tuple[Mesh, NDArray[np.bool_]]:
    """The mesh with faces turned where needed, and which were.

    Within a sheet the smaller area gives way. A body that nothing winds around faces outwards; one inside another keeps
    its turning relative to it, since it may be a cavity.
    """
    across, same = neighbours(mesh.faces)
    sheet32 = np.full(len(mesh.faces), -1, np.int32)
    against = np.zeros(len(mesh.faces), np.bool_)
    sheets = _flood(across, same, sheet32, against)
    sheet = sheet32.astype(np.int64)
    _, area = mesh.normals_and_areas()
    mixed = np.bincount(sheet, against, sheets) > 0
    swap = np.bincount(sheet, area * against, sheets) > np.bincount(sheet, area, sheets) / 2
    flip = (against ^ swap[sheet]) & mixed[sheet]
    bodies = _bodies(mesh, sheet, sheets, flip)
    negative = (bodies.volume < 0) & bodies.closed
    if negative.any():
        # Whatever lies within a body that is turned must be looked at as well.
        wrong = np.zeros(len(bodies.volume), np.bool_)
        root = {int(k): _around(mesh, bodies, int(k)) for k in np.flatnonzero(negative)}
        outer = [k for k, r in root.items() if r < 0]
        wrong[outer] = True
        for k, r in root.items():
            wrong[k] |= r >= 0 and bool(negative[r])
        for r in outer:
            within = (
                (bodies.lower >= bodies.lower[r]).all(axis=1)
                & (bodies.upper <= bodies.upper[r]).all(axis=1)
                & ~negative
                & bodies.closed
            )
            for inner in np.flatnonzero(within):
                wrong[inner] |= _around(mesh, bodies, int(inner)) == int(r)
        flip ^= wrong[bodies.of]
    if not flip.any():
        return mesh, flip
    faces = mesh.faces.copy()
    faces[flip] = faces[flip][:, ::-1]
    return Mesh(mesh.vertices, faces), flip
