"""What a new engine asks for at its start: figures examined again, plans brought up to date. All of it as jobs that the
bench shows.
"""

from __future__ import annotations

import hashlib

from ..core.plan import engine_of, key_of, task_names
from ..core.plan.given import MeshGiven
from ..store import figures, jobs, plans, results
from ..store.db import Store
from .chores import outdated
from .folds import Standing, Workshop, folds_of, want_examined


def ask_for_upkeep(store: Store) -> int:
    """Jobs for figures on the bench whose examination is missing, and for plans whose decisions rest on an older
    engine; how many.

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
        if not row["plan_id"]:
            continue
        chain = chains[row["plan_id"]]
        standing = Standing(row, chain, folds_of(row, chain, workshop), workshop)
        if outdated(standing):
            name = hashlib.sha256(f"refresh {row['plan_id']} {engine}".encode()).hexdigest()
            if not jobs.last_of(store, name):
                jobs.want(
                    store,
                    "refresh",
                    {"plan": row["plan_id"]},
                    key=name,
                    title=f"Bringing {row['name']} up to date",
                    figure_id=row["id"],
                )
                asked += 1
    return asked
