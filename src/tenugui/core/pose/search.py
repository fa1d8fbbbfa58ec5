"""All aims of a pose in one compiled pass over the mesh, for every direction.

Approximations, stated: overlapping shells count twice in areas and sections; support volume reaches from each downward
face to the plate, through whatever lies between. The layer stack has the last word on the few poses that are chosen.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from ..compiled import CORES, both_cores, njit
from ..machines import LAYER_MPA, SPREAD
from ..mesh import Mesh, hull_corners, local_thickness, thin_places
from ..mesh.edges import face_volumes
from .cones import ANYWHERE, cones
from .sweep import CONTACT_MM, feet, sweep

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
    "cups",
    "foot_mm2",
    "lean",
    "slender",
    "weak_mm",
    "blur_mm2",
    "shown_mm2",
    "contact_mm2",
)
"""Columns of a pose table. All but foot_mm2 are better small. `cups`: hollows that open upwards, in which resin stands
and which the film seals.
`lean`: distance of the centre of mass outside its foot, 0 when it stands. `slender`: height over the width of the foot,
    at most MOST_SLENDER. `weak_mm`: length of thin rods, each by how likely it gives way and by the square
    of the cosine at which it would stand: so much of what bends it pulls its layers apart.
    `blur_mm2`: shown surface by how far it looks down and its weight. `shown_mm2`: area of supports on what is shown.
    `contact_mm2`: area of a section right above the plate. `scar_area_mm2`: area that needs support by its weight, and
    what is marked and lies on the plate.
"""

ROD_MM = 1.6
"""Prior: a rod thinner than this breaks between layers when it is printed standing."""
TOUCH_N = 0.3
"""Prior: what a curled edge under the nozzle, a cutter or a brush pushes the end of a thin rod with."""
SHORTEST_ROD_MM = 6.0
"""Prior: a shorter thin end, as the tip of a horn, is no rod that breaks by its own length."""
MOST_SLENDER = 60.0
"""What stands on less of a foot than this tells is on its toes, however tall."""
FEW = 24
"""For so few directions looking at every vertex is cheaper than learning which to look at."""
FLAT_SHARE = 0.9999
"""A face whose normal leans less than this share from the vertical has steps; a flat one has none."""


@njit()
def _neighbours(faces: I4, start: NDArray[np.int64], near: I4) -> int:
    """Fill each vertex's room with its neighbours, each once, then close the gaps; how many there are. `start` comes to
    fit.
    """
    count = np.zeros(len(start) - 1, np.int64)
    for f in range(len(faces)):
        for e in range(3):
            a, b = faces[f, e], faces[f, (e + 1) % 3]
            for p, q in ((a, b), (b, a)):
                known = False
                for k in range(start[p], start[p] + count[p]):
                    known = known or near[k] == q
                if not known:
                    near[start[p] + count[p]] = q
                    count[p] += 1
    at = 0
    for i in range(len(count)):
        first = start[i]
        start[i] = at
        for k in range(count[i]):
            near[at] = near[first + k]
            at += 1
    start[-1] = at
    return at


def _adjacency(mesh: Mesh) -> tuple[NDArray[np.int64], I4]:
    degree = np.bincount(mesh.faces.ravel(), minlength=len(mesh.vertices)) * 2
    start = np.zeros(len(mesh.vertices) + 1, np.int64)
    np.cumsum(degree, out=start[1:])
    near = np.empty(int(start[-1]), np.int32)
    return start, near[: _neighbours(mesh.faces, start, near)].copy()


def _gathered(mesh: Mesh, weight: F8) -> tuple[Mesh, F8]:
    """The same figure with what lies near each other kept near each other in memory (Morton order), which halves the
    sweep's time.
    """
    steps = ((mesh.vertices - mesh.lower) / max(float(mesh.size.max()), 1e-12) * 1023).astype(np.uint64)
    code = np.zeros(len(steps), np.uint64)
    for axis in range(3):
        x = steps[:, axis]
        for shift, mask in ((16, 0x030000FF), (8, 0x0300F00F), (4, 0x030C30C3), (2, 0x09249249)):
            x = (x | (x << np.uint64(shift))) & np.uint64(mask)
        code |= x << np.uint64(axis)
    order = np.argsort(code, kind="stable")
    place = np.empty(len(order), np.int32)
    place[order] = np.arange(len(order), dtype=np.int32)
    faces = place[mesh.faces]
    turn = np.argsort(faces.min(axis=1), kind="stable")
    return Mesh(mesh.vertices[order], np.ascontiguousarray(faces[turn])), weight[turn]


@njit()
def _planes(vertices: F8, faces: I4, weight: F8, middle: F8, plane: NDArray[np.float32], spread: F8) -> float:
    """Normal, area, area by weight, middle and reach of every face into `plane` (9, m); the sum of its normals by area
    into each vertex's `spread`.

    Returns the sum of all areas by weight.
    """
    cost = 0.0
    m, c = np.empty(3), np.empty((3, 3))
    for f in range(len(faces)):
        for k in range(3):
            for axis in range(3):
                c[k, axis] = vertices[faces[f, k], axis]
        ux, uy, uz = c[1, 0] - c[0, 0], c[1, 1] - c[0, 1], c[1, 2] - c[0, 2]
        vx, vy, vz = c[2, 0] - c[0, 0], c[2, 1] - c[0, 1], c[2, 2] - c[0, 2]
        nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        twice = np.sqrt(nx * nx + ny * ny + nz * nz)
        safe = twice if twice > 0 else 1.0
        plane[0, f], plane[1, f], plane[2, f] = nx / safe, ny / safe, nz / safe
        plane[3, f], plane[4, f] = twice / 2, twice / 2 * weight[f]
        cost += twice / 2 * weight[f]
        for axis in range(3):
            m[axis] = (c[0, axis] + c[1, axis] + c[2, axis]) / 3
            plane[5 + axis, f] = m[axis] - middle[axis]
        far = 0.0
        for k in range(3):
            x, y, z = c[k, 0] - m[0], c[k, 1] - m[1], c[k, 2] - m[2]
            far = max(far, x * x + y * y + z * z)
            spread[faces[f, k], 0] += nx / 2
            spread[faces[f, k], 1] += ny / 2
            spread[faces[f, k], 2] += nz / 2
        plane[8, f] = np.sqrt(far)
    return cost


@dataclass(frozen=True)
class PoseTable:
    """Directions (n, 3) in the mesh's frame that point down, and their aims (n, len(AIMS))."""

    down: F8
    aims: F8

    def column(self, aim: str) -> F8:
        """One aim for all directions."""
        return np.asarray(self.aims[:, AIMS.index(aim)])


