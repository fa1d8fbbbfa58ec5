"""The headless commands of the workshop: `series` and `learn`."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

import orjson
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from .core.contract.base import Document
from .core.contract.learn import LearnDoc, learn_document
from .core.contract.series import SeriesDoc, series_document
from .core.errors import CoreError
from .core.learn import Logged, Told
from .core.series import read_results, read_spec

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
    """A run of the log; `plan`: what `plan` wrote for it, or where that lies beside the log."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    machine: str = Field(min_length=1, max_length=120)
    material: str = Field(min_length=1, max_length=120)
    planned_s: float = Field(gt=0, le=1e8)
    planned_risk: float = Field(ge=0, le=1)
    real_s: float | None = Field(None, gt=0, le=1e8)
    result: Literal["good", "scarred", "part lost", "print lost"]
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
        runs.append((run.machine, run.material, logged, Told(_chances(run, k + 1, Path(where)), run.cause)))
    return learn_document(runs)


def _chances(run: RunAsk, number: int, log: Path) -> dict[str, float]:
    """What the plan told of each cause; without a plan its whole risk, of the cause that came true if any did."""
    plan = run.plan
    if plan is None:
        return {run.cause or "untold": run.planned_risk}
    if isinstance(plan, str):
        path = log.parent / plan
        try:
            plan = orjson.loads(path.read_bytes())
        except (OSError, orjson.JSONDecodeError) as reason:
            raise CoreError("bad-runs", f"Run {number}: its plan cannot be read: {reason}.", str(path)) from reason
    hazards = plan.get("proof", {}).get("hazards") if isinstance(plan, dict) else None
    if not isinstance(hazards, list):
        raise CoreError("bad-runs", f"Run {number}: its plan tells no hazards.", str(log), "Give what `plan` wrote.")
    whole: dict[str, float] = {}
    for hazard in hazards:
        try:
            code, chance, loss = str(hazard["code"]), float(hazard["chance"]), hazard.get("loss")
        except (KeyError, TypeError, ValueError) as reason:
            raise CoreError("bad-runs", f"Run {number}: a hazard of its plan is not complete: {reason}.") from reason
        if loss != "scar":
            whole[code] = 1 - (1 - whole.get(code, 0.0)) * (1 - min(max(chance, 0.0), 1.0))
    return whole


WORKSHOP: dict[str, Callable[[argparse.Namespace], Document]] = {"series": series, "learn": learn}
