"""Runs that remember: what they froze, what changed, pins, photos, the desk, labels, and the log taken away."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import orjson
import pytest
from fastapi.testclient import TestClient

from tenugui.store import blobs, seen
from tenugui.store.db import Store
from tenugui.store.tidy import tidy
from tests.app.bench import proved
from tests.command import document
from tests.core.test_frozen import photo


@pytest.fixture
def plan(client: TestClient, store: Store) -> int:
    """A small ball, proved."""
    return proved(client, store)


def start(client: TestClient, plan: int, **room: object) -> int:
    answer = client.post(f"/api/plans/{plan}/runs", json={"room": room})
    assert answer.status_code == 200, answer.text
    return int(answer.json())


def test_a_run_freezes_what_was_set_and_tells_what_changed(client: TestClient, store: Store, plan: int) -> None:
    first = start(client, plan, lot="A7", room_c=21.5)
    held = client.get(f"/api/runs/{first}").json()
    by_name = {(line["where"], line["name"]): line["value"] for line in held["frozen"]}
    assert by_name["room", "Lot or bottle"] == "A7" and by_name["room", "Room"] == "21.5 °C"
    assert by_name["plan", "Size"] and held["layers"] > 10 and held["since"] == []
    assert held["told"], "what its proof told is kept"
    second = start(client, plan, lot="B1", humidity=40)
    (since,) = client.get(f"/api/runs/{second}").json()["since"]
    assert (since["same"], since["run_id"]) == ("figure", first)
    told = {(line["name"]): (line["before"], line["now"]) for line in since["changed"]}
    assert told == {"Lot or bottle": ("A7", "B1"), "Humidity": ("not set", "40 %"), "Room": ("21.5 °C", "not set")}
    spec = next(p for p in client.get("/api/printers").json() if p["name"] == "heron")["spec"]
    client.put("/api/printers", json=spec | {"watts": 77.0})
    again = client.get(f"/api/runs/{first}").json()["frozen"]
    assert again == held["frozen"], "whatever is changed later, a run stays as it was"
    client.put("/api/printers", json=spec)


def test_a_run_is_found_by_what_its_label_says(client: TestClient, plan: int) -> None:
    run = start(client, plan)
    for text in (str(run), f" run {run} ", f"#{run}", f"http://testserver/run/{run}", f"http://testserver/run/{run}/"):
        assert client.get("/api/runs/find", params={"text": text}).json() == run, text
    for text in ("", "warden", "99999999", "1" * 30, "-1"):
        assert client.get("/api/runs/find", params={"text": text}).status_code == 404, text
    label = client.get(f"/api/runs/{run}/label")
    assert label.content.startswith(b"%PDF") and "inline" in label.headers["content-disposition"]


def test_what_was_seen_is_pinned_and_asked_about(client: TestClient, plan: int) -> None:
    run = start(client, plan)
    body = {"cue": "hanging", "layer": 12, "place": [1.0, 2.0, 3.0], "note": "left of the rim"}
    pin = client.post(f"/api/runs/{run}/pins", json=body).json()
    (held,) = client.get(f"/api/runs/{run}").json()["pins"]
    assert (held["id"], held["place"], held["words"]) == (pin, [1.0, 2.0, 3.0], "a piece hangs, curls or is lost")
    desk = client.get(f"/api/runs/{run}/desk", params={"cue": "hanging", "layer": 12}).json()
    assert sum(s["chance"] for s in desk["suspects"]) == pytest.approx(1) and desk["proved"]
    assert desk["held"] is True, "the proof left nothing that starts in mid air"
    assert client.get(f"/api/runs/{run}/desk", params={"cue": "noise"}).status_code == 422
    assert client.post(f"/api/runs/{run}/pins", json={"cue": "noise"}).status_code == 422
    assert client.post("/api/runs/99999/pins", json={"cue": "hanging"}).status_code == 404
    assert client.delete(f"/api/runs/{run}/pins/{pin}").status_code == 200
    assert client.get(f"/api/runs/{run}").json()["pins"] == []
    assert {c["code"] for c in client.get("/api/cues/resin").json()} >= {"hanging", "pits"}


def test_photos_are_kept_once_shown_and_freed(client: TestClient, store: Store, plan: int) -> None:
    run, data = start(client, plan), photo()
    first = client.post(f"/api/runs/{run}/photos", params={"stage": "primed"}, content=data).json()
    assert client.post(f"/api/runs/{run}/photos", content=data).json() == first, "the same photo is one"
    (row,) = client.get(f"/api/runs/{run}").json()["photos"]
    assert (row["stage"], row["width"], row["height"]) == ("primed", 40, 30)
    whole = client.get(f"/api/runs/{run}/photos/{first}")
    assert whole.headers["content-type"] == "image/jpeg" and whole.content[:2] == b"\xff\xd8"
    tidy(store, young_minutes=0)
    assert client.get(f"/api/runs/{run}/photos/{first}?small=true").status_code == 200, "what a run shows stays"
    sha = seen.photos(store, run)[0]["sha256"]
    client.delete(f"/api/runs/{run}/photos/{first}")
    tidy(store, young_minutes=0)
    assert not blobs.is_there(store, sha), "and what none shows goes"
    bad = client.post(f"/api/runs/{run}/photos", content=b"no photo at all")
    assert bad.status_code == 422 and bad.json()["code"] == "no-photo" and bad.json()["detail"]
    assert client.post("/api/runs/99999/photos", content=data).status_code == 404


def test_causes_learned_from_outcomes_weigh_at_the_desk(client: TestClient, plan: int) -> None:
    for k in range(6):
        run = start(client, plan)
        failed = {"result": "print lost", "failed_layer": 20, "cause": "pull"} if k < 4 else {"result": "good"}
        assert client.put(f"/api/runs/{run}/outcome", json=failed).status_code == 200
    desk = client.get(f"/api/runs/{run}/desk", params={"cue": "fallen", "layer": 5}).json()
    assert desk["learnt_from"] == 6
    printer = client.get(f"/api/runs/{run}").json()["run"]["printer_name"]
    number = next(p["id"] for p in client.get("/api/printers").json() if p["name"] == printer)
    page = client.get(f"/api/printers/{number}/able").json()
    pull = next(c for c in page["causes"] if c["cause"] == "pull")
    assert pull["seen"] == 4 and pull["mean"] > 3 and pull["low"] > 1
    figure = client.get(f"/api/runs/{run}").json()["run"]["figure_id"]
    (on,) = client.get(f"/api/figures/{figure}/best").json()
    (known,) = on["ways"]
    assert (known["runs"], known["good"], known["best"]) == (6, 2, 1.0) and known["low"] < 2 / 6 < known["high"]


def test_a_simulated_machine_teaches_nothing(client: TestClient, store: Store, plan: int) -> None:
    run = start(client, plan)
    with store.work() as sql:
        sql.execute("UPDATE runs SET simulated = 1 WHERE id = %s", (run,))
    client.put(f"/api/runs/{run}/outcome", json={"result": "print lost", "cause": "pull", "real_s": 900.0})
    assert client.get(f"/api/runs/{run}/desk", params={"cue": "fallen"}).json()["learnt_from"] == 0
    assert orjson.loads(client.get("/api/log.json").content) == []
    figure = client.get(f"/api/runs/{run}").json()["run"]["figure_id"]
    assert client.get(f"/api/figures/{figure}/best").json() == []
    number = client.get(f"/api/runs/{run}").json()["run"]["printer_name"]
    printer = next(p["id"] for p in client.get("/api/printers").json() if p["name"] == number)
    page = client.get(f"/api/printers/{printer}/able").json()
    assert (page["runs"], page["simulated"], page["causes_from"]) == (0, 1, 0)


def test_the_log_is_taken_away_as_tables(client: TestClient, plan: int) -> None:
    run = start(client, plan)
    note = {"result": "part lost", "cause": "island", "note": "=1+1", "real_s": 4000.0}
    client.put(f"/api/runs/{run}/outcome", json=note)
    (row,) = csv.DictReader(io.StringIO(client.get("/api/log.csv").text))
    assert row["id"] == str(run) and row["cause"] == "island" and row["note"] == "'=1+1", "no formula for a calculator"
    (listed,) = orjson.loads(client.get("/api/log.json").content)
    assert listed["run"] == run and listed["frozen"] and listed["plan"]["proof"]["hazards"]


def test_the_log_as_json_is_what_learn_reads(client: TestClient, plan: int, tmp_path: Path) -> None:
    run = start(client, plan)
    client.put(f"/api/runs/{run}/outcome", json={"result": "good", "real_s": 4000.0})
    path = tmp_path / "log.json"
    path.write_bytes(client.get("/api/log.json").content)
    assert document("learn", str(path))["hours"]["timed"] == 1


def test_what_failed_is_mended_or_printed_again_and_counts(client: TestClient, store: Store, plan: int) -> None:
    run = start(client, plan)
    assert client.get(f"/api/runs/{run}/ways").json()["code"] == "nothing-lost"
    layers = client.get(f"/api/runs/{run}").json()["layers"]
    failed = {"result": "part lost", "failed_layer": layers - 1, "cause": "handled"}
    client.put(f"/api/runs/{run}/outcome", json=failed)
    told = client.get(f"/api/runs/{run}/ways").json()
    mended, again = told["ways"]["mend"], told["ways"]["print"]
    assert told["chosen"] is None and told["by"] == mended["way"] in ("glue", "hide")
    assert mended["hours"] == 0 < again["hours"] and mended["coins"] < again["coins"]
    assert told["ways"]["recommended"] == "mend"
    client.put(f"/api/runs/{run}/outcome", json={"result": "print lost", "failed_layer": 1, "cause": "pull"})
    early = client.get(f"/api/runs/{run}/ways").json()["ways"]
    assert early["mend"]["way"] == "apart" and early["recommended"] == "print", "nearly all of it is missing"
    for way in ("glue", "print", None):
        assert client.put(f"/api/runs/{run}/ways", json={"way": way}).status_code == 200
        assert client.get(f"/api/runs/{run}/ways").json()["chosen"] == way
    assert client.put(f"/api/runs/{run}/ways", json={"way": "pray"}).status_code == 422
    client.put(f"/api/runs/{run}/ways", json={"way": "glue"})
    for result in ("good", "part lost"):
        client.put(f"/api/runs/{run}/outcome", json={"result": result})
    assert client.get(f"/api/runs/{run}/ways").json()["chosen"] is None, "corrected to whole, nothing of it was mended"
    assert client.put("/api/runs/99999/ways", json={"way": "glue"}).json()["code"] == "no-run"


def test_two_runs_stand_beside_each_other_from_the_same_side(client: TestClient, plan: int) -> None:
    one, other = start(client, plan, lot="A7"), start(client, plan, lot="B1")
    taken: dict[tuple[int, str, str], int] = {}
    for run, stage, side, wide in (
        (one, "bare", "front", 40),
        (one, "primed", "front", 41),
        (one, "bare", "not said", 42),
        (other, "bare", "back", 43),
        (other, "bare", "front", 44),
        (other, "bare", "front", 45),
    ):
        answer = client.post(
            f"/api/runs/{run}/photos", params={"stage": stage, "side": side}, content=photo((wide, 30))
        )
        assert answer.status_code == 200, answer.text
        taken[run, stage, f"{side} {wide}"] = answer.json()
    told = client.get("/api/runs/beside", params={"a": one, "b": other}).json()
    assert [run["id"] for run in told["runs"]] == [one, other] and told["alike"] > 20
    assert [(c["name"], c["before"], c["now"]) for c in told["changed"]] == [("Lot or bottle", "A7", "B1")]
    shown = [(p["stage"], p["side"], p["photos"]) for p in told["pairs"]]
    assert shown == [
        ("bare", "front", [taken[one, "bare", "front 40"], taken[other, "bare", "front 44"]]),
        ("bare", "front", [None, taken[other, "bare", "front 45"]]),
        ("bare", "back", [None, taken[other, "bare", "back 43"]]),
        ("bare", "not said", [taken[one, "bare", "not said 42"], None]),
        ("primed", "front", [taken[one, "primed", "front 41"], None]),
    ]
    unsaid = taken[one, "bare", "not said 42"]
    address = f"/api/runs/{one}/photos/{unsaid}"
    assert client.put(address, json={"stage": "bare", "side": "back"}).status_code == 200
    pairs = client.get("/api/runs/beside", params={"a": one, "b": other}).json()["pairs"]
    assert ["bare", "back", [unsaid, taken[other, "bare", "back 43"]]] in [
        [p["stage"], p["side"], p["photos"]] for p in pairs
    ]
    assert client.put(f"/api/runs/{other}/photos/{unsaid}", json={"stage": "bare", "side": "back"}).status_code == 404
    assert client.put(address, json={"stage": "bare", "side": "inside"}).status_code == 422
    assert client.get("/api/runs/beside", params={"a": one, "b": 99999}).status_code == 404
