"""The load path: what each layer pulls on, and what holds it.

Terms. *Body*: components of a figure's layers that are one piece at a moment; it ends where it joins a larger one. *Hold*: what keeps a body back
from the film: the tips under it that stand on the plate or the figure, the first layer on the plate. *Margin*: hold over pull, at its worst layer.

Every hold of a body carries alike; a lever arm is not counted, nor is a thin neck between the pull and its hold.
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


@dataclass(frozen=True)
class BodyLoad:
    """A body's worst moment: `pull` and `hold` in N at `layer`, its place there in mm, and `share` of the figure's volume that hangs on it;
    `tips` that held it then.
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
    found: I4,
) -> None:
    """The component that each point (n, 3) touches from below, -1 for none: of the first layer above it, near the point."""
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
                        found[k] = of_run[q]
            if found[k] >= 0:
                break


@njit()
def _carry(
    layer: I4, area: F8, link_start: I8, links: I4, hold: F8, tips: I4, pull: F8, body: I4, out: F8, out_body: I4
) -> int:
    """Walk the layers upwards. out: worst layer, pull, hold, margin, volume (in area), tips; one row a body that ended. Returns how many."""
    n = len(layer)
    held, volume, count = np.zeros(n), np.zeros(n), np.zeros(n, np.int32)
    worst = np.full((n, 5), np.inf)  # margin, layer, pull, hold, tips
    worst_at = np.full(n, -1, np.int32)
    now, stamp = np.zeros(n), np.full(n, -1, np.int32)
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
                    out[rows, 0], out[rows, 1], out[rows, 2] = worst[small, 1], worst[small, 2], worst[small, 3]
                    out[rows, 3], out[rows, 4], out[rows, 5] = worst[small, 0], volume[small], worst[small, 4]
                    out_body[rows] = worst_at[small]
                    rows += 1
                body[small] = large
                held[large] += held[small]
                volume[large] += volume[small]
                count[large] += count[small]
            root = find(body, c)
            held[root] += hold[c]
            count[root] += tips[c]
            volume[root] += area[c]
        for c in range(a, b):
            root = find(body, c)
            if stamp[root] != layer[a]:
                stamp[root], now[root] = layer[a], 0.0
            now[root] += pull[c]
        for c in range(a, b):
            root = find(body, c)
            margin = held[root] / now[root] if now[root] > 0 else np.inf
            if margin < worst[root, 0]:
                worst[root, 0], worst[root, 1], worst[root, 2], worst[root, 3] = margin, layer[a], now[root], held[root]
                worst[root, 4] = count[root]
                worst_at[root] = c
        a = b
    for c in range(n):
        if find(body, c) == c and worst[c, 0] < np.inf:
            out[rows, 0], out[rows, 1], out[rows, 2] = worst[c, 1], worst[c, 2], worst[c, 3]
            out[rows, 3], out[rows, 4], out[rows, 5] = worst[c, 0], volume[c], worst[c, 4]
            out_body[rows] = worst_at[c]
            rows += 1
    return rows


def bare_below(proof: Proof, points: F8, reach: float = 0.0) -> NDArray[np.bool_]:
    """Whether nothing of the figure lies right below each point (n, 3) of its surface, nor within `reach` mm of there.

    Inside another shell something does, and there is nothing to hold; near an edge the next layer clings to it.
    """
    stack, g = proof.stack, proof.stack.grid
    found = np.ones(len(points), np.bool_)
    frame = (g.height, g.x0, g.y0, g.pitch, g.unit)
    _bare(points, stack.row_start, stack.x_in, stack.x_out, frame, g.rows, reach, found)
    return found


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
    """The component of a figure's own stack that each contact (n, 3) touches from below; -1 where it touches nothing."""
    stack, g = proof.stack, proof.stack.grid
    found = np.full(len(points), -1, np.int32)
    frame = (g.height, g.x0, g.y0, g.pitch, g.unit)
    _under(points, stack.row_start, stack.x_in, stack.x_out, proof.components.of_run, frame, g.layers, g.rows, found)
    return found


def body_loads(proof: Proof, points: F8, diameters: F8, context: Context) -> list[BodyLoad]:
    """Every body of a figure with its worst margin, the weakest first. `proof` is the figure's own, without supports; resin only.

    Tips by their contacts (n, 3) in mm and diameters (n,).
    The pull of a layer is the peel pressure over what it cures of the body; suction goes to the largest component that is cured there.
    """
    parts, printer = proof.components, context.printer
    n = len(parts.layer)
    if not n:
        return []
    hold, count = np.zeros(n), np.zeros(n, np.int32)
    on_plate = parts.layer == 0
    hold[on_plate] = parts.area[on_plate] * PLATE_KPA * 1e-3
    if len(points):
        at = touched(proof, points)
        holds = np.asarray(tip_hold(context, diameters))
        np.add.at(hold, at[at >= 0], holds[at >= 0])
        np.add.at(count, at[at >= 0], 1)
    pull = parts.area * getattr(printer, "peel_kpa", 0.0) * 1e-3
    sealed = proof.voids.sealed_area
    for layer in np.flatnonzero(sealed > 0):
        first, last = np.searchsorted(parts.layer, [layer, layer + 1])
        if last > first:
            biggest = first + int(np.argmax(parts.area[first:last]))
            pull[biggest] += getattr(printer, "suction_kpa", 0.0) * sealed[layer] * 1e-3
    link_start = np.searchsorted(parts.links[:, 0], np.arange(n + 1)).astype(np.int64)
    out, where = np.zeros((n, 6)), np.zeros(n, np.int32)
    body = np.arange(n, dtype=np.int32)
    rows = int(_carry(parts.layer, parts.area, link_start, parts.links, hold, count, pull, body, out, where))
    total = float(parts.area.sum()) or 1.0
    found = []
    for k in np.argsort(out[:rows, 3], kind="stable"):
        c = int(where[k])
        x, y = parts.centre[c]
        z = float(out[k, 0]) * proof.stack.grid.height
        found.append(
            BodyLoad(
                int(out[k, 0]),
                float(x),
                float(y),
                z,
                float(out[k, 1]),
                float(out[k, 2]),
                float(out[k, 4]) / total,
                int(out[k, 5]),
                c,
            )
        )
    return found


def all_below(proof: Proof, component: int) -> NDArray[np.bool_]:
    """Which components (n,) lie under one by overlaps, itself included: what a hold must touch to carry it."""
    parts = proof.components
    n = len(parts.layer)
    link_start = np.searchsorted(parts.links[:, 0], np.arange(n + 1))
    found = np.zeros(n, np.bool_)
    _sink(component, link_start.astype(np.int64), parts.links, found)
    return found


@njit()
def _sink(component: int, link_start: I8, links: I4, found: NDArray[np.bool_]) -> None:
    # Components are in layer order, so one walk downwards meets every one after all that lie on it.
    found[component] = True
    for c in range(component, -1, -1):
        if found[c]:
            for q in range(link_start[c], link_start[c + 1]):
                found[links[q, 1]] = True
