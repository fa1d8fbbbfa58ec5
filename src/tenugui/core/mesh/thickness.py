"""Local thickness: how far it is through the solid, straight inwards, robustly (shape diameter: Shapira, Shamir, Cohen-Or 2008)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from .mesh import F8, I4, Mesh
from .rays import FAR, rays_of

CONE_DEG = 15.0
RAYS = 6
OPPOSITE = -0.8
"""Cosine below which two surfaces face away from each other: within 37 degrees of opposite."""


@dataclass(frozen=True)
class Thickness:
    """Sampled faces (s,) and the thickness there in mm, inf where no ray came out."""

    faces: I4
    mm: F8


@dataclass(frozen=True)
class ThinPlace:
    """A connected thin area: a point on it, its thickness (lower quartile) and its extent, in mm."""

    x: float
    y: float
    z: float
    thickness: float
    extent: float


def local_thickness(mesh: Mesh, most: int = 60_000) -> Thickness:
    """Median over a cone of inward rays from evenly picked faces, at most `most` of them.

    Only rays that leave through a surface turned the other way count: on the flank of a ridge or beside a sharp edge the far side is
    close but not opposite, and that is relief, not a thin part. Fewer than half such rays give inf.
    """
    rays = rays_of(mesh)
    normal, area = mesh.normals_and_areas()
    usable = np.flatnonzero(area > 0)
    faces = usable[:: max(1, len(usable) // most)].astype(np.int32)
    n = normal[faces]
    start = mesh.corners()[faces].mean(axis=1) - n * 1e-4
    side = np.cross(n, np.where(np.abs(n[:, :1]) < 0.9, [[1.0, 0, 0]], [[0, 1.0, 0]]))
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    other = np.cross(n, side)
    found = []
    for k in range(-1, RAYS):
        turn, tilt = 2 * np.pi * k / RAYS, 0.0 if k < 0 else np.tan(np.radians(CONE_DEG))
        distance, hit = rays.first(start, -n + tilt * (np.cos(turn) * side + np.sin(turn) * other))
        opposite = (hit >= 0) & (np.einsum("ij,ij->i", normal[hit], n) < OPPOSITE)
        found.append(np.where(opposite, distance, np.inf))
    through = np.sort(np.stack(found), axis=0)[len(found) // 2]
    return Thickness(faces, np.where(through >= FAR, np.inf, through))


SMALLEST_MM = 0.8
"""Prior: a thin spot of a smaller extent is surface relief."""


def thin_places(mesh: Mesh, thickness: Thickness, limit: float, reach: float = 1.5, most: int = 40) -> list[ThinPlace]:
    """Group the samples thinner than `limit` that lie within `reach` mm of each other; worst first. Single samples are noise."""
    thin = thickness.mm < limit
    if thin.sum() < 4:
        return []
    corners, mm = mesh.corners()[thickness.faces[thin]], thickness.mm[thin]
    points = corners.mean(axis=1)
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
        held = corners[members].reshape(-1, 3)
        extent = float(np.ptp(held, axis=0).max())
        if extent < SMALLEST_MM:
            continue
        places.append(
            ThinPlace(float(points[seed, 0]), float(points[seed, 1]), float(points[seed, 2]), float(np.quantile(mm[members], 0.25)), extent)
        )
        if len(places) == most:
            break
    return places
