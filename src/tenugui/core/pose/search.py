"""All aims of a pose in one compiled pass over the mesh, for every direction.

Approximations, stated: overlapping shells count twice in areas and sections; support volume reaches from each downward face to
the plate, through whatever lies between. The layer stack has the last word on the few poses that are chosen.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from ..compiled import CORES, both_cores, njit
from ..mesh import Mesh
from ..mesh.edges import face_volumes

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]

AIMS = (
    "support_area_mm2",
    "scar_area_mm2",
    "support_volume_mm3",
    "height_mm",
    "minima",
    "peak_section_mm2",
    "step_cost",
    "foot_mm2",
    "lean",
)
"""Columns of a pose table. All but foot_mm2 are better small; lean is the distance of the centre of mass outside its foot, 0 when it stands."""

SECTIONS = 96
PERSISTENCE_MM = 0.4
"""Prior: a downward point less deep than this is relief, not a start in mid air."""
CONTACT_MM = 0.15
"""Prior: what lies within this of the lowest point touches the plate."""


@njit()
def _faces_pass(level: F8, faces: I4, normal: F8, area: F8, weight: F8, down: F8, top: float, limit: float, out: F8, section: F8) -> None:
    """Sums over faces for one direction; `level` (vertices,) is the height above the plate. Faces whose normal·down exceeds `limit` need support."""
    section[:] = 0
    width = top / SECTIONS
    support = scar = volume = steps = weights = 0.0
    for f in range(len(faces)):
        n = normal[f, 0] * down[0] + normal[f, 1] * down[1] + normal[f, 2] * down[2]
        a, b, c = level[faces[f, 0]], level[faces[f, 1]], level[faces[f, 2]]
        middle = (a + b + c) / 3
        if n > limit and middle > CONTACT_MM:
            support += area[f]
            scar += area[f] * weight[f]
            volume += area[f] * n * middle
        if abs(n) < 0.9999:
            steps += area[f] * weight[f] * abs(n)
        weights += area[f] * weight[f]
        # Flux of the upward unit vector through the faces above a cut equals the cut's area (divergence theorem).
        flux = -n * area[f]
        if flux != 0.0:
            s0 = min(max(int(min(a, b, c) / width), 0), SECTIONS - 1)
            s1 = min(max(int(max(a, b, c) / width), 0), SECTIONS - 1)
            if s0 == s1:
                section[s0] += flux
            else:
                x, z = min(a, b, c), max(a, b, c)
                y = a + b + c - x - z
                before = 1.0
                for s in range(s0, s1):
                    after = _share_above((s + 1) * width, x, y, z)
                    section[s] += flux * (before - after)
                    before = after
                section[s1] += flux * before
    peak = running = 0.0
    for s in range(SECTIONS - 1, -1, -1):
        peak = max(peak, -running)
        peak = max(peak, running)
        running += section[s]
    out[0], out[1], out[2], out[3], out[5] = support, scar, volume, top, peak
    out[6] = steps / weights if weights > 0 else 0.0


@njit()
def _share_above(h: float, x: float, y: float, z: float) -> float:
    """Share of a triangle with corner heights x <= y <= z that lies above h."""
    if h <= x:
        return 1.0
    if h >= z:
        return 0.0
    if h < y:
        return 1.0 - (h - x) * (h - x) / ((y - x) * (z - x))
    return (z - h) * (z - h) / ((z - y) * (z - x))


@njit()
def _minima(
    level: F8, start: NDArray[np.int64], near: I4, vertex_normal: F8, down: F8, stamp: NDArray[np.int64], mark: int, queue: I4
) -> tuple[int, int]:
    """Downward local minima above the plate that persist, by a bounded flood from each: reaches lower ground within the persistence or not."""
    count = 0
    for i in range(len(level)):
        h = level[i]
        if h < CONTACT_MM:
            continue
        least = True
        for q in range(start[i], start[i + 1]):
            j = near[q]
            if level[j] < h or (level[j] == h and j < i):
                least = False
                break
        if not least:
            continue
        if vertex_normal[i, 0] * down[0] + vertex_normal[i, 1] * down[1] + vertex_normal[i, 2] * down[2] <= 0:
            continue  # the bottom of a hollow: solid below, not a start
        mark += 1
        stamp[i] = mark
        queue[0] = i
        head, tail = 0, 1
        persists = True
        while head < tail and persists:
            a = queue[head]
            head += 1
            for q in range(start[a], start[a + 1]):
                j = near[q]
                if stamp[j] == mark:
                    continue
                g = level[j]
                if g < h or (g == h and j < i):
                    persists = False
                    break
                if g <= h + PERSISTENCE_MM:
                    stamp[j] = mark
                    queue[tail] = j
                    tail += 1
        if persists:
            count += 1
    return count, mark


@njit()
def _weigh(
    v: F8,
    faces: I4,
    normal: F8,
    area: F8,
    weight: F8,
    vertex_normal: F8,
    start: NDArray[np.int64],
    near: I4,
    hull: F8,
    downs: F8,
    limit: float,
    first: int,
    last: int,
    out: F8,
) -> None:
    section = np.empty(SECTIONS)
    level = np.empty(len(v))
    stamp = np.zeros(len(v), np.int64)
    queue = np.empty(len(v), np.int32)
    mark = 0
    for d in range(first, last):
        down = downs[d]
        lowest, top = np.inf, -np.inf
        for i in range(len(hull)):
            h = -(hull[i, 0] * down[0] + hull[i, 1] * down[1] + hull[i, 2] * down[2])
            lowest, top = min(lowest, h), max(top, h)
        for i in range(len(v)):
            level[i] = -(v[i, 0] * down[0] + v[i, 1] * down[1] + v[i, 2] * down[2]) - lowest
        _faces_pass(level, faces, normal, area, weight, down, top - lowest, limit, out[d], section)
        minima, mark = _minima(level, start, near, vertex_normal, down, stamp, mark, queue)
        out[d, 4] = minima


@njit()
def _neighbours(faces: I4, start: NDArray[np.int64], near: I4) -> None:
    at = start[:-1].copy()
    for f in range(len(faces)):
        for e in range(3):
            a, b = faces[f, e], faces[f, (e + 1) % 3]
            near[at[a]] = b
            at[a] += 1
            near[at[b]] = a
            at[b] += 1


def _adjacency(mesh: Mesh) -> tuple[NDArray[np.int64], I4]:
    degree = np.bincount(mesh.faces.ravel(), minlength=len(mesh.vertices)) * 2
    start = np.zeros(len(mesh.vertices) + 1, np.int64)
    np.cumsum(degree, out=start[1:])
    near = np.empty(int(start[-1]), np.int32)
    _neighbours(mesh.faces, start, near)
    return start, near


@dataclass(frozen=True)
class PoseTable:
    """Directions (n, 3) in the mesh's frame that point down, and their aims (n, len(AIMS))."""

    down: F8
    aims: F8

    def column(self, aim: str) -> F8:
        """One aim for all directions."""
        return np.asarray(self.aims[:, AIMS.index(aim)])


