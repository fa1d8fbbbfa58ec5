"""Ratings of a person's skills and of drills, by all that was answered.

The model of Rasch (1960): the log odds of an answer are skill less hardness. Both have normal priors; the mode of the
posterior is found by Newton's method and its curvature gives the spread (Laplace). An answer that is partly right
counts as that share of one.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

F8 = NDArray[np.float64]
SKILL_SPREAD, HARD_SPREAD = 1.2, 0.6
"""Priors, in logits: how far people lie apart in a skill, and drills of a kind in how hard they are."""
SAID_95 = 1.96
MOST_STEPS = 60


@dataclass(frozen=True)
class Answered:
    """An answer: which skill, which drill, how right it was."""

    skill: str
    drill: int
    score: float


@dataclass(frozen=True)
class Rating:
    """A mean and its standard deviation, in logits."""

    mean: float
    spread: float

    @property
    def share(self) -> tuple[float, float, float]:
        """Chance of a right answer to a drill of middling hardness, with 95 % on both sides."""
        low, high = self.mean - SAID_95 * self.spread, self.mean + SAID_95 * self.spread
        a, b, c = (float(1 / (1 + np.exp(-x))) for x in (self.mean, low, high))
        return a, b, c


def chance(skill: Rating, hard: float) -> float:
    """Of a right answer to a drill so hard in logits, by the skill's mean.

    >>> chance(Rating(1.0, 0.3), 1.0)
    0.5
    """
    return float(1 / (1 + np.exp(hard - skill.mean)))


NOBODY = Rating(0.0, SKILL_SPREAD)
"""Of whom nothing is known."""


@dataclass(frozen=True)
class Rated:
    """Ratings of skills and of drills."""

    skills: dict[str, Rating]
    drills: dict[int, Rating]


def rated(answers: Sequence[Answered], hard: Mapping[int, float]) -> Rated:
    """Ratings after these answers; `hard`: how hard each drill was thought to be before.

    >>> some = [Answered("angles", 1, 1.0), Answered("angles", 2, 1.0), Answered("angles", 3, 0.0)]
    >>> after = rated(some, {1: 0.0, 2: 0.0, 3: 0.0})
    >>> after.skills["angles"].mean > 0 and after.drills[3].mean > after.drills[1].mean
    True
    """
    skills, drills = sorted({a.skill for a in answers}), sorted({a.drill for a in answers})
    if not answers:
        return Rated({}, {})
    s = np.array([skills.index(a.skill) for a in answers])
    place = {drill: k for k, drill in enumerate(drills)}
    d = np.array([place[a.drill] for a in answers]) + len(skills)
    score = np.array([a.score for a in answers], float)
    prior = np.concatenate([np.zeros(len(skills)), [hard.get(drill, 0.0) for drill in drills]])
    certain = np.concatenate([np.full(len(skills), SKILL_SPREAD**-2), np.full(len(drills), HARD_SPREAD**-2)])
    x = prior.copy()
    for _ in range(MOST_STEPS):
        gradient, curve = _slopes(x, s, d, score)
        step = np.linalg.solve(curve + np.diag(certain), gradient - certain * (x - prior))
        x = x + np.clip(step, -1.5, 1.5)
        if np.abs(step).max() < 1e-9:
            break
    _, curve = _slopes(x, s, d, score)
    spread = np.sqrt(np.diag(np.linalg.inv(curve + np.diag(certain))))
    every = [Rating(float(m), float(v)) for m, v in zip(x, spread, strict=True)]
    return Rated(
        dict(zip(skills, every[: len(skills)], strict=True)), dict(zip(drills, every[len(skills) :], strict=True))
    )


def _slopes(x: F8, s: NDArray[np.int64], d: NDArray[np.int64], score: F8) -> tuple[F8, F8]:
    """Gradient of the log likelihood, and the negative of its second derivatives."""
    p = 1 / (1 + np.exp(-(x[s] - x[d])))
    left, weight = score - p, p * (1 - p)
    gradient, curve = np.zeros(len(x)), np.zeros((len(x), len(x)))
    np.add.at(gradient, s, left)
    np.add.at(gradient, d, -left)
    for a, b, sign in ((s, s, 1.0), (d, d, 1.0), (s, d, -1.0), (d, s, -1.0)):
        np.add.at(curve, (a, b), sign * weight)
    return gradient, curve
