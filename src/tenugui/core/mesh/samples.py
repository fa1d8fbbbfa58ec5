"""Points spread evenly over a surface by its area, whatever its triangles: what is measured at them does not depend on
the triangulation.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .mesh import F8, Mesh

PLASTIC = 1.3247179572447460
"""Root of x³ = x + 1: its powers make a sequence of even spread in two dimensions (Roberts 2018, R2)."""


def surface_samples(mesh: Mesh, spacing: float, most: int = 250_000) -> tuple[F8, NDArray[np.int64]]:
    """Points (s, 3) about `spacing` mm apart, at most `most` and at least 400, and the face (s,) each lies on. The same
    for the same mesh.
    """
    _, area = mesh.normals_and_areas()
    total = float(area.sum())
    if total <= 0:
        return np.empty((0, 3)), np.empty(0, np.int64)
    count = int(np.clip(total / spacing**2, 400, most))
    k = np.arange(count)
    face = np.searchsorted(np.cumsum(area), (k + 0.5) * (total / count), side="right").clip(0, len(area) - 1)
    u, v = (0.5 + k / PLASTIC) % 1.0, (0.5 + k / PLASTIC**2) % 1.0
    root = np.sqrt(u)
    shares = np.stack([1 - root, root * (1 - v), root * v], axis=1)
    return np.einsum("ij,ijk->ik", shares, mesh.vertices[mesh.faces[face]]), face
