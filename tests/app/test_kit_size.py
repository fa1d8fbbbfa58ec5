"""One scale for a kit, whenever its parts have been examined."""

from __future__ import annotations

import io
import zipfile

from fastapi.testclient import TestClient

from tenugui.core.contract import SizeChoice
from tenugui.store import figures, jobs
from tenugui.store.db import Store
from tenugui.work.folds import Standing
from tenugui.work.worker import compute
from tests.app.bench import ME, size, work_off
from tests.shapes import box, stl_bytes


def test_a_part_that_is_examined_late_takes_the_size_of_its_kit(client: TestClient, store: Store) -> None:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        for name, tall in (("hull", 7.0), ("mast", 12.0), ("oar", 9.0)):
            archive.writestr(f"{name}.stl", stl_bytes(box((0, 0, tall / 2), (4.2, 3.1, tall))))
    assert client.post("/api/figures", params={"name": "boat.zip"}, content=held.getvalue()).status_code == 200
    while (job := jobs.claim(store, ME)) is not None:
        compute(store, job, ME)
        if job["kind"] == "intake":
            break
    assert job is not None
    rows = figures.every(store)
    first = next(row for row in rows if row["id"] == job["figure_id"])
    size(client, first["plan_id"], factor=2.0)
    others = [row for row in rows if row["id"] != first["id"]]
    assert [Standing.of(store, row["plan_id"]).choice(SizeChoice) for row in others] == [None, None]
    work_off(store)
    for row in others:
        taken = Standing.of(store, row["plan_id"]).choice(SizeChoice)
        assert taken is not None and taken.factor == 2.0, "examined after the kit was sized"
        line = client.get(f"/api/plans/{row['plan_id']}/line").json()["decisions"]
        assert [d["reason"] for d in line] == [f"With the kit: sized as {first['name']} was"]
