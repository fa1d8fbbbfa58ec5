"""What a series says of each level: estimates with the interval in which the truth lies in 95 of 100 cases.

One factor alone: counts are gamma-Poisson and yes/no beta-binomial with Jeffreys' priors, times and amounts log-normal
with one spread (Gelman et al., Bayesian Data Analysis, 3rd ed., chapters 2 and 3). Several factors, grades (ordered
probit, McCullagh 1980) and preferences (Bradley and Terry 1952): additive on the link's scale with a weak normal prior
on each effect, a normal posterior about its mode, and DRAWS of it.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.special import expit, ndtr, ndtri

from .design import columns
from .results import Results
from .spec import Kind, Spec

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
DRAWS = 10_000
SEED = 20_261_130
"""Of the draws: the same table is read the same way."""
WEAK = 1.5
"""Prior: an effect is so large at most in two of three cases, on the link's scale (a factor of 4.5)."""
LOW, HIGH = 0.025, 0.975
JEFFREYS = 0.5
LEAST_SPREAD = 1e-6


@dataclass(frozen=True)
class Effect:
    """What is to be expected of a level: a rate, a chance, a grade, hours or an amount (the median), the chance to be
    preferred to the average of all levels; between `low` and `high` in 95 of 100 cases.
    """

    response: str
    factor: str
    level: int
    estimate: float
    low: float
    high: float


@dataclass(frozen=True)
class Fitted:
    """A response's draws of what is to be expected of each level of each factor: by factor (DRAWS, levels); `seen` by
    factor (levels,): whether any specimen tells of it.
    """

    response: str
    kind: Kind
    draws: dict[str, F8]
    seen: dict[str, NDArray[np.bool_]]


def fitted(spec: Spec, results: Results, response: str) -> Fitted | None:
    """A response read; None where nobody noted it."""
    kind, many = spec.responses[response], [len(v) for v in spec.factors.values()]
    rng = np.random.default_rng(SEED)
    if kind == "preference":
        pairs = results.pairs[response]
        if not pairs:
            return None
        told = sorted({k for pair in pairs for k in pair})
        by_factor = _preferred(results.levels, pairs, many, rng)
        levels = results.levels[told]
    else:
        there = ~np.isnan(results.found[response])
        if not there.any():
            return None
        levels, found = results.levels[there], results.found[response][there]
        varied = [k for k in range(len(many)) if len(np.unique(levels[:, k])) > 1]
        alone = ALONE.get(kind)
        if len(varied) <= 1 and alone is not None:
            by_factor = [alone(levels[:, k], found, count, rng) for k, count in enumerate(many)]
        else:
            by_factor = ADDITIVE[kind](levels, found, many, rng)
    names = list(spec.factors)
    seen = {name: np.isin(np.arange(many[k]), levels[:, k]) for k, name in enumerate(names)}
    return Fitted(response, kind, dict(zip(names, by_factor, strict=True)), seen)


def effects_of(read: Fitted) -> list[Effect]:
    """Every level that was seen, of every factor."""
    effects = []
    for factor, draws in read.draws.items():
        for level in np.flatnonzero(read.seen[factor]).tolist():
            mine = draws[:, level]
            low, middle, high = np.quantile(mine, [LOW, 0.5, HIGH])
            effects.append(Effect(read.response, factor, level, float(middle), float(low), float(high)))
    return effects


def _counted(at: I8, found: F8, many: int, rng: np.random.Generator) -> F8:
    """Gamma posteriors of the rate a specimen: Γ(1/2 + Σy, n), widened where specimens differ more than counts do."""
    total, n = (np.bincount(at, w, minlength=many) for w in (found, np.ones_like(found)))
    shape = JEFFREYS + total
    draws = rng.gamma(shape, 1 / np.maximum(n, 0.5), (DRAWS, many))
    means = total / np.maximum(n, 1)
    left = len(found) - int((n > 0).sum())
    if left > 3:
        pearson = float(((found - means[at]) ** 2 / np.maximum(means[at], 0.25)).sum()) / left
        wide = math.sqrt(max(1.0, pearson))
        middle = shape / np.maximum(n, 0.5)
        draws = middle * np.exp(np.log(np.maximum(draws, 1e-12) / middle) * wide)
    return np.asarray(draws)


