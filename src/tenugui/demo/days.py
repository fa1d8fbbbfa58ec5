"""What is wanted of a figure in the days to come: its orders, and its plate."""

from __future__ import annotations

from datetime import datetime, timedelta

from ..store import machines, orders, plates
from ..store.db import Store
from .scenario import ORDERS, PLANNED, PLATES


def lay_days(store: Store, name: str, plan_id: int, now: datetime) -> None:
    """Orders and the plate of a figure, from its plan; those that are there already stay as they are."""
    there = {row["name"] for row in orders.every(store)}
    for wanted in ORDERS.get(name, ()):
        if wanted.name in there:
            continue
        due = (now + timedelta(days=wanted.days)).replace(hour=wanted.hour, minute=0, second=0, microsecond=0)
        orders.add(
            store,
            {
                "name": wanted.name,
                "plan_id": plan_id,
                "plate_id": None,
                "copies": wanted.copies,
                "due": due,
                "chance": 0.9,
                "goes": wanted.goes,
            },
        )
    if name in PLATES and not any(row["name"] == PLATES[name][0] for row in plates.every(store)):
        called, copies = PLATES[name]
        printer = next(row["id"] for row in machines.every(store, "printers") if row["name"] == PLANNED[name].printer)
        pieces = [{"plan_id": plan_id, "copies": copies}]
        plates.add(store, called, printer, {"gap_mm": 2.0, "rates": "evening", "pieces": pieces})
