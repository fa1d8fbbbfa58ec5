"""Steps on sloped surfaces: cusp height c = h |n_z| (Dolenc and Mäkelä 1994); exactly flat faces have none."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh

F8 = NDArray[np.float64]
FLAT = 0.9999


def cusp_quantiles(mesh: Mesh, weights: F8 | None = None) -> tuple[float, float, float]:
    """(median, 95th percentile, max) of |n_z| over sloped surface, by area and weight; times a layer height they are cusps in mm."""
    normal, area = mesh.normals_and_areas()
    lean = np.abs(normal[:, 2])
    mass = np.where(lean < FLAT, area, 0.0) * (1.0 if weights is None else weights)
    if mass.sum() <= 0:
        return 0.0, 0.0, 0.0
    order = np.argsort(lean)
    share = np.cumsum(mass[order]) / mass.sum()
    pick = [float(lean[order][min(int(np.searchsorted(share, q)), len(order) - 1)]) for q in (0.5, 0.95)]
    return pick[0], pick[1], float(lean[mass > 0].max())
