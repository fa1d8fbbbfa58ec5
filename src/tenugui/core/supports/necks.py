"""Necks: what a pull must pass on its way to its holds, and where it would bend or tear off.

Terms. *Way*: from a component down over what it lies on to the holds below it; each hold takes its part of the pull by
its strength. *Neck*: a component on the way whose section is strained by the pull that goes through it and by that
pull's moment about its middle.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..layers import Proof
from ..machines import Context
from .holds import Layout, layout_of
from .load import GRIP_MM, NEVER

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
I4 = NDArray[np.int32]
APART_MM = 4.0
"""Necks nearer to a worse one belong to it."""
LEAST_N = 0.008
"""Prior: what pulls less bends nothing that a person would miss."""
BACKED = 3.0
"""Prior: where what stands beside a section carries so many times the pull, nothing is lost with the section."""
FUSED_MM = 1.0
"""Prior: so far above a contact the tip and its cone have fused with what they hold, and are what carries it."""

SLAB_MM = 0.25
"""Of so much of a figure's height one layer is pulled, the one that pulls hardest."""


@dataclass(frozen=True)
class Neck:
    """Where a figure's own section is strained most while a layer above is pulled: its place in mm, section in mm², the
    pull in N that goes through it at `by_layer` and its lever in mm, what it could take of such a pull (`hold`), and
    the share of the figure's volume that hangs on it from above.
    """

    layer: int
    x: float
    y: float
    z: float
    section_mm2: float
    by_layer: int
    pull: float
    lever: float
    hold: float
    share: float

    @property
    def margin(self) -> float:
        """Hold over pull."""
        return self.hold / self.pull if self.pull > 0 else NEVER


@njit()
def _below(laid: Layout, own: F8, most: F8, total: F8, through: F8) -> None:
    """What the ways below each component can carry: its own holds, and through each section under it no more than that
    bears (`most`).
    """
    link_start, links = laid.link_start, laid.links
    for c in range(len(own)):
        total[c] = own[c]
        for q in range(link_start[c], link_start[c + 1]):
            total[c] += through[links[q, 1]]
        through[c] = min(total[c], most[c])


@njit()
def _shared(c: int, laid: Layout, total: F8, s: F8, grip: F8, out: F8) -> None:
    """How what lies under a component takes a pull on it, as springs by strength. out: middle x and y, then the inverse
    of their moments (xx, xy, yy).
    """
    centre, link_start, links = laid.centre, laid.link_start, laid.links
    hold_start, holds = laid.hold_start, laid.holds
    mx, my = 0.0, 0.0
    for h in range(hold_start[c], hold_start[c + 1]):
        mx, my = mx + holds[h, 2] * holds[h, 0], my + holds[h, 2] * holds[h, 1]
    for q in range(link_start[c], link_start[c + 1]):
        d = links[q, 1]
        mx, my = mx + s[d] * centre[d, 0], my + s[d] * centre[d, 1]
    mx, my = mx / total[c], my / total[c]
    xx, xy, yy = 0.0, 0.0, 0.0
    for h in range(hold_start[c], hold_start[c + 1]):
        u, v, w = holds[h, 0] - mx, holds[h, 1] - my, holds[h, 2] / total[c]
        xx, xy, yy = xx + w * (u * u + GRIP_MM**2), xy + w * u * v, yy + w * (v * v + GRIP_MM**2)
    for q in range(link_start[c], link_start[c + 1]):
        d = links[q, 1]
        u, v, w, g = centre[d, 0] - mx, centre[d, 1] - my, s[d] / total[c], grip[d]
        xx, xy, yy = xx + w * (u * u + g * g), xy + w * u * v, yy + w * (v * v + g * g)
    whole = xx * yy - xy * xy
    out[0], out[1], out[2], out[3], out[4] = mx, my, yy / whole, -xy / whole, xx / whole


