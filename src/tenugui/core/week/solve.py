"""The week as a problem for a constraint solver (OR-Tools CP-SAT): optional intervals on machines, people and stations.

Machines: no two runs at once, changes of what is in them between runs by a circuit. People: nothing while they sleep,
one thing at a time. Stations: as many loads as they take. Least is wanted of what is unplaced, late, and long.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from .rules import LIFT_MIN, LOOK_MIN, LOOK_SLACK_MIN, NEVER, NOBODY, START_MIN, SURE_Z, Rules

I8 = NDArray[np.int64]
UNPLACED, LATE, CLOSE = 10_000_000, 100, 10
"""Priors: a print that finds no place weighs more than any wait; a minute late as a hundred minutes of waiting, one
nearer to its date than its hours vary as ten.
"""


def cost(rules: Rules, runs: I8) -> int:
    """What a plan costs: unplaced prints, minutes late, and minutes until all are done, by weight."""
    placed = runs[:, 4] < NEVER
    dated = (rules.due < NEVER) & placed
    late = LATE * np.where(dated, np.maximum(0, runs[:, 4] - rules.due), 0)
    late += CLOSE * np.where(dated, np.maximum(0, runs[:, 4] - safe(rules)), 0)
    weight = rules.weight
    return int(UNPLACED * (~placed).sum() + (weight * late).sum() + (weight * runs[:, 4])[placed].sum())


def safe(rules: Rules) -> I8:
    """(jobs,) minutes by which each is wanted, so that it is there in time in 19 of 20 cases though its hours vary."""
    room = np.ceil(rules.hours * (np.exp(SURE_Z * rules.spread) - 1)).astype(np.int64)
    return np.where(rules.due < NEVER, rules.due - room, NEVER)


@dataclass
class _Model:
    """The solver's model, and its variables by what they are of."""

    rules: Rules
    cp: Any
    by_person: dict[int, list[Any]] = field(default_factory=dict)
    by_machine: dict[int, list[Any]] = field(default_factory=dict)
    loads: dict[int, list[Any]] = field(default_factory=dict)
    who: dict[tuple[int, int], list[tuple[int, Any]]] = field(default_factory=dict)
    at: dict[tuple[int, int], Any] = field(default_factory=dict)
    on: dict[tuple[int, int], Any] = field(default_factory=dict)
    start: list[Any] = field(default_factory=list)
    before: list[Any] = field(default_factory=list)
    done: list[Any] = field(default_factory=list)
    present: list[Any] = field(default_factory=list)

    def hand(self, job: int, task: int, start: Any, size: Any) -> None:
        """Somebody does this for so long."""
        self.at[job, task] = start
        people = sorted({int(p) for p in self.rules.awake[:, 0]})
        chosen = []
        for p in people:
            literal = self.cp.new_bool_var(f"h{job}.{task}.{p}")
            end = self.cp.new_int_var(0, self.rules.end, f"e{job}.{task}.{p}")
            self.by_person.setdefault(p, []).append(
                self.cp.new_optional_interval_var(start, size, end, literal, f"i{job}.{task}.{p}")
            )
            chosen.append((p, literal))
        self.who[job, task] = chosen
        self.cp.add(sum(literal for _, literal in chosen) == self.present[job])


