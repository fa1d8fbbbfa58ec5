"""Plans: append-only chains of decisions with a head that undo and redo move.

Whoever moves a head says which head was seen; where another has moved it meanwhile, nothing is changed and the
difference is told.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import orjson
from pymysql.cursors import DictCursor

from .db import Row, Store, StoreError, retried

ANY = -1
"""For an expected head: whatever it is. For the engine's own deeds, never for a page's."""
Head = int | None


@retried
def create(store: Store, figure_id: int) -> int:
    """A new, empty plan for a figure; returns its id."""
    with store.work() as sql:
        return create_in(sql, figure_id)


def create_in(sql: DictCursor, figure_id: int, own: str | None = None) -> int:
    """`create` within a transaction; `own`: what it sets otherwise than the shelf, as JSON.

    Raises:
        StoreError: `no-figure`.
    """
    sql.execute("SELECT id FROM figures WHERE id = %s FOR UPDATE", (figure_id,))
    if not sql.fetchone():
        raise StoreError("no-figure", f"There is no figure number {figure_id}.", "Go back to the bench.")
    sql.execute(
        "INSERT INTO plans (figure_id, number, own) SELECT %s, COALESCE(MAX(number), 0) + 1, %s FROM plans"
        " WHERE figure_id = %s",
        (figure_id, own, figure_id),
    )
    return int(sql.lastrowid or 0)


def one(store: Store, number: int) -> Row:
    """A plan with its figure.

    Raises:
        StoreError: `no-plan`.
    """
    with store.work() as sql:
        sql.execute(
            "SELECT p.*, f.name AS figure_name, f.source_sha, f.mesh_sha, "
            "f.ready_sha, f.unit, f.kit_id, f.file_name, f.triangles, f.thinned,"
            " f.sight_sha, f.settings_sha FROM plans p JOIN figures f ON f.id = p.figure_id WHERE p.id = %s",
            (number,),
        )
        row = sql.fetchone()
    if not row:
        raise StoreError("no-plan", f"There is no plan number {number}.", "Go back to the bench.")
    return row


def chain(store: Store, number: int) -> list[Row]:
    """The decisions in force, first to last."""
    with store.work() as sql:
        sql.execute(
            "WITH RECURSIVE chain AS (SELECT d.* FROM decisions d JOIN plans p ON p.head_id = d.id WHERE p.id = %s"
            " UNION ALL SELECT d.* FROM decisions d JOIN chain c "
            "ON d.id = c.parent_id) SELECT * FROM chain ORDER BY id",
            (number,),
        )
        return [_row(row) for row in sql.fetchall()]


def chains(store: Store, numbers: list[int]) -> dict[int, list[Row]]:
    """`chain` of several plans at once."""
    chains: dict[int, list[Row]] = {number: [] for number in numbers}
    if not numbers:
        return chains
    marks = ", ".join(["%s"] * len(numbers))
    with store.work() as sql:
        sql.execute(f"SELECT id, head_id FROM plans WHERE id IN ({marks})", numbers)
        at = {row["id"]: row["head_id"] for row in sql.fetchall()}
        sql.execute(f"SELECT * FROM decisions WHERE plan_id IN ({marks})", numbers)
        heads = {row["id"]: row for row in sql.fetchall()}
    for number, head in at.items():
        if head is not None:
            chains[number] = [_row(row) for row in led_to(heads, head)]
    return chains


def decisions(store: Store, number: int) -> list[Row]:
    """All decisions of a plan, in force or taken back, in the order in which they were made."""
    with store.work() as sql:
        sql.execute("SELECT * FROM decisions WHERE plan_id = %s ORDER BY id", (number,))
        return [_row(row) for row in sql.fetchall()]


def of_figure(store: Store, figure_id: int) -> list[Row]:
    """The plans of a figure: id, number, head; first to last."""
    with store.work() as sql:
        sql.execute("SELECT id, number, head_id FROM plans WHERE figure_id = %s ORDER BY number", (figure_id,))
        return list(sql.fetchall())


MOST_PLANS = 40
"""Of one figure."""


@retried
def branch(
    store: Store,
    number: int,
    decision: int | None,
    without: Sequence[str] = (),
    own: Mapping[Any, Mapping[str, float]] | None = None,
) -> int:
    """Another plan of the same figure with the decisions of a plan up to one of them, in force or not, or with none;
    returns its id. The plan itself stays as it is. `without`: folds that are to be decided anew; `own`: what the new
    one sets otherwise than the shelf, as the old one does where it is None.

    Raises:
        StoreError: `no-plan`, `no-decision`, `too-many`.
    """
    with store.work() as sql:
        sql.execute("SELECT figure_id, own FROM plans WHERE id = %s", (number,))
        plan = sql.fetchone()
        if not plan:
            raise StoreError("no-plan", f"There is no plan number {number}.", "Go back to the bench.")
        sql.execute("SELECT COUNT(*) AS n FROM plans WHERE figure_id = %s", (plan["figure_id"],))
        if int((sql.fetchone() or {"n": 0})["n"]) >= MOST_PLANS:
            raise StoreError("too-many", f"The figure has {MOST_PLANS} plans.", "Go on with one of them.", 409)
        sql.execute("SELECT * FROM decisions WHERE plan_id = %s", (number,))
        every = {row["id"]: row for row in sql.fetchall()}
        line = [] if decision is None else [_row(row) for row in led_to(every, decision)]
        said = plan["own"] if own is None else orjson.dumps(own).decode() if own else None
        new, head = create_in(sql, plan["figure_id"], said), None
        for row in (row for row in line if row["fold"] not in without):
            head = decide_in(
                sql, new, head, fold=row["fold"], choice=row["choice"], evidence=row["evidence"], reason=row["reason"]
            )
        return new


def led_to(every: Mapping[int, Row], decision: int) -> list[Row]:
    """The decisions that led to one of them, it the last, of all by their number.

    Raises:
        StoreError: `no-decision`.
    """
    if decision not in every:
        what = f"The plan has no decision number {decision}."
        raise StoreError("no-decision", what, "Look at its line of decisions.", 404)
    line, at = list[Row](), every.get(decision)
    while at is not None:
        line.append(at)
        at = every.get(at["parent_id"])
    return line[::-1]


def proved(store: Store, most: int = 100) -> list[Row]:
    """Plans on any machine whose proof was accepted, newest first."""
    with store.work() as sql:
        sql.execute(
            "SELECT p.id, f.name AS figure_name FROM plans p JOIN figures f ON f.id = p.figure_id"
            " WHERE f.put_away_at IS NULL"
            " AND EXISTS (SELECT 1 FROM decisions d WHERE d.plan_id = p.id AND d.fold = 'proof')"
            " ORDER BY p.id DESC LIMIT %s",
            (most,),
        )
        return list(sql.fetchall())


def newest_of_each(store: Store, most: int = 1000) -> list[Row]:
    """The newest plan of each figure at hand of which something is decided: id, number, figure and its name."""
    with store.work() as sql:
        sql.execute(
            "SELECT p.id, p.number, p.figure_id, f.name AS figure_name FROM plans p JOIN figures f"
            " ON f.id = p.figure_id WHERE f.put_away_at IS NULL AND p.id IN (SELECT MAX(id) FROM plans"
            " WHERE head_id IS NOT NULL GROUP BY figure_id) ORDER BY p.id DESC LIMIT %s",
            (most,),
        )
        return list(sql.fetchall())


def newest_proved(store: Store, figure_id: int) -> int | None:
    """The newest plan of a figure whose proof was accepted; None where there is none."""
    with store.work() as sql:
        sql.execute(
            "SELECT p.id FROM plans p WHERE p.figure_id = %s"
            " AND EXISTS (SELECT 1 FROM decisions d WHERE d.plan_id = p.id AND d.fold = 'proof')"
            " ORDER BY p.id DESC LIMIT 1",
            (figure_id,),
        )
        row = sql.fetchone()
        return int(row["id"]) if row else None


def heads(store: Store, numbers: Sequence[int]) -> dict[int, Head]:
    """The decision at each plan's head."""
    if not numbers:
        return {}
    marks = ", ".join(["%s"] * len(numbers))
    with store.work() as sql:
        sql.execute(f"SELECT id, head_id FROM plans WHERE id IN ({marks})", tuple(numbers))
        return {row["id"]: row["head_id"] for row in sql.fetchall()}


