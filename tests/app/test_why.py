"""Ask why at its door: the parts of the row that is shown add up, and what is not there is said."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from tenugui.core.worth import PRESETS
from tenugui.store.db import Store
from tests.app.bench import bring_in, decide, fold, size
from tests.shapes import knobbly, stl_bytes


def a_plan(client: TestClient, store: Store, height: float) -> int:
    number = int(bring_in(client, store, stl_bytes(knobbly(9, 4)))["plan_id"])
    size(client, number, height_mm=height)
    return number


def test_every_board_that_weighs_tells_why(client: TestClient, store: Store) -> None:
    plan = a_plan(client, store, 14.0)
    usual = PRESETS["evening"]
    for name in ("pose", "supports", "layers"):
        board = fold(client, store, plan, name)
        rows = board["candidates"] if name == "pose" else board["choices"]
        for row in range(len(rows)):
            why = client.get(f"/api/plans/{plan}/why/{name}", params={"row": row}).json()
            held = rows[row]
            worth = (held["pose"]["metrics"] if name == "pose" else held["held"] if name == "layers" else held)["worth"]
            assert why["shown"] == row and why["recommended"] == board["recommended"]
            assert sum(part["coins"] for part in why["parts"]) == pytest.approx(worth["total"])
            by_name = {part["part"]: part for part in why["parts"]}
            assert by_name["hands"]["rate"] == usual.minute and by_name["machine"]["rate"] == usual.hour
            assert by_name["hands"]["amount"] * usual.minute == pytest.approx(by_name["hands"]["coins"])
            assert by_name["risk"]["amount"] == pytest.approx(100 * worth["risk"])
            assert all(p["value"] > 0 for part in why["parts"] for p in part["priors"])
            assert by_name["hands"]["priors"] and by_name["risk"]["priors"]
            assert why["other"] != row or len(rows) == 1
            assert why["learnt"] == []
        plain = client.get(f"/api/plans/{plan}/why/{name}").json()
        assert plain["shown"] == board["recommended"]
        decide(client, store, plan, name)


def test_what_is_not_there_is_said(client: TestClient, store: Store) -> None:
    plan = a_plan(client, store, 14.37)  # nobody else asks for the board of this one
    door = f"/api/plans/{plan}/why"
    assert client.get(f"{door}/supports").json()["code"] == "fold-open"
    assert client.get(f"{door}/pose").json()["code"] == "not-there"
    fold(client, store, plan, "pose")
    assert client.get(f"{door}/pose", params={"row": 90}).json()["code"] == "no-such-row"
    assert client.get(f"{door}/size").json()["code"] == "no-fold"
    assert client.get(f"{door}/tarot").json()["code"] == "no-fold"
    assert client.get("/api/plans/99999/why/pose").status_code == 404
