"""How much may come in, and how many backups are kept."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from ..core.formats import Limits
from ..store import settings
from ..store.db import Store
from ..store.nightly import HOUR, KEPT, MOST_KEPT, Nightly, taken, wanted
from .models import IntakeLimits
from .state import store_of

router = APIRouter(prefix="/api/settings", tags=["settings"])


def limits_of(store: Store) -> Limits:
    """The limits in force."""
    names = asdict(Limits())
    return Limits(**{name: value for name, value in settings.every(store).items() if name in names})


@router.get("/intake")
def intake_limits(request: Request) -> IntakeLimits:
    """The limits in force."""
    return IntakeLimits(**asdict(limits_of(store_of(request))))


@router.put("/intake")
def set_intake_limits(request: Request, limits: IntakeLimits) -> IntakeLimits:
    """Change all limits."""
    settings.keep(store_of(request), limits.model_dump())
    return limits


class BackupsAsk(BaseModel):
    """How many nightly backups are kept, none where 0, and at which hour they are taken."""

    kept: int = Field(ge=0, le=MOST_KEPT)
    hour: int = Field(ge=0, le=23)


class BackupRow(BaseModel):
    """A backup that is there."""

    name: str
    at: datetime
    size: int


class Backups(BackupsAsk):
    """The same, what is there, and why the last one was not taken. `here`: whether this application takes any."""

    here: bool
    taken: list[BackupRow]
    problem: str


def _backups(request: Request) -> Backups:
    nightly: Nightly | None = request.app.state.nightly
    kept, hour = wanted(store_of(request))
    rows = [] if nightly is None else [BackupRow(**vars(row)) for row in taken(nightly.into)]
    return Backups(
        kept=kept, hour=hour, here=nightly is not None, taken=rows, problem="" if nightly is None else nightly.problem
    )


@router.get("/backups")
def backups(request: Request) -> Backups:
    """Nightly backups."""
    return _backups(request)


@router.put("/backups")
def set_backups(request: Request, asked: BackupsAsk) -> Backups:
    """Change how many are kept and when they are taken."""
    settings.keep(store_of(request), {KEPT: asked.kept, HOUR: asked.hour})
    return _backups(request)
