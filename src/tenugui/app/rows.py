"""Rows of the bench: where each figure's newest plan stands, read anew only for plans that have moved."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass
from typing import Any, Literal

import orjson

from ..core.plan import next_of, spec_of
from ..store import figures, jobs, plans
from ..store.db import Row, Store
from ..work.folds import Workshop, folds_of, running
from .models import FigureRow, FoldInfo
from .state import info

PLAIN = ("id", "name", "file_name", "triangles", "created_at", "plan_id", "plans", "kit_id", "kit_name")
MOST = 20_000


@dataclass(frozen=True)
class Stand:
    """What a card tells of a plan."""

    next: FoldInfo | None
    stale: bool
    numbers: Any
    process: Literal["resin", "filament"] | None


class Stands:
    """How plans stand, kept under all that it depends on: the decision at the head, which is never rewritten, the
    figure's meshes and the workshop.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._held: OrderedDict[tuple[object, ...], Stand] = OrderedDict()

    def of(self, store: Store, rows: list[Row], workshop: Workshop) -> dict[int, Stand]:
        """By plan; only the chains of those that have moved are read."""
        heads = plans.heads(store, [row["plan_id"] for row in rows])
        keys = {
            row["plan_id"]: (
                row["plan_id"],
                heads.get(row["plan_id"]),
                *(row[k] for k in ("mesh_sha", "ready_sha", "settings_sha")),
                workshop.stamp,
            )
            for row in rows
        }
        with self._lock:
            stands = {plan: self._held[key] for plan, key in keys.items() if key in self._held}
        moved = [row for row in rows if row["plan_id"] not in stands]
        chains = plans.chains(store, [row["plan_id"] for row in moved])
        for row in moved:
            stands[row["plan_id"]] = stand = _stand(row, chains[row["plan_id"]], workshop)
            with self._lock:
                self._held[keys[row["plan_id"]]] = stand
                while len(self._held) > MOST:
                    self._held.popitem(last=False)
        return stands


def _stand(row: Row, chain: list[Row], workshop: Workshop) -> Stand:
    states = folds_of(row, chain, workshop)
    size: dict[str, Any] = next((d["choice"] for d in reversed(chain) if d["fold"] == "size"), {})
    return Stand(
        next=info(spec_of(next_of(states) or "log")),
        stale=any(f.state == "stale" for f in states),
        numbers=running(chain, states)[0],
        process=size.get("process"),
    )


_stands = Stands()
NONE = Stand(None, False, None, None)


def bench_rows(store: Store) -> list[FigureRow]:
    """Every figure on the bench, newest first."""
    on_it = figures.on_bench(store)
    doing = {row["figure_id"]: row["title"] for row in reversed(jobs.under_way(store)) if row["figure_id"]}
    stands = _stands.of(store, [row for row in on_it if row["plan_id"]], Workshop.of(store))
    return [
        FigureRow(
            **{k: row[k] for k in PLAIN},
            **vars(stands.get(row["plan_id"], NONE)),
            picture=row["picture_sha"],
            problem=orjson.loads(row["problem"]) if row["problem"] else None,
            doing=doing.get(row["id"]),
        )
        for row in on_it
    ]
