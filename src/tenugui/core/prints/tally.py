"""What a thousand prints came to: how many came off whole, what the others lost, where and why.

Bodies that their tips do not carry are walked print by print; what the ledger fears besides (thin parts, what no layer
shows) comes true as often as it says, each by draws of its own. A plate that lets go and a neck that gives way share
the print's strength and pull with the walk.
"""

from __future__ import annotations

import math
import zlib
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..hazards import Hazard
from ..process import MOST_OF_IT
from .draw import SEED, Draws, Walked
from .moments import Moments

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
U1 = NDArray[np.uint8]
WHOLE, MARKED, PART, ALL = range(4)
LOSSES = {"scar": MARKED, "part lost": PART, "print lost": ALL}
LEAST_SHARE = 1e-4
"""What is lost of less is a mark, not a part."""
COLUMNS = 120
"""Of the ribbon of first failures."""
HANDLED, NEVER = 2**30, 2**31 - 1
"""As layers: after the last one, when it is handled; and at none."""


@dataclass(frozen=True)
class Remedy:
    """Tips that were put on trial with the same draws: where (n, 3) in the build, and how many prints come off whole
    with them.
    """

    put: tuple[tuple[float, float, float], ...]
    whole: int


@dataclass(frozen=True)
class Cause:
    """Why prints failed first: the ledger's code, in how many prints, at which layer and place (mm), the share of the
    figure that is lost (mean), and words.
    """

    code: str
    count: int
    loss: str
    layer: int
    place: tuple[float, float, float]
    share: float
    message: str
    remedy: str
    node: int = -1
    helped: Remedy | None = None


@dataclass(frozen=True)
class Trial:
    """Of `prints`: came off `whole`, of these with a mark (`marked`); lost a part; lost all. `causes`, the most
    frequent first; `ribbon` (COLUMNS,) first failures by height; `freq` (n,) how often each component of the figure was
    lost, a share.
    """

    prints: int
    whole: int
    marked: int
    part: int
    all: int
    causes: list[Cause]
    ribbon: list[int]
    freq: F8 = field(repr=False)

    @property
    def error(self) -> float:
        """Standard error of `whole`, in prints."""
        share = self.whole / self.prints
        return math.sqrt(self.prints * share * (1 - share))


def seed_of(hazard: Hazard, again: int) -> list[int]:
    """Of a hazard's own draws: what it is and where, whatever else is feared; `again` tells those of one kind at one
    place apart.
    """
    x, y, z = (round(v, 2) + 0.0 for v in hazard.place)
    return [SEED, 2, zlib.crc32(f"{hazard.code} {x:.2f} {y:.2f} {z:.2f}".encode()), again]


def fails(hazard: Hazard, draws: Draws, again: int = 0) -> NDArray[np.bool_]:
    """In which prints a hazard that is not walked comes true. Plate and necks by the print's own strength and pull, the
    rest as often as it is told to, by draws of its own.
    """
    prints = len(draws.peel)
    if hazard.part == "plate":
        return np.asarray(draws.plate * hazard.has < draws.peel * hazard.needs)
    if hazard.part == "neck":
        return np.asarray(draws.strength * hazard.has < draws.peel * hazard.needs)
    return np.asarray(np.random.default_rng(seed_of(hazard, again)).random(prints) < hazard.chance)


def tallied(
    moments: Moments | None,
    walked: Walked | None,
    draws: Draws,
    hazards: Sequence[Hazard],
    *,
    layers: int,
    height: float,
) -> Trial:
    """The tally of a walk (None where nothing is peeled) and of the ledger's other hazards, over the prints of
    `draws`.
    """
    prints = len(draws.peel)
    worst, first = np.zeros(prints, np.int8), np.full(prints, NEVER, np.int64)
    by = np.full(prints, -1)
    # Scars that every print has are no news of any one of them.
    counted = [h for h in hazards if h.part != "body" and not (h.loss == "scar" and h.chance >= 1)]
    times = Counter[tuple[object, ...]]()
    for k, hazard in enumerate(counted):
        itself = (hazard.code, *(round(v, 2) for v in hazard.place))
        hit, level = fails(hazard, draws, times[itself]), LOSSES[hazard.loss]
        times[itself] += 1
        worst = np.maximum(worst, np.where(hit, level, 0)).astype(np.int8)
        # A part that breaks when it is handled does so after the last layer.
        when = HANDLED if hazard.kind.strikes == "handling" else hazard.layer
        sooner = hit & (level > MARKED) & (when < first)
        first[sooner], by[sooner] = when, k
    if moments is not None and walked is not None:
        lost = walked.moment >= 0
        levels = np.where(walked.share >= MOST_OF_IT, ALL, np.where(walked.share >= LEAST_SHARE, PART, MARKED))
        levels = np.where(lost, levels, np.where(walked.torn > 0, MARKED, WHOLE))
        worst = np.maximum(worst, levels).astype(np.int8)
        layer_of = np.where(levels > MARKED, moments.layer[np.maximum(walked.moment, 0)], NEVER)
        sooner = layer_of < first
        first[sooner], by[sooner] = layer_of[sooner], len(counted) + walked.moment[sooner]
    causes = [_told(counted[k], int((by == k).sum())) for k in range(len(counted)) if (by == k).any()]
    if moments is not None and walked is not None:
        causes += _bodies(moments, walked, by >= len(counted), height)
    causes.sort(key=lambda c: -c.count)
    failed = first[worst > MARKED]
    column = np.minimum(failed, max(layers - 1, 0)) * COLUMNS // max(layers, 1)
    ribbon = np.bincount(column, minlength=COLUMNS)
    freq = np.zeros(0) if moments is None or walked is None else walked.lost[moments.of] / prints
    return Trial(
        prints,
        int((worst <= MARKED).sum()),
        int((worst == MARKED).sum()),
        int((worst == PART).sum()),
        int((worst == ALL).sum()),
        causes,
        ribbon.tolist(),
        np.asarray(freq, float),
    )


def _told(hazard: Hazard, count: int) -> Cause:
    return Cause(hazard.code, count, hazard.loss, hazard.layer, hazard.place, 0.0, hazard.message, hazard.remedy)


def _bodies(moments: Moments, walked: Walked, mine: NDArray[np.bool_], height: float) -> list[Cause]:
    """A cause for every body that some prints lost first."""
    causes = []
    moment, whole = walked.moment[mine], float(moments.volume[moments.parent < 0].sum()) or 1.0
    nodes = moments.node[moment]
    for node in np.unique(nodes):
        of = nodes == node
        at = int(np.bincount(moment[of]).argmax())
        share = float(walked.share[mine][of].mean())
        tips = int((moments.tip[moments.low[at] : moments.high[at]] >= 0).sum())
        what = (
            "The figure"
            if share >= MOST_OF_IT
            else f"A part of {max(float(moments.volume[node]) / whole, 0.001):.1%} of it"
        )
        text = (
            f"{what} comes off its {tips} tip{'s' * (tips != 1)} at {moments.layer[at] * height:.1f} mm, "
            f"where the film pulls with {moments.force[at]:.2f} N."
        )
        place = (float(moments.x[at]), float(moments.y[at]), float(moments.layer[at] * height))
        loss = "print lost" if share >= MOST_OF_IT else "part lost"
        remedy = "More tips below it, or accept less risk a tip."
        causes.append(Cause("pull", int(of.sum()), loss, int(moments.layer[at]), place, share, text, remedy, int(node)))
    return causes