def _yes(at: I8, found: F8, many: int, rng: np.random.Generator) -> F8:
    """Beta posteriors of the chance: B(1/2 + yes, 1/2 + no)."""
    yes, no = (np.bincount(at, w, minlength=many) for w in (found, 1 - found))
    return np.asarray(rng.beta(JEFFREYS + yes, JEFFREYS + no, (DRAWS, many)))


def _timed(at: I8, found: F8, many: int, rng: np.random.Generator) -> F8:
    """Medians of log-normal times: about each level's mean logarithm by Student's law, one spread for all levels."""
    logs, n = np.log(found), np.bincount(at, minlength=many)
    means = np.bincount(at, logs, minlength=many) / np.maximum(n, 1)
    left = len(logs) - int((n > 0).sum())
    spread, free = _spread(logs - means[at], left)
    draws = rng.standard_t(free, (DRAWS, many)) * spread / np.sqrt(np.maximum(n, 0.25))
    return np.asarray(np.exp(means + draws))


PRINT_SPREAD, PRINT_RUNS = 0.1, 2.0
"""Prior: two prints of one cell take a tenth more or less of hours or grams, as sure as so many runs tell it."""


def _spread(rest: F8, left: int) -> tuple[float, float]:
    """The spread of what is left of logarithms, and its degrees of freedom; the prior's where nothing is left."""
    free = PRINT_RUNS + max(left, 0)
    whole = PRINT_RUNS * PRINT_SPREAD**2 + float((rest**2).sum())
    if left >= 4:  # what was seen speaks for itself
        free, whole = float(left), float((rest**2).sum())
    return max(math.sqrt(whole / free), LEAST_SPREAD), free


ALONE: dict[Kind, Callable[[I8, F8, int, np.random.Generator], F8]] = {
    "count": _counted,
    "yesno": _yes,
    "time": _timed,
    "amount": _timed,
}
Link = Callable[[F8], F8]


def _marginal(beta: F8, many: list[int], mean: Link) -> list[F8]:
    """From draws (d, 1 + columns) of intercept and effects to what each level is expected to give, the other factors
    averaged over all their levels.
    """
    starts = np.cumsum([1, *(count - 1 for count in many)])
    own = [np.column_stack([np.zeros(len(beta)), beta[:, a:b]]) for a, b in itertools.pairwise(starts)]
    # Cell by cell: a few hundred at most.
    grid = beta[:, :1]
    shape = [len(beta)]
    for part in own:
        grid = (grid[:, :, None] + part[:, None, :]).reshape(len(beta), -1)
        shape.append(part.shape[1])
    cells = mean(grid).reshape(shape)
    axes = range(1, len(shape))
    return [np.asarray(cells.mean(axis=tuple(a for a in axes if a != k + 1))) for k in range(len(many))]


def _posterior(loss: Callable[[F8], tuple[float, F8, F8]], size: int, rng: np.random.Generator, wide: float) -> F8:
    """Draws (DRAWS, size) about the mode of a convex loss that tells its gradient and its curvature, by Newton."""
    beta = np.zeros(size)
    value, slope, bend = loss(beta)
    for _ in range(100):
        step = np.linalg.solve(bend, slope)
        share = 1.0
        while share > 1e-6 and loss(beta - share * step)[0] > value + 1e-12:
            share /= 2
        beta = beta - share * step
        value, slope, bend = loss(beta)
        if float(np.abs(share * step).max()) < 1e-9:
            break
    return np.asarray(rng.multivariate_normal(beta, np.linalg.inv(bend) * wide, DRAWS, method="cholesky"))


