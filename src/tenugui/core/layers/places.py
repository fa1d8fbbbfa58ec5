"""Places worth looking at through a magnifier: where steps show most, named by what they are."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh

F8 = NDArray[np.float64]
BIN_MM = 3.0
"""Surface is gathered by places so far across."""
FLAT, LEVEL = 0.85, 0.9999
"""|n_z| from which a slope steps widely, and from which it is level and has no steps."""
APART_MM = 5.0


@dataclass(frozen=True)
class Seen:
    """A place (x, y, z) in build coordinates, and what it is."""

    at: tuple[float, float, float]
    called: str


def telling_places(figure: Mesh, weights: F8 | None = None) -> list[Seen]:
    """The top of what is seen, the largest near-flat shoulder, the largest slope of the usual lean, and the largest
    near-flat underside; as far as there are any, and no two at the same place.
    """
    normals, area = figure.normals_and_areas()
    middles = figure.middles()
    lean = np.abs(normals[:, 2])
    weight = area * (1.0 if weights is None else weights) * (lean < LEVEL)
    if weight.sum() <= 0:
        return []
    order = np.argsort(lean)
    usual = float(lean[order][np.searchsorted(np.cumsum(weight[order]), weight.sum() / 2)])
    up = normals[:, 2] > 0
    top = (weight > 0) & up & (middles[:, 2] > np.quantile(middles[weight > 0, 2], 0.98))
    places = list[Seen]()
    for of, called in (
        (top, "its top"),
        (up & (lean > FLAT) & ~top, "a near-flat shoulder"),
        (np.abs(lean - usual) < 0.1, "a slope as most are"),
        (~up & (lean > FLAT), "a near-flat underside"),
    ):
        at = _largest(middles, np.where(of, weight, 0.0), [s.at for s in places])
        if at is not None:
            places.append(Seen(at, f"{called}, {at[2]:.0f} mm up"))
    return places


def _largest(middles: F8, weight: F8, taken: list[tuple[float, float, float]]) -> tuple[float, float, float] | None:
    """The middle of the heaviest face in the heaviest bin that is apart from what is taken."""
    for t in taken:
        weight = np.where(np.linalg.norm(middles - t, axis=1) < APART_MM, 0.0, weight)
    some = np.flatnonzero(weight > 0)
    if not len(some):
        return None
    _, of = np.unique(np.floor(middles[some] / BIN_MM).astype(np.int64), axis=0, return_inverse=True)
    mine = some[of.ravel() == np.bincount(of.ravel(), weight[some]).argmax()]
    centre = np.average(middles[mine], axis=0, weights=weight[mine])
    x, y, z = (float(v) for v in middles[mine[np.linalg.norm(middles[mine] - centre, axis=1).argmin()]])
    return x, y, z
