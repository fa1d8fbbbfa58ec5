"""Kits: parts that belong together, how far each has come, and both ways of a figure that was cut into one."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request

from ..core.contract import IntakeDoc
from ..core.plan import Fold, kept, next_of, spec_of
from ..core.plan.given import MeshGiven
from ..core.worth import priced, rates_of
from ..store import figures, kits, plans
from ..store.db import Row, Store, StoreError
from ..work.folds import Workshop, folds_of
from ..work.shelf import StoreShelf
from ..work.side import Side
from .models import Id, JointRow, Kit, KitPart, NewKit, PartAsk, PartState, WayTaken
from .state import info, store_of

router = APIRouter(prefix="/api/kits", tags=["kits"])
NO_PRINTS = {"whole": 0, "failed": 0, "under_way": 0, "mended": 0}


@router.post("")
def join(request: Request, new: NewKit) -> int:
    """Make a kit of figures that are on the bench, as a folder of files is; returns its number."""
    return figures.join_kit(store_of(request), new.name.strip(), new.figures)


@router.get("/{number}")
def one(request: Request, number: Id) -> Kit:
    """A kit and its parts."""
    store = store_of(request)
    rows = figures.of_kit(store, number)
    if not rows:
        raise StoreError("no-kit", f"There is no kit number {number}.", "Go back to the bench.")
    held = kits.one(store, number)
    numbers = [row["plan_id"] for row in rows]
    chains, workshop, shelf = plans.chains(store, numbers), Workshop.of(store), StoreShelf(store)
    prints, lying = kits.prints_of(store, [row["id"] for row in rows]), kits.on_plates(store, numbers)
    parts = []
    for row in rows:
        document = kept(shelf, "intake", MeshGiven(sha=row["mesh_sha"]), IntakeDoc)
        states = folds_of(row, chains[row["plan_id"]], workshop)
        made = prints.get(row["id"], NO_PRINTS)
        size: dict[str, Any] = next((d["choice"] for d in reversed(chains[row["plan_id"]]) if d["fold"] == "size"), {})
        parts.append(
            KitPart(
                figure_id=row["id"],
                plan_id=row["plan_id"],
                name=row["name"],
                triangles=row["triangles"],
                preview_sha=document.preview_sha if document else row["sight_sha"],
                next=info(spec_of(next_of(states) or "log")),
                state=_state(row, states, made, lies=row["plan_id"] in lying),
                wanted=row["wanted"],
                whole=made["whole"],
                failed=made["failed"],
                by_hand=row["by_hand"],
                process=size.get("process"),
                up=size.get("up"),
            )
        )
    joints = [JointRow(**{k: j[k] for k in JointRow.model_fields}) for j in held["joints"]]
    return Kit(
        id=number,
        name=held["name"],
        placed=bool(held["placed"]),
        parts=parts,
        cut_of=held["cut_of"],
        joints=joints,
        ways=_ways(store, held["cut_of"], numbers, joints) if held["cut_of"] is not None else None,
    )


def _state(row: Row, states: list[Fold], made: Mapping[str, int], *, lies: bool) -> PartState:
    """How far a part has come: by hand, by its prints, by its plan."""
    if row["by_hand"] != "nothing":
        return row["by_hand"]  # type: ignore[no-any-return]
    if made["whole"] >= row["wanted"]:
        return "mended" if made["mended"] else "printed"
    if made["under_way"]:
        return "printing"
    if made["failed"]:
        return "failed"
    proved = any(f.name == "proof" and f.state == "settled" for f in states)
    return "on a plate" if lies and proved else "planned" if proved else "to plan"


def _ways(store: Store, whole: int, parts: list[int], joints: list[JointRow]) -> tuple[WayTaken, WayTaken]:
    """The figure in one piece, and its parts with the work of their joints."""
    return _way(store, [whole], 0.0), _way(store, parts, sum(joint.minutes for joint in joints))


def _way(store: Store, numbers: list[int], more_min: float) -> WayTaken:
    rates = rates_of(None)
    gifts = [Side.of(store, number, None).gift for number in numbers]
    worths = [priced(gift, rates) for gift in gifts if gift is not None]
    whole = 1.0
    for worth in worths:
        whole *= 1 - worth.risk
    return WayTaken(
        hands_min=sum(w.hands_min for w in worths) + more_min,
        machine_h=sum(w.machine_h for w in worths),
        coins=sum(w.total for w in worths) + more_min * rates.minute,
        whole=whole,
        open=sum(gift is None for gift in gifts),
    )


@router.put("/{number}/parts/{figure}")
def say(request: Request, number: Id, figure: Id, asked: PartAsk) -> None:
    """How many of a part are wanted, and what was done with it by hand."""
    kits.say(store_of(request), number, figure, wanted=asked.wanted, by_hand=asked.by_hand)
