"""Local thickness: how far it is through the solid, straight inwards, robustly (shape diameter: Shapira, Shamir, Cohen-Or 2008)."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from ..compiled import CORES, both_cores, njit
from .mesh import F8, I4, Mesh
from .rays import FAR, rays_of

CONE_DEG = 15.0
RAYS = 4
OPPOSITE = -0.8
"""Cosine below which two surfaces face away from each other: within 37 degrees of opposite."""


@dataclass(frozen=True)
class Thickness:
    """Sampled faces (s,) and the thickness there in mm, inf where no ray came out."""

    faces: I4
    mm: F8


@dataclass(frozen=True)
class ThinPlace:
    """A connected thin part: a point on it, its thickness (lower quartile), its length and width along its own axes, in mm.

    `kind` is `rod` where it is about as wide as thick and free on all sides, else `sheet`; `axis` is the unit vector along its length.
    """

    x: float
    y: float
    z: float
    thickness: float
    extent: float
    width: float = 0.0
    kind: str = "sheet"
    axis: tuple[float, float, float] = (0.0, 0.0, 1.0)


@njit()
def _fan(
    vertices: F8, faces: I4, picked: I4, normals: F8, tilt: float, around: int, origins: NDArray[np.float32], directions: NDArray[np.float32]
) -> None:
    """A ray straight inwards and some `around` it from just below the middle of each picked face."""
    for i in range(len(picked)):
        f = picked[i]
        nx, ny, nz = normals[f, 0], normals[f, 1], normals[f, 2]
        # Two directions across the normal (Duff et al. 2017, Building an orthonormal basis, revisited).
        sign = 1.0 if nz >= 0 else -1.0
        p = -1.0 / (sign + nz)
        q = nx * ny * p
        sx, sy, sz = 1.0 + sign * nx * nx * p, sign * q, -sign * nx
        ox, oy, oz = q, sign + ny * ny * p, -ny
        for axis in range(3):
            middle = (vertices[faces[f, 0], axis] + vertices[faces[f, 1], axis] + vertices[faces[f, 2], axis]) / 3
            for k in range(around + 1):
                origins[i * (around + 1) + k, axis] = middle - normals[f, axis] * 1e-4
        for k in range(around + 1):
            turn = 2 * np.pi * k / max(around, 1)
            c, s = (0.0, 0.0) if k == around else (tilt * np.cos(turn), tilt * np.sin(turn))
            r = i * (around + 1) + k
            directions[r, 0] = -nx + c * sx + s * ox
            directions[r, 1] = -ny + c * sy + s * oy
            directions[r, 2] = -nz + c * sz + s * oz


@njit()
def _middle(picked: I4, normals: F8, distance: NDArray[np.float32], hit: I4, around: int) -> F8:
    """The median over each fan of the rays that leave through a surface turned the other way; inf counts as one that does not."""
    held = np.empty(around + 1)
    out = np.empty(len(picked))
    for i in range(len(picked)):
        f = picked[i]
        for k in range(around + 1):
            g = hit[i * (around + 1) + k]
            held[k] = np.inf
            if g >= 0:
                turned = normals[f, 0] * normals[g, 0] + normals[f, 1] * normals[g, 1] + normals[f, 2] * normals[g, 2]
                if turned < OPPOSITE:
                    held[k] = distance[i * (around + 1) + k]
        out[i] = np.sort(held)[(around + 1) // 2]
    return out


CHUNK = 8192
"""Faces whose rays are laid out together: small enough to stay in the cache."""


def local_thickness(mesh: Mesh, most: int = 60_000, beyond: float = np.inf) -> Thickness:
    """Median over a cone of inward rays from evenly picked faces, at most `most` of them; every face where `most` allows.

    Only rays that leave through a surface turned the other way count: on the flank of a ridge or beside a sharp edge the far side is
    close but not opposite, and that is relief, not a thin part. Fewer than half such rays give inf. Where the ray straight inwards goes
    further than `beyond` before it meets any surface, the solid is thick there, and that ray alone has the word.
    """
    rays = rays_of(mesh)
    normals, area = mesh.normals_and_areas()
    usable = np.flatnonzero(area > 0)
    faces = usable[:: max(1, -(-len(usable) // most))].astype(np.int32)
    through = np.full(len(faces), np.inf)
    tilt = float(np.tan(np.radians(CONE_DEG)))

    def measure(first: int, last: int) -> None:
        origins, directions = np.empty((CHUNK * (RAYS + 1), 3), np.float32), np.empty((CHUNK * (RAYS + 1), 3), np.float32)

        def fans(places: NDArray[np.int64], around: int) -> NDArray[np.float32]:
            picked, n = faces[places], len(places) * (around + 1)
            _fan(mesh.vertices, mesh.faces, picked, normals, tilt, around, origins, directions)
            distance, hit = rays.shot(origins[:n], directions[:n])
            through[places] = _middle(picked, normals, distance, hit, around)
            return distance

        for a in range(first, last, CHUNK):
            places = np.arange(a, min(a + CHUNK, last))
            if beyond < np.inf:
                places = places[fans(places, 0) <= beyond]
            if len(places):
                fans(places, RAYS)

    marks = np.linspace(0, len(faces), CORES + 1).astype(int).tolist()
    both_cores(measure, list(itertools.pairwise(marks)))
    return Thickness(faces, np.where(through >= FAR, np.inf, through))


def vertex_thickness(mesh: Mesh) -> F8:
    """Thickness (n,) at every vertex: the harmonic mean of the faces around it, so that thin ones weigh most; inf where none is known."""
    found = local_thickness(mesh, most=10**9)
    corners = mesh.faces[found.faces].ravel()
    thin = np.bincount(corners, np.repeat(1 / np.maximum(found.mm, 1e-6), 3), len(mesh.vertices))
    count = np.bincount(corners, minlength=len(mesh.vertices))
    with np.errstate(divide="ignore"):
        return np.asarray(np.where(thin > 0, count / thin, np.inf))


ROD_WIDTH = 3.0
"""Prior: a thin part up to this many times as wide as thick, and longer than wide, is a rod."""
ROUND = 0.2
"""Prior: a rod is thin from all sides. Where its normals across its axis spread less evenly than this (smaller over larger second moment), it is
the strip along the edge of something wider."""
SMALLEST_MM = 0.8
"""Prior: a thin spot of a smaller extent is surface relief."""


def _together(points: F8, reach: float) -> NDArray[np.int32]:
    """Groups of points that hang together over steps of about `reach`: by cells a third as wide, so that dense places cost no more."""
    cells, cell = np.unique(np.floor(points / (reach / 3)).astype(np.int64), axis=0, return_inverse=True)
    pairs = cKDTree(cells).query_pairs(3.0, output_type="ndarray")
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(cells), len(cells)))
    return np.asarray(connected_components(links, directed=False)[1][cell.ravel()])


def thin_places(mesh: Mesh, thickness: Thickness, limit: float, reach: float = 1.5, most: int = 40) -> list[ThinPlace]:
    """Group the samples thinner than `limit` that lie within `reach` mm of each other; worst first. Single samples are noise."""
    thin = thickness.mm < limit
    if thin.sum() < 4:
        return []
    corners, mm = mesh.vertices[mesh.faces[thickness.faces[thin]]], thickness.mm[thin]
    points = corners.mean(axis=1)
    normals = mesh.normals_and_areas()[0][thickness.faces[thin]]
    group = _together(points, reach)
    places = []
    worst_first = np.argsort(mm, kind="stable")
    _, first = np.unique(group[worst_first], return_index=True)
    for seed in worst_first[np.sort(first)]:
        members = np.flatnonzero(group == group[seed])
        if len(members) < 4:
            continue
        held = corners[members].reshape(-1, 3)
        axes = np.linalg.svd(held - held.mean(axis=0), full_matrices=False)[2]
        length, width, _ = (float(v) for v in np.ptp(held @ axes.T, axis=0))
        if length < SMALLEST_MM:
            continue
        thick = float(np.quantile(mm[members], 0.25))
        across = normals[members] @ axes[1:].T
        moments = np.linalg.eigvalsh(across.T @ across)
        is_rod = width < ROD_WIDTH * thick and length > 2 * width and moments[0] > ROUND * moments[1]
        kind = "rod" if is_rod else "sheet"
        x, y, z = (float(v) for v in points[seed])
        axis = (float(axes[0, 0]), float(axes[0, 1]), float(axes[0, 2]))
        places.append(ThinPlace(x, y, z, thick, length, width, kind, axis))
        if len(places) == most:
            break
    return places
