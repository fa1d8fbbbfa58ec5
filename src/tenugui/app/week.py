"""The week: orders with their dates, woven over machines and people's hours."""

from __future__ import annotations

import hmac
import math
import secrets
from datetime import datetime, timedelta

from fastapi import APIRouter, Request, Response

from ..core.contract import LayersBoard, ProofBoard, Refusal
from ..core.contract.week import WovenDoc
from ..core.finish import STATIONS
from ..core.learn import hours_of
from ..core.machines import load_printer
from ..core.plan import WeekGiven, kept
from ..core.plan.given import LayersGiven, ProofGiven
from ..core.week import GROWS, fit
from ..store import house, jobs, machines, orders, plates, runs
from ..store.db import Store, StoreError
from ..work.folds import Standing, want
from ..work.shelf import StoreShelf
from .calendar import calendar_of
from .counted import KNOWN
from .logged import logged_of, real
from .models import Id
from .state import store_of
from .weaving import TWO_SIDED, Asked, Wanted, asked_of, begin_of, house_of, there
from .week_models import FitRow, HouseAsk, JobRow, Now, OrderAsk, OrderChange, OrderRow, Time, WeekPage, WeekPin

router = APIRouter(prefix="/api/week", tags=["week"])


def _now(at: datetime | None) -> datetime:
    """Raises StoreError `bad-time` for what no calendar of ours reaches."""
    if at is None:
        return datetime.now()
    if not 2000 <= at.year < 9000:
        raise StoreError("bad-time", f"The year {at.year} is not looked at.", "Give a time of these days.", 422)
    return at.replace(tzinfo=None)


@router.get("")
def week(request: Request, at: Now = None) -> WeekPage:
    """The week as it was woven last, with what is ordered and what stands on machines now."""
    return page_of(store_of(request), at)


def page_of(store: Store, at: datetime | None) -> WeekPage:
    """The week as it stands at a time, now where none is said."""
    return _page(store, _now(at))


@router.post("/weave")
def weave(request: Request, at: Now = None) -> WeekPage:
    """Weave it from now on."""
    store, now = store_of(request), _now(at)
    asked = asked_of(store, KNOWN, now)
    if asked.ask is None:
        house.delete(store, "woven")
        return _page(store, now)
    given = WeekGiven(ask=asked.ask.model_dump(mode="json", by_alias=True))
    key, _ = want(store, "week", given, "The week")
    woven = {"key": key, "essence": asked.essence, "begin": asked.ask.start, "end": asked.ask.end}
    house.put(store, "woven", woven)
    return _page(store, now, asked)


def _woven(store: Store, key: str) -> WovenDoc | None:
    data = StoreShelf(store).kept(key)
    return None if data is None else WovenDoc.loaded(data)


def _page(store: Store, now: datetime, asked: Asked | None = None) -> WeekPage:
    asked = asked_of(store, KNOWN, now) if asked is None else asked
    held, version = house_of(store)
    woven, _ = house.get(store, "woven")
    found = None if woven is None else _woven(store, woven["key"])
    job = None if woven is None or found is not None else jobs.last_of(store, woven["key"])
    waits = job is not None and job["state"] in ("waiting", "running")
    problem = job["problem"] if job is not None and job["state"] == "failed" else None
    begin = begin_of(now) if woven is None else datetime.fromisoformat(woven["begin"])
    end = begin + timedelta(days=held.days) if woven is None else datetime.fromisoformat(woven["end"])
    awake, quiet = there(held, begin, end)
    late = woven is not None and now - begin > timedelta(minutes=30) and found is not None and _was_to_start(found, now)
    token, _ = house.get(store, "feed")
    chances = {} if found is None else {date.job: date.chance for date in found.week.dates}
    return WeekPage(
        house=held,
        version=version,
        orders=[_order(one, chances) for one in asked.wanted],
        machines=[row["name"] for row in machines.every(store, "printers")],
        begin=begin,
        end=end,
        now=now,
        awake=awake,
        quiet=quiet,
        running=asked.running,
        week=None if found is None else found.week,
        better=None if found is None else found.better,
        latest=[] if found is None else found.latest,
        stations=STATIONS | {"cure": "lamp"},
        stale=asked.ask is not None
        and (woven is None or woven["essence"] != asked.essence or late or _lost(woven, found, job)),
        nothing=asked.nothing,
        job_id=job["id"] if job is not None and waits else None,
        problem=None if problem is None else Refusal(**problem),
        feed=None if token is None else f"/api/week/calendar/{token['token']}.ics",
    )


def _lost(woven: dict[str, object] | None, found: WovenDoc | None, job: object) -> bool:
    """Whether what was woven was thrown away, as every result may be."""
    return woven is not None and found is None and job is None


def _was_to_start(found: WovenDoc, now: datetime) -> bool:
    """Whether a start of the plan has gone by."""
    return any(run.start < now for run in found.week.runs)


def _order(one: Wanted, chances: dict[str, float]) -> OrderRow:
    row = one.row
    names = [job.name for job in one.jobs]
    sure = [chances[name] for name in names if name in chances]
    return OrderRow(
        **{name: row[name] for name in ("id", "name", "plan_id", "plate_id", "figure_name", "plate_name", "copies")},
        made=row["made"],
        due=row["due"],
        chance=row["chance"],
        goes=row["goes"],
        jobs=[JobRow(name=job.name, nth=nth) for job, nth in zip(one.jobs, one.nth, strict=True)],
        pinned=sorted(int(nth) for nth in row["pins"]),
        ready=bool(names),
        said=one.said,
        sure=min(sure) if sure and len(sure) == len(names) else None,
    )