def with_choice(store: Store, fold: str, path: str) -> list[Row]:
    """Plans of figures at hand in which some decision of a fold has a list that is not empty at a JSON path: the newest
    first, with the names of their figures.
    """
    with store.work() as sql:
        sql.execute(
            "SELECT p.id, p.figure_id, f.name, f.mesh_sha FROM plans p JOIN figures f ON f.id = p.figure_id"
            " WHERE f.put_away_at IS NULL AND p.id IN (SELECT plan_id FROM decisions WHERE fold = %s"
            " AND JSON_LENGTH(choice, %s) > 0) ORDER BY p.id DESC",
            (fold, path),
        )
        return list(sql.fetchall())


def next_of(store: Store, number: int) -> Row | None:
    """What redo would bring back: the newest decision that follows the head."""
    with store.work() as sql:
        return _next_in(sql, number)


def _next_in(sql: DictCursor, number: int) -> Row | None:
    sql.execute(
        "SELECT d.* FROM decisions d JOIN plans p ON p.id = d.plan_id WHERE "
        "p.id = %s AND d.parent_id <=> p.head_id ORDER BY d.id DESC LIMIT 1",
        (number,),
    )
    row = sql.fetchone()
    return _row(row) if row else None


def _locked(sql: DictCursor, number: int, expected: Head) -> Head:
    """The plan's head, locked until the transaction ends.

    Raises:
        StoreError: `no-plan`, or `changed-meanwhile` where the head is not the expected one.
    """
    sql.execute("SELECT head_id FROM plans WHERE id = %s FOR UPDATE", (number,))
    plan = sql.fetchone()
    if not plan:
        raise StoreError("no-plan", f"There is no plan number {number}.", "Go back to the bench.")
    head: Head = plan["head_id"]
    if expected not in (ANY, head):
        sql.execute("SELECT fold, reason FROM decisions WHERE id = %s", (head,))
        last = sql.fetchone()
        what = (
            f"its last decision now is {last['fold'].title()}: {last['reason']}"
            if last
            else "all its decisions were taken back"
        )
        raise StoreError(
            "changed-meanwhile",
            f"The plan was changed meanwhile: {what}.",
            "Look at it as it is now, then decide again.",
            409,
        )
    return head