def _axes(downs: F8) -> tuple[F8, NDArray[np.int64], NDArray[np.int64]]:
    """Axes (a, 3) through all directions, and for each direction (n,) its axis and which end of it: two opposite ones
    share a walk.
    """
    first = np.where(np.abs(downs) > 1e-9, np.sign(downs), 0)
    turned = np.array([next((s for s in row if s), 1.0) for row in first]) < 0
    _, index, axis = np.unique(
        np.round(np.where(turned[:, None], -downs, downs), 9), axis=0, return_index=True, return_inverse=True
    )
    axes = np.where(turned[index, None], -downs[index], downs[index])
    return axes, axis.ravel(), turned.astype(np.int64)


class Scale:
    """A mesh made ready to be weighed in any direction. `limit_angle`: steepest free overhang in radians from the
    vertical; `weights` (faces,): what a scar costs; `rods`: axes (k, 3) times lengths of thin rods, as `thin_rods`
    counts them.

    A face needs support where its normal's share downward exceeds sin(limit angle).
    """

    def __init__(
        self,
        mesh: Mesh,
        limit_angle: float,
        weights: F8 | None = None,
        rods: F8 | None = None,
        *,
        once: bool = False,
    ) -> None:
        weight = np.ones(len(mesh.faces)) if weights is None else np.asarray(weights, float)
        if not once:
            mesh, weight = _gathered(mesh, weight)
        middle = (mesh.lower + mesh.upper) / 2  # 32-bit floats are finest near zero
        plane, spread = np.empty((9, len(mesh.faces)), np.float32), np.zeros((len(mesh.vertices), 3))
        self._cost = float(_planes(mesh.vertices, mesh.faces, weight, middle, plane, spread))
        start, near = _adjacency(mesh)
        cone = np.full((4, len(mesh.vertices)), ANYWHERE, np.float32)
        parts = np.linspace(0, len(mesh.vertices), 2 * CORES + 1).astype(int)
        if not once:
            both_cores(
                lambda a, b: cones(mesh.vertices, start, near, a, b, cone),
                [(int(a), int(b)) for a, b in itertools.pairwise(parts)],
            )
        hull = self._hull = hull_corners(mesh)
        self._centre = _centre_of_mass(mesh)
        self._rods = np.empty((0, 3)) if rods is None else rods
        self._args = (
            (mesh.vertices - middle).astype(np.float32),
            mesh.faces.astype(np.uint32),
            plane,
            cone,
            spread.astype(np.float32),
            start,
            near,
            (hull - middle).astype(np.float32),
        )
        self._limits = np.array([math.sin(limit_angle), CONTACT_MM, FLAT_SHARE], np.float32)

    def weigh(self, downs: F8) -> PoseTable:
        """All aims of directions (n, 3)."""
        downs = np.ascontiguousarray(downs, float).reshape(-1, 3)
        axes, axis, end = _axes(downs)
        both = np.zeros((2, len(axes), 11))
        marks = np.linspace(0, len(axes), CORES + 1).astype(int)
        lines = np.ascontiguousarray(axes, np.float32)
        both_cores(
            lambda a, b: sweep(*self._args, lines, self._limits, a, b, both),
            [(int(a), int(b)) for a, b in itertools.pairwise(marks) if b > a],
        )
        out = np.zeros((len(downs), len(AIMS)))
        out[:, :8] = both[end, axis, :8]
        out[:, 12:] = both[end, axis, 8:]
        if self._cost > 0:
            out[:, 6] /= self._cost
        feet(self._hull, self._centre, downs, out[:, 8:10])
        lengths = np.linalg.norm(self._rods, axis=1)
        upright = np.abs(downs @ self._rods.T) / np.maximum(lengths, 1e-12)
        width = 2 * np.sqrt(out[:, 8] / math.pi)
        out[:, 10] = np.minimum(out[:, 3] / np.maximum(width, 1e-9), MOST_SLENDER)
        # What bends a rod pulls across its layers by the square of the cosine at which it stands.
        out[:, 11] = (lengths * upright**2).sum(axis=1)
        return PoseTable(downs, out)


