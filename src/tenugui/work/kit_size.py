"""One scale for all parts of a kit: those that are examined take it when one is sized, the others once they are."""

from __future__ import annotations

from ..core.contract import IntakeDoc, SizeChoice
from ..core.plan import copy_of, kept
from ..core.plan.given import MeshGiven
from ..store import figures, plans
from ..store.db import Row, Store
from ..store.plans import Decided
from .folds import Standing, stored
from .shelf import StoreShelf

SHARED = {"factor", "printer_id", "material_id"}


def with_kit(store: Store, plan: Row, settled: SizeChoice) -> list[Decided]:
    """The other parts of a kit take the same factor, printer and material, or they would not fit together."""
    if plan["kit_id"] is None:
        return []
    parts = [part for part in figures.of_kit(store, plan["kit_id"]) if part["id"] != plan["figure_id"]]
    decided = [_sized(store, part, settled, plan["figure_name"], plan["figure_id"]) for part in parts]
    return [one for one in decided if one is not None]


def _sized(store: Store, part: Row, settled: SizeChoice, name: str, figure: int) -> Decided | None:
    """A part as large as another of its kit; None where it is so already, or has not been examined yet."""
    shelf = StoreShelf(store)
    size = Standing.of(store, part["plan_id"]).choice(SizeChoice)
    intake = kept(shelf, "intake", MeshGiven(sha=part["mesh_sha"]), IntakeDoc)
    if intake is None or (size and size.model_dump(include=SHARED) == settled.model_dump(include=SHARED)):
        return None
    way = size.mesh if size else "ready"
    copy = copy_of(shelf, part["mesh_sha"], way)
    if copy is None:
        return None
    up = size.up if size else copy.upright.ups[0].up
    own = {
        "mesh": way,
        "up": up,
        "front": (size and size.front) or copy.front(shelf, up),
        "sha": copy.sha,
        "preview_sha": copy.preview_sha,
        "height_mm": settled.factor * copy.height(shelf, up),
        "eye_z": None,
        "crown_z": None,
    }
    mine = stored(settled.model_copy(update=own))
    evidence = {"numbers": None, "with": figure}
    return Decided(part["plan_id"], "size", mine, evidence, f"With the kit: sized as {name} was")


def late(store: Store, mesh_sha: str) -> None:
    """Parts of kits that were not examined when their kit was sized take its size now; those that somebody has begun
    stay as they are.
    """
    for figure in figures.every(store):
        if figure["mesh_sha"] != mesh_sha or figure["kit_id"] is None or figure["put_away_at"] is not None:
            continue
        parts = figures.of_kit(store, figure["kit_id"])
        mine = next(part for part in parts if part["id"] == figure["id"])
        if Standing.of(store, mine["plan_id"]).choice(SizeChoice) is not None:
            continue
        for other in parts:
            size = Standing.of(store, other["plan_id"]).choice(SizeChoice) if other["id"] != mine["id"] else None
            if size is not None:
                decided = _sized(store, mine, size, other["name"], other["id"])
                if decided is not None:
                    plans.decide_all(store, [decided])
                break
