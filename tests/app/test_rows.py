"""The bench of many figures: a change reads the plan that moved and no other, and what is told is what is."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from tenugui.app import rows
from tenugui.core.machines import load_material, load_printer
from tenugui.store import blobs, figures, machines, plans
from tenugui.store.db import Store
from tests.shapes import ball, stl_bytes


def test_only_the_plans_that_moved_are_read_again(
    client: TestClient, store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    sha = blobs.put_bytes(store, stl_bytes(ball(5)))
    printer = next(m for m in machines.every(store, "printers") if m["name"] == "heron")
    material = next(m for m in machines.every(store, "materials") if m["name"] == "lantern grey")
    size = {"sha": sha, "factor": 1.0, "height_mm": 10.0, "printer": "heron", "material": "lantern grey"}
    size |= {"process": "resin", "printer_id": printer["id"], "material_id": material["id"]}
    made = [
        plans.create(store, figures.add(store, figures.NewFigure(f"Stone {k}", "s.stl", sha, 80))) for k in range(6)
    ]
    asked, chains = list[list[int]](), plans.chains

    def counted(store_: Store, numbers: list[int]) -> object:
        asked.append(sorted(numbers))
        return chains(store_, numbers)

    monkeypatch.setattr(plans, "chains", counted)

    def told() -> dict[int, str]:
        return {row.plan_id: row.next.name for row in rows.bench_rows(store) if row.plan_id and row.next}

    assert set(told().values()) == {"size"} and asked.pop() == made
    plans.decide(store, made[2], "size", choice=size, evidence={}, reason="")
    assert told()[made[2]] != "size" and asked.pop() == [made[2]]
    assert told() and asked.pop() == [], "nothing moved"
    plans.undo(store, made[2])
    assert told()[made[2]] == "size" and asked.pop() == [], "as it was told before"
    figures.rename(store, 1, "Another name")
    assert told() and asked.pop() == [], "a name moves no plan"
    wide = load_printer("heron").model_copy(update={"watts": 75.0})
    machines.keep(store, "printers", wide.model_dump(mode="json"))
    assert load_material(None, wide) and told() and asked.pop() == made, "the workshop concerns all"