def weigh(mesh: Mesh, downs: F8, limit_angle: float, weights: F8 | None = None) -> PoseTable:
    """Weigh every direction. `limit_angle`: steepest free overhang in radians from the vertical; `weights` (faces,): what a scar costs.

    A face needs support where its normal's share downward exceeds sin(limit angle).
    """
    normal, area = mesh.normals_and_areas()
    weight = np.ones(len(mesh.faces)) if weights is None else np.asarray(weights, float)
    spread = np.zeros((len(mesh.vertices), 3))
    for corner in range(3):
        np.add.at(spread, mesh.faces[:, corner], normal * area[:, None])
    start, near = _adjacency(mesh)
    try:
        hull = np.ascontiguousarray(mesh.vertices[ConvexHull(mesh.vertices).vertices])
    except QhullError:
        hull = mesh.vertices
    out = np.zeros((len(downs), len(AIMS)))
    args = (
        np.ascontiguousarray(mesh.vertices),
        mesh.faces,
        normal,
        area,
        weight,
        spread,
        start,
        near,
        hull,
        np.ascontiguousarray(downs, dtype=float),
        math.sin(limit_angle),
    )
    marks = np.linspace(0, len(downs), CORES + 1).astype(int)
    both_cores(lambda a, b: _weigh(*args, a, b, out), [(int(a), int(b)) for a, b in itertools.pairwise(marks) if b > a])
    centre = _centre_of_mass(mesh)
    for i, down in enumerate(downs):
        out[i, 7], out[i, 8] = _foot(hull, centre, down)
    return PoseTable(np.asarray(downs, float), out)


def _centre_of_mass(mesh: Mesh) -> F8:
    volumes = face_volumes(mesh)
    total = volumes.sum()
    middle = (mesh.lower + mesh.upper) / 2
    if abs(total) < 1e-9:
        return np.asarray(middle)
    return np.asarray((volumes[:, None] * (mesh.corners().sum(axis=1) + middle) / 4).sum(axis=0) / total)


def _foot(hull: F8, centre: F8, down: F8) -> tuple[float, float]:
    """Area in mm² of the hull of what touches the plate, and how far the centre of mass lies outside it in mm."""
    side = np.cross(down, [1.0, 0, 0] if abs(down[0]) < 0.9 else [0, 1.0, 0])
    side /= np.linalg.norm(side)
    axes = np.stack([side, np.cross(down, side)], axis=1)
    depth = hull @ down
    touching = hull[depth > depth.max() - CONTACT_MM] @ axes
    here = centre @ axes
    if len(touching) >= 3:
        try:
            foot = ConvexHull(touching)
            return float(foot.volume), max(0.0, float((foot.equations[:, :2] @ here + foot.equations[:, 2]).max()))
        except QhullError:
            pass
    return 0.0, float(np.linalg.norm(touching - here, axis=1).min())
