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
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..layers import Proof
from ..machines import Context
from ..mesh.shells import find

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
PLATE_KPA = 60.0
"""Prior: adhesion of green resin to the plate."""
NEAR_MM = 0.2
"""A tip holds a component that lies within this of its contact; it reaches in by about half of it."""
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
def _under(
    points: F8,
    row_start: I8,
    x_in: I4,
    x_out: I4,
    of_run: I4,
    frame: tuple[float, float, float, float, float],
    layers: int,
    rows: int,
    out: I4,
) -> None:
    """The component that each point (n, 3) touches from below, -1 for none: of the first layer above it, near the
    point.
    """
    height, x0, y0, pitch, unit = frame
    reach = int(np.ceil(NEAR_MM / pitch))
    for k in range(len(points)):
        low = max(0, int(np.floor(points[k, 2] / height + 0.5 - 1e-6)))
        x = (points[k, 0] - x0) / unit
        slack = NEAR_MM / unit
        j0 = int(np.floor((points[k, 1] - y0) / pitch))
        best = np.inf
        for layer in range(low, min(layers, low + 4)):
            for j in range(max(0, j0 - reach), min(rows, j0 + reach + 1)):
                r = layer * rows + j
                for q in range(row_start[r], row_start[r + 1]):
                    away = max(0.0, max(x_in[q] - x, x - x_out[q])) / slack + abs(j - j0) / max(reach, 1)
                    if x_in[q] - slack <= x <= x_out[q] + slack and away < best:
                        best = away
                        out[k] = of_run[q]
            if out[k] >= 0:
                break


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
def _carry(
    layer: I4,
    area: F8,
    centre: F8,
    link_start: I8,
    links: I4,
    hold_start: I8,
    holds: F8,
    tip: NDArray[np.bool_],
    pull: F8,
    body: I4,
    out: F8,
    out_body: I4,
    strained: F8,
    margins: F8,
) -> int:
    """Walk the layers upwards. `holds` (h, 3) by component, from `hold_start`; `tip`: which of them are tips;
    `strained` (h,) becomes the largest share of its strength that each is asked for, `margins` (n,) hold over pull of
    each component's body when its layer is peeled.

    out: worst layer, pull, hold, margin, volume (in area), tips, x, y, middle of the holds x, y, layers where it began
        and ended (-1 never); one row a body that ended, in an order that no hold changes. Returns how many.
    """
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
                count[root] += tip[h]
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


def bare_below(proof: Proof, points: F8, reach: float = 0.0) -> NDArray[np.bool_]:
    """Whether nothing of the figure lies right below each point (n, 3) of its surface, nor within `reach` mm of there.

    Inside another shell something does, and there is nothing to hold; near an edge the next layer clings to it.
    """
    stack, g = proof.stack, proof.stack.grid
    bare = np.ones(len(points), np.bool_)
    frame = (g.height, g.x0, g.y0, g.pitch, g.unit)
    _bare(points, stack.row_start, stack.x_in, stack.x_out, frame, g.rows, reach, bare)
    return bare


@njit()
def _bare(
    points: F8,
    row_start: I8,
    x_in: I4,
    x_out: I4,
    frame: tuple[float, float, float, float, float],
    rows: int,
    reach: float,
    bare: NDArray[np.bool_],
) -> None:
    height, x0, y0, pitch, unit = frame
    lines = int(reach / pitch)
    for k in range(len(points)):
        layer = int(np.floor(points[k, 2] / height - 1.5))
        j0 = int(np.floor((points[k, 1] - y0) / pitch))
        if layer < 0:
            continue
        x = (points[k, 0] - x0) / unit
        for j in range(max(0, j0 - lines), min(rows - 1, j0 + lines) + 1):
            aside = (j - j0) * pitch
            slack = np.sqrt(max(0.0, reach * reach - aside * aside)) / unit
            r = layer * rows + j
            for q in range(row_start[r], row_start[r + 1]):
                if x_in[q] - slack < x < x_out[q] + slack:
                    bare[k] = False
            if not bare[k]:
                break


def tip_hold(context: Context, diameter: Any) -> Any:
    """Newtons that a tip holds before it tears: green strength over its section.

    >>> from ..machines import load_printer, load_material
    >>> p = load_printer("heron"); c = Context.of(p, load_material(None, p))
    >>> round(tip_hold(c, 0.4) / tip_hold(c, 0.2), 6)
    4.0
    """
    return context.material.green_strength_mpa * math.pi * diameter**2 / 4


