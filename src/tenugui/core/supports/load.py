"""The load path: what each layer pulls on, and what holds it.

Terms. *Body*: components of a figure's layers that are one piece at a moment; it ends where it joins a larger one.
*Hold*: what keeps a body back from the film: the tips under it that stand on the plate or the figure, the first layer
on the plate. *Margin*: what the hold that is strained most can take over what it gets, at the body's worst layer.
*Lever*: how far the pull passes beside the middle of the holds.

A body is stiff and its holds are springs as stiff as they are strong: a pull beside their middle turns it, and strains
the holds on that side more, as in a beam's section: F/S + M d/J. What bends on its way to the holds is told by `necks`.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..layers import Proof
from ..machines import Context
from ..mesh.shells import find
from .holds import Layout, layout_of

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
NEVER = 1e9
LEAST_PULL_N = 0.008
"""Prior: what pulls less hangs on its neighbours or on the film's mercy either way."""
GRIP_MM = 1.0
"""Prior: a hold resists a turn as a pair so far to either side of its middle: the width of its cone, and what the film
gives.
"""


@dataclass(frozen=True)
class BodyLoad:
    """A body's worst moment: `pull` in N at `layer` and its middle in mm, the pull at which the hold that is strained
    most would give way (`hold`), `lever` in mm, `share` of the figure's volume that hangs on it, `tips` that held it
    then, and where the middle of all its holds was.
    """

    layer: int
    x: float
    y: float
    z: float
    pull: float
    hold: float
    share: float
    tips: int
    component: int
    lever: float
    held_at: tuple[float, float]

    @property
    def margin(self) -> float:
        """Hold over pull; NEVER where nothing pulls."""
        return self.hold / self.pull if self.pull > 0 else NEVER


@njit()
def _strain(
    holds: F8, onward: I4, first: int, x: float, y: float, force: float, strained: F8
) -> tuple[float, float, float]:
    """How much of its strength a pull of 1 N at (x, y) asks of the hold that it strains most, and the middle of all;
    `holds` (h, 3): x, y, strength. What `force` N ask of each is noted in `strained` (h,) where it is more than before.
    """
    total, mx, my = 0.0, 0.0, 0.0
    k = first
    while k >= 0:
        total += holds[k, 2]
        mx += holds[k, 2] * holds[k, 0]
        my += holds[k, 2] * holds[k, 1]
        k = onward[k]
    if total <= 0:
        return np.inf, x, y
    mx, my = mx / total, my / total
    jxx, jyy, jxy = GRIP_MM * GRIP_MM, GRIP_MM * GRIP_MM, 0.0
    k = first
    while k >= 0:
        share, u, v = holds[k, 2] / total, holds[k, 0] - mx, holds[k, 1] - my
        jxx, jyy, jxy = jxx + share * u * u, jyy + share * v * v, jxy + share * u * v
        k = onward[k]
    ex, ey = x - mx, y - my
    whole = jxx * jyy - jxy * jxy
    ax, ay = (jyy * ex - jxy * ey) / whole, (jxx * ey - jxy * ex) / whole
    own = GRIP_MM * np.sqrt(ax * ax + ay * ay)
    most = 0.0
    k = first
    while k >= 0:
        turn = ax * (holds[k, 0] - mx) + ay * (holds[k, 1] - my)
        most = max(most, turn)
        strained[k] = max(strained[k], force * (1 + turn + own) / total)
        k = onward[k]
    return (1 + most + own) / total, mx, my


@njit()
def _joined(first: I4, last: I4, onward: I4, small: int, large: int) -> None:
    """Hand the holds of one body to another."""
    if first[small] < 0:
        return
    if first[large] < 0:
        first[large], last[large] = first[small], last[small]
    else:
        onward[last[large]] = first[small]
        last[large] = last[small]


