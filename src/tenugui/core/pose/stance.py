"""How a figure would stand: on how many feet, whether its middle is over them, and whether its underside is darker than
its back.

A beast's hooves touch no common plane, and a scan is tilted by a few degrees: what carries is read in the lowest part
of the height, not on a resting face.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from scipy.spatial import ConvexHull, QhullError

from ..look import LOWEST
from ..look.views import frame
from ..mesh import Mesh, rays_of, surface_samples
from ..mesh.edges import face_volumes
from .directions import spread_directions

F8 = NDArray[np.float64]
SAMPLES = 6000
CELL = 0.03
"""Prior: feet are apart where so much of the figure's diagonal lies between them."""
FEW = 3
"""Prior: fewer samples are no foot."""
WAYS = 48
LEAST_SIDE = 0.02
"""Prior: a side of less of the surface tells nothing."""
LEVEL = 0.4
"""Prior: cosine from which a surface looks up or down."""


@dataclass(frozen=True)
class Stance:
    """`feet`: separate places it would stand on; `over`: whether its middle is above them; `spread`: area of their hull
    over the shadow's; `lighter`: how much more of the sky its back sees than its underside, feet left out, -1 to 1.
    """

    feet: int
    over: bool
    spread: float
    lighter: float


def _tells(which: NDArray[np.bool_]) -> bool:
    """Whether there is enough of a side to say anything of it."""
    return bool(which.mean() > LEAST_SIDE)


class Stances:
    """A figure's stances, in any direction."""

    def __init__(self, mesh: Mesh) -> None:
        normals, area = mesh.normals_and_areas()
        spacing = float(np.sqrt(max(float(area.sum()), 1e-12) / SAMPLES))
        self._points, face = surface_samples(mesh, spacing, SAMPLES)
        self._normals, self._size = normals[face], float(np.linalg.norm(mesh.size))
        volumes = face_volumes(mesh)
        total = float(volumes.sum())
        solid = abs(total) > 1e-9 * self._size**3
        # The middle of each tetrahedron over the origin, by its volume; of the surface where it encloses nothing.
        self._middle = (
            0.75 * (mesh.middles() * volumes[:, None]).sum(axis=0) / total if solid else self._points.mean(axis=0)
        )
        self._open = self._openness(mesh)

    def _openness(self, mesh: Mesh) -> F8:
        """Share (s,) of the sky over each sample that nothing of the figure covers, by the cosine."""
        start = self._points + self._normals * (1e-4 * self._size)
        seen, whole = np.zeros(len(start)), np.zeros(len(start))
        rays = rays_of(mesh)
        for way in spread_directions(WAYS):
            cosine = self._normals @ way
            over = np.flatnonzero(cosine > 0.05)
            _, hit = rays.first(start[over], way)
            seen[over] += cosine[over] * (hit < 0)
            whole[over] += cosine[over]
        return np.asarray(seen / np.maximum(whole, 1e-12))

    def of(self, down: F8) -> Stance:
        """The stance with a unit vector (3,) of the mesh's frame downwards."""
        if not len(self._points):
            return Stance(0, False, 0.0, 0.0)
        across = frame(down)[:2].T
        flat, height = self._points @ across, -(self._points @ down)
        low = height < height.min() + LOWEST * np.ptp(height)
        above = -(self._normals @ down)
        back, under = above > LEVEL, (above < -LEVEL) & ~low
        lighter = float(self._open[back].mean() - self._open[under].mean()) if _tells(back) and _tells(under) else 0.0
        carrying = flat[low]
        try:
            on = ConvexHull(carrying)
            over = bool((on.equations[:, :2] @ (self._middle @ across) + on.equations[:, 2] <= 0).all())
            spread = float(on.volume / ConvexHull(flat).volume)
        except (QhullError, ValueError):
            over, spread = False, 0.0
        return Stance(self._feet(carrying), over, spread, lighter)

    def _feet(self, carrying: F8) -> int:
        cells = ((carrying - carrying.min(axis=0)) / (CELL * self._size)).astype(np.int64)
        grid = np.zeros(cells.max(axis=0) + 1, np.bool_)
        grid[cells[:, 0], cells[:, 1]] = True
        labels, count = ndimage.label(grid, np.ones((3, 3)))
        on = np.bincount(labels[cells[:, 0], cells[:, 1]], minlength=count + 1)[1:]
        return int((on >= FEW).sum())
