"""What a log says beyond the whole: how much longer a machine takes, which causes come true more often than plans tell,
and how well what was told fits what was seen.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.polynomial.hermite import hermgauss
from numpy.typing import NDArray
from scipy.special import betaincinv, ndtr, ndtri, stdtrit

from .hours import NOISE, PRIOR
from .log import WHOLE, Logged, timed

F8 = NDArray[np.float64]
SURE_RUNS = 3.0
"""Prior: the noise is known as well as so many prints tell it."""
CAUSE_RUNS = 1.5
"""Prior: a cause comes true as often as plans say, as sure as one or two that came true as told."""
LOAD_KNOWN = 0.35
"""Prior: what loads a part on a machine is reckoned within a factor of 1.4 (the logarithm's spread)."""
LEAST_RATE = 1e-4
"""A cause that no plan told of, and that came true, was this likely."""
BINS = (0.0, 0.02, 0.05, 0.1, 0.2, 0.4, 1.0)
LOW, HIGH = 0.025, 0.975


@dataclass(frozen=True)
class Ratio:
    """Real over planned hours of a machine, between `low` and `high` in 95 of 100 cases; of the next print between
    `next_low` and `next_high`; from `timed` prints.
    """

    timed: int
    ratio: float
    low: float
    high: float
    next_low: float
    next_high: float


def ratio_of(runs: Sequence[Logged]) -> Ratio:
    """Normal with unknown mean and spread, a normal-inverse-gamma prior: Student's law for both (Gelman et al.,
    Bayesian Data Analysis, 3rd ed., section 3.3).

    >>> even = ratio_of([Logged(100, 0, 110, "good")] * 9); round(even.ratio, 2), even.low < 1.1 < even.high
    (1.1, True)
    >>> ratio_of([]).ratio
    1.0
    """
    return ratio_by(timed(runs), PRIOR, NOISE)


def ratio_by(seen: Sequence[float], prior: float, noise: float) -> Ratio:
    """The same of logarithms of real over reckoned: `prior` how far the mean may lie from 0, `noise` how far one lies
    from that, known as well as SURE_RUNS of them tell it.
    """
    logs = np.array(seen, float)
    n, weight = len(logs), (noise / prior) ** 2
    mean = float(logs.sum()) / (weight + n)
    free = SURE_RUNS + n
    rest = float(((logs - logs.mean()) ** 2).sum()) if n else 0.0
    apart = weight * n / (weight + n) * float(logs.mean()) ** 2 if n else 0.0
    spread2 = (SURE_RUNS * noise**2 + rest + apart) / free
    wide = float(stdtrit(free, HIGH))
    half, further = (wide * math.sqrt(spread2 * v) for v in (1 / (weight + n), 1 + 1 / (weight + n)))
    return Ratio(n, *(math.exp(mean + d) for d in (0.0, -half, half, -further, further)))


@dataclass(frozen=True)
class CauseLearnt:
    """How many times as often as plans tell a cause comes true: the mean, and where it lies in 95 of 100 cases;
    `seen` times in `runs` prints that told of it, where as many as `effective` were expected. Where plans tell it by
    margins, a load so many times as large explains it: `load_times`, between `load_low` and `load_high`.
    """

    cause: str
    mean: float
    low: float
    high: float
    seen: int
    runs: int
    effective: float
    load_times: float | None = None
    load_low: float | None = None
    load_high: float | None = None

    @property
    def sure(self) -> bool:
        """Whether it differs from what was told, by its load where it has one: of those that do not, one in twenty is
        said to.
        """
        if self.load_low is not None and self.load_high is not None:
            return not self.load_low <= 1.0 <= self.load_high
        return not self.low <= 1.0 <= self.high

    @property
    def told(self) -> float:
        """The chance that plans told of it, a print on the average."""
        return -math.expm1(-self.effective / self.runs) if self.runs else 0.0


class Margin(NamedTuple):
    """A hazard that was told by a margin: its chance; whether it comes true with the print's own strength and pull, as
    others beside it do; how much prints of its machine differ, times as much as usual.
    """

    chance: float
    shared: bool = False
    scatter: float = 1.0


@dataclass(frozen=True)
class Told:
    """A run with what its plan told: the chance of each cause, and which one came true; `margins`: of each cause those
    hazards that arise from what there is over what is needed.
    """

    chances: Mapping[str, float]
    cause: str | None
    margins: Mapping[str, tuple[Margin, ...]] = field(default_factory=dict)


def tale_of(hazards: Iterable[tuple[str, str, float | Margin]], cause: str | None) -> Told:
    """A run by the hazards that its proof told, of (code, loss, chance, or a margin with its); what only scars loses
    nothing.

    >>> told = tale_of([("pull", "print lost", Margin(0.5)), ("pull", "part lost", 0.5), ("dot", "scar", 1.0)], None)
    >>> told.chances, len(told.margins["pull"])
    ({'pull': 0.75}, 1)
    """
    whole: dict[str, float] = {}
    margins: dict[str, tuple[Margin, ...]] = {}
    for code, loss, told in hazards:
        if loss != "scar":
            by = told if isinstance(told, Margin) else None
            chance = min(max(told.chance if isinstance(told, Margin) else told, 0.0), 1.0)
            whole[code] = 1 - (1 - whole.get(code, 0.0)) * (1 - chance)
            if by is not None:
                margins[code] = (*margins.get(code, ()), by._replace(chance=chance))
    return Told(whole, cause, margins)


def share_interval(came: float, of: int) -> tuple[float, float]:
    """Where a share lies in 95 of 100 cases, of so many that came (Jeffreys).

    >>> low, high = share_interval(0, 10); low, round(high, 2)
    (0.0, 0.22)
    """
    low = float(betaincinv(came + 0.5, of - came + 0.5, LOW)) if came else 0.0
    high = float(betaincinv(came + 0.5, of - came + 0.5, HIGH)) if came < of else 1.0
    return low, high


TIMES = np.exp(np.linspace(math.log(1e-3), math.log(1e2), 1200))
LOADS = np.linspace(-1.6, 1.6, 321)
"""Logarithms of how many times as large as reckoned a load may be."""


NODES, WEIGHTS = (np.sqrt(2.0) * x for x in hermgauss(12))
"""Of Gauss and Hermite, over what one print shares."""


def _holds(margins: Sequence[Margin], spread: float, shared: float) -> F8:
    """The chance that none of a print's margins fails, at each of LOADS. Told at p, one fails with Φ(Φ⁻¹(p) + ln load /
    spread); those that share a print's draw hold together, given that draw.
    """
    told = ndtri(np.clip([m.chance for m in margins], 1e-9, 0.999))
    z = told[:, None] + LOADS / (spread * np.array([m.scatter for m in margins])[:, None])
    together = np.array([m.shared for m in margins], bool)
    alone = np.prod(ndtr(-z[~together]), axis=0)
    given = (z[together][:, None] + math.sqrt(shared) * NODES[:, None]) / math.sqrt(1 - shared)
    return np.asarray(alone * np.einsum("n,nl->l", WEIGHTS / WEIGHTS.sum(), np.prod(ndtr(-given), axis=0)))


def _as_load(name: str, runs: Sequence[Told], spread: float, shared: float) -> tuple[float, float, float] | None:
    """How many times as large as reckoned the load behind a cause is, and where that lies in 95 of 100 cases; None
    where no plan told it by margins.
    """
    tells = [run for run in runs if run.cause in (None, name)]
    if not any(run.margins.get(name) for run in tells):
        return None
    weight = -0.5 * (LOADS / LOAD_KNOWN) ** 2
    # One plan is printed many times, and tells the same each time.
    same = Counter((run.margins.get(name, ()), run.chances.get(name, 0.0), run.cause == name) for run in tells)
    for (margins, whole, came), many in same.items():
        rest = (1 - min(whole, 0.999)) / math.prod(1 - min(m.chance, 0.999) for m in margins)
        holds = min(1.0, rest) * _holds(margins, spread, shared)
        seen = np.maximum(1 - holds, LEAST_RATE) if came else np.maximum(holds, LEAST_RATE)
        weight = weight + many * np.log(seen)
    share = np.exp(weight - weight.max())
    below = (np.cumsum(share) - 0.5 * share) / share.sum()
    low, high = (math.exp(float(np.interp(q, below, LOADS))) for q in (LOW, HIGH))
    return math.exp(float((share * LOADS).sum() / share.sum())), low, high


def causes_of(runs: Sequence[Told], spread: float, shared: float) -> list[CauseLearnt]:
    """Each cause comes true at `times` the rate that plans tell, -ln(1 - p) a print, if nothing else came before: its
    prior is Γ(a, a), and each print weighs it by the chance of what was seen (on a grid: it has one parameter). Rare
    causes come to Γ(a + seen, a + expected). Where margins told it, a load is weighed the same way; `spread` is that of
    margins between prints, in the logarithm, and `shared` the share of its square that one print has in common. The
    surest first.
    """
    names = sorted({c for run in runs for c in run.chances} | {run.cause for run in runs if run.cause})
    learnt = []
    for name in names:
        rates = np.array([-math.log1p(-min(run.chances.get(name, 0.0), 0.99)) for run in runs])
        came = np.array([run.cause == name for run in runs])
        # What another cause ended tells nothing of this one after it, and little before.
        tells = came | np.array([run.cause is None for run in runs])
        weight = (CAUSE_RUNS - 1) * np.log(TIMES) - CAUSE_RUNS * TIMES
        weight = weight - TIMES * float(rates[tells & ~came].sum())
        for rate in np.maximum(rates[came], LEAST_RATE).tolist():
            weight = weight + np.log(-np.expm1(-TIMES * rate))
        # The grid is even in the logarithm.
        share = np.exp(weight - weight.max()) * TIMES
        below = np.cumsum(share) / share.sum()
        low, high = (float(np.interp(q, below, TIMES)) for q in (LOW, HIGH))
        mean = float((share * TIMES).sum() / share.sum())
        told = sum(name in run.chances for run in runs)
        seen = int(came.sum())
        load = _as_load(name, runs, spread, shared) or (None, None, None)
        learnt.append(CauseLearnt(name, mean, low, high, seen, max(told, seen), float(rates[tells].sum()), *load))
    return sorted(learnt, key=lambda c: (-(c.effective + c.seen), c.cause))


@dataclass(frozen=True)
class Bin:
    """Prints whose told risk lies together: the mean that was told, the share that failed with its interval (Jeffreys),
    and how many.
    """

    told: float
    seen: float
    low: float
    high: float
    runs: int


@dataclass(frozen=True)
class Calibration:
    """Brier's score and its parts (Murphy 1973: it is `reliability` - `resolution` + `uncertainty`, but for what
    differs within a bin), by bins; and the share of prints whose hours lay where the log had said before.
    """

    brier: float | None
    reliability: float | None
    resolution: float | None
    uncertainty: float | None
    bins: list[Bin]
    hours_coverage: float | None


def calibration_of(runs: Sequence[Logged]) -> Calibration:
    """Of the prints whose outcome is known; hours in the order in which they were logged."""
    ended = [run for run in runs if run.result]
    hours = _covered(runs)
    if not ended:
        return Calibration(None, None, None, None, [], hours)
    told = np.array([run.planned_risk for run in ended])
    failed = np.array([float(run.result not in WHOLE) for run in ended])
    at = np.clip(np.searchsorted(BINS, told, side="right") - 1, 0, len(BINS) - 2)
    bins, reliable, resolved, base = [], 0.0, 0.0, float(failed.mean())
    for k in np.unique(at).tolist():
        mine = at == k
        n, lost, mean = int(mine.sum()), float(failed[mine].sum()), float(told[mine].mean())
        low, high = share_interval(lost, n)
        bins.append(Bin(mean, lost / n, low, high, n))
        reliable += n * (mean - lost / n) ** 2
        resolved += n * (lost / n - base) ** 2
    many = len(ended)
    brier = float(((told - failed) ** 2).mean())
    return Calibration(brier, reliable / many, resolved / many, base * (1 - base), bins, hours)


def _covered(runs: Sequence[Logged]) -> float | None:
    """The share of timed prints whose hours lay between what those before them said of the next."""
    there, inside = 0, 0
    for k, run in enumerate(runs):
        if not timed([run]):
            continue
        before = ratio_of(runs[:k])
        ratio = math.exp(timed([run])[0])
        there += 1
        inside += before.next_low <= ratio <= before.next_high
    return inside / there if there else None
