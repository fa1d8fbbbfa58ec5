"""Series over the wire, and what they and people tell of machines."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tenugui.core.formats import load
from tests.app.bench import machine_ids

SPEC: dict[str, Any] = {
    "factors": {"gap mm": [0.1, 0.2, 0.3], "roof layers": [1, 2]},
    "responses": {"came off": "yesno", "underside": "grade", "minutes": "time"},
    "repeats": 2,
    "rate_per_h": None,
}


@pytest.fixture
def series(client: TestClient) -> int:
    answer = client.post("/api/series", json={"name": "Gap and roof", "spec": SPEC})
    assert answer.status_code == 200, answer.text
    return int(answer.json())


def whole(client: TestClient, series: int) -> dict[str, Any]:
    return dict(client.get(f"/api/series/{series}").json())


def grade(client: TestClient, series: int, at: int, **found: str) -> Any:
    specimen = whole(client, series)["specimens"][at]
    return client.put(
        f"/api/series/{series}/specimens/{specimen['id']}",
        json={"found": {k.replace("_", " "): v for k, v in found.items()}, "version": specimen["version"]},
    )


def test_a_series_is_planned_with_its_cells_and_told_before_the_first_print(client: TestClient, series: int) -> None:
    held = whole(client, series)
    assert len(held["doc"]["cells"]) == 6 and len(held["specimens"]) == 12
    assert held["doc"]["aliased"] == [] and held["doc"]["missing"] == [] and held["doc"]["effects"] == []
    half = SPEC | {"cells": [{"gap mm": 0.1, "roof layers": 1}, {"gap mm": 0.3, "roof layers": 2}]}
    other = client.post("/api/series", json={"name": "Sewn", "spec": half}).json()
    sewn = whole(client, other)["doc"]
    assert sewn["aliased"] == [["gap mm", "roof layers"]] and len(sewn["missing"]) == 4 and sewn["said"]
    assert [s["name"] for s in client.get("/api/series").json()][:2] == ["Sewn", "Gap and roof"]


def test_what_was_found_is_read_and_what_is_wrong_refused(client: TestClient, series: int) -> None:
    assert grade(client, series, 0, came_off="yes", underside="7", minutes="4,5").json() == 2
    held = whole(client, series)
    assert held["specimens"][0]["found"] == {"came off": "yes", "underside": "7", "minutes": "4,5"}
    assert held["doc"]["effects"] and held["doc"]["few"]
    for bad, said in (
        ({"underside": "11"}, "scale"),
        ({"came_off": "perhaps"}, "yes nor no"),
        ({"minutes": "-1"}, "0"),
    ):
        refused = grade(client, series, 1, **bad)
        assert refused.status_code == 422 and said in refused.json()["title"], bad
    assert whole(client, series)["specimens"][1]["found"] == {}, "nothing half taken in"
    unknown = client.put(
        f"/api/series/{series}/specimens/{held['specimens'][1]['id']}", json={"found": {"colour": "red"}, "version": 1}
    )
    assert unknown.status_code == 422 and "colour" in unknown.json()["title"]
    assert client.put(f"/api/series/{series}/specimens/99999", json={"found": {}, "version": 1}).status_code == 404


def test_of_two_who_grade_at_once_the_second_is_told(client: TestClient, series: int) -> None:
    specimen = whole(client, series)["specimens"][0]
    address, body = f"/api/series/{series}/specimens/{specimen['id']}", {"found": {"underside": "4"}, "version": 1}
    assert client.put(address, json=body).status_code == 200
    late = client.put(address, json=body | {"found": {"underside": "9"}})
    assert late.status_code == 409 and late.json()["code"] == "changed-meanwhile"
    assert whole(client, series)["specimens"][0]["found"] == {"underside": "4"}


def test_a_table_goes_out_and_comes_back_whole_or_not_at_all(client: TestClient, series: int) -> None:
    out = client.get(f"/api/series/{series}/results.csv")
    rows = list(csv.DictReader(io.StringIO(out.text)))
    assert len(rows) == 12 and rows[0]["gap mm"] == "0.1"
    for k, row in enumerate(rows):
        row["came off"] = "yes" if float(row["gap mm"]) > 0.15 else "no"
        row["underside"], row["minutes"] = str(9 - int(10 * float(row["gap mm"]))), str(3 + k % 2)

    def table(changed: list[dict[str, str]]) -> bytes:
        back = io.StringIO()
        writer = csv.DictWriter(back, list(rows[0]))
        writer.writeheader()
        writer.writerows(changed)
        return back.getvalue().encode()

    address = f"/api/series/{series}/results"
    bad = client.post(address, content=table([*rows[:5], rows[5] | {"gap mm": "0.7"}]))
    assert bad.status_code == 422 and "Line 7, column 'gap mm'" in bad.json()["title"]
    assert all(s["found"] == {} for s in whole(client, series)["specimens"])
    assert client.post(address, content=table(rows)).json() == 12
    held = whole(client, series)
    came = {(e["factor"], e["level"]): e["estimate"] for e in held["doc"]["effects"] if e["response"] == "came off"}
    assert came["gap mm", 0.1] < 0.45 < 0.55 < came["gap mm", 0.2]
    assert client.get(f"/api/series/{series}/results.csv").text.count("yes") == 8
    more = client.post(f"/api/series/{series}/next").json()
    assert more == 13 and whole(client, series)["specimens"][-1]["found"] == {}


def test_a_series_tells_what_a_machine_can_do_and_a_fold_uses_it(client: TestClient, series: int) -> None:
    ids = machine_ids(client, "kestrel", "marsh matte")
    asked = {**ids, "ability": "gap", "factor": "gap mm", "response": "came off"}
    assert client.post(f"/api/series/{series}/tells", json=asked).status_code == 422, "nothing was graded"
    for k, specimen in enumerate(whole(client, series)["specimens"]):
        out = "yes" if specimen["levels"]["gap mm"] >= 0.2 else "no"
        assert grade(client, series, k, came_off=out).status_code == 200
    for _ in range(2):  # told twice, it counts once
        assert client.post(f"/api/series/{series}/tells", json=asked).json() == 12
    number = ids["printer_id"]
    other = {**asked, "ability": "clearance"}
    assert client.post(f"/api/series/{series}/tells", json=other).json() == 12, "told of another, it stays told of this"
    page = client.get(f"/api/printers/{number}/able", params={"material_id": ids["material_id"]}).json()
    gap = next(a for a in page["abilities"] if a["code"] == "gap")
    assert gap["seen"] == 12 and 0.1 < gap["value"] < 0.2 < gap["safe"] + 0.05 and gap["taken_id"] is None
    before = next(p for p in client.get("/api/printers").json() if p["id"] == number)["spec"]["support_gap_mm"]
    take = {"material_id": ids["material_id"], "what": "gap"}
    taken = client.post(f"/api/printers/{number}/able/take", json=take).json()
    spec = next(p for p in client.get("/api/printers").json() if p["id"] == number)["spec"]
    assert spec["support_gap_mm"] == pytest.approx(gap["safe"], abs=1e-3) != before
    told = client.get(f"/api/printers/{number}/able", params={"material_id": ids["material_id"]}).json()
    assert next(a for a in told["abilities"] if a["code"] == "gap")["taken_id"] == taken
    heron = machine_ids(client)["printer_id"]
    assert client.post(f"/api/printers/{heron}/able/undo/{taken}").status_code == 409, "it is not that printer's"
    assert client.post(f"/api/printers/{number}/able/undo/{taken}").status_code == 200
    spec = next(p for p in client.get("/api/printers").json() if p["id"] == number)["spec"]
    assert spec["support_gap_mm"] == before
    assert client.post(f"/api/printers/{number}/able/undo/{taken}").status_code == 409, "once is enough"


def test_a_persons_word_and_what_is_out_of_range(client: TestClient) -> None:
    ids = machine_ids(client, "kestrel", "marsh matte")
    number, material = ids["printer_id"], ids["material_id"]
    address = f"/api/printers/{number}/able"
    body = {"material_id": material, "ability": "overhang", "level": 68.0, "word": True}
    piece = client.post(address, json=body).json()
    told = client.get(address, params={"material_id": material}).json()
    lean = next(a for a in told["abilities"] if a["code"] == "overhang")
    assert lean["words"] == 1 and lean["value"] > 58 and lean["evidence"][0]["source"] == "word"
    take = {"material_id": material, "what": "overhang"}
    taken = client.post(f"{address}/take", json=take).json()
    spec = next(p for p in client.get("/api/printers").json() if p["id"] == number)["spec"]
    assert spec["overhang_test"][1] == pytest.approx(lean["safe"], abs=1e-3)
    client.post(f"{address}/undo/{taken}")
    assert client.post(address, json=body | {"level": 120.0}).status_code == 422
    assert client.post(address, json=body | {"ability": "tip"}).status_code == 409, "filament has no tips"
    assert client.post(address, json=body | {"ability": "song"}).status_code == 422
    assert client.post(f"{address}/take", json=take | {"what": "rod"}).status_code == 409, "no fold asks for it"
    assert client.post(f"{address}/take", json=take | {"what": "bridge"}).status_code == 409, "nothing was seen"
    assert client.delete(f"{address}/{piece}").status_code == 200
    again = client.get(address, params={"material_id": material}).json()
    assert next(a for a in again["abilities"] if a["code"] == "overhang")["seen"] == 0


def test_pieces_ship_at_the_levels_of_their_series(client: TestClient) -> None:
    ids = machine_ids(client, "kestrel", "marsh matte")
    offers = {s["code"]: s for s in client.get("/api/series/shipped", params=ids).json()}
    assert offers["overhang"]["piece"] == "overhang" and "exposure" not in offers
    made = client.get("/api/series/pieces/bridge", params={"levels": [5, 25]})
    mesh = load(io.BytesIO(made.content))
    assert mesh.size[0] == pytest.approx(25 + 2 * 4.0, abs=1e-4), "its base carries the longest"
    assert client.get("/api/series/pieces/teapot").status_code in (404, 422)
    assert client.get("/api/series/pieces/bridge", params={"levels": [5, -1]}).status_code == 422


def test_a_series_that_cannot_be_is_refused(client: TestClient) -> None:
    for spec in (
        SPEC | {"factors": {"gap mm": [0.1, 0.1]}},
        SPEC | {"factors": {}},
        SPEC | {"repeats": 0},
        SPEC | {"responses": {"x": "colour"}},
        SPEC | {"factors": {"a": list(range(20)), "b": list(range(20))}, "repeats": 50},
    ):
        assert client.post("/api/series", json={"name": "x", "spec": spec}).status_code == 422, spec
    assert client.post("/api/series", json={"name": "x", "spec": SPEC, "figure_id": 999}).status_code == 404
    assert client.get("/api/series/999").status_code == 404
