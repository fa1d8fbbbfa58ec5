"""What a machine can do: thresholds of what comes out clean, from prints, test pieces and a person's word.

Each capability is a threshold θ on one measure: what lies on the good side of it comes out, what lies beyond does not,
with a soft border (a probit psychometric curve of known width; Finney, Probit Analysis, 1971). θ has a normal prior;
evidence weighs it on a grid, since it has one parameter.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Literal

import numpy as np
from scipy.special import log_ndtr, ndtr

Source = Literal["run", "series", "word"]
GRID = np.linspace(-4.0, 4.0, 1601)
"""Of θ, in prior spreads about the prior."""
LEVELS = np.linspace(-4.0, 4.0, 321)
BORDER = 0.25
"""Prior: the border between what comes out and what does not is so soft, in prior spreads."""
SURE = 0.9
"""What is told to be safe comes out in so many of ten."""
ODD = 0.02
"""Evidence that the rest makes less likely than this contradicts it."""
OLD_DAYS = 270
"""Prior: what was found longer ago is old: films, nozzles and belts wear."""
LOW, HIGH = 0.025, 0.975


@dataclass(frozen=True)
class Ability:
    """One capability. `up`: more of it is harder, so that what is below the threshold comes out. Prior `at` give or
    take `spread` in `unit`; `least` and `most` it can be; `field`: the printer's own number that it takes the place
    of, where there is one. `angle`: it is told from the vertical and from the plate.
    """

    code: str
    title: str
    asks: str
    unit: str
    process: Literal["resin", "filament", "both"]
    at: float
    spread: float
    least: float
    most: float
    up: bool
    field: str | None = None
    angle: bool = False


ABILITIES: tuple[Ability, ...] = (
    Ability("overhang", "Clean overhang", "leaning so far from the vertical", "°", "filament", 55.0, 8.0, 0.0, 90.0,
            True, "overhang_test", angle=True),
    Ability("bridge", "Clean bridge", "a bridge so long", "mm", "filament", 20.0, 10.0, 0.0, 200.0, True,
            "bridge_mm"),
    Ability("gap", "Gap that lets go", "a gap so small under a flat place", "mm", "filament", 0.2, 0.06, 0.0, 2.0,
            False, "support_gap_mm"),
    Ability("sheet", "Thinnest wall that survives", "a wall so thin", "mm", "both", 0.5, 0.2, 0.02, 5.0, False),
    Ability("rod", "Thinnest rod that survives", "a rod so thin", "mm", "both", 0.6, 0.25, 0.02, 5.0, False),
    Ability("peg", "Smallest peg", "a peg so thin", "mm", "both", 1.2, 0.5, 0.1, 10.0, False),
    Ability("hole", "Smallest hole", "a hole so small", "mm", "both", 0.8, 0.4, 0.05, 10.0, False),
    Ability("clearance", "Clearance of a fit", "a peg in its socket with so much air around", "mm", "both", 0.15,
            0.07, 0.0, 2.0, False),
    Ability("tip", "Thinnest tip that holds", "a tip so thin", "mm", "resin", 0.25, 0.07, 0.05, 2.0, False),
)  # fmt: skip
"""Priors, by which a machine is taken before anything is known of it."""
BY_CODE = {ability.code: ability for ability in ABILITIES}


@dataclass(frozen=True)
class Evidence:
    """One thing that was seen: what was made at `level` came out or did not; a person's `word`: it comes out up to
    there.
    """

    level: float
    came_out: bool
    source: Source
    at: datetime


@dataclass(frozen=True)
class Reading:
    """The threshold, between `low` and `high` in 95 of 100 cases; `safe`: what comes out in nine of ten; from `seen`
    pieces of evidence, the last one `last`. `contradicted`: something was seen that the rest makes hardly likely;
    `old`: nothing was seen for long.
    """

    value: float
    low: float
    high: float
    safe: float
    seen: int
    words: int
    last: datetime | None
    contradicted: bool
    old: bool


def abilities_of(process: str) -> list[Ability]:
    """What machines of a process are asked."""
    return [ability for ability in ABILITIES if ability.process in (process, "both")]


def _log_likelihood(ability: Ability, evidence: Evidence) -> np.ndarray:
    """Over GRID."""
    x = (evidence.level - ability.at) / ability.spread
    side = 1.0 if ability.up else -1.0
    if evidence.source == "word":
        # Up to there it is clean: its threshold lies about there.
        return np.asarray(-0.5 * ((GRID - x) / (2 * BORDER)) ** 2)
    return np.asarray(log_ndtr((GRID - x) / BORDER * side * (1.0 if evidence.came_out else -1.0)))


def read_ability(ability: Ability, evidence: Sequence[Evidence], now: datetime) -> Reading:
    """What all that was seen says together.

    >>> from datetime import datetime
    >>> day = datetime(2026, 11, 1)
    >>> seen = [Evidence(v, v < 31, "run", day) for v in (10, 20, 30, 32, 40)]
    >>> told = read_ability(BY_CODE["bridge"], seen, day)
    >>> 29 < told.value < 33, told.low < told.safe < told.value < told.high, told.contradicted
    (True, True, False)
    """
    weights = [_log_likelihood(ability, one) for one in evidence]
    prior = -0.5 * GRID**2
    total = prior + sum(weights, np.zeros_like(GRID))
    at = [float(np.interp(q, _below(total), GRID)) for q in (LOW, 0.5, HIGH)]
    low, value, high = (_in_bounds(ability, ability.at + ability.spread * v) for v in at)
    safe = _in_bounds(ability, ability.at + ability.spread * _safe(ability, total))
    last = max((one.at for one in evidence), default=None)
    odd = any(_likely(total - own, own) < ODD for own in weights)
    return Reading(
        value, low, high, safe, len(evidence), sum(one.source == "word" for one in evidence), last, odd,
        last is not None and (now - last).days > OLD_DAYS,
    )  # fmt: skip


def _safe(ability: Ability, weight: np.ndarray) -> float:
    """The level that comes out in SURE of the cases, whatever of its threshold is not known; in prior spreads."""
    share = np.exp(weight - weight.max())
    chance = _comes_out(ability.up) @ (share / share.sum())
    # Falling where more is harder, rising where more is easier: read the other way round it rises always.
    rising = LEVELS[::-1] if ability.up else LEVELS
    return float(np.interp(SURE, chance[::-1] if ability.up else chance, rising))


@lru_cache
def _comes_out(up: bool) -> np.ndarray:
    """Chance (levels, thresholds) that each of LEVELS comes out where each of GRID is the threshold."""
    side = 1.0 if up else -1.0
    return np.asarray(ndtr((GRID[None, :] - LEVELS[:, None]) * side / BORDER))


def _below(weight: np.ndarray) -> np.ndarray:
    share = np.exp(weight - weight.max())
    return np.asarray(np.cumsum(share) / share.sum())


def _likely(others: np.ndarray, own: np.ndarray) -> float:
    """How likely the rest makes one piece of evidence, over the likeliest that it could be."""
    share = np.exp(others - others.max())
    return float((share * np.exp(own - own.max())).sum() / share.sum())


def _in_bounds(ability: Ability, value: float) -> float:
    return min(max(value, ability.least), ability.most)


def chance_at(ability: Ability, reading: Reading, level: float) -> float:
    """How likely it comes out at a level, for a picture: at the threshold in one of two.

    >>> from datetime import datetime
    >>> told = read_ability(BY_CODE["rod"], [], datetime(2026, 11, 1))
    >>> round(chance_at(BY_CODE["rod"], told, told.value), 2), chance_at(BY_CODE["rod"], told, 2.0) > 0.99
    (0.5, True)
    """
    side = 1.0 if ability.up else -1.0
    wide = math.hypot(BORDER * ability.spread, (reading.high - reading.low) / 4)
    return float(ndtr((reading.value - level) / wide * side))
