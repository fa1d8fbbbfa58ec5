"""Chains of decisions against a plain model: any order of deciding, undoing and redoing leaves what a list of lists
would.
"""

from __future__ import annotations

import contextlib
from dataclasses import dataclass, field

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tenugui.store import blobs, figures, plans
from tenugui.store import settings as kept
from tenugui.store.db import Store, StoreError


@dataclass
class Node:
    """A decision of the model, and what was decided after it, oldest first."""

    reason: str
    parent: Node | None
    after: list[Node] = field(default_factory=list)


def chain_of(head: Node) -> list[str]:
    told: list[str] = []
    while head.parent is not None:
        told.append(head.reason)
        head = head.parent
    return told[::-1]


moves = st.lists(st.sampled_from(["size", "marks", "pose", "supports", "undo", "undo", "redo"]), max_size=25)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(moves)
def test_any_order_of_moves_leaves_what_a_tree_would(store: Store, order: list[str]) -> None:
    sha = blobs.put_bytes(store, b"a figure")
    plan = plans.create(store, figures.add(store, figures.NewFigure("Toad", "toad.stl", sha, 12)))
    root = head = Node("", None)
    for number, move in enumerate(order):
        if move == "undo":
            if head.parent is None:
                with pytest.raises(StoreError):
                    plans.undo(store, plan)
            else:
                plans.undo(store, plan)
                head = head.parent
        elif move == "redo":
            if not head.after:
                with pytest.raises(StoreError):
                    plans.redo(store, plan)
            else:
                plans.redo(store, plan)
                head = head.after[-1]
        else:
            node = Node(f"{move} {number}", head)
            head.after.append(node)
            plans.decide(store, plan, move, choice={"n": number}, evidence={}, reason=node.reason)
            head = node
        assert [d["reason"] for d in plans.chain(store, plan)] == chain_of(head)
        following = plans.next_of(store, plan)
        assert (following["reason"] if following else None) == (head.after[-1].reason if head.after else None)
    assert plans.chains(store, [plan])[plan] == plans.chain(store, plan)
    assert root.parent is None


def test_a_plan_of_an_unknown_figure_is_refused(store: Store) -> None:
    with pytest.raises(StoreError, match="no figure number 99"):
        plans.create(store, 99)
    with pytest.raises(StoreError, match="no plan number 99"):
        plans.one(store, 99)
    with pytest.raises(StoreError):
        plans.decide(store, 99, "size", choice={}, evidence={}, reason="")
    assert plans.chain(store, 99) == [] and plans.chains(store, []) == {}


def test_plans_of_a_figure_are_numbered(store: Store) -> None:
    sha = blobs.put_bytes(store, b"a figure")
    figure = figures.add(store, figures.NewFigure("Toad", "toad.stl", sha, 12))
    numbers = [plans.one(store, plans.create(store, figure))["number"] for _ in range(3)]
    assert numbers == [1, 2, 3]
    other = figures.add(store, figures.NewFigure("Heron", "heron.stl", sha, 12))
    assert plans.one(store, plans.create(store, other))["number"] == 1


def test_work_that_fails_is_taken_back_whole(store: Store) -> None:
    sha = blobs.put_bytes(store, b"a figure")
    with contextlib.suppress(RuntimeError), store.work() as sql:
        sql.execute(
            "INSERT INTO figures (name, file_name, source_sha, "
            "mesh_sha, triangles) VALUES ('Half', 'half.stl', %s, %s, 1)",
            (sha, sha),
        )
        raise RuntimeError("the hand slipped")
    assert figures.on_bench(store) == []


def test_settings_are_kept_and_replaced(store: Store) -> None:
    assert kept.every(store) == {}
    kept.keep(store, {"triangles": 1000, "entries": 7})
    kept.keep(store, {"triangles": 2000})
    assert kept.every(store) == {"triangles": 2000, "entries": 7}