def touched(proof: Proof, points: F8) -> I4:
    """The component of a figure's own stack that each contact (n, 3) touches from below; -1 where it touches
    nothing.
    """
    stack, g = proof.stack, proof.stack.grid
    component = np.full(len(points), -1, np.int32)
    frame = (g.height, g.x0, g.y0, g.pitch, g.unit)
    _under(
        points, stack.row_start, stack.x_in, stack.x_out, proof.components.of_run, frame, g.layers, g.rows, component
    )
    return component


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


def carried(
    layer: I4,
    area: F8,
    centre: F8,
    *,
    links: I4,
    pull: F8,
    held: tuple[I8, F8, NDArray[np.bool_]],
) -> Carried:
    """Walk up the components of a stack (see `Components`) with the pull on each and what holds each (see `holds_of`).
    O(layers x holds).
    """
    n = len(layer)
    link_start = np.searchsorted(links[:, 0], np.arange(n + 1)).astype(np.int64)
    out, where, strained = np.zeros((n, 12)), np.zeros(n, np.int32), np.zeros(len(held[1]))
    body, margins = np.arange(n, dtype=np.int32), np.empty(n)
    rows = int(_carry(layer, area, centre, link_start, links, *held, pull, body, out, where, strained, margins))
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
    holds = holds_of(proof, points, diameters, context)
    borne = carried(parts.layer, parts.area, parts.centre, links=parts.links, pull=pulls_of(proof, context), held=holds)
    total = float(parts.area.sum()) or 1.0
    loads = []
    weak = np.flatnonzero(borne.rows[:, 3] < below)
    for k in weak[np.argsort(borne.rows[weak, 3], kind="stable")]:
        layer, force, hold, _, volume, tips, x, y, mx, my = (float(v) for v in borne.rows[k, :10])
        lever, share, z = math.hypot(x - mx, y - my), volume / total, layer * proof.stack.grid.height
        loads.append(BodyLoad(int(layer), x, y, z, force, hold, share, int(tips), int(borne.at[k]), lever, (mx, my)))
    return loads


def pulls_of(proof: Proof, context: Context) -> F8:
    """Newtons (n,) with which the film pulls on each component as it is cured: peel over its area, and suction on the
    largest of a layer that seals.
    """
    parts, printer = proof.components, context.printer
    pull = np.asarray(parts.area * getattr(printer, "peel_kpa", 0.0) * 1e-3)
    sealed = proof.voids.sealed_area
    for layer in np.flatnonzero(sealed > 0):
        first, last = np.searchsorted(parts.layer, [layer, layer + 1])
        if last > first:
            biggest = first + int(np.argmax(parts.area[first:last]))
            pull[biggest] += getattr(printer, "suction_kpa", 0.0) * sealed[layer] * 1e-3
    return pull


def holds_of(proof: Proof, points: F8, diameters: F8, context: Context) -> tuple[I8, F8, NDArray[np.bool_]]:
    """What holds each component (n + 1 starts into the rest): x, y and strength in N (h, 3), and which are tips.

    The first layer is told as five points that have a rectangle's area and moments: a sixth of a half in each corner,
    the rest in its middle.
    """
    parts = proof.components
    n = len(parts.layer)
    flat = np.flatnonzero(parts.layer == 0)
    corners = np.array([[0, 0], [1, 1], [1, -1], [-1, 1], [-1, -1]]) / 2
    spots = parts.centre[flat][:, None] + corners * parts.width[flat][:, None]
    strength = (parts.area[flat] * PLATE_KPA * 1e-3)[:, None] * np.array([2 / 3, *[1 / 12] * 4])
    rows = [np.concatenate([spots, strength[:, :, None]], axis=2).reshape(-1, 3)]
    of: list[NDArray[Any]] = [np.repeat(flat, 5)]
    if len(points):
        at = touched(proof, points)
        rows.append(np.column_stack([points[:, :2], np.asarray(tip_hold(context, diameters))])[at >= 0])
        of.append(at[at >= 0])
    whole, on = np.concatenate(rows), np.concatenate(of)
    order = np.argsort(on, kind="stable")
    tip = np.arange(len(on)) >= 5 * len(flat)
    start = np.searchsorted(on[order], np.arange(n + 1)).astype(np.int64)
    return start, np.ascontiguousarray(whole[order], float), tip[order]


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
