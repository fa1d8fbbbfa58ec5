"""From orders, machines and people's hours to the week that is asked for."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

import orjson

from ..core.contract import HeldDoc, ProofBoard
from ..core.finish import MENDED, Finishing, steps_of, steps_until
from ..core.learn import WHOLE, Logged, hours_of
from ..core.plan import kept
from ..core.plan.given import ProofGiven
from ..core.plan.off_plate import off_plate
from ..core.week import JobAsk, MachineAsk, PersonAsk, Span, StationAsk, WeekAsk, WeeklyHours, spans_of, without
from ..store import house, machines, orders, plates, runs
from ..store.db import Row, Store, StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from .counted import Known, standings
from .logged import logged_of, real
from .plate_view import Sight, made_of
from .plates_models import Body
from .week_models import House, RunningRow

TWO_SIDED = 1.959964
FIRST = 1000
"""By so much the minutes of what goes before all others weigh more."""
FIRST_LOOK_MIN = 15.0
"""Prior: a run is looked at after so many minutes, when its first layers are there."""
LATEST_RUNS = 2000
USUAL = House.model_validate(
    {
        "people": [
            {
                "name": "me",
                "hours": [
                    {"days": [0, 1, 2, 3, 4], "begin": "06:30", "end": "08:00"},
                    {"days": [0, 1, 2, 3, 4], "begin": "17:30", "end": "22:30"},
                    {"days": [5, 6], "begin": "08:30", "end": "22:30"},
                ],
            }
        ],
        "stations": [
            {"name": "wash", "kind": "wash", "capacity": 1},
            {"name": "drying rack", "kind": "drying", "capacity": 6},
            {"name": "lamp", "kind": "lamp", "capacity": 1},
        ],
        "quiet": [{"days": [0, 1, 2, 3, 4, 5, 6], "begin": "22:30", "end": "06:30"}],
        "machines": [],
        "days": 7,
        "change_min": 15.0,
    }
)
"""Priors: until somebody says otherwise, one person with a day's work, and a station of each kind."""


def house_of(store: Store) -> tuple[House, int]:
    """People's hours and stations as they were set, or the usual ones; and their version."""
    body, version = house.get(store, "week")
    return (USUAL if body is None else House.model_validate(body)), version


@dataclass
class Wanted:
    """An order with the jobs that are still to be made, or why there are none."""

    row: Row
    jobs: list[JobAsk] = field(default_factory=list)
    nth: list[int] = field(default_factory=list)
    said: str = ""


@dataclass(frozen=True)
class Asked:
    """The week that is asked for; `essence`: of all that matters but for the clock."""

    ask: WeekAsk | None
    wanted: list[Wanted]
    running: list[RunningRow]
    essence: str
    nothing: str


def begin_of(now: datetime) -> datetime:
    """The next five minutes."""
    floor = now.replace(second=0, microsecond=0)
    return floor + timedelta(minutes=-floor.minute % 5)


def asked_of(store: Store, known: Known, now: datetime) -> Asked:
    """What is to be woven from now on."""
    asked, _ = house_of(store)
    start = begin_of(now)
    end = (start + timedelta(days=asked.days)).replace(hour=0, minute=0) + timedelta(days=1)
    shelf = {row["id"]: row for row in machines.every(store, "printers")}
    log = runs.every(store, LATEST_RUNS)
    by_printer: dict[int, list[Logged]] = {}
    for row in real(log):
        by_printer.setdefault(row["printer_id"], []).append(logged_of(row))
    speed = {number: hours_of(by_printer.get(number, [])) for number in shelf}
    running = _running(log, speed, now)
    names = {row["name"] for row in shelf.values()}
    counted = _Counted(log, {r.run_id for r in running})
    wanted = [_wanted(store, known, counted.of(order), speed) for order in orders.every(store)]
    jobs = [job for one in wanted for job in one.jobs]
    if not jobs:
        waits = [one.said for one in wanted if one.said]
        nothing = waits[0] if waits else "Nothing is ordered: say what is wanted by when."
        return Asked(None, wanted, running, _essence([asked.model_dump(mode="json")]), nothing)
    if not asked.people:
        return Asked(None, wanted, running, "", "Nobody is ever there: say who is, and when.")
    ask = WeekAsk(
        start=start,
        end=end,
        machines=[_machine(row, asked, running, log, (start, end)) for row in shelf.values()],
        stations=[StationAsk(**s.model_dump()) for s in asked.stations],
        people=[PersonAsk(name=p.name, hours=spans_of(p.hours, start, end)) for p in asked.people],
        quiet=spans_of(asked.quiet, start, end),
        jobs=_at_stations(jobs, {s.kind for s in asked.stations}),
        zone=asked.zone or None,
    )
    told = [asked.model_dump(mode="json"), [job.model_dump(mode="json") for job in jobs]]
    return Asked(ask, wanted, running, _essence([*told, [r.run_id for r in running], sorted(names)]), "")


