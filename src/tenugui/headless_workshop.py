"""The headless commands of the workshop: `series`, `learn`, `week`, `plate` and `finish`."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any, Literal, TypeVar

import orjson
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from .core.contract.base import Document
from .core.contract.finish import FinishDoc, OffPlateDoc, finish_document
from .core.contract.learn import LearnDoc, learn_document
from .core.contract.plate import PlanOfPlate, PlatesDoc, ProofOfPlan, piece_of, plates_document
from .core.contract.series import SeriesDoc, series_document
from .core.contract.week import WeekDoc
from .core.errors import CoreError
from .core.finish import Failed, ends_by, mend_or_print, steps_of
from .core.hazards import kinds
from .core.learn import Logged, Margin, Told, tale_of
from .core.machines import load_printer
from .core.plan.week import woven
from .core.plate import VAT_ML, batch_curve, plates_of
from .core.series import read_results, read_spec
from .core.week import read_week
from .core.worth import rates_of

M = TypeVar("M", bound=BaseModel)
MOST_RUNS, MOST_BYTES = 100_000, 256 * 2**20


def series(given: argparse.Namespace) -> SeriesDoc:
    """Plan a series, or read it.

    Raises:
        CoreError: `bad-series`, `bad-results`.
    """
    spec = read_spec(Path(given.file).read_bytes(), given.file)
    results = None
    if given.results is not None:
        results = read_results(Path(given.results).read_bytes(), spec, given.results)
    return series_document(spec, results)


class RunAsk(BaseModel):
    """A run of the log; `plan`: what `plan` wrote for it, or where that lies beside the log. What else a log tells of a
    run is let be.
    """

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)

    machine: str = Field(min_length=1, max_length=120)
    material: str = Field(min_length=1, max_length=120)
    planned_s: float = Field(gt=0, le=1e8)
    planned_risk: float = Field(ge=0, le=1)
    real_s: float | None = Field(None, gt=0, le=1e8)
    result: Literal["good", "scarred", "part lost", "print lost"] | None = None
    failed_layer: int | None = Field(None, ge=0, le=1_000_000)
    cause: str | None = Field(None, max_length=60)
    plan: dict[str, Any] | str | None = None


def learn(given: argparse.Namespace) -> LearnDoc:
    """Read a log.

    Raises:
        CoreError: `bad-runs`: which run, and what is wrong with it.
    """
    where = given.file
    how = 'Give a list of {"machine", "material", "planned_s", "planned_risk", "real_s", "result", "cause", "plan"}.'
    data = Path(where).read_bytes()
    if len(data) > MOST_BYTES:
        raise CoreError("bad-runs", f"The log is larger than {MOST_BYTES >> 20} MB.", where)
    try:
        rows = orjson.loads(data)
    except orjson.JSONDecodeError as reason:
        raise CoreError("bad-runs", f"The log cannot be read: {reason}.", where, how) from reason
    if not isinstance(rows, list) or len(rows) > MOST_RUNS:
        raise CoreError("bad-runs", f"The log is no list of up to {MOST_RUNS:,} runs.", where, how)
    runs = []
    for k, row in enumerate(rows):
        try:
            run = RunAsk.model_validate(row)
        except ValidationError as reason:
            first = reason.errors()[0]
            at = ".".join(str(part) for part in first["loc"]) or "it"
            raise CoreError("bad-runs", f"Run {k + 1}, {at}: {first['msg']}.", where, how) from reason
        logged = Logged(run.planned_s, run.planned_risk, run.real_s, run.result)
        runs.append((run.machine, run.material, logged, _tale(run, k + 1, Path(where))))
    return learn_document(runs)


def _tale(run: RunAsk, number: int, log: Path) -> Told:
    """What the plan told of each cause; without a plan its whole risk, of the cause that came true if any did."""
    plan = run.plan
    if plan is None:
        return Told({run.cause or "untold": run.planned_risk}, run.cause)
    if isinstance(plan, str):
        path = log.parent / plan
        try:
            plan = orjson.loads(path.read_bytes())
        except (OSError, orjson.JSONDecodeError) as reason:
            raise CoreError("bad-runs", f"Run {number}: its plan cannot be read: {reason}.", str(path)) from reason
    hazards = plan.get("proof", {}).get("hazards") if isinstance(plan, dict) else None
    if not isinstance(hazards, list):
        raise CoreError("bad-runs", f"Run {number}: its plan tells no hazards.", str(log), "Give what `plan` wrote.")
    try:
        lines = [(str(h["code"]), str(h.get("loss")), _chance(h)) for h in hazards]
    except (AttributeError, KeyError, TypeError, ValueError) as reason:
        raise CoreError("bad-runs", f"Run {number}: a hazard of its plan is not complete: {reason}.") from reason
    return tale_of(lines, run.cause)


def _chance(hazard: dict[str, Any]) -> float | Margin:
    """What a plan's document told of a hazard: by a margin where nothing is given."""
    told = float(hazard["chance"])
    if "given" not in hazard or hazard["given"] is not None:
        return told
    return Margin(told, bool(hazard.get("part")), float(hazard.get("scatter", 1.0)))


def week(given: argparse.Namespace) -> WeekDoc:
    """Plan a week.

    Raises:
        CoreError: `bad-week`, `bad-zone`.
    """
    data = Path(given.file).read_bytes()
    if len(data) > MOST_BYTES:
        raise CoreError("bad-week", f"The week is larger than {MOST_BYTES >> 20} MB.", given.file)
    return woven(read_week(data, given.file), given.seconds).week


