"""What a new engine asks for at its start: figures examined again, plans brought up to date. All of it as jobs that the
bench shows.
"""

from __future__ import annotations

import hashlib

from ..core.plan import engine_of, key_of, task_names
from ..core.plan.given import MeshGiven
from ..store import figures, jobs, plans, results
from ..store.db import Row, Store
from .chores import outdated
from .folds import Standing, Workshop, folds_of, want_examined


def ask_for_upkeep(store: Store) -> int:
    """Jobs for figures on the bench whose examination is missing, and for plans whose decisions rest on an older
    engine (the newest of each figure, and others that were proved); how many.

    A figure whose examination failed by this engine is not tried again: its card says why, and offers it.
    """
    asked = 0
    workshop = Workshop.of(store)
    engine = hashlib.sha256("".join(engine_of(name) for name in task_names()).encode()).hexdigest()
    on_it = figures.on_bench(store)
    chains = plans.chains(store, [row["plan_id"] for row in on_it if row["plan_id"]])
    for row in on_it:
        key = key_of("intake", MeshGiven(sha=row["mesh_sha"]))
        there = results.has(store, key)
        if not (row["picture_sha"] if there else jobs.last_of(store, key)):
            want_examined(store, row["mesh_sha"], f"Examining {row['name']}", row["id"])
            asked += not there
        if row["plan_id"]:
            asked += _refreshed(store, _standing(row, chains[row["plan_id"]], workshop), row, engine)
    stands = {row["plan_id"] for row in on_it}
    # Others that were proved lie on plates, in weeks, or are gone back to; the newest is what somebody is at.
    others = {row["id"] for row in (*plans.proved(store), *plans.newest_of_each(store))} - stands
    for number, chain in plans.chains(store, sorted(others)).items():
        row = plans.one(store, number)
        told = {"plan_id": number, "id": row["figure_id"], "name": f"{row['figure_name']}, plan {row['number']}"}
        asked += _refreshed(store, _standing(row, chain, workshop), told, engine)
    return asked


def _standing(plan: Row, chain: list[Row], workshop: Workshop) -> Standing:
    return Standing(plan, chain, folds_of(plan, chain, workshop), workshop)


def _refreshed(store: Store, standing: Standing, told: Row, engine: str) -> int:
    """Ask for a plan to be brought up to date where it rests on an older engine; 1 where it was asked for."""
    name = hashlib.sha256(f"refresh {told['plan_id']} {engine}".encode()).hexdigest()
    if not outdated(standing) or jobs.last_of(store, name):
        return 0
    title = f"Bringing {told['name']} up to date"
    jobs.want(store, "refresh", {"plan": told["plan_id"]}, key=name, title=title, figure_id=told["id"])
    return 1
