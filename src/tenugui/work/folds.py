"""What a stored chain of decisions means today: folds, their inputs, and the jobs that compute them."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, TypeVar

import orjson

from ..core.contract import Ask, Choice, IntakeDoc
from ..core.machines import Own, set_otherwise, settable
from ..core.machines.own import Table
from ..core.plan import Fold, Given, PlanBase, Taken, kept, key_of, narrowed, read_folds, task_of
from ..core.plan.given import FigureGiven, MeshGiven
from ..store import figures, jobs, machines, plans, results
from ..store.db import Row, Store, StoreError
from .shelf import StoreShelf

C = TypeVar("C", bound=Choice)


@dataclass(frozen=True)
class Workshop:
    """Printers and materials by id, as they stand."""

    printers: dict[int, Any]
    materials: dict[int, Any]

    @cached_property
    def stamp(self) -> str:
        """Of all of them as they stand."""
        whole = [sorted(table.items()) for table in (self.printers, self.materials)]
        return hashlib.sha256(orjson.dumps(whole, option=orjson.OPT_SORT_KEYS)).hexdigest()

    def set_otherwise(self, own: Own) -> tuple[dict[int, Any], dict[int, Any]]:
        """Printers and materials as a plan with settings of its own has those that know such a setting."""
        if not own:
            return self.printers, self.materials
        tables: tuple[tuple[Table, dict[int, Any]], ...] = (("printers", self.printers), ("materials", self.materials))
        printers, materials = (
            {number: set_otherwise(spec, table, _known(own, table, spec)) for number, spec in rows.items()}
            for table, rows in tables
        )
        return printers, materials

    @staticmethod
    def of(store: Store) -> Workshop:
        """All of them, retired ones too, since old plans name them."""
        printers, materials = (
            {row["id"]: row["spec"] for row in machines.every(store, table, retired=True)}
            for table in ("printers", "materials")
        )
        return Workshop(printers, materials)


def _known(own: Own, table: Table, spec: Any) -> Own:
    offered = settable(spec["process"])
    return {table: {name: value for name, value in own.get(table, {}).items() if (table, name) in offered}}


def base_of(plan: Row, workshop: Workshop) -> PlanBase:
    """What a plan's inputs are made from: the figure's mesh, the one that is worked on, and the workshop as the plan
    sets it.
    """
    worked, own = plan["ready_sha"] or plan["mesh_sha"], own_of(plan)
    printers, materials = workshop.set_otherwise(own)
    return PlanBase(plan["mesh_sha"], worked, printers, materials, plan["settings_sha"])


def own_of(plan: Row) -> Own:
    """What a plan sets otherwise than the shelf."""
    return orjson.loads(plan["own"]) if plan["own"] else {}


def folds_of(plan: Row, chain: Sequence[Row], workshop: Workshop) -> list[Fold]:
    """All folds of a plan as it stands."""
    return read_folds(
        [(row["fold"], row["choice"], row["evidence"].get("key")) for row in chain], base_of(plan, workshop)
    )


def inputs_hash(task: str, given: Given) -> str:
    """Of a task's inputs alone, whatever its version: tells whether only the engine has moved."""
    return hashlib.sha256(orjson.dumps(narrowed(task, given).plain(), option=orjson.OPT_SORT_KEYS)).hexdigest()


def evidence_of(task: str, given: Given, taken: Taken) -> dict[str, Any]:
    """What a decision rests on."""
    numbers = None if taken.numbers is None else taken.numbers.model_dump()
    return {"key": key_of(task, given), "inputs": inputs_hash(task, given), "numbers": numbers}


def stored(choice: Choice) -> dict[str, Any]:
    """A choice as it is kept: what is told by its fold's name is not told again, nor what is not said."""
    return choice.model_dump(mode="json", exclude_none=True, exclude={"fold"})


@dataclass(frozen=True)
class Standing:
    """A plan, its chain, and what it means today."""

    plan: Row
    chain: list[Row]
    folds: list[Fold]
    workshop: Workshop

    @staticmethod
    def of(store: Store, number: int) -> Standing:
        """A plan as it stands."""
        plan, chain, workshop = plans.one(store, number), plans.chain(store, number), Workshop.of(store)
        return Standing(plan, chain, folds_of(plan, chain, workshop), workshop)

    @property
    def head(self) -> int | None:
        """The decision at its head."""
        return self.plan["head_id"]

    def fold(self, name: str) -> Fold:
        """One fold.

        Raises:
            StoreError: `no-fold` where the plan's process does not ask it.
        """
        fold = next((f for f in self.folds if f.name == name), None)
        if fold is None:
            raise StoreError(
                "no-fold", f"'{name[:40]}' is not asked of this plan.", "Its machine works another way.", 404
            )
        return fold

    @property
    def choices(self) -> dict[str, Choice]:
        """Choices by fold."""
        return {f.name: f.choice for f in self.folds if f.choice is not None}

    def choice(self, kind: type[C]) -> C | None:
        """The choice of a kind, where it is made."""
        return next((f.choice for f in self.folds if isinstance(f.choice, kind)), None)

    def given(self, name: str, asked: Ask | None = None) -> FigureGiven:
        """Inputs of a fold's task; `asked`: what is asked of its board now, over what was asked before.

        Raises:
            StoreError: `fold-open`: a fold that it needs is not settled, or one that it uses is stale.
        """
        fold = self.fold(name)
        if fold.spec.task is None:
            raise StoreError("no-computation", f"The fold '{fold.spec.title}' has nothing to compute.")
        if fold.waits is not None:
            other = self.fold(fold.waits)
            stale = "rests on what has changed since" if other.state == "stale" else "is not settled"
            raise StoreError("fold-open", f"The fold '{other.spec.title}' {stale}.", "Decide it first.", 409)
        if asked is None:
            assert fold.given is not None
            return fold.given
        return fold.spec.inputs(base_of(self.plan, self.workshop), self.choices, asked)


def running(chain: Sequence[Row], folds: Sequence[Fold]) -> tuple[Any, Any]:
    """A plan's running figures: those of the furthest fold that is settled; and those before, where the last decision
    is what changed them.
    """
    numbers = [(row["fold"], row["evidence"]["numbers"]) for row in chain if row["evidence"].get("numbers")]
    last = dict(numbers)
    furthest = next((f.name for f in reversed(folds) if f.state == "settled" and f.name in last), None)
    if furthest is None:
        return (numbers[-1][1] if numbers else None), None
    changed = numbers[-1][0] == furthest and len(numbers) > 1
    return last[furthest], numbers[-2][1] if changed else None


def want(
    store: Store, kind: str, given: Given, title: str = "", figure_id: int | None = None
) -> tuple[str, int | None]:
    """The key of a computation, and the job that computes it, or None where its result is there."""
    key = key_of(kind, given)
    if results.has(store, key):
        return key, None
    return key, jobs.want(store, kind, narrowed(kind, given).plain(), key=key, title=title, figure_id=figure_id)


def want_examined(store: Store, sha: str, title: str, figure_id: int) -> None:
    """Have a figure examined; where its mesh was examined before, note on it what was found."""
    _, job = want(store, "intake", MeshGiven(sha=sha), title, figure_id)
    document = None if job else kept(StoreShelf(store), "intake", MeshGiven(sha=sha), IntakeDoc)
    if document is not None:
        figures.examined(store, sha, document.picture_sha, document.ready.sha)


__all__ = [
    "Standing",
    "Workshop",
    "base_of",
    "evidence_of",
    "folds_of",
    "inputs_hash",
    "own_of",
    "running",
    "stored",
    "task_of",
    "want",
    "want_examined",
]
