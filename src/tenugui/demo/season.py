"""Two made-up series of the club: one as it should be, and one from memory, in which two things moved together."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

import numpy as np

from ..core.series import Spec, cells_of
from ..store import evidence, lots, machines, series
from ..store.db import Store

GAPS: dict[str, Any] = {
    "factors": {"gap mm": [0.1, 0.2, 0.3], "roof layers": [1, 2, 4]},
    "responses": {"came off": "yesno", "underside": "grade", "minutes": "time"},
    "repeats": 2,
    "rate_per_h": 6.0,
    "coins_each": {"underside": 0.5},
}
FROM_MEMORY: dict[str, Any] = {
    "factors": {"gap mm": [0.15, 0.25], "walls": [2, 4]},
    "responses": {"underside": "grade"},
    "repeats": 1,
    "rate_per_h": None,
    "cells": [{"gap mm": 0.15, "walls": 2}, {"gap mm": 0.25, "walls": 4}],
}
SEEN = {"overhang": ((45.0, True), (50.0, True), (55.0, True), (60.0, True), (65.0, False), (70.0, False))}
NAMES = ("Gap and roof of supports on kestrel", "Walls and gap, as Aki remembers them")


def load_series(store: Store) -> None:
    """Both series with what was found, and the overhang piece of kestrel; nothing where they are there."""
    if any(row["name"] in NAMES for row in series.every(store)):
        return
    rng = np.random.default_rng(5)
    for name, given in zip(NAMES, (GAPS, FROM_MEMORY), strict=True):
        spec = Spec.model_validate(given)
        rows = []
        for cell in cells_of(spec, None):
            levels = {f: spec.factors[f][k] for f, k in zip(spec.factors, cell.levels, strict=True)}
            rows += [levels] * cell.runs
        named = [{"name": str(k + 1), "levels": levels, "found": {}} for k, levels in enumerate(rows)]
        number = series.add(store, name, spec.model_dump(mode="json"), None, named)
        kept = series.specimens(store, number)
        for specimen in kept[: len(kept) - (1 if len(kept) > 4 else 0)]:
            found = {k: v for k, v in _found(specimen["levels"], rng).items() if k in spec.responses}
            series.keep_found(store, number, specimen["id"], found, 1)
    kestrel = next((row["id"] for row in machines.every(store, "printers") if row["name"] == "kestrel"), None)
    matte = next((row["id"] for row in machines.every(store, "materials") if row["name"] == "marsh matte"), None)
    if kestrel is not None and matte is not None:
        for ability, pieces in SEEN.items():
            for level, came_out in pieces:
                evidence.add(store, kestrel, matte, ability, level=level, came_out=came_out, source="run")


def _found(levels: dict[str, Any], rng: np.random.Generator) -> dict[str, str]:
    """What the club wrote down: the wider the gap, the easier and the rougher; more closed layers, the smoother."""
    gap, roof = float(levels["gap mm"]), float(levels.get("roof layers", 2))
    grade = int(np.clip(round(8 - 12 * (gap - 0.1) + 0.4 * roof + rng.normal(0, 0.8)), 0, 10))
    minutes = (4 + 45 * max(0.0, 0.2 - gap)) * float(np.exp(rng.normal(0, 0.2)))
    came_off = gap > 0.12 or rng.random() < 0.4
    return {"came off": "yes" if came_off else "no", "underside": str(grade), "minutes": f"{minutes:.1f}"}


LOTS: tuple[tuple[str, str, float, float, float | None], ...] = (
    ("lantern grey", "G-11", 1000.0, 45.0, 12.0),
    ("lantern grey", "G-12", 1000.0, 16.0, None),
    ("marsh matte", "M-3", 1000.0, 40.0, None),
    ("marsh matte", "M-4", 1000.0, 19.0, None),
)
"""The club's bottles and spools: material, lot, grams, days since it was opened, what somebody counted at last."""
GLOVES = ("the box by the sink", 100.0, 45.0, 38.0)


def load_stock(store: Store, now: datetime) -> None:
    """Lots on the shelf; nothing where there are some."""
    if lots.every(store):
        return
    materials = {row["name"]: row["id"] for row in machines.every(store, "materials")}
    for material, name, grams, days, counted in LOTS:
        if material not in materials:
            continue
        opened = now - timedelta(days=days)
        number = lots.add(store, "material", materials[material], name, amount=grams, opened_at=opened)
        if counted is not None:
            lots.step(store, number, "counted", amount=counted, note="the rest", at=now - timedelta(days=16))
    name, pairs, days, used = GLOVES
    number = lots.add(store, "gloves", None, name, amount=pairs, opened_at=now - timedelta(days=days))
    lots.step(store, number, "used", amount=used, note="a season", at=now - timedelta(days=2))
