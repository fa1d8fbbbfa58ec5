"""The made-up log: a season at the club, on two machines, one of which got worse until its film was changed."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np

from ..store import machines, plans, runs
from ..store.db import Store
from ..work.folds import Standing
from ..work.started import begin
from .scenario import STORY


def log_story(store: Store, name: str, plan_id: int, now: datetime) -> None:
    """The runs of one settled plan; nothing where it has runs already."""
    chain = plans.chain(store, plan_id)
    if not chain or chain[-1]["fold"] != "proof" or runs.of_plan(store, plan_id):
        return
    standing = Standing.of(store, plan_id)
    numbers = chain[-1]["evidence"]["numbers"]
    rng = np.random.default_rng(17)
    for entry in STORY[name]:
        begun = (now - timedelta(days=entry.days)).replace(minute=int(rng.integers(0, 60)), second=0, microsecond=0)
        room = {"Lot or bottle": entry.lot, "Film": entry.film, "Room": f"{entry.room_c:g} °C"}
        run = begin(store, standing, begun, room=room)
        if entry.film.startswith("new"):
            machines.new_film(store, chain[0]["choice"]["printer_id"], begun)
        outcome = {
            "result": entry.result,
            "real_s": float(numbers["time_s"] * entry.slower * rng.normal(1.0, 0.012)),
            "real_g": float(numbers["mass_g"] * rng.normal(1.05, 0.04))
            * (1.0 if entry.failed_layer is None else entry.slower),
            "failed_layer": entry.failed_layer,
            "removal": entry.removal,
            "note": entry.note,
            "cause": entry.cause,
        }
        runs.end(store, run, outcome)