MOST_COPIES, MOST_PIECES = 1000, 400
CURVE_PIECES = 60


def _read_plan(name: str, kind: type[M]) -> M:
    how = "Give PLAN.json as `tenugui plan --out DIR` writes it."
    try:
        return kind.model_validate(orjson.loads(Path(name).read_bytes()))
    except orjson.JSONDecodeError as reason:
        raise CoreError("bad-plan", f"The plan cannot be read: {reason}.", name, how) from reason
    except ValidationError as reason:
        first = reason.errors()[0]
        at = ".".join(str(part) for part in first["loc"])
        raise CoreError("bad-plan", f"{at}: {first['msg']}.", name, how) from reason


def plate(given: argparse.Namespace) -> PlatesDoc:
    """Lay plans on plates.

    Raises:
        CoreError: `bad-plan`, `bad-copies`, `wrong-process`.
    """
    plans = [_read_plan(name, PlanOfPlate) for name in given.plans]
    copies = given.copies or [1] * len(plans)
    if len(copies) == 1:
        copies = copies * len(plans)
    if len(copies) != len(plans):
        raise CoreError("bad-copies", f"{len(copies)} counts for {len(plans)} plans.", remedy="Give one for each.")
    if not all(1 <= n <= MOST_COPIES for n in copies) or sum(copies) > MOST_PIECES:
        said = f"From 1 copy of each to {MOST_PIECES} pieces in all; asked for {', '.join(map(str, copies))}."
        raise CoreError("bad-copies", said, remedy="Plan what is more as another batch.")
    if not 0 <= given.gap <= 50:
        raise CoreError("bad-gap", f"A gap of {given.gap:g} mm.", remedy="Give 0 to 50 mm.")
    printer = load_printer(given.printer)
    for name, plan in zip(given.plans, plans, strict=True):
        if plan.on_plate.hangs != printer.hangs:
            what = f"It was planned for {plan.proof.printer}, which works another way than {printer.name}."
            raise CoreError("wrong-process", what, name, "Plan it for this machine.")
    pieces = [
        piece_of(name, plan, k + 1) for name, plan, n in zip(given.plans, plans, copies, strict=True) for k in range(n)
    ]
    laid = plates_of(pieces, printer.build_mm, gap=given.gap, hangs=printer.hangs)
    most = min(CURVE_PIECES, max(12, copies[0]))
    curve = batch_curve(pieces[0], printer.build_mm, gap=given.gap, hangs=printer.hangs, most=most)
    vat = (VAT_ML if given.vat is None else given.vat) if printer.hangs else None
    document = plates_document(laid, curve, vat_ml=vat, stock_g=given.stock)
    if given.out is not None:
        out = Path(given.out)
        out.mkdir(parents=True, exist_ok=True)
        (out / "plates.json").write_bytes(orjson.dumps(document.model_dump(), option=orjson.OPT_INDENT_2))
    return document


class PlanOfFinish(BaseModel):
    """What `finish` reads of PLAN.json."""

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)

    off_plate: OffPlateDoc
    proof: ProofOfPlan
    layers: dict[str, Any] = Field(default_factory=dict)
    choices: dict[str, Any] = Field(default_factory=dict)


def finish(given: argparse.Namespace) -> FinishDoc:
    """What is done with a plan's print off the plate.

    Raises:
        CoreError: `bad-plan`, `bad-failure`, `bad-time`.
    """
    plan = _read_plan(given.file, PlanOfFinish)
    off = plan.off_plate
    steps = steps_of(off.work, given.school)
    begin = datetime.now().replace(second=0, microsecond=0)
    if given.by is not None:
        begin = _time(given.by) - timedelta(minutes=ends_by(steps))
    ways = None
    if given.failed is not None:
        ways = mend_or_print(
            _failure(given.failed, plan),
            takes=off.takes(plan.proof.risk),
            rates=rates_of(None),
            times=off.times,
        )
    return finish_document(steps, given.school, begin, ways)


def _time(text: str) -> datetime:
    try:
        at = datetime.fromisoformat(text)
    except ValueError as reason:
        said = f"'{text[:40]}' is no time."
        raise CoreError("bad-time", said, remedy="Write it as 2026-12-05T18:00.") from reason
    if at.tzinfo is not None:
        raise CoreError("bad-time", f"'{text[:40]}' has a zone.", remedy="Give the time of the place, without one.")
    return at


def _failure(text: str, plan: PlanOfFinish) -> Failed:
    """CAUSE:LAYER of a print."""
    cause, _, layer = text.partition(":")
    layers = int(plan.choices.get("layers", {}).get("layers", 0) or 0)
    if cause not in kinds() or not layer.isdecimal():
        known = ", ".join(sorted(kinds()))
        what = f"'{text[:40]}' names no cause and layer."
        raise CoreError("bad-failure", what, remedy=f"Write CAUSE:LAYER, as island:412, with one of {known}.")
    if layers and int(layer) > layers:
        raise CoreError("bad-failure", f"Layer {int(layer):,} of {layers:,}.", remedy="Give a layer that it has.")
    return Failed(cause, int(layer), layers or int(layer) or 1)


WORKSHOP: dict[str, Callable[[argparse.Namespace], Document]] = {
    "series": series,
    "learn": learn,
    "week": week,
    "plate": plate,
    "finish": finish,
}
