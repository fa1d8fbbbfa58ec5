"""Kits that were cut out of a figure, and how far the parts of any kit have come."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import orjson

from .db import Row, Store, StoreError, retried
from .figures import NewFigure, add_in
from .plans import create_in

MOST_WANTED = 1000


@dataclass(frozen=True)
class Cut:
    """A kit and its new parts (figure, plan)."""

    kit: int
    parts: list[tuple[int, int]]


@retried
def parted(store: Store, plan: int, figure: int, new: Sequence[NewFigure], joint: dict[str, Any]) -> Cut:
    """Keep two parts of a figure: in its kit, which it leaves, or in one of their own, which remembers its plan; the
    same parts where that was done before.

    Raises:
        StoreError: `no-figure`.
    """
    with store.work() as sql:
        sql.execute("SELECT id, name, kit_id, put_away_at FROM figures WHERE id = %s FOR UPDATE", (figure,))
        whole = sql.fetchone()
        if not whole:
            raise StoreError("no-figure", f"There is no figure number {figure}.", "Go back to the bench.")
        shas = [part.mesh_sha for part in new]
        sql.execute(
            "SELECT f.id, f.mesh_sha, f.kit_id, MIN(p.id) AS plan_id FROM figures f JOIN plans p ON p.figure_id = f.id"
            " JOIN kits k ON k.id = f.kit_id WHERE f.mesh_sha IN (%s, %s)"
            " AND (k.cut_of = %s OR JSON_CONTAINS(COALESCE(k.joints, '[]'), %s, '$')) GROUP BY f.id ORDER BY f.id",
            (*shas, plan, orjson.dumps({"plan": plan}).decode()),
        )
        there = {row["mesh_sha"]: row for row in sql.fetchall()}
        if len(there) == len(new):
            return Cut(there[shas[0]]["kit_id"], [(there[sha]["id"], there[sha]["plan_id"]) for sha in shas])
        kit = whole["kit_id"]
        if kit is None:
            sql.execute(
                "INSERT INTO kits (name, source_sha, placed, cut_of, joints) VALUES (%s, NULL, 1, %s, '[]')",
                (f"{whole['name']}, in parts"[:120], plan),
            )
            kit = int(sql.lastrowid or 0)
        else:
            sql.execute("UPDATE figures SET put_away_at = CURRENT_TIMESTAMP(3), kit_id = NULL WHERE id = %s", (figure,))
        sql.execute("SELECT joints FROM kits WHERE id = %s FOR UPDATE", (kit,))
        joints = orjson.loads((sql.fetchone() or {})["joints"] or "[]")
        joints.append(joint | {"plan": plan})
        sql.execute("UPDATE kits SET joints = %s WHERE id = %s", (orjson.dumps(joints).decode(), kit))
        parts = []
        for part in new:
            number = add_in(sql, part)
            sql.execute("UPDATE figures SET kit_id = %s WHERE id = %s", (kit, number))
            parts.append((number, create_in(sql, number)))
        return Cut(kit, parts)


def one(store: Store, number: int) -> Row:
    """A kit: its name, whether its parts lie where they belong, the plan it was cut from, its joints.

    Raises:
        StoreError: `no-kit`.
    """
    with store.work() as sql:
        sql.execute("SELECT * FROM kits WHERE id = %s", (number,))
        row = sql.fetchone()
    if not row:
        raise StoreError("no-kit", f"There is no kit number {number}.", "Go back to the bench.")
    return row | {"joints": orjson.loads(row["joints"] or "[]")}


def cut_from(store: Store, plan: int) -> list[Row]:
    """Kits (id, name) that a plan's figure was cut into, the newest first."""
    with store.work() as sql:
        sql.execute(
            "SELECT id, name FROM kits WHERE cut_of = %s OR JSON_CONTAINS(COALESCE(joints, '[]'), %s, '$')"
            " ORDER BY id DESC",
            (plan, orjson.dumps({"plan": plan}).decode()),
        )
        return list(sql.fetchall())


@retried
def say(store: Store, kit: int, figure: int, *, wanted: int, by_hand: str) -> None:
    """How many of a part are wanted, and what was done with it by hand.

    Raises:
        StoreError: `no-part`.
    """
    with store.work() as sql:
        sql.execute("SELECT 1 FROM figures WHERE id = %s AND kit_id = %s FOR UPDATE", (figure, kit))
        if not sql.fetchone():
            raise StoreError("no-part", "There is no such part in this kit.", "Load the page anew.", 404)
        sql.execute("UPDATE figures SET wanted = %s, by_hand = %s WHERE id = %s", (wanted, by_hand, figure))


@retried
def take_place(store: Store, old: int, new: int) -> int | None:
    """A figure takes the place of a part in its kit, wanted as often, with nothing done to it by hand yet; the part is
    put away. The kit, None where the old one belongs to none or the new one to another.
    """
    with store.work() as sql:
        sql.execute("SELECT id, kit_id, wanted FROM figures WHERE id IN (%s, %s) FOR UPDATE", (old, new))
        rows = {row["id"]: row for row in sql.fetchall()}
        if len(rows) < 2 or rows[old]["kit_id"] is None or rows[new]["kit_id"] is not None:
            return None
        kit = int(rows[old]["kit_id"])
        sql.execute("UPDATE figures SET kit_id = %s, wanted = %s WHERE id = %s", (kit, rows[old]["wanted"], new))
        sql.execute("UPDATE figures SET put_away_at = CURRENT_TIMESTAMP(3), kit_id = NULL WHERE id = %s", (old,))
        return kit


def prints_of(store: Store, numbers: Sequence[int]) -> dict[int, Row]:
    """Of each figure its prints on whatever plan: `whole` (or mended), `failed` ones, `under_way`, and what became of
    the latest that ended; simulated ones are none.
    """
    if not numbers:
        return {}
    marks = ", ".join(["%s"] * len(numbers))
    with store.work() as sql:
        sql.execute(
            "SELECT p.figure_id, SUM(o.result IN ('good', 'scarred') OR COALESCE(w.way = 'mend', 0)) AS whole,"
            " SUM(o.result IN ('part lost', 'print lost') AND NOT COALESCE(w.way = 'mend', 0)) AS failed,"
            " SUM(o.result IS NULL) AS under_way, SUM(COALESCE(w.way = 'mend', 0)) AS mended"
            " FROM runs r JOIN plans p ON p.id = r.plan_id LEFT JOIN outcomes o ON o.run_id = r.id"
            f" LEFT JOIN mends w ON w.run_id = r.id WHERE NOT r.simulated AND p.figure_id IN ({marks})"
            " GROUP BY p.figure_id",
            tuple(numbers),
        )
        names = ("whole", "failed", "under_way", "mended")
        return {row["figure_id"]: {name: int(row[name] or 0) for name in names} for row in sql.fetchall()}


def on_plates(store: Store, plans: Sequence[int]) -> set[int]:
    """Which of these plans lie on a plate as it stands now."""
    if not plans:
        return set()
    with store.work() as sql:
        sql.execute("SELECT s.body FROM plates p JOIN plate_steps s ON s.plate_id = p.id AND s.step = p.head")
        lying = {at["plan_id"] for row in sql.fetchall() for at in orjson.loads(row["body"]).get("laid", [])}
    return lying & set(plans)
