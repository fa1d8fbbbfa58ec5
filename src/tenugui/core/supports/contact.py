"""How supports meet the figure: the gap and the interface under roofs of a filament print, the cradle around a sharp
point of a resin one.
"""

from __future__ import annotations

import dataclasses
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..machines import Context, draws_lines
from .around import Around
from .body import PRONG_MM, cap_neck, prong_lines
from .heads import CLEARANCE_MM
from .tip import Tip

F8 = NDArray[np.float64]
SPOKES = 12
FLARES = 0.8
"""An interface widens by so much of what a layer may reach beyond the one below."""
CAP_SHARES = (0.7, 0.6, 0.5, 0.4, 0.3)
"""Radii offered to an interface over the pitch of tips: with the first, neighbours close to a roof."""
UNDER_MM, UNDER_SHARE = 1.0, 0.6
"""An interface lies close under the figure along so much of its rim."""
GAP_SHARE, MORE_LAYERS = 0.7, 4
"""On a slope the end of a tip keeps so much of the gap to what lies beside it, by at most so many layers more below its
contact.
"""
CRADLES_MM = (0.55, 0.7, 0.85)
"""Radii offered to a cradle: what is wider than the last so little above its point is not sharp."""


@dataclass(frozen=True)
class Contact:
    """`gap` in mm of whole layers of `layer` mm, and thickness of the interface; both 0 where tips grip. `flare`: mm
    that an interface may widen a mm of height.
    """

    gap: float
    pad: float
    layer: float
    flare: float

    @classmethod
    def of(cls, context: Context) -> Contact:
        """Of a context's printer: a filament's gap is rounded up to whole layers, since nothing less can be printed."""
        printer = context.printer
        if not draws_lines(printer) or not printer.support_gap_mm:
            return cls(0.0, 0.0, context.height, 1.0)
        layers = math.ceil(printer.support_gap_mm / context.height - 1e-6)
        flare = min(1.0, FLARES * context.reach / context.height)
        return cls(layers * context.height, printer.interface_layers * context.height, context.height, flare)

    def at(self, tip: Tip) -> Contact:
        """What one tip ends in: where somebody chose its gap, in that; what is to grip has no interface."""
        if tip.gap_layers is None:
            return self
        return dataclasses.replace(self, gap=tip.gap_layers * self.layer, pad=self.pad if tip.gap_layers else 0.0)


def fitted(around: Around, tips: list[Tip], contact: Contact, pitch: float) -> list[Tip]:
    """Tips as they meet the figure on filament: with its gap, and where it is flat and leaves room with an
    interface.
    """
    if not contact.gap:
        return tips
    turn = np.arange(SPOKES) * 2 * np.pi / SPOKES
    spokes = np.column_stack([np.cos(turn), np.sin(turn), np.zeros(SPOKES)])
    shorter = [_lowered(t, contact.at(t)) if t.cells else _short(around, t, contact.at(t), spokes) for t in tips]
    for k, tip in enumerate(shorter if contact.pad else []):
        pad = contact.at(tip).pad
        if not pad or tip.square or tip.cells:
            continue
        head = tip.z - tip.joints[-2][2]
        middle = np.array([tip.x, tip.y, tip.z - tip.gap - pad / 2])
        for share in CAP_SHARES:
            offered = dataclasses.replace(tip, cap=2 * share * pitch, pad=pad, flare=contact.flare)
            if _has_room(around, offered, head, middle, spokes):
                shorter[k] = offered
                break
    return shorter


def _has_room(around: Around, tip: Tip, head: float, middle: F8, spokes: F8) -> bool:
    """Whether an interface widens on its head, lies under the figure, and keeps off what is beside it, as its neck and
    its flare do.
    """
    radius = tip.cap / 2
    neck, narrow = cap_neck(tip)
    aside = float(np.hypot(tip.x - tip.joints[-2][0], tip.y - tip.joints[-2][1]))
    if radius <= narrow or neck[2] < tip.joints[-2][2] + 1e-6 or aside >= tip.flare * head:
        return False
    far, _ = around.first(middle + spokes * radius, np.array([0.0, 0.0, 1.0]))
    if float((far < UNDER_MM).mean()) < UNDER_SHARE:
        return False  # wider than what it is to carry
    joint = np.array(tip.joints[-2])
    if not around.free(joint[None], neck[None], tip.widths[-1] / 2 + CLEARANCE_MM, narrow + CLEARANCE_MM)[0]:
        return False
    half = (neck + middle) / 2
    for at, wide, thick in ((middle, radius, (tip.pad + tip.gap) / 2), (half, (radius + narrow) / 2, tip.pad / 2)):
        ends = at + spokes * (wide + CLEARANCE_MM)
        if not around.free(np.broadcast_to(at, ends.shape), ends, thick, thick).all():
            return False
    return True


def _lowered(tip: Tip, contact: Contact) -> Tip:
    """An area as far below what it carries as its gap is."""
    down = contact.gap - tip.gap
    if not down:
        return tip
    cells = tuple((x, y, min(begins, top - down), top - down) for x, y, begins, top in tip.cells if top > down)
    return dataclasses.replace(tip, cells=cells, gap=contact.gap)


def _short(around: Around, tip: Tip, contact: Contact, spokes: F8) -> Tip:
    """A tip that stops short: by the gap, or by as many layers more as the figure beside its end asks for."""
    joint, at = np.array(tip.joints[-2]), np.array(tip.joints[-1])
    down = (joint - at) / max(float(at[2] - joint[2]), 1e-9)
    most = 0.5 * (tip.z - tip.joints[0][2])
    gap = contact.gap
    for more in range(MORE_LAYERS + 1):
        gap = contact.gap + more * contact.layer
        end = at + down * gap
        if float(around.near.of(end + tip.diameter / 2 * spokes)[1].min()) >= GAP_SHARE * contact.gap:
            break
    return dataclasses.replace(tip, gap=min(gap, most), cap=0.0, pad=0.0)


def cradled(around: Around, tips: list[Tip], points: F8) -> list[Tip]:
    """Tips under sharp points, of those that begin at `points` (n, 3), with prongs around them that keep the clearance,
    so that they do not drift while they are thin.
    """
    cradled, begin = list(tips), {tuple(p) for p in points.round(3).tolist()}
    for k, tip in enumerate(tips):
        if (round(tip.x, 3), round(tip.y, 3), round(tip.z, 3)) not in begin:
            continue
        if tip.reason != "island" or tip.on == "none" or tip.square or len(tip.joints) < (2 if tip.branch else 3):
            continue
        for radius in CRADLES_MM:
            offered = dataclasses.replace(tip, cradle=radius)
            lines = prong_lines(offered, np.array(tip.joints[-2]))
            starts = np.array([line[1] for line in lines])
            ends = np.array([line[2] for line in lines])
            wide = PRONG_MM / 2 + CLEARANCE_MM
            if around.free(starts, ends, wide, wide).all():
                cradled[k] = offered
                break
    return cradled
