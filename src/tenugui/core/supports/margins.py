"""What each tip is there for: what it bears, and what would give way without it. Read anew for any change in
milliseconds, without cutting a layer.

Terms. *Margin* of a tip: its strength over what it is asked for at worst. *Needed*: without it a part starts in mid
air, or a body is held by less than the accepted risk asks. *Comfort*: every other, which keeps a slope from sagging or
spares its neighbours.
"""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..compiled import both_cores
from ..layers import Proof, relief_mm
from ..machines import Context
from .holds import Layout, Plate, Tips, layout, plate_of, pulls_of, tip_hold
from .load import Carried, carried
from .reach import Reachable
from .tip import Tip
from .touch import touched

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]
REACH_MM = 1.5
"""A tip put by hand pushes against the figure within this of the place pointed at."""
NOTHING_N = 1e-9
"""What stands in for a pull where nothing is peeled: then a body is held, or it is not."""
AS_BEFORE = 1e-6


@dataclass(frozen=True)
class Carrying:
    """What the load path needs of a figure's own stack, small enough to be kept: its components (see
    `layers.Components`), the pull on each in N, what the plate holds (h, 3: x, y, strength) and of which component
    (h,), and where tips can push (s, 3) and on which component (s,).
    """

    height: float
    peeled: bool
    layer: I4
    area: F8
    centre: F8
    links: I4
    pull: F8
    plate: F8
    plate_of: I4
    spots: F8
    on: I4

    @classmethod
    def of(cls, proof: Proof, context: Context, where: Reachable) -> Carrying:
        """Of a figure's own proof, without supports."""
        parts = proof.components
        plate, pull = plate_of(proof), pulls_of(proof, context)
        peeled = bool(pull.any())
        return cls(
            proof.stack.grid.height,
            peeled,
            parts.layer,
            parts.area,
            parts.centre,
            parts.links,
            pull if peeled else parts.area * NOTHING_N,
            plate.holds,
            plate.of,
            where.spots,
            where.on,
        )

    def touches(self, points: F8) -> I4:
        """The component that a tip at each of these places (n, 3) on the surface would push against; -1 where none can
        push.
        """
        if not len(points) or not len(self.spots):
            return np.full(len(points), -1, np.int32)
        far, at = cKDTree(self.spots).query(points)
        return np.asarray(np.where(far <= REACH_MM, self.on[at], -1), np.int32)

    def walk(self, on: I4, points: F8, strength: F8) -> tuple[Carried, F8]:
        """The load path with tips at `points` (n, 3) on components `on` (n,), -1 for none; and what each is asked for
        of its strength (n,).
        """
        laid = self.laid(on, points, strength)
        borne, asked, tips = carried(laid), np.zeros(len(on)), laid.tip >= 0
        asked[laid.tip[tips]] = borne.strained[tips]
        return borne, asked

    def laid(self, on: I4, points: F8, strength: F8) -> Layout:
        """The components with the plate and these tips."""
        return layout(
            self.layer,
            self.area,
            self.centre,
            links=self.links,
            pull=self.pull,
            plate=Plate(self.plate, self.plate_of),
            tips=Tips(on, points, strength),
        )

    def lasting(self, borne: Carried) -> B1:
        """Bodies (b,) that are parts: relief that joins something soon is none."""
        began, ended = borne.rows[:, 10], borne.rows[:, 11]
        return np.asarray((ended < 0) | ((ended - began) * self.height > relief_mm(self.height)))

    def pack(self) -> bytes:
        """Arrays by name (NumPy's own format, no objects)."""
        out = io.BytesIO()
        arrays: dict[str, Any] = {
            "told": np.array([self.height, self.peeled], float),
            "layer": self.layer,
            "links": self.links,
            "plate_of": self.plate_of,
            "on": self.on,
            **{name: getattr(self, name).astype(np.float32) for name in ("area", "centre", "pull", "plate", "spots")},
        }
        np.savez(out, allow_pickle=False, **arrays)
        return out.getvalue()

    @classmethod
    def unpack(cls, data: bytes) -> Carrying:
        """The inverse of `pack`, to the precision of 32 bits."""
        with np.load(io.BytesIO(data), allow_pickle=False) as arrays:
            height, peeled = arrays["told"].tolist()
            wide = {name: arrays[name].astype(float) for name in ("area", "centre", "pull", "plate", "spots")}
            return cls(
                height,
                bool(peeled),
                arrays["layer"],
                wide["area"],
                wide["centre"],
                arrays["links"],
                wide["pull"],
                wide["plate"],
                arrays["plate_of"],
                wide["spots"],
                arrays["on"],
            )


@dataclass(frozen=True)
class TipLoads:
    """Of every tip (n,): the component that it pushes against (-1 none), and its margin (inf where nothing is asked of
    it).
    """

    on: I4
    margin: F8


