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
from .near import face_grid, nearest_hit
from .rays import FAR, rays_of

CONE_DEG = 15.0
RAYS = 4
BELOW = 1e-4
"""How far under a face its rays begin, in mm."""
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
def _across(nx: float, ny: float, nz: float) -> tuple[float, float, float, float, float, float]:
    """Two directions across a unit normal (Duff et al. 2017, Building an orthonormal basis, revisited)."""
    sign = 1.0 if nz >= 0 else -1.0
    p = -1.0 / (sign + nz)
    q = nx * ny * p
    return 1.0 + sign * nx * nx * p, sign * q, -sign * nx, q, sign + ny * ny * p, -ny


@njit()
def _fan(
    vertices: F8, faces: I4, picked: I4, normals: F8, tilt: float, origins: NDArray[np.float32], directions: NDArray[np.float32]
) -> None:
    """RAYS rays around the way straight inwards, and that way itself, from just below the middle of each picked face."""
    for i in range(len(picked)):
        f = picked[i]
        nx, ny, nz = normals[f, 0], normals[f, 1], normals[f, 2]
        sx, sy, sz, ox, oy, oz = _across(nx, ny, nz)
        for axis in range(3):
            middle = (vertices[faces[f, 0], axis] + vertices[faces[f, 1], axis] + vertices[faces[f, 2], axis]) / 3
            for k in range(RAYS + 1):
                origins[i * (RAYS + 1) + k, axis] = middle - normals[f, axis] * BELOW
        for k in range(RAYS + 1):
            turn = 2 * np.pi * k / RAYS
            c, s = (0.0, 0.0) if k == RAYS else (tilt * np.cos(turn), tilt * np.sin(turn))
            r = i * (RAYS + 1) + k
            directions[r, 0] = -nx + c * sx + s * ox
            directions[r, 1] = -ny + c * sy + s * oy
            directions[r, 2] = -nz + c * sz + s * oz


@njit()
def _opposite(normals: F8, f: int, g: int) -> bool:
    return normals[f, 0] * normals[g, 0] + normals[f, 1] * normals[g, 1] + normals[f, 2] * normals[g, 2] < OPPOSITE


@njit()
def _middle(picked: I4, normals: F8, distance: NDArray[np.float32], hit: I4, out: F8) -> None:
    """The median over each fan of the rays that leave through a surface turned the other way; inf counts as one that does not."""
    held = np.empty(RAYS + 1)
    for i in range(len(picked)):
        for k in range(RAYS + 1):
            g = hit[i * (RAYS + 1) + k]
            held[k] = distance[i * (RAYS + 1) + k] if g >= 0 and _opposite(normals, picked[i], g) else np.inf
        out[i] = np.sort(held)[(RAYS + 1) // 2]


@njit()
def _near(
    vertices: F8, faces: I4, normals: F8, picked: I4, first: int, last: int, lower: F8, cell: float, dims: NDArray[np.int64],
    start: NDArray[np.int64], items: I4, tilt: float, reach: float, out: F8,
) -> None:  # fmt: skip
    """The same for picked faces [first, last), by rays that see no further than `reach`; straight inwards first: most faces lie over thick solid."""
    held = np.empty(RAYS + 1)
    for i in range(first, last):
        f = picked[i]
        nx, ny, nz = normals[f, 0], normals[f, 1], normals[f, 2]
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        x = (vertices[a, 0] + vertices[b, 0] + vertices[c, 0]) / 3 - nx * BELOW
        y = (vertices[a, 1] + vertices[b, 1] + vertices[c, 1]) / 3 - ny * BELOW
        z = (vertices[a, 2] + vertices[b, 2] + vertices[c, 2]) / 3 - nz * BELOW
        t, g = nearest_hit(vertices, faces, lower, cell, dims, start, items, x, y, z, -nx, -ny, -nz, reach)
        if g < 0:
            continue
        held[RAYS] = t if _opposite(normals, f, g) else np.inf
        sx, sy, sz, ox, oy, oz = _across(nx, ny, nz)
        for k in range(RAYS):
            turn = 2 * np.pi * k / RAYS
            p, q = tilt * np.cos(turn), tilt * np.sin(turn)
            dx, dy, dz = -nx + p * sx + q * ox, -ny + p * sy + q * oy, -nz + p * sz + q * oz
            t, g = nearest_hit(vertices, faces, lower, cell, dims, start, items, x, y, z, dx, dy, dz, reach)
            held[k] = t if g >= 0 and _opposite(normals, f, g) else np.inf
        out[i] = np.sort(held)[(RAYS + 1) // 2]


CHUNK = 8192
"""Faces whose rays are laid out together: small enough to stay in the cache."""


def local_thickness(mesh: Mesh, most: int = 60_000, beyond: float = np.inf) -> Thickness:
    """Median over a cone of inward rays from evenly picked faces, at most `most` of them; every face where `most` allows.

    Only rays that leave through a surface turned the other way count: on the flank of a ridge or beside a sharp edge the far side is
    close but not opposite, and that is relief, not a thin part. Fewer than half such rays give inf. What is thicker than `beyond` is told as inf:
    rays that need to see no further ask a grid of faces, which is made far sooner than what sees everywhere.
    """
    normals, area = mesh.normals_and_areas()
    usable = np.flatnonzero(area > 0)
    faces = usable[:: max(1, -(-len(usable) // most))].astype(np.int32)
    through = np.full(len(faces), np.inf)
    marks = np.linspace(0, len(faces), (CORES if beyond == np.inf else 4 * CORES) + 1).astype(int).tolist()
    if beyond < np.inf:
        grid = face_grid(mesh)
        cells = (grid.lower, grid.cell, grid.dims, grid.start, grid.items)
        tilt = float(np.tan(np.radians(CONE_DEG)))
        both_cores(
            lambda a, b: _near(mesh.vertices, mesh.faces, normals, faces, a, b, *cells, tilt, beyond, through),
            list(itertools.pairwise(marks)),
        )
        return Thickness(faces, through)
    rays = rays_of(mesh)
    tilt = float(np.tan(np.radians(CONE_DEG)))

    def measure(first: int, last: int) -> None:
        origins, directions = np.empty((CHUNK * (RAYS + 1), 3), np.float32), np.empty((CHUNK * (RAYS + 1), 3), np.float32)

        for a in range(first, last, CHUNK):
            picked = faces[a : min(a + CHUNK, last)]
            n = len(picked) * (RAYS + 1)
            _fan(mesh.vertices, mesh.faces, picked, normals, tilt, origins, directions)
            distance, hit = rays.shot(origins[:n], directions[:n])
            _middle(picked, normals, distance, hit, through[a : a + len(picked)])

    both_cores(measure, list(itertools.pairwise(marks)))
    return Thickness(faces, np.where(through >= FAR, np.inf, through))


def vertex_thickness(mesh: Mesh, beyond: float = np.inf) -> F8:
    """Thickness (n,) at every vertex: the harmonic mean of the faces around it, so that thin ones weigh most; inf where none is known,
    or all are thicker than `beyond`.
    """
    found = local_thickness(mesh, most=10**9, beyond=beyond)
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
