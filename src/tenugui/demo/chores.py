"""The demo as jobs that anyone can watch on the bench: figures are sculpted, brought in and planned one by one. Each
may be done again.
"""

from __future__ import annotations

import io
import os
from datetime import datetime
from pathlib import Path
from typing import Any

from ..core.contract import SIGHT_FACES, MarksChoice, pack_mesh
from ..core.formats import load as load_mesh
from ..core.formats import pack_whole, write_3mf
from ..core.mesh import Mesh, cluster
from ..core.plan import FOLDS, Given, Progress
from ..store import blobs, figures, jobs, machines, plans
from ..store.db import Store
from ..work.chores import Done, PlanGiven, chore
from ..work.folds import Standing, stored, want_examined
from ..work.settled import SettledGiven, size_plan, take_recommended
from ..work.shelf import StoreShelf
from .days import lay_days
from .figures import demo_files
from .log import log_story
from .scenario import KIT, LAID, PLANNED, RISE_MM, STORY, Planned


class SculptGiven(Given):
    """`name`: of a figure of the demo."""

    name: str


class SettleGiven(PlanGiven, SculptGiven):
    """The plan of a figure of the demo."""


def folder() -> Path:
    """Where sculpts are kept between starts."""
    return Path(os.environ.get("TENUGUI_STATE", ".state")) / "demo"


def spoken(name: str) -> str:
    """A file's name as people say it."""
    return name.replace("-", " ").capitalize()


def _held(store: Store) -> dict[str, dict[str, Any]]:
    return {row["file_name"]: row for row in figures.every(store)}


@chore("sculpt", SculptGiven)
def sculpt(shelf: StoreShelf, given: SculptGiven, progress: Progress) -> Done:
    """Sculpt one figure, bring it in, and ask for what is planned for it."""
    store, name = shelf.store, given.name
    kept = _held(store).get(f"{name}.stl")
    if kept is None:
        progress(0.1, "sculpting")
        path = demo_files(folder(), [name])[name]
        progress(0.7, "bringing it in")
        with open(path, "rb") as handle:
            sha = blobs.put(store, handle)
            mesh = load_mesh(handle)
        sight = blobs.put_bytes(store, pack_mesh(cluster(mesh, SIGHT_FACES)))
        with store.work() as sql:
            number = figures.add_in(sql, figures.NewFigure(spoken(name), f"{name}.stl", sha, len(mesh.faces), sight))
            plan = plans.create_in(sql, number)
    else:
        number, plan, sha = kept["id"], kept["plan_id"], kept["mesh_sha"]
    want_examined(store, sha, f"Examining {spoken(name)}", number)
    if name in PLANNED:
        jobs.want(
            store,
            "settle",
            {"name": name, "plan": plan},
            key=f"settle-{name}".ljust(64, "-"),
            title=f"Planning {spoken(name)}",
            figure_id=number,
        )
    return {"figure": number}


@chore("sculpt-kit", Given)
def sculpt_kit(shelf: StoreShelf, given: Given, progress: Progress) -> Done:
    """The stilt giant as one 3MF of two parts, each placed, as a sculptor would send it."""
    store = shelf.store
    file, names = KIT
    if file in _held(store):
        return {}
    progress(0.1, "sculpting")
    files = demo_files(folder(), list(names))
    parts = {}
    for name in names:
        with open(files[name], "rb") as handle:
            mesh = load_mesh(handle)
        parts[spoken(name)] = Mesh(mesh.vertices + [0, 0, RISE_MM if name.endswith("upper") else 0], mesh.faces)
    progress(0.8, "bringing it in")
    packed = io.BytesIO()
    write_3mf(parts, packed)
    sha = blobs.put(store, packed)
    rows = [
        (
            name,
            len(mesh.faces),
            blobs.put_bytes(store, pack_whole(mesh)),
            blobs.put_bytes(store, pack_mesh(cluster(mesh, SIGHT_FACES))),
        )
        for name, mesh in parts.items()
    ]
    with store.work() as sql:
        kit = figures.add_kit_in(sql, "Stilt giant", sha, True)
        numbers = []
        for name, faces, mesh_sha, sight in rows:
            number = figures.add_in(sql, figures.NewFigure(name, file, sha, faces, sight, mesh_sha, "mm", kit))
            plans.create_in(sql, number)
            numbers.append((name, number, mesh_sha))
    for name, number, mesh_sha in numbers:
        want_examined(store, mesh_sha, f"Examining {name}", number)
    return {"kit": kit}


@chore("settle", SettleGiven)
def settle(shelf: StoreShelf, given: SettleGiven, progress: Progress) -> Done:
    """Take the recommended alternative of every fold that the scenario wants settled, from where the plan stands."""
    wanted, number = PLANNED[given.name], given.plan
    _size(shelf, wanted, number)
    take_recommended(shelf, number, [s for s in FOLDS if not s.free][1 : wanted.folds], progress)
    if given.name in STORY:
        log_story(shelf.store, given.name, number, datetime.now())
        lay_days(shelf.store, given.name, number, datetime.now())
    return {}


def _size(shelf: StoreShelf, wanted: Planned, number: int) -> None:
    store = shelf.store
    if Standing.of(store, number).fold("size").state == "settled":
        return
    ids = {row["name"]: row["id"] for table in ("printers", "materials") for row in machines.every(store, table)}
    machine, stuff = ids[wanted.printer], ids[wanted.material]
    size_plan(shelf, SettledGiven(plan=number, printer_id=machine, material_id=stuff, height=wanted.height_mm))
    if wanted.marked:
        plans.decide(
            store,
            number,
            "marks",
            choice=stored(MarksChoice.model_validate({"strokes": LAID, "kinds": ["show", "hidden"]})),
            evidence={},
            reason="As the figure itself says",
            expected=Standing.of(store, number).head,
        )
