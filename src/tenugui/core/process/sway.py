"""How far slender parts sway under the nozzle: each layer on the chain of those below it as a cantilever of changing
section.

With b(z) the bending stiffness at z, a force at height t moves the top by the integral of (t - z)² / b(z) over the
chain (Euler and Bernoulli); three running sums of it give that at every layer. Where chains join, what stands above
stands on the stiffer one.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..layers import Components

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
ROUND = 16.0
"""A disc of area A and width w has the second moment A w² / 16; a bar has a twelfth."""
TOLD, APART_MM = 3, 3.0
"""So many places are told, so far from each other."""


@dataclass(frozen=True)
class Sway:
    """A component that sways: its layer and place, how far in mm, and how wide it is there."""

    layer: int
    x: float
    y: float
    mm: float
    width: float


@njit()
def _sways(layer: I4, bend: F8, first: I4, below: I4, height: float, out: F8) -> None:
    """How far a force of 1 N at each component moves it, mm; 0 for what starts in mid air until it joins what stands on
    the plate: it stands on its supports, several of them, and no chain of its own tells how firmly. `bend` (c,) N mm²;
    `first` (c + 1,) where each one's links begin, `below` (l,) what it lies on.
    """
    n = len(layer)
    sums, stands = np.zeros((n, 3)), np.zeros(n, np.bool_)
    for c in range(n):
        z = (layer[c] + 0.5) * height
        best = -1
        least = np.inf
        for k in range(first[c], first[c + 1]):
            p = below[k]
            if not stands[p]:
                continue
            far = sums[p, 2] - 2 * z * sums[p, 1] + z * z * sums[p, 0]
            if far < least:
                least, best = far, p
        stands[c] = best >= 0 or layer[c] <= 1
        if not stands[c]:
            continue
        share = height / bend[c]
        for q in range(3):
            sums[c, q] = (sums[best, q] if best >= 0 else 0.0) + share * z**q
        out[c] = max(0.0, sums[c, 2] - 2 * z * sums[c, 1] + z * z * sums[c, 0])


def sways(parts: Components, height: float, modulus_mpa: float) -> F8:
    """How far a sideways force of 1 N at each component (c,) moves it, mm."""
    wide = np.minimum(parts.width[:, 0], parts.width[:, 1])
    # No narrower than it could be for its area, whatever its box says.
    moment = parts.area * np.minimum(wide**2, parts.area * 4 / np.pi) / ROUND
    first = np.searchsorted(parts.links[:, 0], np.arange(len(parts.layer) + 1)).astype(np.int32)
    out = np.zeros(len(parts.layer))
    _sways(
        parts.layer, np.maximum(modulus_mpa * moment, 1e-9), first, np.ascontiguousarray(parts.links[:, 1]), height, out
    )
    return out


def worst_sways(parts: Components, height: float, modulus_mpa: float, force_n: float, least_mm: float) -> list[Sway]:
    """Where it sways most, by at least `least_mm`; the worst first, and none beside one that is told."""
    swaies: list[Sway] = []
    far = force_n * sways(parts, height, modulus_mpa)
    for c in np.argsort(-far, kind="stable").tolist():
        if far[c] < least_mm or len(swaies) == TOLD:
            break
        x, y = parts.inside[c].tolist()
        if all(np.hypot(x - s.x, y - s.y) > APART_MM for s in swaies):
            wide = float(min(parts.width[c].min(), np.sqrt(parts.area[c] * 4 / np.pi)))
            swaies.append(Sway(int(parts.layer[c]), x, y, float(far[c]), wide))
    return swaies