@njit()
def _carry(laid: Layout, body: I4, out: F8, out_body: I4, strained: F8, margins: F8) -> int:
    """Walk the layers upwards. `strained` (h,) becomes the largest share of its strength that each hold is asked for,
    `margins` (n,) hold over pull of each component's body when its layer is peeled.

    out: worst layer, pull, hold, margin, volume (in area), tips, x, y, middle of the holds x, y, layers where it began
        and ended (-1 never); one row a body that ended, in an order that no hold changes. Returns how many.
    """
    layer, area, centre, pull, link_start, links, hold_start, holds, tip = laid
    n = len(layer)
    volume, count, began = np.zeros(n), np.zeros(n, np.int32), layer.copy()
    worst = np.full((n, 9), np.inf)  # margin, layer, pull, hold, tips, x, y, middle of the holds x, y
    worst_at, weighty = np.full(n, -1, np.int32), np.zeros(n, np.bool_)
    now, stamp, here = np.zeros((n, 3)), np.full(n, -1, np.int32), np.full(n, np.inf)
    first, last, onward = np.full(n, -1, np.int32), np.full(n, -1, np.int32), np.full(len(holds), -1, np.int32)
    rows = 0
    a = 0
    while a < n:
        b = a
        while b < n and layer[b] == layer[a]:
            b += 1
        for c in range(a, b):
            top = c
            for q in range(link_start[c], link_start[c + 1]):
                root = find(body, links[q, 1])
                top = find(body, c)
                if root == top:
                    continue
                small, large = (root, top) if volume[root] <= volume[top] else (top, root)
                if worst[small, 0] < np.inf and volume[small] > 0 and volume[large] > 0:
                    _told(worst[small], volume[small], began[small], layer[a], out[rows])
                    out_body[rows] = worst_at[small]
                    rows += 1
                body[small] = large
                began[large] = min(began[small], began[large])
                _joined(first, last, onward, small, large)
                volume[large] += volume[small]
                count[large] += count[small]
            root = find(body, c)
            for h in range(hold_start[c], hold_start[c + 1]):
                onward[h] = first[root]
                if first[root] < 0:
                    last[root] = h
                first[root] = h
                count[root] += tip[h] >= 0
            volume[root] += area[c]
        for c in range(a, b):
            root = find(body, c)
            if stamp[root] != layer[a]:
                stamp[root], now[root] = layer[a], 0.0
            now[root, 0] += pull[c]
            now[root, 1] += pull[c] * centre[c, 0]
            now[root, 2] += pull[c] * centre[c, 1]
        for c in range(a, b):
            root = find(body, c)
            if stamp[root] != layer[a]:
                continue
            stamp[root] = -1
            force = now[root, 0]
            if force <= 0:
                continue
            x, y = now[root, 1] / force, now[root, 2] / force
            strain, mx, my = _strain(holds, onward, first[root], x, y, force, strained)
            margin = 0.0 if strain == np.inf else 1 / (force * strain)
            # A speck that nothing held must not hide what its body pulls once it is large.
            here[root] = margin
            real = force > LEAST_PULL_N
            if (real and not weighty[root]) or (real == weighty[root] and margin < worst[root, 0]):
                weighty[root] = real
                worst[root, 0], worst[root, 1], worst[root, 2], worst[root, 3] = margin, layer[a], force, margin * force
                worst[root, 4], worst[root, 5], worst[root, 6], worst[root, 7], worst[root, 8] = (
                    count[root],
                    x,
                    y,
                    mx,
                    my,
                )
                worst_at[root] = c
        for c in range(a, b):
            margins[c] = here[find(body, c)]
        a = b
    for c in range(n):
        if find(body, c) == c and worst[c, 0] < np.inf:
            _told(worst[c], volume[c], began[c], -1, out[rows])
            out_body[rows] = worst_at[c]
            rows += 1
    return rows


@njit()
def _told(worst: F8, volume: float, began: int, ended: int, out: F8) -> None:
    out[0], out[1], out[2], out[3] = worst[1], worst[2], worst[3], worst[0]
    out[4], out[5], out[6], out[7], out[8], out[9] = volume, worst[4], worst[5], worst[6], worst[7], worst[8]
    out[10], out[11] = began, ended


@dataclass(frozen=True)
class Carried:
    """What a walk up the layers found: bodies in an order that no hold changes, by the columns of `_carry` (b, 12) and
    the component of each one's worst moment (b,); the largest share of its strength that each hold is asked for (h,);
    and hold over pull at every component's own layer (n,).
    """

    rows: F8
    at: I4
    strained: F8
    margins: F8


def carried(laid: Layout) -> Carried:
    """Walk up the components of a stack with the pull on each and what holds each. O(layers x holds)."""
    n = len(laid.layer)
    out, where, strained = np.zeros((n, 12)), np.zeros(n, np.int32), np.zeros(len(laid.holds))
    body, margins = np.arange(n, dtype=np.int32), np.empty(n)
    rows = int(_carry(laid, body, out, where, strained, margins))
    return Carried(out[:rows], where[:rows], strained, margins)


def body_loads(proof: Proof, points: F8, diameters: F8, context: Context, *, below: float = math.inf) -> list[BodyLoad]:
    """Bodies of a figure whose worst margin is less than `below`, the weakest first. `proof` is the figure's own,
    without supports; resin only.

    Tips by their contacts (n, 3) in mm and diameters (n,). The pull of a layer is the peel pressure over what it cures
    of the body; suction goes to the largest component that is cured there.
    """
    parts = proof.components
    if not len(parts.layer):
        return []
    borne = carried(layout_of(proof, points, diameters, context))
    total = float(parts.area.sum()) or 1.0
    loads = []
    weak = np.flatnonzero(borne.rows[:, 3] < below)
    order = weak[np.argsort(borne.rows[weak, 3], kind="stable")]
    for row, at in zip(borne.rows[order, :10].tolist(), borne.at[order].tolist(), strict=True):
        layer, force, hold, _, volume, tips, x, y, mx, my = row
        lever, share, z = math.hypot(x - mx, y - my), volume / total, layer * proof.stack.grid.height
        loads.append(BodyLoad(int(layer), x, y, z, force, hold, share, int(tips), at, lever, (mx, my)))
    return loads


def body_at(proof: Proof, component: int) -> NDArray[np.bool_]:
    """Which components (n,) are one piece with this one when its layer is cured: what a hold must touch to carry it."""
    parts = proof.components
    return np.asarray(_one_piece(parts.layer, parts.links, component))


@njit()
def _one_piece(layer: I4, links: I4, component: int) -> NDArray[np.bool_]:
    n, top = len(layer), layer[component]
    body = np.arange(n).astype(np.int32)
    for q in range(len(links)):
        if layer[links[q, 0]] > top:
            break  # links are in the order of their upper ends
        one, other = find(body, links[q, 0]), find(body, links[q, 1])
        if one != other:
            body[one] = other
    root = find(body, component)
    together = np.zeros(n, np.bool_)
    for c in range(n):
        if layer[c] > top:
            break
        together[c] = find(body, c) == root
    return together
