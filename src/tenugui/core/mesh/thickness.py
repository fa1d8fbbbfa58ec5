"""Local thickness: how far it is through the solid, straight inwards, robustly (shape diameter: Shapira, Shamir, Cohen-Or 2008)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from .mesh import F8, I4, Mesh
from .rays import FAR, rays_of

CONE_DEG = 25.0
RAYS = 6


@dataclass(frozen=True)
class Thickness:
    """Sampled faces (s,) and the thickness there in mm, inf where no ray came out."""

    faces: I4
    mm: F8


@dataclass(frozen=True)
class ThinPlace:
    """A connected thin area: a point on it, its smallest thickness and its extent, in mm."""

    x: float
    y: float
    z: float
    thickness: float
    extent: float


def local_thickness(mesh: Mesh, most: int = 60_000) -> Thickness:
    """Median over a cone of inward rays from evenly picked faces, at most `most` of them."""
    rays = rays_of(mesh)
    normal, area = mesh.normals_and_areas()
    usable = np.flatnonzero(area > 0)
    faces = usable[:: max(1, len(usable) // most)].astype(np.int32)
    n = normal[faces]
    start = mesh.corners()[faces].mean(axis=1) - n * 1e-4
    side = np.cross(n, np.where(np.abs(n[:, :1]) < 0.9, [[1.0, 0, 0]], [[0, 1.0, 0]]))
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    other = np.cross(n, side)
    found = [rays.first(start, -n)[0]]
    for k in range(RAYS):
        turn, tilt = 2 * np.pi * k / RAYS, np.tan(np.radians(CONE_DEG))
        found.append(rays.first(start, -n + tilt * (np.cos(turn) * side + np.sin(turn) * other))[0])
    through = np.median(np.stack(found), axis=0)
    return Thickness(faces, np.where(through >= FAR, np.inf, through))


def thin_places(mesh: Mesh, thickness: Thickness, limit: float, reach: float = 1.5, most: int = 40) -> list[ThinPlace]:
    """Group the samples thinner than `limit` that lie within `reach` mm of each other; worst first. Single samples are noise."""
    thin = thickness.mm < limit
    if thin.sum() < 4:
        return []
    points, mm = mesh.corners()[thickness.faces[thin]].mean(axis=1), thickness.mm[thin]
    graph = cKDTree(points)
    label = np.full(len(points), -1)
    places = []
    for seed in np.argsort(mm):
        if label[seed] >= 0:
            continue
        queue, members = [int(seed)], []
        label[seed] = seed
        while queue:
            here = queue.pop()
            members.append(here)
            for near in graph.query_ball_point(points[here], reach):
                if label[near] < 0:
                    label[near] = seed
                    queue.append(near)
        if len(members) < 4:
            continue
        held = points[members]
        worst = float(np.quantile(mm[members], 0.1))
        places.append(ThinPlace(*(float(c) for c in points[seed]), worst, float(np.ptp(held, axis=0).max())))
        if len(places) == most:
            break
    return places