@njit()
def _downwards(front: I4, many: int) -> None:
    """Sort the first `many` of a few numbers, the largest first."""
    for k in range(1, many):
        one, at = front[k], k
        while at > 0 and front[at - 1] < one:
            front[at] = front[at - 1]
            at -= 1
        front[at] = one


@njit()
def _pulled(laid: Layout, layers: I8, area: F8, narrow: F8, total: F8, through: F8, strength: float, worst: F8) -> None:
    """Pull each of some layers, by their first component and what follows their last (l, 2), and follow it down along
    what carries it. worst (c, 4): most of its strength that a section is asked for, by which layer, pull, lever.

    What goes through one section goes on whole into the only one below it; several legs and tips share it as the
    springs of a stiff frame do, mostly by pulling and pushing, and bend by what is left.
    """
    layer, centre, pull, hold_start = laid.layer, laid.centre, laid.pull, laid.hold_start
    link_start, links = laid.link_start, laid.links
    n = len(layer)
    force, busy, backed = np.zeros((n, 3)), np.zeros(n, np.bool_), np.zeros(n, np.bool_)
    grip, frame = narrow / 4, np.zeros((n, 5))
    known = np.zeros(n, np.bool_)
    front, beyond = np.empty(n, np.int32), np.empty(n, np.int32)
    for a, b in layers:
        many = 0
        for c in range(b - 1, a - 1, -1):
            if total[c] > 0 and pull[c] > 0:
                force[c, 0], force[c, 1], force[c, 2] = pull[c], pull[c] * centre[c, 0], pull[c] * centre[c, 1]
                busy[c], backed[c] = True, False
                front[many] = c
                many += 1
        while many > 0:
            more = 0
            for k in range(many):
                c = front[k]
                busy[c] = False
                f = force[c, 0]
                mx, my = force[c, 1] - f * centre[c, 0], force[c, 2] - f * centre[c, 1]
                moment = np.sqrt(mx * mx + my * my)
                asked = (max(f, 0.0) / area[c] + 8 * moment / (area[c] * narrow[c])) / strength
                if asked > worst[c, 0] and f > 0 and not backed[c]:
                    worst[c, 0], worst[c, 1], worst[c, 2], worst[c, 3] = asked, layer[a], f, moment / f
                only, carriers = -1, 0
                for q in range(link_start[c], link_start[c + 1]):
                    if through[links[q, 1]] > 0:
                        only, carriers = links[q, 1], carriers + 1
                if hold_start[c] == hold_start[c + 1] and carriers == 1:
                    for i in range(3):
                        force[only, i] += force[c, i]
                    backed[only] = backed[c] and (backed[only] or not busy[only])
                    if not busy[only]:
                        busy[only], beyond[more] = True, only
                        more += 1
                elif carriers:
                    if not known[c]:
                        _shared(c, laid, total, through, grip, frame[c])
                        known[c] = True
                    x, y = frame[c, 0], frame[c, 1]
                    ex, ey = force[c, 1] - f * x, force[c, 2] - f * y
                    gx, gy = frame[c, 2] * ex + frame[c, 3] * ey, frame[c, 3] * ex + frame[c, 4] * ey
                    for q in range(link_start[c], link_start[c + 1]):
                        d = links[q, 1]
                        if through[d] > 0:
                            share = through[d] / total[c]
                            spare = backed[c] or total[c] - through[d] > BACKED * max(f, 0.0)
                            backed[d] = spare and (backed[d] or not busy[d])
                            part = share * (f + gx * (centre[d, 0] - x) + gy * (centre[d, 1] - y))
                            force[d, 0] += part
                            force[d, 1] += part * centre[d, 0] + share * grip[d] ** 2 * gx
                            force[d, 2] += part * centre[d, 1] + share * grip[d] ** 2 * gy
                            if not busy[d]:
                                busy[d], beyond[more] = True, d
                                more += 1
                force[c, 0], force[c, 1], force[c, 2] = 0.0, 0.0, 0.0
            _downwards(beyond, more)
            front, beyond, many = beyond, front, more


