"""A week planned: woven in several orders, bettered by the solver, and of what comes near the best the one that keeps
its dates most surely.
"""

from __future__ import annotations

import math
import time
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np
from numpy.typing import NDArray

from .ask import WeekAsk
from .better import WORTH, Better, better, moves
from .latest import latest_starts
from .rules import LIFT_MIN, LOOK_MIN, NEVER, NOBODY, START_MIN, SURE_Z, Rules, rules_of
from .simulate import as_planned, chances, woven
from .solve import cost, solved

I8 = NDArray[np.int64]
F8 = NDArray[np.float64]
NO_GAP = 1e-6
HARM = 0.01
"""Of chance, all dates together: less is nobody's loss."""
SECONDS, TRIES, MOVES_A_JOB = 1.5, 60, 30
"""How long the solver may look, how many orders are woven first, and how often a job of the best is moved."""


@dataclass(frozen=True)
class Attended:
    """Somebody does something at a time, for so many minutes."""

    what: str
    at: datetime
    by: str | None
    minutes: int


@dataclass(frozen=True)
class Planned:
    """A job on its machine: when it starts, ends, has ended in 19 of 20 cases, is lifted off and wholly done; what is
    attended to, and steps that go alone.
    """

    job: str
    machine: str
    start: datetime
    end: datetime
    end_95: datetime
    done: datetime
    attend: list[Attended]
    alone: list[Attended]


@dataclass(frozen=True)
class Week:
    """Runs by their start; (job, due, chance) of every date; (job, why) of what found no place; whether no plan costs
    less, and by which share one might at most, where the solver could say; the one move that would help; and (job,
    time) of the latest start from which a date is still kept surely.
    """

    runs: list[Planned]
    dates: list[tuple[str, datetime, float]]
    unplaced: list[tuple[str, str]]
    optimal: bool
    said: list[str]
    gap: float | None
    better: Better | None = None
    latest: tuple[tuple[str, datetime], ...] = ()


def orders(rules: Rules, tries: int = TRIES) -> list[I8]:
    """Orders to weave in: what is due first, what has least time to spare, the shortest, the longest; then these
    shuffled a little.
    """
    due = rules.due
    steps = np.array([rules.steps[rules.first[j] : rules.first[j + 1], 2].sum() for j in range(rules.jobs)], float)
    needs = rules.hours + steps
    # What is wanted much sooner than the rest goes before it, whatever its date.
    first = -(rules.weight > 1).astype(float)
    firm = [np.lexsort((needs, key, first)) for key in (due, due - needs, needs / rules.weight, -needs)]
    rng, shaken = np.random.default_rng(3), []
    for k in range(tries - len(firm)):
        base = firm[k % len(firm)]
        rank = np.empty(rules.jobs)
        rank[base] = np.arange(rules.jobs)
        shaken.append(np.argsort(rank + rng.normal(0, 1 + k % 5, rules.jobs), kind="stable"))
    return [np.asarray(order, np.int64) for order in (*firm, *shaken)]


def bettered(rules: Rules, order: I8, moves: int) -> tuple[I8, I8]:
    """The best of an order's neighbours, one job moved at a time, as long as that costs no more."""
    rng, anywhere = np.random.default_rng(11), np.full(rules.jobs, NOBODY, np.int64)
    best = woven(rules, order, anywhere)
    least = cost(rules, best[0])
    for _ in range(moves if rules.jobs > 1 else 0):
        a, b = rng.integers(rules.jobs, size=2)
        moved = np.insert(np.delete(order, a), b, order[a])
        runs, hands = woven(rules, moved, anywhere)
        if (now := cost(rules, runs)) <= least:
            best, least, order = (runs, hands), now, moved
    return best


def planned(ask: WeekAsk, seconds: float = SECONDS, *, helps: bool = False) -> Week:
    """Plan a week; with `helps` the one move is looked for that would help the date that is least sure, and how long
    each start may wait.

    >>> from .ask import WeekAsk
    >>> day = lambda h: f"2026-11-30T{h:02d}:00"
    >>> week = planned(WeekAsk.model_validate({"from": day(8), "to": day(20), "machines": [{"name": "heron"}],
    ...     "people": [{"name": "Aki", "hours": [[day(9), day(18)]]}],
    ...     "jobs": [{"name": "warden", "machines": ["heron"], "hours": 4, "due": day(18)}]}))
    >>> week.runs[0].start.hour, week.runs[0].end.hour, week.dates[0][2], week.optimal
    (9, 13, 1.0, True)
    """
    rules = rules_of(ask)
    if not rules.jobs:
        return Week([], [], [], True, [], 0.0)
    begun = time.perf_counter()
    everywhere = np.full(rules.jobs, NOBODY, np.int64)
    first = min(orders(rules), key=lambda order: cost(rules, woven(rules, order, everywhere)[0]))
    best = bettered(rules, first, MOVES_A_JOB * rules.jobs)
    found = solved(rules, best, seconds=max(0.5, seconds - (time.perf_counter() - begun)))
    candidates = [best]
    if found.runs is not None and found.hands is not None:
        candidates.insert(0, (found.runs, found.hands))
        # The same as early as it goes: what the solver leaves lying about without need.
        order = np.argsort(found.runs[:, 1], kind="stable")
        on = np.where(found.runs[:, 4] < NEVER, found.runs[:, 0], NOBODY)
        candidates.insert(0, woven(rules, order, on, sequence=as_planned(rules, found.hands)))
    least = min(cost(rules, runs) for runs, _ in candidates)
    # Of plans that cost nearly the same, the one that keeps its dates most surely.
    near = [pair for pair in candidates if cost(rules, pair[0]) <= least * 1.02]
    sure = [chances(rules, runs, hands) for runs, hands in near]
    mean = [float(np.nanmean(s)) if np.isfinite(s).any() else 0.0 for s in sure]
    at = max(range(len(near)), key=lambda k: (round(mean[k], 2), -cost(rules, near[k][0])))
    (runs, hands), told = near[at], sure[at]
    # Sooner is not always surer: what helps the weakest date and harms no other is done, where there is time to look.
    if time.perf_counter() - begun < 2 * seconds and (moved := _surer(rules, runs, hands)) is not None:
        (runs, hands), told = moved, chances(rules, *moved)
    gap = max(0.0, 1 - found.bound / max(1, cost(rules, runs)))
    week = _told(rules, runs, hands, told, gap=gap)
    if not helps:
        return week
    waits = latest_starts(rules, runs, hands)
    latest = tuple((job.name, rules.at(int(at))) for job, at in zip(ask.jobs, waits, strict=True) if at < NEVER)
    return replace(week, better=better(rules, runs, hands), latest=latest)


