"""Ask for the demo: machines at once, everything else as jobs."""

from __future__ import annotations

from ..core.machines import material_presets, printer_presets
from ..store import figures, jobs, machines
from ..store.db import Store
from .chores import spoken
from .scenario import KIT, PLANNED, WAITING

STOCK_G = 850.0


def load_machines(store: Store) -> None:
    """The shipped presets, where they are missing."""
    for table, presets in (("printers", printer_presets()), ("materials", material_presets())):
        names = {row["name"] for row in machines.every(store, table, retired=True)}
        for name, preset in presets.items():
            if name not in names:
                machines.keep(
                    store, table, preset.model_dump(mode="json"), stock_g=STOCK_G if table == "materials" else None
                )


def ask_for_demo(store: Store) -> int:
    """Jobs for what is not there yet; taken up again where an earlier start was interrupted. How many were asked for.

    What a newcomer should see first is sculpted first.
    """
    names = {row["file_name"] for row in figures.every(store)}
    asked = 0
    for name in (*PLANNED, *WAITING):
        if f"{name}.stl" not in names:
            jobs.want(
                store, "sculpt", {"name": name}, key=f"sculpt-{name}".ljust(64, "-"), title=f"Sculpting {spoken(name)}"
            )
            asked += 1
    if KIT[0] not in names:
        jobs.want(
            store, "sculpt-kit", {}, key="sculpt-kit".ljust(64, "-"), title="Sculpting Stilt giant, a kit of two parts"
        )
        asked += 1
    return asked