def _job(model: _Model, j: int) -> Any:
    """One job's variables; what it adds to the cost."""
    rules, cp = model.rules, model.cp
    end, hours = rules.end, int(rules.hours[j])
    present = cp.new_bool_var(f"p{j}")
    start = cp.new_int_var(max(START_MIN, min(int(rules.early[j]), end)), end, f"s{j}")
    most = START_MIN + int(rules.setup[:, :, j].max(initial=0))
    before = cp.new_int_var(START_MIN, most, f"b{j}")
    lift = cp.new_int_var(0, end, f"l{j}")
    model.present.append(present)
    model.start.append(start)
    model.before.append(before)
    cp.add(lift >= start + hours).only_enforce_if(present)
    prepare = cp.new_int_var(0, end, f"a{j}")
    cp.add(prepare + before == start)
    literals = []
    for m in np.flatnonzero(rules.may[j]).tolist():
        literal = cp.new_bool_var(f"m{j}.{m}")
        size = cp.new_int_var(0, end, f"z{j}.{m}")
        taken = cp.new_optional_interval_var(prepare, size, lift + LIFT_MIN, literal, f"t{j}.{m}")
        model.by_machine.setdefault(m, []).append(taken)
        model.on[j, m] = literal
        literals.append(literal)
    cp.add(sum(literals) == present)
    model.hand(j, 0, prepare, before)
    if rules.look[j] >= 0 and rules.look[j] + LOOK_MIN <= hours:
        look = cp.new_int_var(0, end, f"f{j}")
        cp.add(look >= start + int(rules.look[j])).only_enforce_if(present)
        latest = min(int(rules.look[j]) + LOOK_SLACK_MIN, hours - LOOK_MIN)
        cp.add(look <= start + latest).only_enforce_if(present)
        model.hand(j, 1, look, LOOK_MIN)
    model.hand(j, 2, lift, LIFT_MIN)
    done: Any = lift + LIFT_MIN
    for k, (_, station, takes, by_hand) in enumerate(rules.steps[rules.first[j] : rules.first[j + 1]].tolist()):
        at = cp.new_int_var(0, 2 * end, f"w{j}.{k}")
        cp.add(at >= done).only_enforce_if(present)
        model.at[j, 3 + k] = at
        if by_hand and takes:
            model.hand(j, 3 + k, at, takes)
        if station >= 0:
            load = cp.new_optional_fixed_size_interval_var(at, takes, present, f"v{j}.{k}")
            model.loads.setdefault(station, []).append(load)
        done = at + takes
    finished = cp.new_int_var(0, 3 * end, f"d{j}")
    cp.add(finished >= done).only_enforce_if(present)
    model.done.append(finished)
    weight = int(rules.weight[j])
    terms = UNPLACED * (1 - present) + weight * finished
    if rules.due[j] < NEVER:
        for by, until in ((LATE, int(rules.due[j])), (CLOSE, int(safe(rules)[j]))):
            late = cp.new_int_var(0, 4 * end + abs(until), f"y{j}.{by}")
            cp.add(late >= finished - until).only_enforce_if(present)
            terms = terms + by * weight * late
    return terms


def _changes(model: _Model, m: int) -> None:
    """What is in a machine is changed between runs: a circuit through those that are on it."""
    rules, cp = model.rules, model.cp
    jobs = [j for j in range(rules.jobs) if rules.may[j, m]]
    arcs = [(0, 0, empty := cp.new_bool_var(f"c{m}"))]
    for j in jobs:
        cp.add_implication(model.on[j, m], empty.negated())
        arcs.append((j + 1, j + 1, model.on[j, m].negated()))
        first, last = cp.new_bool_var(f"c{m}.{j}f"), cp.new_bool_var(f"c{m}.{j}l")
        arcs += [(0, j + 1, first), (j + 1, 0, last)]
        cp.add(model.before[j] == START_MIN + int(rules.setup[m, 0, j])).only_enforce_if(first)
        for k in jobs:
            if k == j:
                continue
            follows = cp.new_bool_var(f"c{m}.{j}.{k}")
            arcs.append((j + 1, k + 1, follows))
            cp.add(model.before[k] == START_MIN + int(rules.setup[m, j + 1, k])).only_enforce_if(follows)
            free = model.at[j, 2] + LIFT_MIN
            cp.add(model.start[k] - model.before[k] >= free).only_enforce_if(follows)
    cp.add_circuit(arcs)


def _between(rows: I8, end: int) -> list[tuple[int, int]]:
    """What lies outside of spans (n, 2) within the week."""
    gaps, t = [], 0
    for a, b in sorted(rows.tolist()):
        if a > t:
            gaps.append((t, a))
        t = max(t, b)
    return [*gaps, (t, end)] if t < end else gaps


