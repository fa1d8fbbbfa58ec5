"""The hidden nature of simulated machines: the same whenever they start, different from what is believed, and found by
what the log learns.
"""

from __future__ import annotations

import ast
import math
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pytest

from tenugui.core.contract.learn import learnt_of
from tenugui.core.hazards import kinds
from tenugui.core.learn import Logged, Told, ratio_of
from tenugui.machine.nature import ALL, TRAITS, Nature, Threat
from tests.test_machine import machine_with

MACHINES = [Nature.of(f"resin machine {k}") for k in range(400)]
PULL = Threat("pull", 0.1, 200, "print lost", "it was torn off")
SWAY = Threat("sway", 0.1, 40, "part lost", "a spear swayed")


def test_every_hazard_asks_a_trait() -> None:
    assert set(TRAITS) <= set(kinds()) and set(TRAITS.values()) < set(ALL)


def test_machines_differ_about_what_is_believed_of_their_kind() -> None:
    assert Nature.of("resin machine 3") == MACHINES[3] and len({m.seed for m in MACHINES}) == 400
    logs = np.array([[math.log(m.odds[trait]) for trait in ALL] for m in MACHINES])
    assert np.abs(logs.mean(axis=0)).max() < 0.13 and logs.std() == pytest.approx(0.7, rel=0.08)
    assert abs(np.corrcoef(logs.T)[np.triu_indices(len(ALL), 1)]).max() < 0.18, "one trait says nothing of another"
    assert float(np.std([math.log(m.hours) for m in MACHINES])) == pytest.approx(0.07, rel=0.12)


def test_a_chance_is_turned_by_odds_and_grows_with_wear() -> None:
    machine = MACHINES[0]
    odds = 0.1 / 0.9 * machine.odds["hold"]
    assert machine.chance(PULL, 0) == pytest.approx(odds / (1 + odds)) == machine.chance(PULL, machine.wears_after)
    worn = odds * (1 + 50 * machine.wears)
    assert machine.chance(PULL, machine.wears_after + 50) == pytest.approx(worn / (1 + worn))
    never, sure = (machine.chance(Threat("pull", p, 1, "", ""), 0) for p in (0.0, 1.0))
    assert never == 0.0 and 0.9 < sure < 1.0


def test_what_comes_true_first_in_the_order_of_layers_is_the_fate() -> None:
    machine = MACHINES[1]
    prints = [machine.fate([PULL, SWAY], before % machine.wears_after) for before in range(machine.wears_after)]
    many = [Nature.of(f"another {k}") for k in range(300)]
    fates = [m.fate([PULL, SWAY], 3) for m in many]
    sway = float(np.mean([m.chance(SWAY, 3) for m in many]))
    pull = float(np.mean([(1 - m.chance(SWAY, 3)) * m.chance(PULL, 3) for m in many]))
    for why, expected in (("a spear swayed", sway), ("it was torn off", pull)):
        share = sum(f is not None and f.why == why for f in fates) / len(many)
        assert abs(share - expected) < 4 * math.sqrt(expected / len(many))
    assert prints == [machine.fate([SWAY, PULL], before) for before in range(machine.wears_after)], "told in any order"
    assert machine.fate([], 0) is None


def season(machine: Nature, threats: Sequence[Threat], prints: int) -> tuple[list[Logged], list[Told]]:
    """What a log says of so many prints with new films throughout."""
    runs, told = [], []
    for k in range(prints):
        before = k % machine.wears_after
        rng = np.random.default_rng([machine.seed, k, 9])
        struck = next((t for t in threats if rng.random() < machine.chance(t, before)), None)
        hours = 7200 * machine.takes(k)
        runs.append(Logged(7200, 0.1, hours if struck is None else None, "print lost" if struck else "good"))
        told.append(Told({t.code: t.chance for t in threats}, None if struck is None else struck.code))
    return runs, told


def test_hours_and_causes_of_hidden_natures_are_learned_from_their_log() -> None:
    """95 % intervals hold the truth of 150 machines; and what is twice as bad and more is named within sixty prints."""
    hours, causes, bad, named = 0, 0, 0, 0
    for machine in MACHINES[:150]:
        runs, told = season(machine, [PULL], 60)
        ratio = ratio_of(runs)
        hours += ratio.low <= machine.hours <= ratio.high
        (pull,) = learnt_of(told)
        # A cause is learned as how many times as often it comes; odds are turned, so the truth is asked of the chance.
        times = math.log(1 - machine.chance(PULL, 0)) / math.log(0.9)
        causes += pull.low <= times <= pull.high
        if times > 2.5:
            bad += 1
            named += pull.low > 1
    assert hours > 0.9 * 150 and causes > 0.9 * 150
    assert bad > 5 and named > 0.7 * bad


def test_nothing_that_plans_reads_a_nature() -> None:
    home = Path(__file__).resolve().parents[1] / "src" / "tenugui"
    readers = {
        path.relative_to(home).parts[0]
        for path in home.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.ImportFrom) and (node.module or "").split(".")[-1] == "nature"
    }
    assert readers == {"machine"}


def test_a_machine_takes_its_own_time_and_its_own_fate() -> None:
    always = [Threat("pull", 0.999, 4, "print lost", "it was torn off")]
    slow = next(m for m in MACHINES if m.hours > 1.1)
    machine, clock = machine_with(slow)
    planned = machine.state()["of_s"]
    machine.begin(always, 0)
    took = machine.state()["of_s"]
    assert took > planned and took == pytest.approx(planned * slow.takes(0), rel=0.2)
    machine.cancel()
    machine.begin(always, 0)
    assert machine.state()["of_s"] == pytest.approx(took), "a second start is no slower than the first"
    clock.now += 1e6
    assert machine.look()["loss"] in ("print lost", "good")
    assert machine.look()["loss"] == ("print lost" if slow.fate(always, 0) else "good")
