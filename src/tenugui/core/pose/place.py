"""Put a figure onto the plate in a pose."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull

from ..compiled import njit
from ..machines import ROOM_SLACK_MM, MachineError, fits_in
from ..mesh import Mesh, hull_corners
from ..mesh.mesh import F8
from .directions import rotation_to_plate, spread_directions, unit_vector
from .price import PLINTH_MARGIN_MM, PLINTH_MM


@dataclass(frozen=True)
class Placement:
    """`turn` (3, 3) then `shift` (3,): from the mesh's frame to build coordinates."""

    turn: F8
    shift: F8

    def apply(self, mesh: Mesh) -> Mesh:
        """The mesh in build coordinates."""
        return mesh.transformed(self.turn, self.shift)

    def raised(self, lift: float) -> Placement:
        """The same, `lift` mm higher."""
        return Placement(self.turn, self.shift + np.array([0, 0, lift]))


TURNS_DEG = (0, 90, *(d for d in range(5, 180, 5) if d != 90))
"""Turns about z that are tried, the plain ones first."""


def placement(
    mesh: Mesh,
    down: tuple[float, float, float],
    build_mm: tuple[float, float, float] | None = None,
    name: str = "the machine",
) -> Placement:
    """Turn `down` to the plate, drop and centre; with a build space, turn about z until it fits.

    Raises:
        MachineError: `does-not-fit` where no turn fits the build space.
        DirectionError: `bad-direction`.
    """
    upright = rotation_to_plate(unit_vector(down))
    corners = hull_corners(mesh)
    smallest: F8 | None = None
    for degrees in TURNS_DEG:
        angle = np.radians(degrees)
        about = np.array([[np.cos(angle), -np.sin(angle), 0], [np.sin(angle), np.cos(angle), 0], [0, 0, 1]])
        turn = np.round(about, 15) @ upright
        points = corners @ turn.T
        low, high = points.min(axis=0), points.max(axis=0)
        if build_mm is None or fits_in(high - low, build_mm):
            return Placement(turn, -np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]]))
        smallest = high - low if smallest is None else smallest
    assert smallest is not None and build_mm is not None
    x, y, z = smallest
    width, depth, height = build_mm
    raise MachineError(
        "does-not-fit",
        f"The figure measures {x:.0f} x {y:.0f} x {z:.0f} mm in this pose.",
        f"'{name}' builds {width:.0f} x {depth:.0f} x {height:.0f} mm",
        "Make it smaller, choose another pose, or split it.",
    )


FEET_MM = 2.0
"""Prior: feet that end so much higher than the lowest belong to the stance."""


def plinth_under(figure: Mesh, side: float) -> Mesh:
    """A plate on the plate, PLINTH_MM thick and at least `side` mm wide, under all on which a dropped figure stands,
    and under feet that end just above: what is built up to them from it comes off with it.
    """
    foot = figure.vertices[figure.vertices[:, 2] < figure.lower[2] + FEET_MM, :2]
    middle, across = (foot.min(axis=0) + foot.max(axis=0)) / 2, np.ptp(foot, axis=0)
    wide = np.maximum(side, across + PLINTH_MARGIN_MM)
    shape = np.array([[a, b, c] for a in (-1, 1) for b in (-1, 1) for c in (0, 1)], float)
    vertices = shape * [*wide / 2, PLINTH_MM] + [*middle, 0.0]
    faces = ConvexHull(vertices)
    turned = np.einsum("ij,ij->i", _normals_of(vertices[faces.simplices]), faces.equations[:, :3]) < 0
    return Mesh(vertices, np.where(turned[:, None], faces.simplices[:, ::-1], faces.simplices).astype(np.int32))


def _normals_of(corners: F8) -> F8:
    return np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])


def fitting(mesh: Mesh, downs: F8, build_mm: tuple[float, float, float]) -> NDArray[np.bool_]:
    """Directions (n, 3) in which the figure fits a build space at some turn of TURNS_DEG about z."""
    angle = np.radians(np.arange(0, 180, 5))
    turns = np.array([rotation_to_plate(down) for down in downs]).reshape(-1, 3, 3)
    fits = np.zeros(len(downs), np.bool_)
    room = np.array(build_mm, float) + ROOM_SLACK_MM
    _fitting(np.ascontiguousarray(hull_corners(mesh), float), turns, np.cos(angle), np.sin(angle), room, fits)
    return fits


@njit()
def _fitting(corners: F8, turns: F8, c: F8, s: F8, room: F8, fits: NDArray[np.bool_]) -> None:
    """Extents of each turn's shadow along every angle; a quarter turn swaps width and depth."""
    many = len(c)
    low, high = np.empty(many), np.empty(many)
    for i in range(len(turns)):
        t = turns[i]
        low[:], high[:] = np.inf, -np.inf
        bottom, top = np.inf, -np.inf
        for k in range(len(corners)):
            p = corners[k]
            z = t[2, 0] * p[0] + t[2, 1] * p[1] + t[2, 2] * p[2]
            bottom, top = min(bottom, z), max(top, z)
        if top - bottom > room[2]:
            continue
        for k in range(len(corners)):
            p = corners[k]
            x = t[0, 0] * p[0] + t[0, 1] * p[1] + t[0, 2] * p[2]
            y = t[1, 0] * p[0] + t[1, 1] * p[1] + t[1, 2] * p[2]
            for a in range(many):
                at = x * c[a] + y * s[a]
                low[a], high[a] = min(low[a], at), max(high[a], at)
        for a in range(many):
            b = (a + many // 2) % many
            fits[i] = fits[i] or (high[a] - low[a] <= room[0] and high[b] - low[b] <= room[1])


def hull_points(mesh: Mesh, most: int = 300) -> F8:
    """At most `most` corners of the convex hull: what decides whether a figure fits. All of them where they are few."""
    corners = hull_corners(mesh)
    if len(corners) <= most:
        return np.asarray(corners)
    ways = spread_directions(most)
    return np.asarray(corners[np.unique(np.argmax(corners @ ways.T, axis=0))])


def largest_factor(hull: F8, build_mm: tuple[float, float, float], directions: int = 400) -> float:
    """The largest factor at which a figure with these hull corners fits a build space in some pose, over spread
    directions and turns of 5 degrees.
    """
    best = 0.0
    turns = np.radians(np.arange(0, 180, 5))
    c, s = np.cos(turns), np.sin(turns)
    build = np.array(build_mm)
    for down in np.concatenate([np.array([[0.0, 0.0, -1.0], [1.0, 0, 0], [0, 1.0, 0]]), spread_directions(directions)]):
        points = hull @ rotation_to_plate(down).T
        x, y = points[:, :1] * c - points[:, 1:2] * s, points[:, :1] * s + points[:, 1:2] * c
        extents = np.stack([np.ptp(x, axis=0), np.ptp(y, axis=0), np.full(len(c), np.ptp(points[:, 2]))], axis=1)
        best = max(best, float((build / np.maximum(extents, 1e-9)).min(axis=1).max()))
    return best


def posed(mesh: Mesh, down: tuple[float, float, float]) -> Mesh:
    """The mesh in build coordinates with `down` at the plate."""
    return placement(mesh, down).apply(mesh)
