"""A plan as it stood after one of its decisions, and two of them beside each other."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.contract import FrozenLine, HeldDoc, LayersChoice, SizeChoice, SupportsChoice
from ..core.machines import default_height, load_printer
from ..core.plan import frozen_of, kept, sets_beside, side_of
from ..core.plan.given import FigureGiven, HeldGiven, SupportsGiven
from ..core.plan.supported import held_given
from ..core.worth import Gift
from ..store import plans
from ..store.db import Row, Store
from .folds import Standing, Workshop, folds_of, own_of, running
from .shelf import StoreShelf


@dataclass(frozen=True)
class Side:
    """A plan after a decision: how it stood, all that was set, and the supports that it was to have where they were
    placed, at the layer height that was taken, else at that of its board.
    """

    standing: Standing
    lines: list[FrozenLine]
    held: HeldDoc | None
    placed: SupportsGiven | None

    @staticmethod
    def of(store: Store, number: int, decision: int | None) -> Side:
        """Of plan `number` after `decision`, as it stands today where none is named.

        Raises:
            StoreError: `no-plan`, `no-decision`.
        """
        standing = Standing.of(store, number) if decision is None else Line.of(store, number).after(decision)
        shelf = StoreShelf(store)
        lines: list[FrozenLine] = []
        if standing.choice(SizeChoice) is not None:
            given = next(f.given for f in standing.folds if f.given is not None)
            lines = frozen_of(standing.choices, given, {}) if isinstance(given, FigureGiven) else []
        placed = _placed(standing)
        return Side(standing, lines, None if placed is None else _held(shelf, standing, placed), placed)

    @property
    def gift(self) -> Gift | None:
        """What it takes, where its supports are placed."""
        return None if self.held is None else Gift(**self.held.row.gift.model_dump())

    @property
    def process(self) -> str | None:
        """Of its machine, where that is chosen."""
        size = self.standing.choice(SizeChoice)
        return None if size is None else str(self.standing.workshop.printers[size.printer_id]["process"])

    @property
    def numbers(self) -> dict[str, float] | None:
        """Its running figures."""
        told = running(self.standing.chain, self.standing.folds)[0]
        return None if told is None else dict(told)


@dataclass(frozen=True)
class Line:
    """All decisions of a plan by their number, in force or taken back."""

    plan: Row
    decisions: dict[int, Row]
    workshop: Workshop

    @staticmethod
    def of(store: Store, number: int) -> Line:
        """Of a plan.

        Raises:
            StoreError: `no-plan`.
        """
        plan, rows = plans.one(store, number), plans.decisions(store, number)
        return Line(plan, {row["id"]: row for row in rows}, Workshop.of(store))

    def after(self, decision: int) -> Standing:
        """The plan as it stood after one of its decisions.

        Raises:
            StoreError: `no-decision`.
        """
        chain = plans.led_to(self.decisions, decision)
        return Standing(self.plan, chain, folds_of(self.plan, chain, self.workshop), self.workshop)


def _placed(standing: Standing) -> SupportsGiven | None:
    fold = next((f for f in standing.folds if f.name == "supports"), None)
    return fold.given.to(SupportsGiven) if fold is not None and fold.given is not None else None


def _held(shelf: StoreShelf, standing: Standing, placed: SupportsGiven) -> HeldDoc | None:
    supports, layers = standing.choice(SupportsChoice), standing.choice(LayersChoice)
    if supports is None:
        return None
    heights = [layers.layer_height_mm] if layers is not None else []
    heights.append(_board_height(standing))
    for height in heights:
        given: HeldGiven = held_given(
            placed, height=height, risk=supports.risk, style=supports.style, edits=supports.edits
        )
        if (held := kept(shelf, "held", given, HeldDoc)) is not None:
            return held
    return None


def _board_height(standing: Standing) -> float:
    size = standing.choice(SizeChoice)
    assert size is not None
    printers, _ = standing.workshop.set_otherwise(own_of(standing.plan))
    return default_height(load_printer(printers[size.printer_id]))


def pictures(store: Store, one: Side, other: Side) -> tuple[bytes, bytes, tuple[int, int] | None] | None:
    """Both as pictures (PNG); of one pose with what differs dyed, and how many supports only each has. None where one
    has no supports yet.
    """
    if one.held is None or other.held is None or one.placed is None or other.placed is None:
        return None
    shelf = StoreShelf(store)
    if _alike(one.placed, other.placed):
        told = sets_beside(shelf, one.placed, (one.held, other.held))
        return told.pictures[0], told.pictures[1], told.only
    return side_of(shelf, one.placed, one.held), side_of(shelf, other.placed, other.held), None


def _alike(one: SupportsGiven, other: SupportsGiven) -> bool:
    """Whether both stand on the plate in one pose, at one size, of one mesh."""
    names = ("sha", "factor", "down", "plinth", "hollow", "printer")
    return all(getattr(one, name) == getattr(other, name) for name in names)
