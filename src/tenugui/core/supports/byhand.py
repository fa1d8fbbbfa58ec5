"""Supports changed by hand: tips put where somebody points, and taken away where somebody does; what leaned on them finds another way."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

from .around import Around
from .demand import Demand
from .route import Route, route

if TYPE_CHECKING:
    from .make import Tip

F8 = NDArray[np.float64]
NEAR_MM = 4.0
"""A tip is taken away where its contact lies within this of the place pointed at."""
ON_IT_MM = 0.1


@dataclass(frozen=True)
class Edit:
    """A change by hand, at a place in build coordinates."""

    op: Literal["add", "remove"]
    at: tuple[float, float, float]


@dataclass(frozen=True)
class Edited:
    """What stays, what still wants a way (as a demand), and how many changes found nothing to change."""

    kept: list[Tip]
    demand: Demand
    missed: int


def _leans_on(tip: Tip, carrier: Tip) -> bool:
    """Whether a branch starts on another support."""
    if not tip.branch or tip is carrier:
        return False
    start = np.array(tip.joints[0])
    for a, b, wide in zip(carrier.joints, carrier.joints[1:], carrier.widths, strict=False):
        p, q = np.array(a), np.array(b)
        along = float(np.clip((start - p) @ (q - p) / max(float((q - p) @ (q - p)), 1e-12), 0, 1))
        if float(np.linalg.norm(start - p - along * (q - p))) <= wide / 2 + ON_IT_MM:
            return True
    return False


def changed(tips: Sequence[Tip], edits: Sequence[Edit], tip_mm: float) -> Edited:
    """Tips after changes in their order. What leaned on a support that is gone wants a way of its own, and so on."""
    kept, wanted, missed = list(tips), list[tuple[tuple[float, float, float], str, float]](), 0
    for edit in edits:
        at = np.array(edit.at)
        if edit.op == "add":
            wanted.append((edit.at, "hand", tip_mm))
            continue
        far = [float(np.linalg.norm([t.x - at[0], t.y - at[1], t.z - at[2]])) for t in kept]
        mine = [float(np.linalg.norm(np.array(w[0]) - at)) for w in wanted]
        if mine and min(mine) <= min([NEAR_MM, *far]):
            wanted.pop(int(np.argmin(mine)))
        elif far and min(far) <= NEAR_MM:
            gone = [kept.pop(int(np.argmin(far)))]
            while gone:
                carrier = gone.pop()
                heirs = [t for t in kept if _leans_on(t, carrier)]
                kept = [t for t in kept if not any(t is h for h in heirs)]
                wanted += [((h.x, h.y, h.z), h.reason, h.diameter) for h in heirs]
                gone += heirs
        else:
            missed += 1
    points = np.array([w[0] for w in wanted]).reshape(-1, 3)
    return Edited(kept, Demand(points, [w[1] for w in wanted], np.array([w[2] for w in wanted])), missed)


def ways(rays: Around, edited: Edited, pillar: Callable[[float], float]) -> tuple[list[Route], F8]:
    """A way for each that wants one, and the width of its pillar in mm."""
    points = edited.demand.points
    pillars = np.array([pillar(float(z)) for z in points[:, 2]])
    standing = [Route(np.array(t.joints), t.on, t.branch) for t in edited.kept if not t.square]
    return (route(rays, points, pillars / 2, 0.0, standing) if len(points) else []), pillars
