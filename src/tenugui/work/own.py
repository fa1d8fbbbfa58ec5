"""Settings that a plan has of its own, beside those of the shelf."""

from __future__ import annotations

from ..core.contract import SizeChoice
from ..core.machines import Own
from ..core.machines.own import TABLES, checked, told
from ..store.db import StoreError
from .folds import Standing, own_of


def own_beside(standing: Standing, more: Own) -> Own:
    """What a plan and these settings come to together, as another plan of its machine would have them.

    Raises:
        StoreError: `fold-open` where it has no size, and so no machine, yet.
        MachineError: `not-settable`, `bad-field`: its machine cannot print so.
    """
    size = standing.choice(SizeChoice)
    if size is None:
        raise StoreError("fold-open", "The plan has no machine yet.", "Settle its size first.", 409)
    before = own_of(standing.plan)
    own: Own = {table: {**before.get(table, {}), **more.get(table, {})} for table in TABLES}
    shelf = standing.workshop
    return checked(own, shelf.printers[size.printer_id], shelf.materials[size.material_id])


def own_told(standing: Standing) -> list[tuple[str, float, str]]:
    """What a plan sets otherwise than the shelf in words: title, value, unit."""
    process = process_of(standing)
    return told(own_of(standing.plan), process) if process is not None else []


def process_of(standing: Standing) -> str | None:
    """Of the plan's machine, where that is chosen."""
    size = standing.choice(SizeChoice)
    return None if size is None else str(standing.workshop.printers[size.printer_id]["process"])
