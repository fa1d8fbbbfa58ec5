"""Where closed lines begin. Every loop has a seam, a pimple a line wide: at its back, in a crease, or where nobody
looks.

`costs` are what a mark costs at points of a layer: as what a scar costs there, by the marks and by what is seen.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh, nearest_of

F8 = NDArray[np.float64]
Costs = Callable[[F8], F8]
BACK, CREASE, HIDDEN = range(3)
CREASE_DEG, CREASE_MM = 25.0, 1.0
"""A loop that turns in by less within so much of its length has no crease."""
ALIKE = 0.1
"""Prior: marks whose costs differ by less than this share of the dearest are alike."""
SHOWS = 0.5
"""Prior: what is looked at is where a mark costs so much of what it costs on an unmarked face."""


class Seen:
    """What a mark costs on a surface: `weights` (faces,) of a mesh in build coordinates, printed `lift` mm higher."""

    def __init__(self, figure: Mesh, weights: F8, lift: float = 0.0) -> None:
        self.figure, self.weights, self.lift = figure, weights, lift

    def raised(self, lift: float) -> Seen:
        """The same surface, printed higher."""
        return Seen(self.figure, self.weights, lift)

    def near(self, points: F8) -> tuple[F8, F8]:
        """What a mark costs at points (n, 3), and how far the surface is from them in mm."""
        far, face = nearest_of(self.figure).faces_at(points - [0.0, 0.0, self.lift])
        return np.asarray(self.weights[face]), far

    def at(self, z: float) -> Costs:
        """The same for points (n, 2) of the layer whose middle lies at z."""

        def costs(points: F8) -> F8:
            return self.near(np.column_stack([points, np.full(len(points), z)]))[0]

        return costs


def seam(points: F8, at: int, cost: F8 | None = None) -> int:
    """Where a closed loop (n, 2) begins: at its rearmost point, in its deepest crease where it has one, or of the
    points where a mark costs least (`cost`, n) at the deepest crease among them.

    >>> loop = np.array([[0, 0], [4, 0], [4, 4], [2, 1], [0, 4.0]])
    >>> seam(loop, CREASE), seam(np.array([[0, 0], [4, 0], [4, 4], [0, 3.0]]), CREASE)
    (3, 2)
    >>> seam(loop, HIDDEN, loop[:, 0])
    4
    """
    may = np.ones(len(points), np.bool_)
    if at == HIDDEN and cost is not None:
        may = cost <= cost.min() + ALIKE * cost.max()
    if at != BACK and len(points) > 3:
        deepest = _crease(points, may)
        if deepest >= 0:
            return deepest
    return int(np.where(may, points[:, 1], -np.inf).argmax())


def _crease(points: F8, may: NDArray[np.bool_]) -> int:
    """The middle of the stretch that turns in most, of those whose middle may be a seam; -1 where nothing turns in."""
    way = np.roll(points, -1, axis=0) - points
    before = np.roll(way, 1, axis=0)
    turn = np.arctan2(before[:, 0] * way[:, 1] - before[:, 1] * way[:, 0], (before * way).sum(axis=1))
    # An outline runs so that its solid lies on its left, a hole's too: where it turns right, it turns in. A crease is
    # rounded by what lines are cut in.
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.tile(way, (2, 1)), axis=1))])
    total = np.concatenate([[0.0], np.cumsum(np.tile(turn, 2))])
    many = len(points)
    first = np.arange(many)
    ends = np.minimum(np.searchsorted(along[: 2 * many], along[:many] + CREASE_MM, side="right"), 2 * many)
    middle = (first + (ends - 1 - first) // 2) % many
    bend = np.where(may[middle], total[ends] - total[:many], np.inf)
    k = int(bend.argmin())
    return int(middle[k]) if np.isfinite(bend[k]) and math.degrees(-bend[k]) > CREASE_DEG else -1
