"""Sight: from which share of the places around a table each face of a figure is seen."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh, rays_of
from .views import frame

F8 = NDArray[np.float64]
ELEVATIONS_DEG = (10.0, 30.0, 50.0)
AZIMUTHS = 12
FRONT_TIMES = 3.0
"""Prior: who looks at a figure looks at its front so many times as often as at its back."""

LOWEST = 0.08
"""Prior: what lies in this share of the height carries a figure, also one that came tilted a little."""


def around(up: Sequence[float] = (0.0, 0.0, 1.0)) -> F8:
    """Unit vectors from the figure to the eyes around a table on which it stands with `up` upwards, (36, 3)."""
    turn = np.arange(AZIMUTHS) * 2 * np.pi / AZIMUTHS
    rings = [
        np.stack([np.cos(e) * np.cos(turn), np.cos(e) * np.sin(turn), np.full(AZIMUTHS, np.sin(e))], axis=1)
        for e in np.radians(ELEVATIONS_DEG)
    ]
    return np.asarray(np.concatenate(rings) @ frame(np.array(up, float)))


def sight(
    mesh: Mesh,
    up: Sequence[float] = (0.0, 0.0, 1.0),
    front: Sequence[float] | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> F8:
    """Share (faces,) of the eyes by which each face is seen, by one ray a view from just above its middle; those of the
    half before its `front` count FRONT_TIMES.
    """
    normals, _ = mesh.normals_and_areas()
    middles = mesh.middles() + normals * (1e-4 * float(mesh.size.max()))
    rays, eyes = rays_of(mesh), around(up)
    weight = np.ones(len(eyes))
    if front is not None:
        weight[eyes @ np.array(front, float) > 0] = FRONT_TIMES
    seen = np.zeros(len(mesh.faces))
    for k, way in enumerate(eyes):
        turned = np.flatnonzero(normals @ way > 0.05)
        _, hit = rays.first(middles[turned], way)
        seen[turned[hit < 0]] += weight[k]
        progress((k + 1) / len(eyes))
    return seen / weight.sum()
