"""Jobs woven into a week one after the other, each as early as all rules let it: compiled, since a thousand simulated
weeks are woven so.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .rules import LIFT_MIN, LOOK_MIN, LOOK_SLACK_MIN, NEVER, START_MIN

I8 = NDArray[np.int64]
F8 = NDArray[np.float64]
MOST_TRIES = 6
"""A print that fails is begun again so often, in a simulated week."""


@njit()
def hand(awake: I8, busy: I8, count: I8, ready: int, takes: int) -> tuple[int, int]:
    """The earliest minute from `ready` at which somebody has `takes` minutes, and who: (NEVER, -1) where nobody has.
    `busy` (people, n, 2) with `count` each.
    """
    best, who = NEVER, -1
    for k in range(len(awake)):
        p, a, b = awake[k, 0], awake[k, 1], awake[k, 2]
        t = max(a, ready)
        moved = True
        while moved and t + takes <= b and t < best:
            moved = False
            for i in range(count[p]):
                if t < busy[p, i, 1] and busy[p, i, 0] < t + takes:
                    t = busy[p, i, 1]
                    moved = True
        if not moved and t + takes <= b and t < best:
            best, who = t, p
    return best, who


@njit()
def _taken(busy: I8, count: I8, who: int, at: int, takes: int) -> None:
    if who >= 0 and count[who] < busy.shape[1]:
        busy[who, count[who], 0], busy[who, count[who], 1] = at, at + takes
        count[who] += 1


@njit()
def _slot(loads: I8, held: int, capacity: int, ready: int, takes: int) -> int:
    """The earliest minute from `ready` at which a station has room for `takes` minutes; `loads` (n, 2), `held` of
    them.
    """
    t = ready
    while True:
        # Room at t is room for all of it where no more than capacity - 1 loads lie on any minute of it.
        worst, soonest = 0, NEVER
        for i in range(held):
            if loads[i, 0] < t + takes and t < loads[i, 1]:
                at = max(loads[i, 0], t)
                there = 0
                for k in range(held):
                    if loads[k, 0] <= at < loads[k, 1]:
                        there += 1
                worst = max(worst, there)
                soonest = min(soonest, loads[i, 1])
        if worst < capacity:
            return t
        t = soonest


@njit()
def _begun(free: I8, taken: I8, held: int, machine: int, ready: int, room: tuple[int, int]) -> int:
    """The earliest start from `ready` on a machine that is free from `before` minutes ahead until `long` after it;
    `taken` (n, 2), `held` of them; `room`: these two.
    """
    before, long = room
    best = NEVER
    for k in range(len(free)):
        if free[k, 0] != machine:
            continue
        t = max(free[k, 1] + before, ready)
        moved = True
        while moved and t + long <= free[k, 2] and t < best:
            moved = False
            for i in range(held):
                if t - before < taken[i, 1] and taken[i, 0] < t + long:
                    t = taken[i, 1] + before
                    moved = True
        if not moved and t + long <= free[k, 2]:
            best = min(best, t)
    return best


@njit()
def weave(
    order: I8,
    on: I8,
    sequence: I8,
    since: I8,
    rules: tuple[I8, I8, I8, I8, I8, I8, I8, I8, I8],
    lasts: I8,
    fails: F8,
    runs: I8,
    hands: I8,
) -> None:
    """Weave jobs in an order, each on its machine `on` (jobs,), -1 for whichever has it done first; then what comes
    after lifting off, step by step in `sequence` (rows of `steps`, each job's in their own order): machines are begun
    and emptied before anybody sits down to sand. `since` (jobs, 3 + steps), -1 where nothing is said:
    the planned end, first look, lift and steps: a first try is not looked at, lifted nor gone on with sooner.

    `rules`: free, awake, may, setup, look, steps, first, capacity, early. `lasts` (jobs, tries) minutes of every try,
    `fails` (jobs, tries) at which share of it the try fails, 1 where it does not. Written: `runs` (jobs, 5): machine,
    start, end, lifted, done, the last try's; NEVER where it finds no place; `hands` (jobs, 3 + steps, 3): start, look,
    lift and steps: at, how long, who; -1 where nobody.
    """
    free, awake, may, setup, look, steps, first, capacity, early = rules
    jobs, machines = len(lasts), may.shape[1]
    people = 1
    for k in range(len(awake)):
        people = max(people, awake[k, 0] + 1)
    most = (hands.shape[1] + 1) * jobs * MOST_TRIES + 8
    busy, count = np.zeros((people, most, 2), np.int64), np.zeros(people, np.int64)
    taken, held = np.zeros((machines, jobs * MOST_TRIES + 1, 2), np.int64), np.zeros(machines, np.int64)
    last = np.zeros(machines, np.int64)
    loads, inside = (
        np.zeros((max(1, len(capacity)), len(steps) + 1, 2), np.int64),
        np.zeros(max(1, len(capacity)), np.int64),
    )
    runs[:] = NEVER
    hands[:] = -1
    for j in order:
        ready, tries = early[j], 0
        while True:
            best, chosen, by, lifter, up, seen, who_looks = NEVER, -1, -1, -1, NEVER, NEVER, -1
            long = int(np.ceil(lasts[j, tries] * fails[j, tries]))
            for m in range(machines):
                if not may[j, m] or (on[j] >= 0 and on[j] != m):
                    continue
                before = START_MIN + setup[m, last[m], j]
                # Where changes take time, nothing is put before what stands there: its change would be another.
                soonest = ready
                for i in range(held[m] if setup[m].any() else 0):
                    soonest = max(soonest, taken[m, i, 1] + before)
                # It stays taken at least until it is lifted, which cannot be known before somebody is found.
                start = _begun(free, taken[m], held[m], m, soonest, (before, long + LIFT_MIN))
                while start < NEVER:
                    at, who = hand(awake, busy, count, start - before, before)
                    if at == NEVER:
                        start = NEVER
                        break
                    if at + before > start:
                        start = _begun(free, taken[m], held[m], m, at + before, (before, long + LIFT_MIN))
                        continue
                    looks, looker = -1, -1
                    if look[j] >= 0 and look[j] + LOOK_MIN <= long:
                        soon = start + look[j] if tries else max(start + look[j], since[j, 1])
                        looks, looker = hand(awake, busy, count, soon, LOOK_MIN)
                        # It comes while there is something to look at.
                        slack = min(LOOK_SLACK_MIN, long - LOOK_MIN - look[j])
                        if looks > start + look[j] + slack:
                            later = looks - slack - look[j] if looks < NEVER else NEVER
                            start = NEVER
                            if later < NEVER:
                                start = _begun(free, taken[m], held[m], m, later, (before, long + LIFT_MIN))
                            continue
                    ended = start + long
                    if tries == 0 and since[j, 2] >= 0:
                        # As long after its end as it was planned, or at the planned time where it ends late.
                        ended = max(ended, min(since[j, 2], ended + since[j, 2] - since[j, 0]))
                    lift, lifts = hand(awake, busy, count, ended, LIFT_MIN)
                    if lift == NEVER:
                        start = NEVER
                        break
                    fits = False
                    for k in range(len(free)):
                        if free[k, 0] == m and free[k, 1] <= start - before and lift + LIFT_MIN <= free[k, 2]:
                            fits = True
                    later = -1
                    for i in range(held[m]):
                        if start - before < taken[m, i, 1] and taken[m, i, 0] < lift + LIFT_MIN:
                            later = max(later, taken[m, i, 1])
                    if fits and later < 0:
                        if lift + LIFT_MIN < up:
                            best, chosen, by, up, lifter = start, m, who, lift + LIFT_MIN, lifts
                            seen, who_looks = looks, looker
                        break
                    # What stands beyond is in the way: after that, or a little later where the machine is not free.
                    again = later + before if later >= 0 else start + 15
                    start = _begun(free, taken[m], held[m], m, again, (before, long + LIFT_MIN))
            if chosen < 0:
                break
            before = START_MIN + setup[chosen, last[chosen], j]
            lift = up - LIFT_MIN
            _taken(busy, count, by, best - before, before)
            hands[j, 0, 0], hands[j, 0, 1], hands[j, 0, 2] = best - before, before, by
            if who_looks >= 0:
                _taken(busy, count, who_looks, seen, LOOK_MIN)
                hands[j, 1, 0], hands[j, 1, 1], hands[j, 1, 2] = seen, LOOK_MIN, who_looks
            _taken(busy, count, lifter, lift, LIFT_MIN)
            hands[j, 2, 0], hands[j, 2, 1], hands[j, 2, 2] = lift, LIFT_MIN, lifter
            taken[chosen, held[chosen], 0], taken[chosen, held[chosen], 1] = best - before, up
            held[chosen] += 1
            last[chosen] = j + 1
            runs[j, 0], runs[j, 1], runs[j, 2], runs[j, 3] = chosen, best, best + long, up
            if fails[j, tries] >= 1.0 or tries + 1 >= lasts.shape[1]:
                break
            ready, tries = up, tries + 1
        if chosen < 0 or fails[j, tries] < 1.0:
            continue
        runs[j, 4] = runs[j, 3]
    for s in sequence:
        j, station, takes, by_hand = steps[s, 0], steps[s, 1], steps[s, 2], steps[s, 3]
        at, who = max(runs[j, 4], since[j, 3 + s - first[j]]), -1
        while at < NEVER:
            if station >= 0:
                at = _slot(loads[station], inside[station], capacity[station], at, takes)
            if by_hand == 0 or takes == 0:
                break
            found, who = hand(awake, busy, count, at, takes)
            if found in (at, NEVER):
                at = found
                break
            at = found
        if at >= NEVER:
            runs[j, 4] = NEVER
            continue
        if station >= 0:
            loads[station, inside[station], 0], loads[station, inside[station], 1] = at, at + takes
            inside[station] += 1
        _taken(busy, count, who, at, takes)
        k = 3 + s - first[j]
        hands[j, k, 0], hands[j, k, 1], hands[j, k, 2] = at, takes, who
        runs[j, 4] = at + takes