def _surer(rules: Rules, runs: I8, hands: I8) -> tuple[I8, I8] | None:
    """A plan that keeps the weakest date more surely at nobody's cost, and places as many; None where there is none."""
    placed = int((runs[:, 4] < NEVER).sum())
    good = (m for m in moves(rules, runs, hands) if m.gain >= WORTH and m.harm < HARM)
    return next((m.plan for m in good if int((m.plan[0][:, 4] < NEVER).sum()) >= placed), None)


def _told(rules: Rules, runs: I8, hands: I8, sure: F8, *, gap: float | None = None) -> Week:
    ask = rules.ask
    placed = np.flatnonzero(runs[:, 4] < NEVER)
    listed = [_run(rules, int(j), runs[j], hands[j]) for j in placed[np.argsort(runs[placed, 1], kind="stable")]]
    dates = [
        (job.name, job.due, float(sure[j]) if math.isfinite(sure[j]) else 0.0)
        for j, job in enumerate(ask.jobs)
        if job.due is not None
    ]
    lost = [(ask.jobs[j].name, _why(rules, j)) for j in range(rules.jobs) if runs[j, 4] >= NEVER]
    said = []
    for run in listed:
        due = next((job.due for job in ask.jobs if job.name == run.job), None)
        if due is not None and run.done > due:
            said.append(f"'{run.job}' is due {due:%a %H:%M} and done {run.done:%a %d %b, %H:%M}, no plan found sooner.")
    return Week(listed, dates, lost, gap is not None and gap < NO_GAP, said, gap)


def _run(rules: Rules, j: int, run: I8, hands: I8) -> Planned:
    ask, job = rules.ask, rules.ask.jobs[j]
    machine, start, end, _, done = run.tolist()
    names = ["start", "first look", "lift off", *(step.step for step in job.after)]
    attend: list[Attended] = []
    alone: list[Attended] = []
    for task, (at, takes, who) in enumerate(hands[: len(names)].tolist()):
        if at < 0:
            continue
        one = Attended(names[task], rules.at(at), ask.people[who].name if who >= 0 else None, takes)
        (attend if who >= 0 else alone).append(one)
    late = round(rules.hours[j] * math.exp(SURE_Z * rules.spread[j]))
    return Planned(
        job.name,
        ask.machines[machine].name,
        rules.at(start),
        rules.at(end),
        rules.at(start + late),
        rules.at(done),
        attend,
        alone,
    )


def _why(rules: Rules, j: int) -> str:
    """Which rule a job cannot meet, and the nearest thing that can be."""
    job = rules.ask.jobs[j]
    mine = np.flatnonzero(rules.may[j])
    spans = rules.free[np.isin(rules.free[:, 0], mine)]
    if not len(spans):
        return f"{' and '.join(job.machines)} {'is' if len(mine) == 1 else 'are'} never free in this week."
    if not len(rules.awake):
        return "Nobody is there and awake outside of quiet hours."
    needs = int(rules.hours[j]) + START_MIN + LIFT_MIN
    widest = int((spans[:, 2] - spans[:, 1]).max())
    if needs > widest:
        there = f"the longest time that a machine is free is {widest / 60:.1f} h"
        return f"It takes {needs / 60:.1f} h with its start; {there}."
    by_hand = rules.steps[rules.first[j] : rules.first[j + 1]]
    longest = max([LOOK_MIN, *by_hand[by_hand[:, 3] == 1, 2].tolist()])
    awake = int((rules.awake[:, 2] - rules.awake[:, 1]).max())
    if longest > awake:
        return f"A step by hand takes {longest} minutes; nobody is there for more than {awake} at a time."
    if rules.early[j] >= rules.end:
        return f"It may not start before {rules.at(int(rules.early[j])):%a %d %b, %H:%M}, when the week has ended."
    alone, _ = woven(rules, np.array([j], np.int64), np.full(rules.jobs, NOBODY, np.int64))
    if alone[j, 4] >= NEVER:
        return "No start lets somebody begin it, look at it and lift it off while its machine is free."
    return f"Alone it would be done {rules.at(int(alone[j, 4])):%a %H:%M}; with the others there is no room left."
