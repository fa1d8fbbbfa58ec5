"""The page's worker and the command compute the same plan from the same file, marks heard; and what is stored is what
was promised.
"""

from __future__ import annotations

import io
import json
import subprocess
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tenugui.core.formats import read, write_3mf
from tenugui.core.plan import quiet, task_of, tasks
from tenugui.store import plans, results
from tenugui.store.db import Store
from tenugui.work.chores import CHORES
from tenugui.work.shelf import StoreShelf
from tests.app.bench import bring_in, decide, fold, machine_ids, size
from tests.command import document
from tests.shapes import knobbly

HEIGHT_MM = 14.0
FOLDS = ("pose", "supports", "layers", "proof")


def marked() -> bytes:
    """A stone whose front is shown and whose back is hidden, as its file says."""
    stone = knobbly(12, 4)
    stone = stone.scaled(HEIGHT_MM / float(stone.size[2]))
    y = stone.corners().mean(axis=1)[:, 1]
    labels = np.where(y < -4, 1, np.where(y > 4, 2, 0)).astype(np.uint8)
    held = io.BytesIO()
    write_3mf({"figure": stone}, held, {"figure": labels})
    return held.getvalue()


def brought_up_to_date(client: TestClient, store: Store, plan: int, board: dict[str, Any]) -> None:
    """Bands that were taken are taken again when the engine has moved; what the new engine does not offer is left to
    the person.
    """
    banded = next(k for k, row in enumerate(board["choices"]) if row["bands"])
    limit = board["choices"][banded]["bands"]["limit_mm"]
    decide(client, store, plan, "layers", banded)
    decide(client, store, plan, "proof")
    engine = task_of("layers")

    def folds() -> dict[str, Any]:
        return {f["name"]: f for f in client.get(f"/api/plans/{plan}").json()["folds"]}

    try:
        tasks._TASKS["layers"] = replace(engine, code=engine.code + "+")
        assert folds()["layers"]["state"] == "stale"
        assert CHORES["refresh"](StoreShelf(store), {"plan": plan}, quiet) == {"brought_up_to_date": ["layers"]}
        held = folds()
        taken = next(row for row in reversed(plans.chain(store, plan)) if row["fold"] == "layers")
        assert (held["layers"]["state"], taken["choice"]["bands"]["limit_mm"]) == ("settled", limit)
        assert held["proof"]["state"] == "settled" and "Brought up to date" in held["layers"]["reason"]

        def poorer(*asked: Any) -> Any:
            found = engine.run(*asked)
            return found.model_copy(update={"choices": [row for row in found.choices if not row.bands]})  # type: ignore[attr-defined]

        tasks._TASKS["layers"] = replace(engine, code=engine.code + "++", run=poorer)
        assert CHORES["refresh"](StoreShelf(store), {"plan": plan}, quiet) == {
            "brought_up_to_date": [],
            "left": "layers",
        }
        assert folds()["layers"]["state"] == "stale"
    finally:
        tasks._TASKS["layers"] = engine


@pytest.mark.parametrize(
    ("printer", "material"), [pytest.param("heron", "lantern grey", marks=pytest.mark.long), ("kestrel", "marsh matte")]
)
def test_worker_and_command_agree(
    client: TestClient, store: Store, tmp_path: Path, printer: str, material: str
) -> None:
    body = marked()
    file = tmp_path / "stone.3mf"
    file.write_bytes(body)
    asked = document("pose", str(file), "--printer", printer)
    words = ["plan", str(file), "--printer", printer, "--out", str(tmp_path / "out"), "--json"]
    done = subprocess.run([sys.executable, "-m", "tenugui.cli", *words], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    told: dict[str, Any] = json.loads(done.stdout)

    plan = bring_in(client, store, body, "stone.3mf")["plan_id"]
    size(client, plan, factor=1.0, **machine_ids(client, printer, material))
    marks = client.get(f"/api/plans/{plan}").json()["folds"][1]
    assert marks["choice"]["strokes"][0]["tool"] == "file", "what the file marked is laid on"
    boards = {}
    for name in FOLDS:
        boards[name] = fold(client, store, plan, name)
        decide(client, store, plan, name)
    downs = [row["pose"]["down"] for row in boards["pose"]["candidates"]]
    assert downs == [c["down"] for c in told["pose"]["candidates"]]
    assert boards["pose"]["recommended"] == told["pose"]["recommended"]
    assert asked["evaluated"] == boards["pose"]["evaluated"] and asked["recommended"] == boards["pose"]["recommended"]
    for told_row, row in zip(asked["candidates"], boards["pose"]["candidates"], strict=True):
        assert told_row["down"] == pytest.approx(row["pose"]["down"], abs=1e-6), "the command runs the page's task"
        assert told_row["metrics"]["worth"]["total"] == pytest.approx(row["pose"]["metrics"]["worth"]["total"])
        assert told_row["why"] == row["pose"]["why"]
    rows = [r["height"] | ({"bands": r["bands"]} if r["bands"] else {}) for r in boards["layers"]["choices"]]
    assert rows == told["layers"]["choices"] and any("bands" in row for row in rows) is (printer == "kestrel")
    once_written = {"time_s": told["proof"]["time_s"]}
    assert boards["proof"]["proof"] | once_written == told["proof"] and told["proof"]["schema"] == "tenugui/proof@1"
    assert told["proof"]["time_s"] == pytest.approx(boards["proof"]["proof"]["time_s"], rel=0.03), (
        "of every layer, not of some"
    )
    assert client.get(f"/api/plans/{plan}/files/stl").content == (tmp_path / "out" / "stone.stl").read_bytes()
    package = read(io.BytesIO(client.get(f"/api/plans/{plan}/files/3mf").content))
    assert {1, 2} <= set(np.unique(package.marks["figure"])), "the marks travel on"
    assert client.get(f"/api/plans/{plan}/files/pdf").content.startswith(b"%PDF")

    if printer == "kestrel":
        brought_up_to_date(client, store, plan, boards["layers"])
    held = results.every(store)
    assert {kind for kind, _ in held} >= {"intake", "search", "held", *FOLDS}
    for kind, stored in held:
        model = task_of(kind).model
        assert model.loaded(stored).dumped() == stored, kind
