"""A thousand simulated weeks of a plan: prints that take longer or shorter and fail, begun again, everything woven anew
in the plan's own order of runs and of steps.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .rules import NEVER, NOBODY, Rules
from .weave import MOST_TRIES, weave

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
WEEKS, SEED = 1000, 19


def in_turn(rules: Rules, order: I8) -> I8:
    """Rows of steps, one job's after the other's."""
    rows = [np.arange(rules.first[j], rules.first[j + 1]) for j in order]
    return np.concatenate([np.empty(0, np.int64), *rows]).astype(np.int64)


def as_planned(rules: Rules, hands: I8) -> I8:
    """Rows of steps in the order in which a plan takes them."""
    jobs = rules.steps[:, 0]
    at = hands[jobs, 3 + np.arange(len(jobs)) - rules.first[jobs], 0]
    # A job's own steps keep their order, also where one of no length begins with the next.
    return np.lexsort((np.arange(len(jobs)), np.where(at < 0, NEVER, at))).astype(np.int64)


def planned_times(runs: I8, hands: I8) -> I8:
    """(jobs, 3 + steps) of a plan: when each run ends, is looked at, is lifted, and each of its steps begins."""
    since = hands[:, :, 0].copy()
    since[:, 0] = np.where(runs[:, 4] < NEVER, runs[:, 2], NOBODY)
    return since


def woven(
    rules: Rules,
    order: I8,
    on: I8,
    *,
    sequence: I8 | None = None,
    since: I8 | None = None,
    lasts: I8 | None = None,
    fails: F8 | None = None,
) -> tuple[I8, I8]:
    """Jobs woven in an order, each on its machine or, at -1, on whichever has it done first: runs (jobs, 5) of machine,
    start, end, lifted, done, and hands (jobs, 3 + most steps, 3) of at, minutes, who. As planned, where nothing else is
    said of how long each lasts and where it fails; steps in `sequence`, one job's after
    the other's where nothing is said, nothing before `since`.
    """
    jobs = rules.jobs
    lasts = rules.hours[:, None].copy() if lasts is None else lasts
    fails = np.ones(lasts.shape) if fails is None else fails
    most = int(np.diff(rules.first).max()) if jobs else 0
    runs, hands = np.empty((jobs, 5), np.int64), np.empty((jobs, 3 + most, 3), np.int64)
    held = (
        rules.free,
        rules.awake,
        rules.may,
        rules.setup,
        rules.look,
        rules.steps,
        rules.first,
        rules.capacity,
        rules.early,
    )
    sequence = in_turn(rules, order) if sequence is None else sequence
    since = np.full(hands.shape[:2], NOBODY, np.int64) if since is None else since
    weave(order, on, sequence, since, held, lasts, fails, runs, hands)
    return runs, hands


def draws(rules: Rules, weeks: int = WEEKS, seed: int = SEED) -> tuple[I8, F8]:
    """(weeks, jobs, tries) minutes of every try, and at which share of them it fails, 1 where it does not."""
    rng = np.random.default_rng(seed)
    shape = (weeks, rules.jobs, MOST_TRIES)
    lasts = rules.hours[None, :, None] * np.exp(rules.spread[None, :, None] * rng.standard_normal(shape))
    failed = rng.random(shape) < rules.risk[None, :, None]
    return np.maximum(1, np.round(lasts)).astype(np.int64), np.where(failed, rng.random(shape), 1.0)


def chances(rules: Rules, runs: I8, hands: I8, weeks: int = WEEKS, seed: int = SEED) -> F8:
    """(jobs,) the share of weeks in which each is done when it is due; NaN where it has no date."""
    lasts, fails = draws(rules, weeks, seed)
    placed = runs[:, 4] < NEVER
    order = np.argsort(np.where(placed, runs[:, 1], NEVER), kind="stable")
    on = np.where(placed, runs[:, 0], NOBODY)
    sequence = as_planned(rules, hands)
    # Nobody does anything before the plan has it done: what is sooner ready waits for its hour.
    since = planned_times(runs, hands)
    kept_to = replace(rules, early=np.where(placed, runs[:, 1], rules.early))
    kept = np.zeros(rules.jobs)
    for week in range(weeks):
        again, _ = woven(kept_to, order, on, sequence=sequence, since=since, lasts=lasts[week], fails=fails[week])
        kept += again[:, 4] <= rules.due
    return np.where(rules.due == NEVER, np.nan, kept / weeks)
