"""What is left of each material: by bottles and spools where they are kept by lot, else by what was counted once."""

from __future__ import annotations

from ..core.learn import left_of
from ..core.learn.lots import Lot, Step, Use, levels
from ..store import lots, machines, runs
from ..store.db import Row, Store


def lot_of(row: Row) -> Lot:
    """A lot as it is kept."""
    steps = tuple(Step(step["did"], step["amount"], step["at"]) for step in row["steps"])
    return Lot(row["name"], row["amount"], row["opened_at"], steps)


def uses_by_material(store: Store) -> dict[int, list[Use]]:
    """What the log's runs took of each material, in the order of time."""
    taken: dict[int, list[Use]] = {}
    for row in lots.uses(store):
        use = Use(float(row["grams"]), row["started_at"], row["lot"] or "")
        taken.setdefault(row["material_id"], []).append(use)
    return taken


def left_by_material(store: Store) -> dict[int, float | None]:
    """Grams left of every material that is in use; None where nobody has counted."""
    kept: dict[int, list[Row]] = {}
    for row in lots.every(store):
        if row["kind"] == "material":
            kept.setdefault(row["material_id"], []).append(row)
    taken = uses_by_material(store) if kept else {}
    used = runs.used_g(store)
    return {
        row["id"]: sum(level.left for level in levels([lot_of(lot) for lot in mine], taken.get(row["id"], [])))
        if (mine := kept.get(row["id"]))
        else left_of(row["stock_g"], used.get(row["id"], 0.0))
        for row in machines.every(store, "materials")
    }