class Found(NamedTuple):
    """Runs and hands as `woven` gives them, where the solver found any; and what no plan costs less than."""

    runs: I8 | None
    hands: I8 | None
    bound: float


def solved(rules: Rules, hint: tuple[I8, I8], *, seconds: float, workers: int = 2) -> Found:
    """The best that the solver finds in time, from a plan that is there."""
    from ortools.sat.python import cp_model

    cp = cp_model.CpModel()
    model = _Model(rules, cp)
    cp.minimize(sum(_job(model, j) for j in range(rules.jobs)))
    for p, intervals in model.by_person.items():
        asleep = _between(rules.awake[rules.awake[:, 0] == p, 1:], rules.end)
        fixed = [cp.new_fixed_size_interval_var(a, b - a, f"n{p}.{a}") for a, b in asleep]
        cp.add_no_overlap([*intervals, *fixed])
    for m, intervals in model.by_machine.items():
        closed = _between(rules.free[rules.free[:, 0] == m, 1:], rules.end)
        fixed = [cp.new_fixed_size_interval_var(a, b - a, f"x{m}.{a}") for a, b in closed]
        cp.add_no_overlap([*intervals, *fixed])
        if rules.setup[m].any():
            _changes(model, m)
    for s, loads in model.loads.items():
        cp.add_cumulative(loads, [1] * len(loads), int(rules.capacity[s]))
    if not rules.setup.any():
        for before in model.before:
            cp.add(before == START_MIN)
    _hinted(model, hint)
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = workers
    solver.parameters.random_seed = 7
    status = solver.solve(cp)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return Found(None, None, solver.best_objective_bound)
    return Found(*_read(model, solver), solver.best_objective_bound)


def _hinted(model: _Model, hint: tuple[I8, I8]) -> None:
    """Begin from a plan that is there."""
    runs, hands = hint
    for j in range(model.rules.jobs):
        placed = bool(runs[j, 4] < NEVER)
        model.cp.add_hint(model.present[j], placed)
        if not placed:
            continue
        model.cp.add_hint(model.start[j], int(runs[j, 1]))
        for (job, m), literal in model.on.items():
            if job == j:
                model.cp.add_hint(literal, m == runs[j, 0])
        for (job, task), at in model.at.items():
            if job == j and hands[j, task, 0] >= 0:
                model.cp.add_hint(at, int(hands[j, task, 0]))
        for (job, task), chosen in model.who.items():
            if job == j:
                for p, literal in chosen:
                    model.cp.add_hint(literal, p == hands[j, task, 2])


def _read(model: _Model, solver: Any) -> tuple[I8, I8]:
    rules = model.rules
    most = int(np.diff(rules.first).max()) if rules.jobs else 0
    runs = np.full((rules.jobs, 5), NEVER, np.int64)
    hands = np.full((rules.jobs, 3 + most, 3), -1, np.int64)
    for j in range(rules.jobs):
        if not solver.value(model.present[j]):
            continue
        start, before = solver.value(model.start[j]), solver.value(model.before[j])
        lift = solver.value(model.at[j, 2])
        machine = next(m for (job, m), literal in model.on.items() if job == j and solver.value(literal))
        done = lift + LIFT_MIN
        for (job, task), at in model.at.items():
            if job != j:
                continue
            takes = before if task == 0 else LOOK_MIN if task == 1 else LIFT_MIN
            if task >= 3:
                takes = int(rules.steps[rules.first[j] + task - 3, 2])
                done = max(done, solver.value(at) + takes)
            chosen = model.who.get((j, task), [])
            who = next((p for p, literal in chosen if solver.value(literal)), NOBODY)
            hands[j, task] = solver.value(at), takes, who
        runs[j] = machine, start, start + int(rules.hours[j]), lift + LIFT_MIN, done
    return runs, hands
