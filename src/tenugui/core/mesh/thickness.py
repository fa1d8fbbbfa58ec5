"""Local thickness: how far it is through the solid, straight inwards, robustly (shape diameter: Shapira, Shamir,
Cohen-Or 2008).

What counts is the solid, not the surface: a ray goes on through the inner walls of overlapping shells until the winding
number is zero, and only surface that is exposed is asked. Samples lie evenly by area, so that a box of twelve faces and
a scan of a million say the same.
"""

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
from .near import FaceGrid, face_grid, leave_solid
from .samples import surface_samples

CONE_DEG = 15.0
RAYS = 4
BELOW = 2e-6
"""How far under the surface its rays begin, as a share of the figure's extent."""
OPPOSITE = -0.8
"""Cosine below which two surfaces face away from each other: within 37 degrees of opposite."""
SPACING_MM = 0.3
"""Distance between samples: a few of them lie across the smallest part that is told."""


@dataclass(frozen=True)
class Thickness:
    """Sampled `points` (s, 3) with their unit `normals` and `faces` (s,), and the thickness there in mm, inf where it
    is more than was asked.
    """

    points: F8
    normals: F8
    faces: I4
    mm: F8


@dataclass(frozen=True)
class ThinPlace:
    """A connected thin part: a point on it, its thickness (lower quartile), its length and width along its own axes, in
    mm.

    `kind` is `rod` where it is about as wide as thick and free on all sides, `edge` where it is no part (see
    `thin_places`), else `sheet`; `axis` is the unit vector
    along its length.
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
def _opposite(normals: F8, f: int, g: int) -> bool:
    return normals[f, 0] * normals[g, 0] + normals[f, 1] * normals[g, 1] + normals[f, 2] * normals[g, 2] < OPPOSITE


EVERYTHING = 1_000_000


@njit()
def _exposed(
    grid: FaceGrid,
    x: float,
    y: float,
    z: float,
    nx: float,
    ny: float,
    nz: float,
    diagonal: float,
) -> bool:
    """Whether the winding number just above a surface is zero, by the majority of three rays to the outside."""
    sx, sy, sz, ox, oy, oz = _across(nx, ny, nz)
    free = 0
    for k in range(3):
        p, q = 0.31 * np.cos(2.1 * k + 0.4), 0.31 * np.sin(2.1 * k + 0.4)
        dx, dy, dz = nx + p * sx + q * ox, ny + p * sy + q * oy, nz + p * sz + q * oz
        _, _, total = leave_solid(grid, x, y, z, dx, dy, dz, diagonal, EVERYTHING)
        free += total == 0
    return free >= 2


@njit()
def _near(
    grid: FaceGrid,
    normals: F8,
    points: F8,
    picked: I4,
    first: int,
    last: int,
    tilt: float,
    reach: float,
    below: float,
    diagonal: float,
    out: F8,
) -> None:
    """Thickness under samples [first, last): the median over a fan of rays that leave through a surface turned the
    other way.

    Straight inwards first: most samples lie over thick solid.
    """
    lengths = np.empty(RAYS + 1)
    for i in range(first, last):
        f = picked[i]
        nx, ny, nz = normals[f, 0], normals[f, 1], normals[f, 2]
        x, y, z = points[i, 0] - nx * below, points[i, 1] - ny * below, points[i, 2] - nz * below
        t, g, _ = leave_solid(grid, x, y, z, -nx, -ny, -nz, reach, 1)
        if g < 0:
            continue
        lengths[RAYS] = t if _opposite(normals, f, g) else np.inf
        sx, sy, sz, ox, oy, oz = _across(nx, ny, nz)
        for k in range(RAYS):
            turn = 2 * np.pi * k / RAYS
            p, q = tilt * np.cos(turn), tilt * np.sin(turn)
            dx, dy, dz = -nx + p * sx + q * ox, -ny + p * sy + q * oy, -nz + p * sz + q * oz
            t, g, _ = leave_solid(grid, x, y, z, dx, dy, dz, reach, 1)
            lengths[k] = t if g >= 0 and _opposite(normals, f, g) else np.inf
        middle = np.sort(lengths)[(RAYS + 1) // 2]
        if middle < np.inf:
            x, y, z = points[i, 0] + nx * below, points[i, 1] + ny * below, points[i, 2] + nz * below
            if _exposed(grid, x, y, z, nx, ny, nz, diagonal):
                out[i] = middle


def _measured(mesh: Mesh, grid: FaceGrid, points: F8, picked: NDArray[np.int64], beyond: float) -> Thickness:
    normals, _ = mesh.normals_and_areas()
    faces = picked.astype(np.int32)
    diagonal = 2 * float(np.linalg.norm(mesh.size)) + 1e-9
    reach = min(beyond, diagonal)
    through = np.full(len(faces), np.inf)
    marks = np.linspace(0, len(faces), 4 * CORES + 1).astype(int).tolist()
    tilt, below = float(np.tan(np.radians(CONE_DEG))), BELOW * float(mesh.size.max())
    points = np.ascontiguousarray(points)
    both_cores(
        lambda a, b: _near(grid, normals, points, faces, a, b, tilt, reach, below, diagonal, through),
        list(itertools.pairwise(marks)),
    )
    return Thickness(points, normals[faces], faces, through)


def local_thickness(mesh: Mesh, beyond: float = np.inf, spacing: float = SPACING_MM, most: int = 250_000) -> Thickness:
    """Thickness at samples about `spacing` mm apart, at most `most` of them: the median over a cone of inward rays.

    Only rays that leave the solid through a surface turned the other way count: on the flank of a ridge or beside a
    sharp edge the far side is close but not opposite, and that is relief, not a thin part. What is thicker than
    `beyond`, or not exposed, is told as inf.
    """
    points, faces = surface_samples(mesh, spacing, most)
    return _measured(mesh, face_grid(mesh), points, faces, beyond)


def face_thickness(mesh: Mesh, beyond: float = np.inf) -> Thickness:
    """The same at the middle of every face that has an area."""
    _, area = mesh.normals_and_areas()
    faces = np.flatnonzero(area > 0)
    return _measured(mesh, face_grid(mesh), mesh.middles()[faces], faces, beyond)


def vertex_thickness(mesh: Mesh, beyond: float = np.inf) -> F8:
    """Thickness (n,) at every vertex: the harmonic mean of the faces around it, so that thin ones weigh most; inf where
    none is known, or all are thicker than `beyond`.
    """
    thickness = face_thickness(mesh, beyond)
    corners = mesh.faces[thickness.faces].ravel()
    thin = np.bincount(corners, np.repeat(1 / np.maximum(thickness.mm, 1e-6), 3), len(mesh.vertices))
    count = np.bincount(corners, minlength=len(mesh.vertices))
    with np.errstate(divide="ignore"):
        return np.asarray(np.where(thin > 0, count / thin, np.inf))


ROD_WIDTH = 3.0
"""Prior: a thin part up to this many times as wide as thick, and longer than wide, is a rod."""
ROUND = 0.2
"""Prior: a rod is thin from all sides. Where its normals across its axis spread less evenly than this (smaller over
larger second moment), it is the strip along the edge of something wider.
"""
SMALLEST_MM = 0.8
"""Prior: a thin spot of a smaller extent is surface relief."""
FOLD_MM = 0.05
"""Prior: what is thinner than a pixel or a grain of plastic is a fold where surfaces meet."""
TAPERS = 0.5
"""Prior: a part is about as thick all over; a tenth of what thins out is thinner than this share of its middle."""
PART_LONG, RIM_WIDE = 3.0, 1.2
"""Priors: a part is so many times as long as it is thick, and a sheet so many times as wide."""
FEWEST = 4
"""Samples below which a thin spot is noise."""


def _together(points: F8, reach: float) -> NDArray[np.int32]:
    """Groups of points that hang together over distances of about `reach`: by cells a third as wide, so that dense
    places cost no more.
    """
    cells, cell = np.unique(np.floor(points / (reach / 3)).astype(np.int64), axis=0, return_inverse=True)
    pairs = cKDTree(cells).query_pairs(3.0, output_type="ndarray")
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(cells), len(cells)))
    return np.asarray(connected_components(links, directed=False)[1][cell.ravel()])


def _is_edge(mm: F8, length: float, width: float, is_rod: bool) -> bool:
    """Whether a thin place is no part: a wedge that thins out into an edge or a point, a fold where surfaces meet, or a
    rim just below the limit, narrower than it is thick. `mm` (m,): its thickness at its samples.
    """
    usual = float(np.median(mm))
    if usual < FOLD_MM or float(np.quantile(mm, 0.1)) < TAPERS * usual or length < PART_LONG * usual:
        return True
    return not is_rod and width < RIM_WIDE * usual


def thin_places(thickness: Thickness, limit: float, reach: float = 1.5, most: int = 40) -> list[ThinPlace]:
    """Group the samples thinner than `limit` that lie within `reach` mm of each other; worst first."""
    thin = thickness.mm < limit
    if thin.sum() < FEWEST:
        return []
    points, mm, normals = thickness.points[thin], thickness.mm[thin], thickness.normals[thin]
    group = _together(points, reach)
    places = []
    worst_first = np.argsort(mm, kind="stable")
    _, first = np.unique(group[worst_first], return_index=True)
    for seed in worst_first[np.sort(first)]:
        members = np.flatnonzero(group == group[seed])
        if len(members) < FEWEST:
            continue
        cluster = points[members]
        axes = np.linalg.svd(cluster - cluster.mean(axis=0), full_matrices=False)[2]
        length, width, _ = (float(v) for v in np.ptp(cluster @ axes.T, axis=0))
        if length < SMALLEST_MM:
            continue
        thick = float(np.quantile(mm[members], 0.25))
        across = normals[members] @ axes[1:].T
        moments = np.linalg.eigvalsh(across.T @ across)
        is_rod = width < ROD_WIDTH * thick and length > 2 * width and moments[0] > ROUND * moments[1]
        kind = "edge" if _is_edge(mm[members], length, width, is_rod) else "rod" if is_rod else "sheet"
        x, y, z = (float(v) for v in points[seed])
        axis = (float(axes[0, 0]), float(axes[0, 1]), float(axes[0, 2]))
        places.append(ThinPlace(x, y, z, thick, length, width, kind, axis))
        if len(places) == most:
            break
    return places
