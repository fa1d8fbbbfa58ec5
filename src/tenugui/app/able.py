"""What a machine can do: prior, evidence and what they come to; taken over onto the shelf by one click, and undone."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Query, Request

from ..core.contract.learn import CalibrationDoc, HoursDoc, learnt_of
from ..core.hazards.learned import FIELD, field_of, load_times
from ..core.learn import (
    BY_CODE,
    Ability,
    CauseLearnt,
    Evidence,
    Ratio,
    Reading,
    abilities_of,
    calibration_of,
    chance_at,
    ratio_of,
    read_ability,
    scatter_of,
)
from ..core.learn.minutes import FEW as FEW_STEPS
from ..core.learn.minutes import Timed, by_kind, minutes_of, times_of
from ..core.machines import LEAST_TIMES, MOST_TIMES, Printer, default_height, load_printer
from ..store import evidence, machines, minutes, runs
from ..store.db import Row, Store, StoreError
from .able_models import (
    AbilityRow,
    CauseRow,
    EvidenceAsk,
    EvidenceRow,
    HandsPage,
    HandsRow,
    MachinePage,
    MinutesRow,
    TakeAsk,
)
from .logged import logged_of, real, tales_of
from .models import Id
from .state import store_of
from .workshop_models import Machine

router = APIRouter(prefix="/api/printers", tags=["abilities"])
CURVE = 41
SCATTER, HANDS, CAUSE = "scatter", "hands_times", "cause "


@router.get("/{number}/able")
def able(request: Request, number: Id, material_id: Annotated[int | None, Query(ge=1)] = None) -> MachinePage:
    """The page of one machine in one material, by default one that it was used in."""
    store = store_of(request)
    printer = machines.one(store, "printers", number)
    offered = [row for row in machines.every(store, "materials") if row["process"] == printer["process"]]
    used = evidence.materials_of(store, number)
    if material_id is None:
        first = next((row["id"] for row in offered if row["id"] in used), offered[0]["id"] if offered else None)
        if first is None:
            raise StoreError("no-material", "There is no material for this machine.", "Add one on the shelf.", 409)
        material_id = first
    material = machines.one(store, "materials", material_id)
    if material["process"] != printer["process"]:
        raise StoreError("wrong-process", "This material is not for this machine.", "Choose another.", 409)
    every = runs.told_on(store, number, material_id)
    printed = real(every)
    ever = evidence.history(store, "printers", number)
    logged, tales = [logged_of(row) for row in printed], tales_of(printed, ever)
    taken = {row["field"]: row for row in ever if row["undone_at"] is None}
    now = datetime.now()
    seen = evidence.of_machine(store, number, material_id)
    return MachinePage(
        printer=Machine(**printer),
        material=Machine(**material),
        materials=[Machine(**row) for row in offered],
        runs=len(printed),
        simulated=len(every) - len(printed),
        abilities=[
            _row(ability, [row for row in seen if row["ability"] == ability.code], printer, taken=taken, now=now)
            for ability in abilities_of(printer["process"])
        ],
        hours=HoursDoc.of(ratio_of(logged)),
        scatter=scatter_of(logged),
        scatter_set=float(printer["spec"].get(SCATTER, 1.0)),
        scatter_taken_id=taken[SCATTER]["id"] if SCATTER in taken else None,
        hands=_hands(store, printer, taken),
        causes=[_cause_row(c, load_printer(printer["spec"]), taken) for c in learnt_of(tales)],
        causes_from=len(tales),
        calibration=CalibrationDoc.of(calibration_of(logged)),
    )


def _cause_row(learnt: CauseLearnt, machine: Printer, taken: dict[str, Row]) -> CauseRow:
    field = field_of(learnt.cause, machine)
    return CauseRow(
        **asdict(learnt),
        sure=learnt.sure,
        load=None if field.startswith(FIELD) else _load(learnt),
        taken_id=taken[field]["id"] if field in taken else None,
    )


def _load(learnt: CauseLearnt) -> float:
    """How many times as large a load explains what came true; by its rate where no margin told it."""
    return learnt.load_times or load_times(learnt.told, learnt.mean)


SHOWN_STEPS = 12


def _timed(store: Store, process: str) -> list[Timed]:
    return [Timed(row["step"], row["reckoned"], row["took"]) for row in minutes.of_process(store, process)]


def _hands(store: Store, printer: Row, taken: dict[str, Row]) -> HandsPage:
    """How long hands really take in this machine's process."""
    rows = minutes.of_process(store, printer["process"])
    steps = [Timed(row["step"], row["reckoned"], row["took"]) for row in rows]
    whole = minutes_of(steps)
    return HandsPage(
        whole=_by_hand("all work by hand", whole),
        kinds=[_by_hand(kind, ratio) for kind, ratio in by_kind(steps).items()],
        latest=[MinutesRow(**row) for row in rows[:SHOWN_STEPS]],
        set_to=float(printer["spec"].get(HANDS, 1.0)),
        take=times_of(whole) if whole.timed >= FEW_STEPS else None,
        taken_id=taken[HANDS]["id"] if HANDS in taken else None,
    )