@router.put("/house")
def set_house(request: Request, asked: HouseAsk) -> WeekPage:
    """Other people, stations or hours."""
    store = store_of(request)
    house.put(store, "week", asked.house.model_dump(mode="json"), asked.version)
    return _page(store, datetime.now())


@router.post("/orders")
def order(request: Request, asked: OrderAsk) -> int:
    """Order something by a date; its number."""
    store = store_of(request)
    if asked.due is not None and asked.due <= datetime.now():
        what = f"{asked.due:%a %d %b, %H:%M} is past."
        raise StoreError("date-past", what, "Give a date that is still to come.", 422)
    if asked.plan_id is not None:
        Standing.of(store, asked.plan_id)
    if asked.plate_id is not None:
        plates.one(store, asked.plate_id)
    return orders.add(store, asked.model_dump())


@router.put("/orders/{number}")
def change(request: Request, number: Id, asked: OrderChange) -> None:
    """Another name, count, date, chance or end; or how many of it are made."""
    orders.change(store_of(request), number, asked.model_dump())


@router.put("/orders/{number}/pin")
def pin(request: Request, number: Id, asked: WeekPin) -> None:
    """Say when a print of it starts at the earliest, or that it goes before all others, or let it go."""
    store = store_of(request)
    held = asked.model_dump(mode="json", exclude={"nth"}, exclude_defaults=True)
    orders.pin(store, number, asked.nth, held or None)


@router.delete("/orders/{number}")
def delete(request: Request, number: Id) -> None:
    """Delete an order; what was printed for it stays in the log."""
    orders.delete(store_of(request), number)


@router.get("/calendar.ics", response_class=Response)
def calendar(request: Request) -> Response:
    """The week as a calendar: what is to be done by hand, and when runs end."""
    return _calendar(store_of(request))


def _calendar(store: Store) -> Response:
    woven, _ = house.get(store, "woven")
    found = None if woven is None else _woven(store, woven["key"])
    if woven is None or found is None:
        raise StoreError("not-woven", "There is no week yet.", "Order something, and weave the week.", 409)
    data = calendar_of(found.week, datetime.fromisoformat(woven["begin"]))
    head = {"Content-Disposition": 'attachment; filename="week.ics"', "Cache-Control": "no-store"}
    return Response(data, media_type="text/calendar; charset=utf-8", headers=head)


@router.post("/feed")
def feed(request: Request) -> str:
    """A new private address of the calendar; the one before answers no more."""
    token = secrets.token_urlsafe(24)
    house.put(store_of(request), "feed", {"token": token})
    return f"/api/week/calendar/{token}.ics"


@router.delete("/feed")
def close_feed(request: Request) -> None:
    """Close the private address."""
    house.delete(store_of(request), "feed")


@router.get("/calendar/{token}.ics", response_class=Response)
def fed(request: Request, token: str) -> Response:
    """The calendar at its private address."""
    store = store_of(request)
    held, _ = house.get(store, "feed")
    if held is None or not hmac.compare_digest(held["token"].encode(), token.encode()):
        raise StoreError(
            "no-feed", "There is no calendar at this address.", "Ask for a new one on the week's page.", 404
        )
    return _calendar(store)


@router.get("/fits")
def fits(request: Request, printer_id: Id, begin: Time, end: Time) -> list[FitRow]:
    """Which accepted plans of a printer end within a slot in 19 of 20 cases; at which height or size others would."""
    store = store_of(request)
    slot = (end - begin).total_seconds() / 3600
    if not 0 < slot <= 24 * 28:
        raise StoreError("bad-slot", "A slot ends after it begins, and within four weeks.", "Give two such times.", 422)
    printer = machines.one(store, "printers", printer_id)
    log = [logged_of(row) for row in real(runs.told_on(store, printer_id))]
    speed = hours_of(log)
    spread = math.log(speed.high / speed.low) / (2 * TWO_SIDED)
    grows = GROWS["hangs" if load_printer(printer["spec"]).hangs else "stands"]
    found = []
    for offer in plates.offers(store, printer_id):
        row = _fit(store, offer["id"], ratio=speed.ratio, spread=spread, slot=slot, grows=grows)
        if row is not None:
            found.append(row)
    return sorted(found, key=lambda row: (not row.fits, row.hours))


def _fit(store: Store, plan: int, *, ratio: float, spread: float, slot: float, grows: float) -> FitRow | None:
    """None where the plan as it stands is not proved."""
    standing, shelf = Standing.of(store, plan), StoreShelf(store)
    proof = standing.fold("proof")
    if proof.given is None or not proof.ready:
        return None
    given = standing.given("proof").to(ProofGiven)
    board = kept(shelf, "proof", given, ProofBoard)
    if board is None:
        return None
    hours, strip = board.proof.time_s * ratio / 3600, board.held.strip
    read = fit(hours, spread, slot, grows=grows)
    layers = kept(shelf, "layers", given.to(LayersGiven), LayersBoard)
    heights = {c.height.layer_height_mm: c.held.numbers.time_s * ratio / 3600 for c in layers.choices} if layers else {}
    return FitRow(
        plan_id=plan,
        figure_name=standing.plan["figure_name"],
        plan_number=standing.plan["number"],
        layer_mm=given.height,
        hours=hours,
        hours_95=read.hours_95,
        fits=read.fits,
        heights=sorted((mm, h) for mm, h in heights.items() if fit(h, spread, slot, grows=grows).fits),
        size=read.size,
        size_mm=None if read.fits else strip.layers * strip.layer_height_mm * read.size,
    )
