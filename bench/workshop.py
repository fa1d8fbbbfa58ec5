"""`bench plate` and `bench week`: what the workshop's half takes, beside what else does the same."""

from __future__ import annotations

import json
import time
from datetime import datetime, timedelta
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tenugui.core.plate import Polygon, Shape, nested
from tenugui.core.week import planned, read_week, rules_of
from tenugui.core.week.plan import bettered, orders
from tenugui.core.week.rules import NOBODY, Rules
from tenugui.core.week.simulate import chances, woven
from tenugui.core.week.solve import cost, solved

I8 = NDArray[np.int64]
PLATE, GAP = (200.0, 120.0), 2.0
TURNS = tuple(22.5 * k for k in range(16))


def footprint(rng: np.random.Generator) -> list[Polygon]:
    """Of a leaning figure on supports: a rounded body with an arm or two, 12 to 34 mm across."""
    turn = np.linspace(0, 2 * np.pi, 72, endpoint=False)
    body = rng.uniform(5, 9) * (1 + 0.25 * np.cos(turn - rng.uniform(0, 6)))
    for _ in range(int(rng.integers(1, 3))):
        body = body + rng.uniform(4, 12) * np.exp(
            -(((turn - rng.uniform(0, 6) + np.pi) % (2 * np.pi) - np.pi) ** 2) / 0.09
        )
    return [list(zip((body * np.cos(turn)).tolist(), (body * np.sin(turn)).tolist(), strict=True))]


def _boxes(shapes: list[list[Polygon]]) -> int:
    """Bounding boxes on one plate by a well-kept library's best rule, turned where that helps."""
    import rectpack

    packer = rectpack.newPacker(rotation=True, pack_algo=rectpack.MaxRectsBssf, sort_algo=rectpack.SORT_AREA)
    for k, (outline,) in enumerate(shapes):
        wide, deep = np.ptp(np.array(outline), axis=0) + GAP
        packer.add_rect(float(np.ceil(wide * 10)), float(np.ceil(deep * 10)), k)
    packer.add_bin((PLATE[0] + GAP) * 10, (PLATE[1] + GAP) * 10)
    packer.pack()
    return len(packer[0]) if len(packer) else 0


def _least_boxes(shapes: list[list[Polygon]]) -> list[list[Polygon]]:
    """Each turned to where its box is smallest."""
    found = []
    for (outline,) in shapes:
        points = np.array(outline)
        best = None
        for degrees in TURNS:
            a = np.radians(degrees)
            turned = points @ np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])
            area = float(np.prod(np.ptp(turned, axis=0)))
            if best is None or area < best[0]:
                best = (area, turned)
        assert best is not None
        found.append([[(float(x), float(y)) for x, y in best[1]]])
    return found


def _timed(make: Any) -> tuple[float, Any]:
    best, out = np.inf, None
    for _ in range(3):
        begun = time.perf_counter()
        out = make()
        best = min(best, time.perf_counter() - begun)
    return float(best), out


def plate_table() -> None:
    """Pieces on one plate and the seconds it takes, by number of pieces."""
    print(f"\nPieces on one plate of {PLATE[0]:.0f} by {PLATE[1]:.0f} mm, {GAP:g} mm apart; best of three.\n")
    print("| pieces | nested at 16 turns | on it | facing kept | on it | boxes, their least | on it | gain |")
    print("|---|---|---|---|---|---|---|---|")
    rng = np.random.default_rng(1)
    nested([Shape(footprint(rng), TURNS)], PLATE, GAP)
    for many in (12, 40, 80, 160):
        shapes = [footprint(rng) for _ in range(many)]
        turned, (laid, _) = _timed(lambda s=shapes: nested([Shape(o, TURNS) for o in s], PLATE, GAP, most_plates=1))
        facing, (kept, _) = _timed(lambda s=shapes: nested([Shape(o) for o in s], PLATE, GAP, most_plates=1))
        boxed, boxes = _timed(lambda s=shapes: _boxes(_least_boxes(s)))
        print(
            f"| {many} | {turned:.2f} s | {len(laid)} | {facing:.2f} s | {len(kept)} | {boxed:.2f} s | {boxes} "
            f"| {len(laid) / boxes - 1:+.0%} |"
        )
    one = footprint(rng)
    copies, (laid, _) = _timed(lambda: nested([Shape(one, TURNS)] * 12, PLATE, GAP))
    print(f"\nTwelve copies of one: {copies:.2f} s, {len(laid)} laid.")