@retried
def decide(
    store: Store,
    number: int,
    fold: str,
    *,
    choice: dict[str, Any],
    evidence: dict[str, Any],
    reason: str,
    expected: Head = ANY,
) -> int:
    """Append a decision and move the head onto it; acknowledged only when committed."""
    with store.work() as sql:
        return decide_in(
            sql, number, _locked(sql, number, expected), fold=fold, choice=choice, evidence=evidence, reason=reason
        )


@dataclass(frozen=True)
class Decided:
    """A decision to append: to which plan's fold, what, resting on what, why, and onto which head."""

    plan: int
    fold: str
    choice: dict[str, Any]
    evidence: dict[str, Any]
    reason: str
    expected: Head = ANY


@retried
def decide_all(store: Store, decided: Sequence[Decided]) -> None:
    """Append decisions to several plans in one: all of them, or none."""
    with store.work() as sql:
        for one_ in sorted(decided, key=lambda d: d.plan):  # locked in one order, so that two never wait for each other
            head = _locked(sql, one_.plan, one_.expected)
            decide_in(
                sql, one_.plan, head, fold=one_.fold, choice=one_.choice, evidence=one_.evidence, reason=one_.reason
            )


def decide_in(
    sql: DictCursor,
    number: int,
    head: Head,
    *,
    fold: str,
    choice: dict[str, Any],
    evidence: dict[str, Any],
    reason: str,
) -> int:
    """`decide` within a transaction that holds the plan, whose head is `head`."""
    sql.execute(
        "INSERT INTO decisions (plan_id, parent_id, fold, choice, evidence, reason) VALUES (%s, %s, %s, %s, %s, %s)",
        (number, head, fold, orjson.dumps(choice).decode(), orjson.dumps(evidence).decode(), reason[:1000]),
    )
    row_id = int(sql.lastrowid or 0)
    sql.execute("UPDATE plans SET head_id = %s WHERE id = %s", (row_id, number))
    return row_id


@retried
def undo(store: Store, number: int, expected: Head = ANY) -> None:
    """Move the head to its parent.

    Raises:
        StoreError: `nothing-to-undo`, `changed-meanwhile`.
    """
    with store.work() as sql:
        head = _locked(sql, number, expected)
        if head is None:
            raise StoreError("nothing-to-undo", "There is no decision to undo.", status=409)
        sql.execute(
            "UPDATE plans SET head_id = (SELECT parent_id FROM decisions WHERE id = %s) WHERE id = %s", (head, number)
        )


@retried
def redo(store: Store, number: int, expected: Head = ANY) -> None:
    """Move the head to the newest decision that follows it.

    Raises:
        StoreError: `nothing-to-redo`, `changed-meanwhile`.
    """
    with store.work() as sql:
        _locked(sql, number, expected)
        following = _next_in(sql, number)
        if not following:
            raise StoreError("nothing-to-redo", "There is no decision to redo.", status=409)
        sql.execute("UPDATE plans SET head_id = %s WHERE id = %s", (following["id"], number))


def _row(row: Row) -> Row:
    return {**row, "choice": orjson.loads(row["choice"]), "evidence": orjson.loads(row["evidence"])}
