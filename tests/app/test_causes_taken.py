"""Causes that a machine's own log has taught are taken over by one click, change its plans, and are undone."""

from __future__ import annotations

from typing import Any

import orjson
import pytest
from fastapi.testclient import TestClient

from tenugui.store import machines
from tenugui.store.db import Store
from tenugui.store.runs import bring
from tests.app.bench import machine_ids

DAY = "2026-10-{:02d}T08:00:00"


def told(code: str, chance: float) -> dict[str, Any]:
    return {
        "code": code, "layer": 9, "x_mm": 0.0, "y_mm": 0.0, "z_mm": 1.0, "chance": chance, "loss": "part lost",
        "message": "",
    }  # fmt: skip


def logged(store: Store, ids: dict[str, int], code: str, *, failed: int, whole: int) -> None:
    lines = []
    for k in range(failed + whole):
        lost = k < failed
        lines.append(
            {
                "figure_name": "Marsh stone", "plan_number": 1, "started_at": DAY.format(k + 1), "simulated": False,
                "planned_s": 3600.0, "planned_g": 5.0, "planned_risk": 0.1, "frozen": [], "told": [told(code, 0.1)],
                "result": "part lost" if lost else "good", "cause": code if lost else None, "note": "",
            }
        )  # fmt: skip
    assert bring(store, [(ids["printer_id"], ids["material_id"], line) for line in lines]) == len(lines)


def spec(store: Store, ids: dict[str, int]) -> dict[str, Any]:
    return dict(machines.one(store, "printers", ids["printer_id"])["spec"])


@pytest.fixture
def resin(client: TestClient) -> dict[str, int]:
    return machine_ids(client)


@pytest.fixture
def filament(client: TestClient) -> dict[str, int]:
    return machine_ids(client, "kestrel", "marsh matte")


def take(client: TestClient, ids: dict[str, int], cause: str) -> Any:
    asked = {"material_id": ids["material_id"], "what": f"cause {cause}"}
    return client.post(f"/api/printers/{ids['printer_id']}/able/take", json=asked)


def row(client: TestClient, ids: dict[str, int], cause: str) -> dict[str, Any]:
    page = client.get(f"/api/printers/{ids['printer_id']}/able", params={"material_id": ids["material_id"]}).json()
    return next(c for c in page["causes"] if c["cause"] == cause)


def test_a_pull_is_taken_as_a_larger_load_and_undone(client: TestClient, store: Store, resin: dict[str, int]) -> None:
    before = spec(store, resin)
    logged(store, resin, "pull", failed=12, whole=10)
    seen = row(client, resin, "pull")
    assert seen["sure"] and seen["mean"] > 2 and seen["load"] > 1.2 and seen["taken_id"] is None
    number = take(client, resin, "pull").json()
    now = spec(store, resin)
    assert now["peel_kpa"] == pytest.approx(before["peel_kpa"] * seen["load"], rel=1e-3)
    assert {k for k in now if now[k] != before[k]} == {"peel_kpa"}
    assert row(client, resin, "pull")["taken_id"] == number
    assert take(client, resin, "pull").json()["code"] == "taken-already"
    assert client.post(f"/api/printers/{resin['printer_id']}/able/undo/{number}").status_code == 200
    assert spec(store, resin) == before


def test_a_rate_is_taken_beside_others_and_each_is_undone_alone(
    client: TestClient, store: Store, filament: dict[str, int]
) -> None:
    before = spec(store, filament)
    logged(store, filament, "sway", failed=12, whole=10)
    with store.work() as sql:
        sql.execute("UPDATE runs SET figure_name = 'Another'")
    logged(store, filament, "knock", failed=14, whole=8)
    sways, knock = take(client, filament, "sway").json(), take(client, filament, "knock").json()
    assert set(spec(store, filament)["cause_times"]) == {"sway", "knock"}
    assert client.post(f"/api/printers/{filament['printer_id']}/able/undo/{sways}").status_code == 200
    left = spec(store, filament)["cause_times"]
    assert set(left) == {"knock"} and left["knock"] == pytest.approx(row(client, filament, "knock")["mean"], abs=0.01)
    assert client.post(f"/api/printers/{filament['printer_id']}/able/undo/{knock}").status_code == 200
    assert spec(store, filament) | {"cause_times": {}} == before | {"cause_times": {}}


def test_a_load_that_a_machine_does_not_have_is_taken_as_a_rate(
    client: TestClient, store: Store, filament: dict[str, int]
) -> None:
    """Somebody says of a filament print that it was pulled off."""
    logged(store, filament, "pull", failed=12, whole=10)
    assert row(client, filament, "pull")["load"] is None
    assert take(client, filament, "pull").status_code == 200
    assert set(spec(store, filament)["cause_times"]) == {"pull"}


def test_what_may_be_chance_is_not_taken(client: TestClient, store: Store, resin: dict[str, int]) -> None:
    logged(store, resin, "pull", failed=1, whole=9)
    assert not row(client, resin, "pull")["sure"]
    for cause in ("pull", "moon"):
        assert take(client, resin, cause).json()["code"] == "too-few"


def test_plans_told_with_it_teach_what_they_would_have_told_without(
    client: TestClient, store: Store, filament: dict[str, int]
) -> None:
    logged(store, filament, "sway", failed=12, whole=10)
    before = row(client, filament, "sway")["mean"]
    take(client, filament, "sway")
    with store.work() as sql:
        # As if it had been counted with since the first of them, whose plans then told it so much more often.
        sql.execute("UPDATE taken SET taken_at = '2026-09-01', since_then = '4.0'")
        whole = orjson.dumps([told("sway", 1 - 0.9**4)]).decode()
        sql.execute("UPDATE runs SET told = %s", (whole,))
    assert row(client, filament, "sway")["mean"] == pytest.approx(before, rel=1e-6)