def forty(jobs: int = 40, seed: int = 4) -> dict[str, Any]:
    """A week of so many prints on four machines, with three stations and two people."""
    rng, monday = np.random.default_rng(seed), datetime(2026, 11, 30)

    def at(day: float, hour: float) -> str:
        return (monday + timedelta(days=day, hours=hour)).isoformat(timespec="minutes")

    people = [
        {"name": "Aki", "hours": [[at(d, 7), at(d, 9)] for d in range(7)] + [[at(d, 17), at(d, 23)] for d in range(7)]},
        {"name": "Ren", "hours": [[at(d, 9), at(d, 18)] for d in range(5)]},
    ]
    wet = [
        ("wash", "wash", 20, False),
        ("dry", "rack", 30, False),
        ("supports off", None, 25, True),
        ("cure", "lamp", 8, False),
    ]
    dry = [("supports off", None, 20, True), ("sand", None, 30, True)]
    out: dict[str, Any] = {
        "from": at(0, 7), "to": at(7, 0), "people": people, "quiet": [[at(d, 23), at(d + 1, 7)] for d in range(7)],
        "machines": [{"name": name, "setup": {"material": 15}} for name in ("h1", "h2", "k1", "k2")],
        "stations": [{"name": "wash"}, {"name": "rack", "capacity": 4}, {"name": "lamp"}],
        "jobs": [],
    }  # fmt: skip
    for k in range(jobs):
        resin = bool(rng.random() < 0.5)
        job: dict[str, Any] = {
            "name": f"job {k}",
            "machines": ["h1", "h2"] if resin else ["k1", "k2"],
            "hours": float(rng.uniform(2, 9)),
            "risk": float(rng.uniform(0, 0.12)),
            "material": str(rng.choice(["grey", "white"])),
            "first_look_min": 15,
            "after": [
                {"step": s, "station": at_, "minutes": m, "hands": h} for s, at_, m, h in (wet if resin else dry)
            ],
        }
        if rng.random() < 0.6:
            job["due"] = at(int(rng.integers(2, 7)), 20)
        out["jobs"].append(job)
    return out


def _cost_of(rules: Rules, anywhere: I8, order: I8) -> int:
    return cost(rules, woven(rules, order, anywhere)[0])


def week_table() -> None:
    """Seconds of each part, over three sizes, and what the solver adds to the weave."""
    print("\nA week of four machines, three stations, two people, seven days.\n")
    print("| prints | one weave | 60 orders and moves | cost | solver, 2 s | cost | its gap | 1,000 weeks | whole |")
    print("|---|---|---|---|---|---|---|---|---|")
    planned(read_week(json.dumps(forty(3)).encode(), "warm"))
    for jobs in (10, 20, 40):
        ask = read_week(json.dumps(forty(jobs)).encode(), "bench")
        rules = rules_of(ask)
        anywhere = np.full(rules.jobs, NOBODY, np.int64)
        order = orders(rules)[0]
        one, _ = _timed(lambda r=rules, o=order, a=anywhere: woven(r, o, a))
        begun = time.perf_counter()
        first = min(orders(rules), key=partial(_cost_of, rules, anywhere))
        best = bettered(rules, first, 30 * rules.jobs)
        weaving = time.perf_counter() - begun
        found = solved(rules, best, seconds=2.0)
        after = cost(rules, best[0]) if found.runs is None else min(cost(rules, best[0]), cost(rules, found.runs))
        thousand, _ = _timed(lambda r=rules, b=best: chances(r, *b))
        begun = time.perf_counter()
        week = planned(ask)
        whole = time.perf_counter() - begun
        print(
            f"| {jobs} | {one * 1000:.2f} ms | {weaving:.2f} s | {cost(rules, best[0]):,} | 2 s | {after:,} "
            f"| {1 - found.bound / max(1, after):.0%} | {thousand:.2f} s | {whole:.1f} s, {len(week.unplaced)} left |"
        )