def tip_loads(carrying: Carrying, proof: Proof, tips: Sequence[Tip], context: Context) -> TipLoads:
    """What tips bear. One walk."""
    points = np.array([[t.x, t.y, t.z] for t in tips]).reshape(-1, 3)
    on = touched(proof, points)
    _, asked = carrying.walk(on, points, np.array([float(tip_hold(context, t.diameter)) for t in tips]))
    return TipLoads(on, np.where(asked > 0, 1 / np.maximum(asked, 1e-12), math.inf))


MOST_MARGIN = 100.0


def surface_margins(carrying: Carrying, proof: Proof, tips: Sequence[Tip], context: Context, at: F8) -> F8:
    """Hold over pull (n,) at each place (n, 3) of a surface, of the body that it belongs to when its layer is peeled;
    MOST_MARGIN at most.
    """
    points = np.array([[t.x, t.y, t.z] for t in tips]).reshape(-1, 3)
    strength = np.array([float(tip_hold(context, t.diameter)) for t in tips])
    walked, _ = carrying.walk(touched(proof, points), points, strength)
    on = touched(proof, at)
    margins = (
        np.where(on >= 0, walked.margins[np.maximum(on, 0)], MOST_MARGIN)
        if len(walked.margins)
        else np.full(len(at), MOST_MARGIN)
    )
    return np.asarray(np.minimum(margins, MOST_MARGIN))


def needed(carrying: Carrying, on: I4, points: F8, strength: F8, wanted: float) -> B1:
    """Which of a set's tips (n,) are needed, where bodies are to be held `wanted` times as strong as they are pulled. A
    walk a tip.
    """
    walked, _ = carrying.walk(on, points, strength)
    part, before = carrying.lasting(walked), walked.rows[:, 3]

    def one(k: int) -> bool:
        without = on.copy()
        without[k] = -1
        after = carrying.walk(without, points, strength)[0].rows[:, 3]
        return bool((part & worse(before, after, wanted)).any())

    there = np.flatnonzero(on >= 0).tolist()
    mask = np.zeros(len(on), np.bool_)
    mask[there] = both_cores(one, [(k,) for k in there])
    return mask


def worse(before: F8, after: F8, wanted: float) -> B1:
    """Bodies (b,) that a change leaves with less than is wanted, and with less than they had."""
    return np.asarray((after < wanted) & (after < before * (1 - AS_BEFORE)))


@dataclass(frozen=True)
class Change:
    """What a change of tips does to one body: its worst moment's middle in mm, the pull in N, its share of the figure,
    and its margin before and after.
    """

    x: float
    y: float
    z: float
    pull: float
    share: float
    before: float
    after: float


@dataclass(frozen=True)
class Changed:
    """A set with tips taken away and put: the margin of every tip that is left, then of those put (inf where nothing is
    asked); bodies that are held by less than is wanted and by less than before, the weakest first; and how many of the
    tips put find nothing to push against.
    """

    margins: F8
    worse: tuple[Change, ...]
    vain: int


def what_if(
    carrying: Carrying,
    on: I4,
    points: F8,
    strength: F8,
    *,
    gone: Sequence[int] = (),
    put: F8 | None = None,
    put_strength: float = 0.0,
    wanted: float,
) -> Changed:
    """A set of tips (components (n,), contacts (n, 3) and strengths in N (n,)) without those numbered `gone` and with
    more at `put` (p, 3). O(layers x holds).
    """
    before = carrying.walk(on, points, strength)[0]
    kept = np.setdiff1d(np.arange(len(on)), np.asarray(gone, np.int64))
    more = np.empty((0, 3)) if put is None else np.asarray(put, float).reshape(-1, 3)
    touched = carrying.touches(more)
    walked, asked = carrying.walk(
        np.concatenate([on[kept], touched]).astype(np.int32),
        np.concatenate([points[kept], more]),
        np.concatenate([strength[kept], np.full(len(more), put_strength)]),
    )
    rows, part = walked.rows, carrying.lasting(walked)
    total = float(carrying.area.sum()) or 1.0
    weak = np.flatnonzero(part & worse(before.rows[:, 3], rows[:, 3], wanted))
    weak = weak[np.argsort(rows[weak, 3], kind="stable")]
    bodies = tuple(
        Change(
            float(rows[k, 6]),
            float(rows[k, 7]),
            float(rows[k, 0]) * carrying.height,
            float(rows[k, 1]) if carrying.peeled else 0.0,
            float(rows[k, 4]) / total,
            float(before.rows[k, 3]),
            float(rows[k, 3]),
        )
        for k in weak
    )
    margins = np.where(asked > 0, 1 / np.maximum(asked, 1e-12), math.inf)
    return Changed(margins, bodies, int((touched < 0).sum()))
