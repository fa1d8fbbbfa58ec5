"""The made-up log: two weeks at the club, on two machines."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np

from ..store import plans, runs
from ..store.db import Store
from .scenario import STORY


def log_story(store: Store, name: str, plan_id: int, now: datetime) -> None:
    """The runs of one settled plan; nothing where it has runs already."""
    chain = plans.chain(store, plan_id)
    if not chain or chain[-1]["fold"] != "proof" or runs.of_plan(store, plan_id):
        return
    numbers, size = chain[-1]["evidence"]["numbers"], chain[0]["choice"]
    rng = np.random.default_rng(17)
    for entry in STORY[name]:
        begun = (now - timedelta(days=entry.days)).replace(minute=int(rng.integers(0, 60)), second=0, microsecond=0)
        planned = (numbers["time_s"], numbers["mass_g"], numbers["risk"], numbers.get("film_share", 0.0))
        run = runs.start(
            store,
            plan_id,
            chain[-1]["id"],
            printer_id=size["printer_id"],
            material_id=size["material_id"],
            planned=planned,
            started_at=begun,
        )
        outcome = {
            "result": entry.result,
            "real_s": float(numbers["time_s"] * entry.slower * rng.normal(1.0, 0.012)),
            "real_g": float(numbers["mass_g"] * rng.normal(1.05, 0.04))
            * (1.0 if entry.failed_layer is None else entry.slower),
            "failed_layer": entry.failed_layer,
            "removal": entry.removal,
            "note": entry.note,
        }
        runs.end(store, run, outcome)
