"""A run of a proved plan, started: what it is expected to take, everything that was set, and what its proof told."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from types import MappingProxyType
from typing import Any

from ..core.contract import ProofBoard, SizeChoice, ToldHazard, TrialDoc
from ..core.learn import by_risk
from ..core.plan import frozen_of, kept
from ..core.plan.frozen import LAYERS
from ..core.plan.given import ProofGiven
from ..store import runs
from ..store.db import Store
from .folds import Standing
from .shelf import StoreShelf


def begin(
    store: Store,
    standing: Standing,
    when: datetime,
    *,
    simulated: bool = False,
    room: Mapping[str, str] = MappingProxyType({}),
) -> int:
    """Record a run of an accepted plan with everything that is set, and what its proof told; its number. `room`: what
    somebody noted of the day.
    """
    proof = next(row for row in reversed(standing.chain) if row["fold"] == "proof")
    numbers, size = proof["evidence"]["numbers"], standing.choice(SizeChoice)
    assert size is not None  # what is proved has a size
    planned = (numbers["time_s"], numbers["mass_g"], numbers["risk"], numbers.get("film_share", 0.0))
    given = standing.given("proof").to(ProofGiven)
    by_scatter = _by_scatter(store, given, numbers["risk"])
    board = kept(StoreShelf(store), "proof", given, ProofBoard)
    layers = {} if board is None else {LAYERS: str(board.proof.layers.count)}
    frozen = frozen_of(standing.choices, given, {**layers, **room})
    return runs.start(
        store,
        standing.plan["id"],
        proof["id"],
        printer_id=size.printer_id,
        material_id=size.material_id,
        planned=planned,
        started_at=when,
        simulated=simulated,
        by_scatter=by_scatter,
        frozen=[line.model_dump() for line in frozen],
        told=[] if board is None else _told(board),
    )


MOST_TOLD = 400
"""Hazards that a run keeps, the likeliest first."""


def _told(board: ProofBoard) -> list[dict[str, Any]]:
    names = ToldHazard.model_fields
    likely = sorted(board.proof.hazards, key=lambda h: -h.chance)[:MOST_TOLD]
    return [{name: getattr(hazard, name) for name in names} for hazard in likely]


def _by_scatter(store: Store, given: ProofGiven, risk: float) -> list[tuple[float, float]]:
    """By the plan's trial prints where they have been made, else by its risk."""
    trial = kept(StoreShelf(store), "trial", given, TrialDoc)
    return by_risk(risk, given.printer.get("scatter", 1.0)) if trial is None else trial.by_scatter
