"""Nights: figures of the bench planned on several machines while nobody looks on, and the table in the morning."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from fastapi import APIRouter, Request

from ..core.contract import Refusal
from ..core.contract.night import NightRow
from ..core.plan import kept, key_of
from ..core.plan.given import OvernightGiven
from ..core.plan.night import Night, best_of, chosen, composed, wants_a_look
from ..store import figures, jobs, machines, nights, plans
from ..store.db import Row, Store, StoreError
from ..work.folds import Workshop, want
from ..work.settled import SettledGiven
from ..work.shelf import StoreShelf
from .models import Id
from .nights_models import (
    NightAsk,
    NightAsked,
    NightFigureRow,
    NightLimits,
    NightListed,
    NightState,
    NightTake,
    NightTaken,
)
from .state import store_of

router = APIRouter(prefix="/api/nights", tags=["nights"])
UNDER_WAY = ("waiting", "running")


@dataclass(frozen=True)
class _Held:
    """A night, with its figures that are still on the bench and what each asks of the engine."""

    store: Store
    row: Row

    @staticmethod
    def of(store: Store, number: int) -> _Held:
        return _Held(store, nights.one(store, number))

    @cached_property
    def asked(self) -> NightAsked:
        return NightAsked.model_validate(self.row["asked"])

    @cached_property
    def specs(self) -> tuple[tuple[dict[str, object], dict[str, object]], ...]:
        workshop = Workshop.of(self.store)
        return tuple((workshop.printers[m.printer_id], workshop.materials[m.material_id]) for m in self.asked.machines)

    @cached_property
    def night(self) -> Night:
        a = self.asked
        return Night(self.specs, a.height_mm, most_risk=a.most_risk, most_hours=a.most_hours)

    @cached_property
    def figures(self) -> list[Row]:
        there = {row["id"]: row for row in figures.every(self.store) if row["put_away_at"] is None}
        return [there[number] for number in self.row["figures"] if number in there]

    def given(self, figure: Row) -> OvernightGiven:
        worked = figure["ready_sha"] or figure["mesh_sha"]
        return OvernightGiven(sha=figure["mesh_sha"], worked=worked, machines=self.specs, height=self.asked.height_mm)

    def planned(self, figure: Row) -> NightRow | None:
        """A figure's row at the night's limits."""
        row = kept(StoreShelf(self.store), "overnight", self.given(figure), NightRow)
        doubled = sum(other["name"] == figure["name"] for other in self.figures) > 1
        name = f"{figure['name']} ({figure['id']})" if doubled else figure["name"]
        return None if row is None else chosen(row.model_copy(update={"file": name}), self.night)

    def go_on(self) -> None:
        """Ask for every row that is not there."""
        for figure in self.figures:
            want(self.store, "overnight", self.given(figure), f"Over night: {figure['name']}", figure["id"])

    def jobs(self) -> Iterator[tuple[Row, Row | None]]:
        for figure in self.figures:
            yield figure, jobs.last_of(self.store, key_of("overnight", self.given(figure)))

    def state(self) -> NightState:
        told = [_told(figure, self.planned(figure), job) for figure, job in self.jobs()]
        rows = [one.row for one in told if one.row is not None]
        plates, unplaced = composed(rows)
        # What a way needs to be laid on a plate was needed here, and is no business of the page's.
        shown = [one.model_copy(update={"row": None if one.row is None else _shown(one.row)}) for one in told]
        return NightState(
            id=self.row["id"],
            begun_at=self.row["begun_at"],
            asked=self.asked,
            rows=shown,
            plates=plates,
            unplaced=unplaced,
            hours=sum(plate.time_s for plate in plates) / 3600,
            planned=sum(best_of(row) is not None for row in rows),
            looked_first=sum(map(wants_a_look, rows)) + sum(one.state == "failed" for one in told),
        )


def _shown(row: NightRow) -> NightRow:
    return row.model_copy(update={"ways": [way.model_copy(update={"plan": {}}) for way in row.ways]})


def _told(figure: Row, row: NightRow | None, job: Row | None) -> NightFigureRow:
    told = NightFigureRow(
        figure_id=figure["id"], name=figure["name"], state="open", share=0.0, doing="", problem=None, row=row
    )
    if row is not None:
        return told.model_copy(update={"state": "planned", "share": 1.0})
    if job is None or job["state"] not in (*UNDER_WAY, "failed") or job["cancel_wanted"]:
        return told
    problem = None if job["problem"] is None else Refusal.model_validate(job["problem"])
    more = {"state": job["state"], "share": job["share"], "doing": job["doing"], "problem": problem}
    return told.model_copy(update=more)


@router.get("")
def every(request: Request) -> list[NightListed]:
    """The latest nights, newest first."""
    return [
        NightListed(id=row["id"], begun_at=row["begun_at"], figures=len(row["figures"]))
        for row in nights.every(store_of(request))
    ]


@router.post("")
def begin(request: Request, asked: NightAsk) -> NightState:
    """Have figures planned on every machine that is named, one after another, behind whatever somebody waits for."""
    store = store_of(request)
    wanted = list(dict.fromkeys(asked.figures))
    for number in wanted:
        _refuse_unexamined(figures.one(store, number))
    _refuse_machines(store, asked)
    number = nights.add(store, asked.model_dump(mode="json", exclude={"figures"}), wanted)
    held = _Held.of(store, number)
    held.go_on()
    return held.state()


def _refuse_machines(store: Store, asked: NightAsk) -> None:
    seen = set[tuple[int, int]]()
    for m in asked.machines:
        printer = machines.one(store, "printers", m.printer_id)
        material = machines.one(store, "materials", m.material_id)
        if printer["spec"]["process"] != material["spec"]["process"]:
            what = f"'{material['name']}' is no material for '{printer['name']}'."
            raise StoreError("other-process", what, "Choose one of its own process.", 422)
        if (m.printer_id, m.material_id) in seen:
            what = f"'{printer['name']}' is named twice with the same material."
            raise StoreError("twice", what, "Name it once.", 422)
        seen.add((m.printer_id, m.material_id))


def _refuse_unexamined(figure: Row) -> None:
    if figure["picture_sha"] is None:
        what = f"'{figure['name']}' is not examined yet, or cannot be."
        raise StoreError("not-examined", what, "Wait for it, or leave it out.", 409)


@router.get("/{number}")
def one(request: Request, number: Id) -> NightState:
    """A night as it stands."""
    return _Held.of(store_of(request), number).state()


@router.put("/{number}/limits")
def limit(request: Request, number: Id, limits: NightLimits) -> NightState:
    """Hold the same plans to other limits: nothing is computed again."""
    store = store_of(request)
    asked = _Held.of(store, number).asked.model_copy(update=limits.model_dump())
    nights.ask(store, number, asked.model_dump(mode="json"))
    return _Held.of(store, number).state()


@router.post("/{number}/go-on")
def go_on(request: Request, number: Id) -> NightState:
    """Ask again for whatever is not there: what was stopped, failed, or was planned by another engine."""
    held = _Held.of(store_of(request), number)
    held.go_on()
    return held.state()


@router.post("/{number}/stop")
def stop(request: Request, number: Id) -> NightState:
    """Stop what is under way or waits; what is planned is kept."""
    held = _Held.of(store_of(request), number)
    for _, job in held.jobs():
        if job is not None and job["state"] in UNDER_WAY:
            jobs.cancel(held.store, job["id"])
    return held.state()


@router.post("/{number}/take")
def take(request: Request, number: Id, asked: NightTake) -> NightTaken:
    """Make a plan of a way: another of its figure's, decided as the night did, whose boards are there already."""
    held = _Held.of(store_of(request), number)
    figure = next((f for f in held.figures if f["id"] == asked.figure_id), None)
    row = None if figure is None else held.planned(figure)
    if figure is None or row is None or asked.way >= len(row.ways):
        raise StoreError("no-way", "The night has no such way of this figure.", "Look at its table again.", 404)
    way = row.ways[asked.way]
    machine = next(
        m
        for m, (printer, material) in zip(held.asked.machines, held.specs, strict=True)
        if (printer["name"], material["name"]) == (way.printer, way.material)
    )
    plan = plans.create(held.store, figure["id"])
    given = SettledGiven(
        plan=plan, printer_id=machine.printer_id, material_id=machine.material_id, height=held.asked.height_mm
    )
    job = jobs.want(
        held.store,
        "settled",
        given.plain(),
        key=f"settled-{plan}".ljust(64, "-"),
        title=f"Taking what was planned of {figure['name']} over night",
        figure_id=figure["id"],
    )
    return NightTaken(plan_id=plan, job_id=job)
