"""The plane across which a figure is its own mirror image, where there is one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..mesh import Mesh

F8 = NDArray[np.float64]
SAMPLES = 3_000
ALIKE = 0.015
"""Prior: a figure mirrors itself where nine tenths of its points lie within this share of its size of their image."""


@dataclass(frozen=True)
class Plane:
    """Points p with normal · p = offset. `error`: the distance within which nine tenths of the figure's points find
    their image, in its units.
    """

    normal: tuple[float, float, float]
    offset: float
    error: float

    def reflected(self, points: F8) -> F8:
        """The mirror images (n, 3).

        >>> Plane((1.0, 0.0, 0.0), 2.0, 0.0).reflected(np.array([[5.0, 1, 1]])).tolist()
        [[-1.0, 1.0, 1.0]]
        """
        n = np.array(self.normal)
        return np.asarray(points - 2 * (points @ n - self.offset)[:, None] * n)


def mirror_plane(mesh: Mesh) -> Plane | None:
    """The best of the planes through the figure's middle across its axes and its principal axes; None where none is
    good enough.
    """
    _, area = mesh.normals_and_areas()
    middles = mesh.middles()
    total = area.sum()
    if total <= 0:
        return None
    centre = (middles * area[:, None]).sum(axis=0) / total
    # Evenly by area, and the same each time.
    steps = (np.arange(SAMPLES) + 0.5) / SAMPLES * total
    points = middles[np.searchsorted(np.cumsum(area), steps).clip(0, len(area) - 1)]
    spread = (points - centre).T @ (points - centre)
    axes = np.concatenate([np.eye(3), np.linalg.eigh(spread)[1].T])
    tree = cKDTree(mesh.vertices)
    best: Plane | None = None
    for normal in axes:
        plane = Plane((float(normal[0]), float(normal[1]), float(normal[2])), float(normal @ centre), 0.0)
        away, _ = tree.query(plane.reflected(points))
        here, _ = tree.query(points)  # a coarse mesh has its corners far from its middles on either side
        error = float(np.quantile(np.maximum(away - here, 0), 0.9))
        if best is None or error < best.error:
            best = Plane(plane.normal, plane.offset, error)
    return best if best is not None and best.error <= ALIKE * float(np.linalg.norm(mesh.size)) else None