def _by_hand(kind: str, ratio: Ratio) -> HandsRow:
    return HandsRow(kind=kind, steps=ratio.timed, times=ratio.ratio, low=ratio.low, high=ratio.high)


def _reading(ability: Ability, rows: list[Row], now: datetime) -> Reading:
    return read_ability(
        ability, [Evidence(r["level"], bool(r["came_out"]), r["source"], r["noted_at"]) for r in rows], now
    )


def reading_of(code: str, rows: list[Row], now: datetime) -> Reading:
    """What evidence of a capability says."""
    return _reading(BY_CODE[code], rows, now)


def _row(ability: Ability, rows: list[Row], printer: Row, *, taken: dict[str, Row], now: datetime) -> AbilityRow:
    read = _reading(ability, rows, now)
    levels = [r["level"] for r in rows] + [read.low, read.high, ability.at]
    low, high = max(ability.least, min(levels) * 0.8), min(ability.most, max(levels) * 1.2)
    told = {name: getattr(read, name) for name in AbilityRow.model_fields if hasattr(read, name)}
    return AbilityRow(
        **told,
        code=ability.code,
        title=ability.title,
        asks=ability.asks,
        unit=ability.unit,
        angle=ability.angle,
        up=ability.up,
        prior=ability.at,
        prior_spread=ability.spread,
        field=ability.field,
        set_to=printer["spec"].get(ability.field) if ability.field else None,
        taken_id=taken[ability.field]["id"] if ability.field in taken else None,
        evidence=[EvidenceRow(**{k: r[k] for k in EvidenceRow.model_fields}) for r in rows],
        curve=[(float(at), chance_at(ability, read, float(at))) for at in np.linspace(low, high, CURVE)],
    )


def ability_by(code: str) -> Ability:
    """A capability by its code.

    Raises:
        StoreError: `no-ability`.
    """
    if code not in BY_CODE:
        raise StoreError("no-ability", f"'{code[:16]}' is no capability that is kept.", "Choose from the page.", 422)
    return BY_CODE[code]


@router.post("/{number}/able")
def note(request: Request, number: Id, what: EvidenceAsk) -> int:
    """Note what was seen, or a person's word."""
    store, ability = store_of(request), ability_by(what.ability)
    printer = machines.one(store, "printers", number)
    material = machines.one(store, "materials", what.material_id)
    if material["process"] != printer["process"] or ability.process not in (printer["process"], "both"):
        raise StoreError("wrong-process", "This is not asked of this machine in this material.", "Choose another.", 409)
    if not ability.least <= what.level <= ability.most:
        bounds = f"{ability.least:g} to {ability.most:g} {ability.unit}"
        raise StoreError("out-of-range", f"{ability.title} is from {bounds}.", "Check the number and its unit.", 422)
    if what.run_id is not None:
        runs.one(store, what.run_id)
    source = "word" if what.word else "run"
    came_out = what.came_out or what.word
    return evidence.add(
        store, number, what.material_id, ability.code,
        level=what.level, came_out=came_out, source=source, run_id=what.run_id, note=what.note,
    )  # fmt: skip