def _hardest(laid: Layout, height: float) -> I8:
    """Of every SLAB_MM of layers the one that is pulled hardest: its first component, and what follows its last (l, 2).
    What lies between them pulls as much at nearly the same place.
    """
    last = int(laid.layer[-1])
    first = np.searchsorted(laid.layer, np.arange(last + 2)).astype(np.int64)
    pulls = np.bincount(laid.layer, laid.pull, last + 1)
    slab = (np.arange(last + 1) * height / SLAB_MM).astype(np.int64)
    order = np.lexsort((np.arange(last + 1), -pulls, slab))
    hardest = order[np.flatnonzero(np.diff(slab[order], prepend=-1))]
    return np.column_stack([first[hardest], first[hardest + 1]])


@njit()
def _fused(laid: Layout, lowest: I4) -> None:
    """The highest layer below each component, its own included, in which something holds it; far below where nothing
    does.
    """
    link_start, links, hold_start, layer = laid.link_start, laid.links, laid.hold_start, laid.layer
    for c in range(len(lowest)):
        if hold_start[c] < hold_start[c + 1] and layer[c] > 0:
            lowest[c] = layer[c]
        for q in range(link_start[c], link_start[c + 1]):
            lowest[c] = max(lowest[c], lowest[links[q, 1]])


@njit()
def _above(laid: Layout, volume: F8) -> None:
    """What lies on each component, each lying on several shared alike among them."""
    link_start, links, area = laid.link_start, laid.links, laid.area
    for c in range(len(area) - 1, -1, -1):
        volume[c] += area[c]
        many = link_start[c + 1] - link_start[c]
        for q in range(link_start[c], link_start[c + 1]):
            volume[links[q, 1]] += volume[c] / many


def necks(proof: Proof, points: F8, diameters: F8, context: Context, least: float) -> list[Neck]:
    """Sections of a figure whose margin is below `least`, the weakest first, one of those that lie together; resin
    only.

    `proof` is the figure's own, tips by contacts (n, 3) and diameters (n,) in mm. Stress is that of a beam: force over
    area, and moment over area times an eighth of the narrower width, as in a round rod.
    """
    parts = proof.components
    n = len(parts.layer)
    if not n:
        return []
    laid, strength = layout_of(proof, points, diameters, context), context.material.green_strength_mpa
    own = np.bincount(np.repeat(np.arange(n), np.diff(laid.hold_start)), laid.holds[:, 2], n)
    total, through, worst, volume = np.zeros(n), np.zeros(n), np.zeros((n, 4)), np.zeros(n)
    _below(laid, own, parts.area * strength, total, through)
    narrow = np.maximum(np.minimum(parts.width.min(axis=1), np.sqrt(parts.area) * 1.13), 1e-3)
    height, whole = proof.stack.grid.height, float(parts.area.sum()) or 1.0
    _pulled(laid, _hardest(laid, height), np.maximum(parts.area, 1e-6), narrow, total, through, strength, worst)
    _above(laid, volume)
    contact = np.full(n, -(10**6), np.int32)
    _fused(laid, contact)
    clear = (parts.layer - contact) * height > FUSED_MM
    weak = np.flatnonzero((worst[:, 0] > 1 / least) & (worst[:, 2] > LEAST_N) & clear)
    necks: list[Neck] = []
    for c in weak[np.argsort(-worst[weak, 0], kind="stable")]:
        x, y, z = (float(v) for v in (*parts.centre[c], parts.layer[c] * height))
        if any((x - k.x) ** 2 + (y - k.y) ** 2 + (z - k.z) ** 2 < APART_MM**2 for k in necks):
            continue
        asked, by, force, lever = (float(v) for v in worst[c])
        layer, section, share = int(parts.layer[c]), float(parts.area[c]), min(1.0, float(volume[c]) / whole)
        necks.append(Neck(layer, x, y, z, section, int(by), force, lever, force / asked, share))
    return necks