def _essence(told: list[Any]) -> str:
    return hashlib.sha256(orjson.dumps(told, option=orjson.OPT_SORT_KEYS)).hexdigest()


def _at_stations(jobs: Iterable[JobAsk], kinds: set[str]) -> list[JobAsk]:
    """Where there is no station of a kind, its step is done wherever there is room."""
    return [
        job.model_copy(
            update={"after": [s if s.station in kinds else s.model_copy(update={"station": None}) for s in job.after]}
        )
        for job in jobs
    ]


class _Counted:
    """Which runs of the log count for which order: those of its plan since it was ordered that came off whole, and
    those that stand on a machine; each for one order, what is due first before.
    """

    def __init__(self, log: list[Row], standing: set[int]) -> None:
        self.log = [row for row in log if not row["simulated"]]
        self.standing = standing
        self.taken: set[int] = set()

    def of(self, order: Row) -> Row:
        """An order with what is made of it, and what of it is under way."""
        mine = [
            row
            for row in self.log
            if row["plan_id"] is not None
            and row["plan_id"] == order["plan_id"]
            and row["started_at"] >= order["created_at"]
            and row["id"] not in self.taken
        ]
        made = [row["id"] for row in mine if row["result"] in WHOLE or row["mended"] in MENDED][: order["copies"]]
        under_way = [row["id"] for row in mine if row["id"] in self.standing][: order["copies"] - len(made)]
        self.taken.update(made, under_way)
        return order | {"made": max(order["made"], len(made)), "under_way": len(under_way)}


def _running(log: list[Row], speed: dict[int, Any], now: datetime) -> list[RunningRow]:
    """What stands on a machine: begun, and not told how it ended. One whose time is long over was forgotten."""
    found: dict[str, RunningRow] = {}
    for row in log:
        if row["simulated"] or row["result"] is not None or row["printer_id"] not in speed:
            continue
        ends = row["started_at"] + timedelta(seconds=row["planned_s"] * speed[row["printer_id"]].ratio)
        if row["started_at"] <= now < ends and row["printer_name"] not in found:
            found[row["printer_name"]] = RunningRow(
                run_id=row["id"],
                figure_name=row["figure_name"],
                machine=row["printer_name"],
                started_at=row["started_at"],
                ends_at=ends,
            )
    return list(found.values())


def _machine(row: Row, asked: House, running: list[RunningRow], log: list[Row], week: Span) -> MachineAsk:
    start, end = week
    own = next((m.hours for m in asked.machines if m.name == row["name"]), [])
    free: list[Span] = spans_of(own, start, end) if own else [(start, end)]
    busy = [(start, r.ends_at) for r in running if r.machine == row["name"] and r.ends_at > start]
    last = next((r["material_name"] for r in log if r["printer_id"] == row["id"] and not r["simulated"]), None)
    return MachineAsk(
        name=row["name"],
        free=without(free, busy),
        setup={"material": asked.change_min},
        has={} if last is None else {"material": last},
    )