def weigh(mesh: Mesh, downs: F8, limit_angle: float, weights: F8 | None = None, rods: F8 | None = None) -> PoseTable:
    """Weigh a mesh in directions (n, 3): see `Scale`."""
    return Scale(mesh, limit_angle, weights, rods, once=len(downs) <= FEW).weigh(downs)


def thin_rods(mesh: Mesh) -> F8:
    """Axes (k, 3) of the rods thinner than ROD_MM, times their lengths by how likely each breaks when it is touched at
    its end: see `gives_way`.
    """
    places = thin_places(local_thickness(mesh, beyond=ROD_MM, most=60_000), ROD_MM)
    return np.array(
        [
            np.array(p.axis) * p.extent * gives_way(p.thickness, p.extent)
            for p in places
            if p.kind == "rod" and p.extent >= SHORTEST_ROD_MM
        ]
    ).reshape(-1, 3)


def gives_way(thickness_mm: float, length_mm: float) -> float:
    """Chance that a round rod, printed standing, breaks between its layers where a touch of TOUCH_N bends it at its
    root: F L against the strength times pi d³ / 32.

    >>> round(gives_way(0.8, 20.0), 2), round(gives_way(1.5, 6.0), 2)
    (1.0, 0.02)
    """
    bears = LAYER_MPA * math.pi * thickness_mm**3 / 32 / length_mm
    return float(ndtr(math.log(TOUCH_N / max(bears, 1e-12)) / SPREAD))


def _centre_of_mass(mesh: Mesh) -> F8:
    volumes = face_volumes(mesh)
    total = volumes.sum()
    middle = (mesh.lower + mesh.upper) / 2
    if abs(total) < 1e-9:
        return np.asarray(middle)
    return np.asarray((3 * (volumes @ mesh.middles()) + total * middle) / 4 / total)
