"""How much may come in."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter, Request

from ..core.formats import Limits
from ..store import settings
from ..store.db import Store
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