def _wanted(store: Store, known: Known, order: Row, speed: dict[int, Any]) -> Wanted:
    one = Wanted(order)
    begun = order["made"] + order["under_way"]
    if begun >= order["copies"]:
        one.said = f"'{order['name']}' is {'under way' if order['under_way'] else 'made'}."
        return one
    try:
        if order["plate_id"] is not None:
            rows = _of_plate(store, known, order["plate_id"])
        elif order["plan_id"] is not None:
            rows = [_of_plan(store, order["plan_id"])]
        else:
            one.said = f"What '{order['name']}' was of is gone."
            return one
    except StoreError as reason:
        one.said = f"'{order['name']}': {reason.what}"
        return one
    for nth in range(begun + 1, order["copies"] + 1):
        for k, row in enumerate(rows):
            pin = order["pins"].get(str(nth), {})
            number = f" {nth}" if order["copies"] > 1 else ""
            plate = f", plate {k + 1}" if len(rows) > 1 else ""
            hours = speed.get(row.printer_id) or hours_of([])
            one.nth.append(nth)
            one.jobs.append(
                JobAsk(
                    name=f"{order['name'][:90]}{number}{plate} ({order['id']})",
                    machines=[row.machine],
                    hours=row.time_s * hours.ratio / 3600,
                    spread=math.log(hours.high / hours.low) / (2 * TWO_SIDED),
                    risk=min(0.95, row.risk),
                    after=row.after(order["goes"]),
                    due=order["due"],
                    first_look_min=FIRST_LOOK_MIN if row.time_s > 3600 else None,
                    not_before=pin.get("not_before"),
                    weight=FIRST if pin.get("first") else 1,
                    material=row.material,
                )
            )
    return one


@dataclass(frozen=True)
class _Print:
    machine: str
    printer_id: int
    material: str
    time_s: float
    risk: float
    work: Finishing | None

    def after(self, goes: Any) -> list[Any]:
        return [] if self.work is None else steps_until(steps_of(self.work, "before"), goes)


def _of_plan(store: Store, number: int) -> _Print:
    """What a plan's print takes.

    Raises:
        StoreError: `no-plan`, `not-proved`.
    """
    standing = Standing.of(store, number)
    if standing.fold("proof").state != "settled":
        what = "its plan has not been accepted in the fold Proof as it stands."
        raise StoreError("not-proved", what, "Accept the proof first.", 409)
    given = standing.given("proof").to(ProofGiven)
    shelf = StoreShelf(store)
    board, held = kept(shelf, "proof", given, ProofBoard), kept(shelf, "held", given, HeldDoc)
    if board is None or held is None:
        raise StoreError("not-proved", "its proof has to be computed again.", "Open the fold Proof.", 409)
    work = off_plate(given, board, held).work
    name, proof = given.printer["name"], board.proof
    return _Print(name, _printer_id(standing, name), proof.material_name, proof.time_s, proof.risk, work)


def _printer_id(standing: Standing, name: str) -> int:
    return next(number for number, spec in standing.workshop.printers.items() if spec["name"] == name)


def _of_plate(store: Store, known: Known, number: int) -> list[_Print]:
    """What each plate of an order takes; its pieces are finished one after the other.

    Raises:
        StoreError: `no-plate`, `not-laid`.
    """
    row = plates.one(store, number)
    body = Body.model_validate(row["body"])
    sight = Sight.of(row, body, standings(store, known, body.pieces, row["printer_id"]))
    made = made_of(sight)
    if not made or any(state.state != "ready" for state in sight.stand.states):
        what = "not all of its plate is laid out and proved as it stands."
        raise StoreError("not-laid", what, "Open the plate, and lay it out.", 409)
    works = {plan: _of_plan(store, plan).work for plan in sight.stand.counted}
    found = []
    for plate in made.values():
        whole = [works[int(piece.plan)] for piece, _ in plate.items]
        material, _ = sight.material(plate)
        found.append(
            _Print(row["printer_name"], row["printer_id"], material, plate.time_s, plate.risk, _together(whole))
        )
    return found


def _together(works: list[Finishing | None]) -> Finishing | None:
    """The work of all pieces of a plate as though they were one: washed and cured together, the rest added up."""
    each = [work for work in works if work is not None]
    if not each:
        return None
    minutes = sum(m for work in each for *_, m in work.groups)
    tips = sum(n for work in each for _, n, _ in work.groups)
    return Finishing(
        each[0].process,
        (("front", tips, minutes),) if tips else (),
        sum(work.contact_mm2 for work in each),
        sum(work.hands_min for work in each),
        sum(work.holes for work in each),
        any(work.plugs for work in each),
        sum(work.strings for work in each),
    )


def there(asked: House, start: datetime, end: datetime) -> tuple[list[Span], list[Span]]:
    """When somebody is there, and when it is quiet."""
    hours: list[WeeklyHours] = [h for person in asked.people for h in person.hours]
    quiet = spans_of(asked.quiet, start, end)
    return without(spans_of(hours, start, end), quiet), quiet