@router.delete("/{number}/able/{piece}")
def take_back(request: Request, number: Id, piece: Id) -> None:
    """Take a piece of evidence back."""
    evidence.remove(store_of(request), number, piece)


@router.post("/{number}/able/take")
def take(request: Request, number: Id, what: TakeAsk) -> int:
    """Use a learned value in every fold from now on: what is safe of a capability, or how much prints differ."""
    store = store_of(request)
    printer = machines.one(store, "printers", number)
    field, value, why = _learned(store, printer, what)
    _sound(printer["spec"], field, value)
    return evidence.take(store, "printers", number, field, value=value, why=why)


def _sound(spec: dict[str, Any], field: str, value: Any) -> None:
    """It must make sense on this machine."""
    outer, _, name = field.rpartition(".")
    load_printer(spec | ({outer: {**spec.get(outer, {}), name: value}} if outer else {field: value}))


def _of_cause(store: Store, printer: Row, material_id: int, cause: str) -> tuple[str, Any, str]:
    number = printer["id"]
    ever = evidence.history(store, "printers", number)
    tales = tales_of(real(runs.told_on(store, number, material_id)), ever)
    learnt = next((c for c in learnt_of(tales) if c.cause == cause), None)
    machine = load_printer(printer["spec"])
    field = field_of(cause, machine)
    if any(row["field"] == field and row["undone_at"] is None for row in ever):
        raise StoreError("taken-already", "This is counted with already.", "Undo that first.", 409)
    if learnt is None or not learnt.sure:
        what = "Its prints may as well have come to this by chance."
        raise StoreError("too-few", what, "Log more outcomes, with what came true.", 409)
    why = f"{learnt.seen} prints came to it, {learnt.effective:.1f} were expected"
    if field.startswith(FIELD):
        return field, round(min(max(learnt.mean, LEAST_TIMES), MOST_TIMES), 3), why
    return field, round(float(getattr(machine, field)) * _load(learnt), 3), why


def _learned(store: Store, printer: Row, what: TakeAsk) -> tuple[str, Any, str]:
    """The shelf's field, the value, and the reason."""
    number = printer["id"]
    if what.what == SCATTER:
        rows = real(runs.told_on(store, number, what.material_id))
        spread = scatter_of([logged_of(row) for row in rows])
        if spread is None:
            raise StoreError("too-few", "Too few prints of it are logged.", "Log more outcomes first.", 409)
        times = round(min(max(spread.times, 0.4), 4.0), 3)
        return SCATTER, times, f"{spread.failed} of {spread.prints} prints failed; {spread.feared:.1f} were expected"
    if what.what == HANDS:
        whole = minutes_of(_timed(store, printer["process"]))
        if whole.timed < FEW_STEPS:
            raise StoreError("too-few", "Too few steps by hand were timed.", "Keep what the next ones take.", 409)
        return HANDS, times_of(whole), f"{whole.timed} steps by hand took {whole.ratio:.2f} times what was reckoned"
    if what.what.startswith(CAUSE):
        return _of_cause(store, printer, what.material_id, what.what.removeprefix(CAUSE))
    ability = ability_by(what.what)
    if ability.field is None or ability.process not in (printer["process"], "both"):
        raise StoreError("nothing-to-take", "No fold asks for this yet.", "It is kept, and shown.", 409)
    rows = [r for r in evidence.of_machine(store, number, what.material_id) if r["ability"] == ability.code]
    if not rows:
        raise StoreError("too-few", "Nothing was seen of it yet.", "Note what came out first.", 409)
    read = _reading(ability, rows, datetime.now())
    safe = round(read.safe, 3)
    why = f"{ability.title}: {len(rows)} seen, nine of ten come out at {safe:g} {ability.unit}"
    if ability.angle:
        height = (printer["spec"].get(ability.field) or [default_height(load_printer(printer["spec"]))])[0]
        return ability.field, [height, safe], why
    return ability.field, safe, why


@router.post("/{number}/able/undo/{taken}")
def undo(request: Request, number: Id, taken: Id) -> None:
    """Put back what stood there before a value was taken over."""
    evidence.undo(store_of(request), number, taken)