def _weak(size: int, flat: int) -> F8:
    """The prior's curvature: next to none for the first `flat`, WEAK for each effect."""
    return np.concatenate([np.full(flat, 1e-6), np.full(size - flat, 1 / WEAK**2)])


def _additive_counts(levels: I8, found: F8, many: list[int], rng: np.random.Generator) -> list[F8]:
    told = np.column_stack([np.ones(len(levels)), columns(levels, many)])
    prior = _weak(told.shape[1], 1)

    def loss(beta: F8) -> tuple[float, F8, F8]:
        rate = np.exp(np.clip(told @ beta, -30, 30))
        value = float(rate.sum() - found @ (told @ beta) + (prior * beta**2).sum() / 2)
        return value, told.T @ (rate - found) + prior * beta, (told.T * rate) @ told + np.diag(prior)

    draws = _posterior(loss, told.shape[1], rng, 1.0)
    rate = np.exp(told @ np.median(draws, axis=0))
    left = len(found) - np.linalg.matrix_rank(told)
    if left > 3:  # specimens that differ more than counts do
        wide = max(1.0, float(((found - rate) ** 2 / np.maximum(rate, 0.25)).sum()) / left)
        middle = np.median(draws, axis=0)
        draws = middle + (draws - middle) * math.sqrt(wide)
    return _marginal(draws, many, np.exp)


def _additive_yes(levels: I8, found: F8, many: list[int], rng: np.random.Generator) -> list[F8]:
    told = np.column_stack([np.ones(len(levels)), columns(levels, many)])
    prior = _weak(told.shape[1], 1)
    return _marginal(_posterior(_logistic(told, found, prior), told.shape[1], rng, 1.0), many, expit)


def _logistic(told: F8, found: F8, prior: F8) -> Callable[[F8], tuple[float, F8, F8]]:
    def loss(beta: F8) -> tuple[float, F8, F8]:
        at = told @ beta
        chance = expit(at)
        value = float(np.logaddexp(0, at).sum() - found @ at + (prior * beta**2).sum() / 2)
        bend = (told.T * np.maximum(chance * (1 - chance), 1e-9)) @ told + np.diag(prior)
        return value, told.T @ (chance - found) + prior * beta, bend

    return loss


def _additive_times(levels: I8, found: F8, many: list[int], rng: np.random.Generator) -> list[F8]:
    told, logs = np.column_stack([np.ones(len(levels)), columns(levels, many)]), np.log(found)
    prior = _weak(told.shape[1], 1)
    best = np.linalg.lstsq(told, logs, rcond=None)[0]
    left = len(logs) - int(np.linalg.matrix_rank(told))
    spread, free = _spread(logs - told @ best, left)
    bend = told.T @ told / spread**2 + np.diag(prior)
    middle = np.linalg.solve(bend, told.T @ logs / spread**2)
    normal = rng.multivariate_normal(np.zeros(len(middle)), np.linalg.inv(bend), DRAWS, method="cholesky")
    student = normal * np.sqrt(free / rng.chisquare(free, DRAWS))[:, None]
    return _marginal(middle + student, many, np.exp)


