"""How far slender parts sway under the nozzle: each layer on the chain of those below it as a cantilever of changing
section.

With b(z) the bending stiffness at z, a force at height t moves the top by the integral of (t - z)² / b(z) over the
chain (Euler and Bernoulli); three running sums of it give that at every layer. Where chains join, what stands above
stands on the stiffer one. A chain stands by its foot: where the force at its top is more than that holds, it does not
sway but topples, until it joins what stands.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..layers import Components, Proof, relief_mm
from ..supports import FOOT_MPA, Tip, touched
from .protocol import NEAR_PLATE_MM

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
ROUND = 16.0
"""A disc of area A and width w has the second moment A w² / 16; a bar has a twelfth."""
SEVERAL = 2
"""Prior: so many tips keep what they touch from toppling."""
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


@dataclass(frozen=True)
class Topple:
    """What stands on a foot of its own that does not hold it: layer and place where it would go, whether it is but a
    part of the figure, the components (k,) that go with it, and what its foot holds and would have to hold, N mm.
    """

    layer: int
    x: float
    y: float
    a_part: bool
    parts: I4
    has: float
    needs: float


@njit()
def _sways(
    layer: I4,
    bend: F8,
    first: I4,
    below: I4,
    height: float,
    near: float,
    foot: F8,
    force: float,
    out: F8,
    holds: F8,
    topples: I4,
) -> None:
    """How far a force of 1 N at each component moves it, mm; 0 for what starts in mid air, or has toppled, until it
    joins what stands on the plate: it stands on its supports, several of them, and no chain of its own tells how
    firmly. `bend` (c,) N mm²; `foot` (c,) the moment that it would hold on the plate, N mm, where it lies within `near`
    mm of it, and `holds` (c,) that of the feet below it; `first` (c + 1,) where each one's links begin, `below` (l,)
    what it lies on; `topples` (c,) becomes the component at which its chain toppled, -1 for all others.
    """
    n = len(layer)
    sums, stands = np.zeros((n, 3)), np.zeros(n, np.bool_)
    root = np.arange(n)  # the foot, or the meeting of feet, that each one stands on
    for c in range(n):
        z = (layer[c] + 0.5) * height
        best, gone, least = -1, -1, np.inf
        for k in range(first[c], first[c + 1]):
            p = below[k]
            if not stands[p]:
                gone = max(gone, topples[p])
                continue
            another = True
            for e in range(first[c], k):  # what parts and meets again stands on one foot
                another &= not stands[below[e]] or root[below[e]] != root[p]
            if another:
                holds[c] += holds[p]
            root[c] = root[p] if best < 0 or root[p] == root[c] else c
            far = sums[p, 2] - 2 * z * sums[p, 1] + z * z * sums[p, 0]
            if far < least:
                least, best = far, p
        low = z < max(near, 2 * height)
        if low:  # a rounded foot is pressed flat
            holds[c] = max(holds[c], foot[c])
        stands[c] = best >= 0 or (layer[c] <= 1 and gone < 0)
        if stands[c] and not low and force * z > holds[c]:
            stands[c], gone = False, c
        if not stands[c]:
            topples[c] = gone
            continue
        share = height / bend[c]
        for q in range(3):
            sums[c, q] = (sums[best, q] if best >= 0 else 0.0) + share * z**q
        out[c] = max(0.0, sums[c, 2] - 2 * z * sums[c, 1] + z * z * sums[c, 0])


@dataclass(frozen=True)
class Standing:
    """How each component (c,) stands: how wide it is drawn, mm; how far a force of 1 N moves it, mm; what the feet
    below it hold, N mm; and the component at which its chain topples, -1 where it does not.
    """

    wide: F8
    per_n: F8
    holds: F8
    topples: I4


def standing(
    parts: Components, height: float, modulus_mpa: float, force_n: float = 0.0, *, line: float, brim: float = 0.0
) -> Standing:
    """How components stand under a sideways force, drawn in lines so wide (mm), with so much brim around their feet."""
    wide = np.minimum(parts.width[:, 0], parts.width[:, 1])
    # No narrower than it could be for its area, whatever its box says, and no narrower than it can be drawn.
    broad = np.maximum(np.minimum(wide, np.sqrt(parts.area * 4 / np.pi)), line)
    drawn = np.maximum(parts.area, np.pi / 4 * line**2)
    first = np.searchsorted(parts.links[:, 0], np.arange(len(parts.layer) + 1)).astype(np.int32)
    n = len(parts.layer)
    at = Standing(broad, np.zeros(n), np.zeros(n), np.full(n, -1, np.int32))
    brimmed = parts.area * np.prod(1 + 2 * brim / np.maximum(parts.width, 1e-6), axis=1)
    _sways(
        parts.layer,
        np.maximum(modulus_mpa * drawn * broad**2 / ROUND, 1e-9),
        first,
        np.ascontiguousarray(parts.links[:, 1]),
        height,
        NEAR_PLATE_MM,
        FOOT_MPA * brimmed * (broad + 2 * brim) / 8,
        force_n,
        at.per_n,
        at.holds,
        at.topples,
    )
    return at


def toppling(parts: Components, height: float, force_n: float, at: Standing) -> list[Topple]:
    """What topples, by how it stands under this force (N)."""
    rows = []
    for c in np.unique(at.topples[at.topples >= 0]).tolist():
        mine = np.flatnonzero(at.topples == c).astype(np.int32)
        top = int(parts.layer[mine].max())
        above = parts.links[np.isin(parts.links[:, 1], mine), 0]
        a_part = bool((at.topples[above] < 0).any()) or top < parts.layer.max()
        x, y = parts.inside[c].tolist()
        rows.append(Topple(int(parts.layer[c]), x, y, a_part, mine, float(at.holds[c]), force_n * (top + 0.5) * height))
    return rows


def worst_sways(parts: Components, force_n: float, at: Standing, least_mm: float) -> list[Sway]:
    """Where it sways most, by at least `least_mm`; the worst first, and none beside one that is told."""
    swaies: list[Sway] = []
    far = force_n * at.per_n
    for c in np.argsort(-far, kind="stable").tolist():
        if far[c] < least_mm or len(swaies) == TOLD:
            break
        x, y = parts.inside[c].tolist()
        if all(np.hypot(x - s.x, y - s.y) > APART_MM for s in swaies):
            swaies.append(Sway(int(parts.layer[c]), x, y, float(far[c]), float(at.wide[c])))
    return swaies


def toppled(proof: Proof, tips: Sequence[Tip], force_n: float, how: Standing) -> list[Topple]:
    """Parts that topple, but for relief of the first layers, and what several tips hold: that stands on them. Of the
    whole figure another law tells.
    """
    on = touched(proof, np.array([at for tip in tips for at in tip.contacts], float).reshape(-1, 3))
    height = proof.stack.grid.height
    rows = toppling(proof.components, height, force_n, how)
    tall = [row for row in rows if row.a_part and row.needs > force_n * relief_mm(height)]
    return [row for row in tall if np.isin(on, row.parts).sum() < SEVERAL]
