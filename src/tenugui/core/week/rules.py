"""A week's rules as arrays, in whole minutes from its start."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np
from numpy.typing import NDArray

from .ask import Span, WeekAsk
from .spans import joined, without

I8 = NDArray[np.int64]
F8 = NDArray[np.float64]
START_MIN, LOOK_MIN, LIFT_MIN = 5, 3, 5
"""Priors: minutes that somebody needs to start a run, to look at its first layers, and to lift it off."""
LOOK_SLACK_MIN = 30
"""Prior: a first look may come so much later than it is asked for."""
SURE_Z = 1.6448536269514722
"""Of a normal, what is not passed in 19 of 20."""
NOBODY = -1
NEVER = 1 << 40
"""Minutes: what comes after every week."""


@dataclass(frozen=True)
class Rules:
    """Minutes from the week's start. `free` (n, 3) machine, from, to; `awake` (n, 3) person, from, to, quiet hours cut
    out; `may` (jobs, machines); `setup` (machines, jobs + 1, jobs) minutes from the job before, or from what is in it,
    to the job; `hours` (jobs,) minutes; `look` (jobs,) minutes or -1; `due` (jobs,) or NEVER; `steps` (n, 4) job,
    station or -1, minutes, by hand; `first` (jobs + 1,) into steps; `capacity` of stations; `early` (jobs,) minute
    before which none starts; `weight` (jobs,) of its minutes.
    """

    ask: WeekAsk
    end: int
    free: I8
    awake: I8
    may: NDArray[np.bool_]
    setup: I8
    hours: I8
    spread: F8
    risk: F8
    look: I8
    due: I8
    steps: I8
    first: I8
    capacity: I8
    early: I8
    weight: I8

    @property
    def jobs(self) -> int:
        """How many."""
        return len(self.hours)

    def at(self, minute: int) -> datetime:
        """As a time."""
        return self.ask.start + timedelta(minutes=int(minute))


def minutes(ask: WeekAsk, at: datetime, *, up: bool = False) -> int:
    """Whole minutes from the week's start."""
    exact = (at - ask.start).total_seconds() / 60
    return math.ceil(exact - 1e-9) if up else math.floor(exact + 1e-9)


def _spans(ask: WeekAsk, spans: list[Span]) -> list[tuple[int, int]]:
    """Sorted, joined where they touch, within the week."""
    end = minutes(ask, ask.end)
    return joined((max(0, minutes(ask, a, up=True)), min(end, minutes(ask, b))) for a, b in spans)


def rules_of(ask: WeekAsk) -> Rules:
    """A week as its rules."""
    end, jobs, machines = minutes(ask, ask.end), ask.jobs, ask.machines
    quiet = _spans(ask, ask.quiet)
    free = [
        (m, a, b)
        for m, machine in enumerate(machines)
        for a, b in ([(0, end)] if machine.free is None else _spans(ask, machine.free))
    ]
    awake = [(p, a, b) for p, one in enumerate(ask.people) for a, b in without(_spans(ask, one.hours), quiet)]
    places = {s.name: k for k, s in enumerate(ask.stations)}
    places |= {s.kind: k for k, s in reversed(list(enumerate(ask.stations))) if s.kind and s.kind not in places}
    rows, first = [], [0]
    for j, job in enumerate(jobs):
        for step in job.after:
            at = NOBODY if step.station is None else places[step.station]
            rows.append((j, at, math.ceil(step.minutes), int(step.hands)))
        first.append(len(rows))
    may = np.array([[m.name in job.machines for m in machines] for job in jobs], bool).reshape(len(jobs), len(machines))
    return Rules(
        ask,
        end,
        np.array(free, np.int64).reshape(-1, 3),
        np.array(awake, np.int64).reshape(-1, 3),
        may,
        _setups(ask),
        np.array([max(1, math.ceil(job.hours * 60 - 1e-9)) for job in jobs], np.int64),
        np.array([job.spread for job in jobs], float),
        np.array([job.risk for job in jobs], float),
        np.array([NOBODY if j.first_look_min is None else math.ceil(j.first_look_min) for j in jobs], np.int64),
        np.array([NEVER if j.due is None else minutes(ask, j.due) for j in jobs], np.int64),
        np.array(rows, np.int64).reshape(-1, 4),
        np.array(first, np.int64),
        np.array([s.capacity for s in ask.stations], np.int64),
        np.array([0 if j.not_before is None else max(0, minutes(ask, j.not_before, up=True)) for j in jobs], np.int64),
        np.array([j.weight for j in jobs], np.int64),
    )


def _setups(ask: WeekAsk) -> I8:
    """(machines, jobs + 1, jobs): the first row of each is what is in the machine."""
    jobs = ask.jobs
    table = np.zeros((len(ask.machines), len(jobs) + 1, len(jobs)), np.int64)
    for m, machine in enumerate(ask.machines):
        for what, takes in machine.setup.items():
            needs = [job.needs(what) for job in jobs]
            for a, had in enumerate([machine.has.get(what), *needs]):
                for b, need in enumerate(needs):
                    if need is not None and had is not None and had != need:
                        table[m, a, b] += math.ceil(takes)
    return table