def _graded(levels: I8, found: F8, many: list[int], rng: np.random.Generator) -> list[F8]:
    """An ordered probit: cut points between the grades that were given, and effects; what is expected is the mean
    grade.
    """
    grades, order = np.unique(found, return_inverse=True)
    told = columns(levels, many)
    cuts, size = len(grades) - 1, told.shape[1]
    if not cuts:
        return [np.full((DRAWS, count), float(grades[0])) for count in many]
    prior = _weak(cuts + size, cuts)

    def bounds(theta: F8) -> F8:
        steps = np.exp(np.clip(theta[..., 1:cuts], -20, 5))
        inner = np.concatenate([theta[..., :1], theta[..., :1] + np.cumsum(steps, axis=-1)], axis=-1)
        edge = np.full((*theta.shape[:-1], 1), 1e3)
        return np.concatenate([-edge, inner, edge], axis=-1)

    def value(theta: F8) -> float:
        at, mid = bounds(theta), told @ theta[cuts:]
        chance = ndtr(at[order + 1] - mid) - ndtr(at[order] - mid)
        return float(-np.log(np.maximum(chance, 1e-12)).sum() + (prior * theta**2).sum() / 2 + _near(theta[:cuts]))

    shares = np.cumsum(np.bincount(order, minlength=len(grades)))[:-1] / len(found)
    first = np.concatenate([_cuts(shares), np.zeros(size)])
    mode = minimize(value, first, method="BFGS").x
    bend = _curvature(value, mode)
    # How bent it is at its mode is itself unsure where few were graded: Student's tails by what is left of them.
    free = max(len(found) - len(mode), 3)
    normal = rng.multivariate_normal(np.zeros(len(mode)), np.linalg.inv(bend), DRAWS, method="cholesky")
    draws = mode + normal * np.sqrt(free / rng.chisquare(free, DRAWS))[:, None]
    at, beta = bounds(draws), np.column_stack([np.zeros(DRAWS), draws[:, cuts:]])

    def mean(mid: F8) -> F8:
        above = [ndtr(mid - at[:, k + 1 : k + 2]) * (grades[k + 1] - grades[k]) for k in range(cuts)]
        return np.asarray(grades[0] + np.sum(above, axis=0))

    return _marginal(beta, many, mean)


def _near(cuts: F8) -> float:
    """A weak prior on cut points: none lies beyond all that is seen."""
    return float((cuts**2).sum()) / (2 * 3.0**2)


def _cuts(shares: F8) -> F8:
    """Cut points that give such shares, as the first and the logarithms of steps."""
    at = ndtri(np.clip(shares, 0.02, 0.98))
    return np.concatenate([at[:1], np.log(np.maximum(np.diff(at), 0.05))])


def _curvature(value: Callable[[F8], float], at: F8, step: float = 1e-3) -> F8:
    """Second differences, made positive where they are flat."""
    n = len(at)
    bend = np.zeros((n, n))
    unit = np.eye(n) * step
    for i in range(n):
        for j in range(i, n):
            corners = [value(at + a * unit[i] + b * unit[j]) for a in (1, -1) for b in (1, -1)]
            bend[i, j] = bend[j, i] = (corners[0] - corners[1] - corners[2] + corners[3]) / (4 * step**2)
    root, ways = np.linalg.eigh(bend)
    return np.asarray((ways * np.maximum(root, 1 / 3.0**2)) @ ways.T)


ADDITIVE: dict[Kind, Callable[[I8, F8, list[int], np.random.Generator], list[F8]]] = {
    "count": _additive_counts,
    "yesno": _additive_yes,
    "time": _additive_times,
    "amount": _additive_times,
    "grade": _graded,
}


def _preferred(levels: I8, pairs: list[tuple[int, int]], many: list[int], rng: np.random.Generator) -> list[F8]:
    """Strengths of levels by Bradley and Terry: the logarithm of the odds that one is preferred is the difference of
    theirs; told as the chance to be preferred to the average of all levels.
    """
    told = columns(levels, many)
    won, lost = (np.array([pair[k] for pair in pairs]) for k in (0, 1))
    differ = told[won] - told[lost]
    loss = _logistic(differ, np.ones(len(pairs)), np.full(told.shape[1], 1 / WEAK**2))
    draws = _posterior(loss, told.shape[1], rng, 1.0)
    strengths, start = [], 0
    for count in many:
        own = np.column_stack([np.zeros(DRAWS), draws[:, start : start + count - 1]])
        strengths.append(np.asarray(expit(own - own.mean(axis=1, keepdims=True))))
        start += count - 1
    return strengths
