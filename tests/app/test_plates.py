"""Plates over the wire: laid out, moved, taken back, written and begun."""

from __future__ import annotations

import io
import time
from typing import Any

import numpy as np
import pytest
import shapely
from fastapi.testclient import TestClient
from PIL import Image
from pypdf import PdfReader
from scipy.ndimage import label

from tenugui.core.formats import NO_LIMITS, load
from tenugui.core.formats.threemf import read_3mf
from tenugui.core.vat import read_archive
from tenugui.store.db import Store
from tests.app.bench import bring_in, decide, machine_ids, proved, size, work_off
from tests.shapes import ball, box, stl_bytes


@pytest.fixture
def plan(client: TestClient, store: Store) -> int:
    return proved(client, store)


def make(client: TestClient, store: Store, plan: int, copies: int = 3, **more: Any) -> int:
    body = {
        "name": "Wardens",
        "printer_id": machine_ids(client)["printer_id"],
        "pieces": [{"plan_id": plan, "copies": copies}],
    }
    answer = client.post("/api/plates", json=body | more)
    assert answer.status_code == 200, answer.text
    work_off(store)
    return int(answer.json())


def seen(client: TestClient, plate: int) -> dict[str, Any]:
    return dict(client.get(f"/api/plates/{plate}").json())


def lay(client: TestClient, plate: int) -> dict[str, Any]:
    answer = client.post(f"/api/plates/{plate}/lay", json={"version": seen(client, plate)["version"]})
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def put(client: TestClient, number: int, **at: Any) -> Any:
    held = seen(client, number)
    first = {"plan_id": held["pieces"][0]["plan_id"], "nth": 1, "plate": 0, "x_mm": 20, "y_mm": 20, "turn_deg": 0}
    return client.put(f"/api/plates/{number}/laid", json={"version": held["version"], "moved": [first | at]})


def test_a_plate_is_laid_out_costed_and_carded(client: TestClient, store: Store, plan: int) -> None:
    printer = machine_ids(client)["printer_id"]
    assert [row["plan_id"] for row in client.get(f"/api/plates/offers/{printer}").json()] == [plan]
    plate = make(client, store, plan)
    assert seen(client, plate)["pieces"][0]["state"] == "ready" and seen(client, plate)["plates"] == []
    held = lay(client, plate)
    (one,) = held["plates"]
    outlines = [shapely.Polygon(item["footprint"]) for item in one["doc"]["items"]]
    assert len(outlines) == 3 and held["unlaid"] == 0 and one["wrong"] == []
    assert all(a.distance(b) >= 2 - 1e-6 for k, a in enumerate(outlines) for b in outlines[:k])
    proof = client.get(f"/api/plans/{plan}/compute/proof").json()["document"]["proof"]
    assert one["doc"]["time_s"] == proof["time_s"], "a screen cures all at once"
    assert one["doc"]["material_ml"] == pytest.approx(3 * proof["material"]["volume_ml"])
    assert held["curve"][0][0] == 1 and held["curve"][0][1] > held["curve"][2][1], "three at once take no longer"
    spent = one["spent"]
    parts = sum(spent[k] for k in ("material", "machine", "power", "hands", "film", "stuff", "lost"))
    assert spent["total"] == pytest.approx(parts) and spent["each"] == pytest.approx(spent["total"] / 3)
    assert one["looks"][-1]["at_s"] == one["doc"]["time_s"] and "gloves" in one["ready"][0]
    assert [row["plates"] for row in client.get("/api/plates").json()] == [1]


def test_a_piece_is_moved_pinned_and_taken_back(client: TestClient, store: Store, plan: int) -> None:
    plate = make(client, store, plan)
    before = lay(client, plate)["plates"][0]["doc"]["items"][0]
    after = put(client, plate, x_mm=60.5, y_mm=41.0, turn_deg=30, pinned=True).json()
    (item,) = (i for i in after["plates"][0]["doc"]["items"] if i["copy"] == 1)
    assert (item["x_mm"], item["y_mm"], item["turn_deg"]) == (60.5, 41.0, 30) and after["can_undo"] == "turned a piece"
    again = lay(client, plate)
    (stays,) = (i for i in again["plates"][0]["doc"]["items"] if i["copy"] == 1)
    assert (stays["x_mm"], stays["y_mm"]) == (60.5, 41.0), "what is pinned stays"
    for _ in range(2):
        client.post(f"/api/plates/{plate}/undo", json={"version": seen(client, plate)["version"]})
    back = seen(client, plate)
    assert back["plates"][0]["doc"]["items"][0]["x_mm"] == before["x_mm"] and back["can_redo"] == "turned a piece"
    client.post(f"/api/plates/{plate}/redo", json={"version": back["version"]})
    assert seen(client, plate)["plates"][0]["pinned"].count(True) == 1


def test_what_is_wrong_is_told_and_neither_written_nor_begun(client: TestClient, store: Store, plan: int) -> None:
    plate = make(client, store, plan)
    items = lay(client, plate)["plates"][0]["doc"]["items"]
    other = next(i for i in items if i["copy"] == 2)
    wrong = put(client, plate, x_mm=other["x_mm"] + 1, y_mm=other["y_mm"]).json()["plates"][0]["wrong"]
    assert wrong[0]["kind"] == "near" and "nearer" in wrong[0]["said"]
    assert put(client, plate, x_mm=-2).json()["plates"][0]["wrong"][0]["kind"] == "outside"
    for method, address in (("GET", "1/files/3mf"), ("POST", "1/file")):
        refused = client.request(method, f"/api/plates/{plate}/{address}")
        assert refused.status_code == 409 and refused.json()["code"] == "wrong-plate"
    assert client.post(f"/api/plates/{plate}/1/start", json={}).status_code == 409
    assert client.get("/api/runs").json()["runs"] == []


def test_files_hold_every_piece_where_it_lies(client: TestClient, store: Store, plan: int) -> None:
    plate = make(client, store, plan)
    items = lay(client, plate)["plates"][0]["doc"]["items"]
    data = client.get(f"/api/plates/{plate}/1/files/3mf").content
    parts = read_3mf(io.BytesIO(data), len(data), NO_LIMITS)
    own = client.get(f"/api/plans/{plan}/files/3mf").content
    alone = sum(len(mesh.faces) for mesh in read_3mf(io.BytesIO(own), len(own), NO_LIMITS).values())
    assert sum(len(mesh.faces) for mesh in parts.values()) == 3 * alone
    corners = np.concatenate([mesh.vertices for mesh in parts.values()])[:, :2]
    covered = shapely.unary_union([shapely.Polygon(i["footprint"]) for i in items])
    assert covered.contains(shapely.MultiPoint(corners)) and load(io.BytesIO(data)).faces.shape[0] == 3 * alone
    sheet = PdfReader(io.BytesIO(client.get(f"/api/plates/{plate}/1/files/pdf").content)).pages[0].extract_text()
    assert "Wardens, plate 1" in sheet and "number 1, 2, 3" in sheet and "gloves" in sheet


def test_the_machines_file_prints_all_pieces(client: TestClient, store: Store, plan: int) -> None:
    plate = make(client, store, plan, copies=2)
    lay(client, plate)
    assert client.get(f"/api/plates/{plate}/1/file").json()["document"] is None
    client.post(f"/api/plates/{plate}/1/file")
    work_off(store)
    file = client.get(f"/api/plates/{plate}/1/file").json()["document"]
    archive = client.get(f"/api/plates/{plate}/1/file/content").content
    back = read_archive(io.BytesIO(archive))
    client.post(f"/api/plans/{plan}/printfile")
    work_off(store)
    alone = client.get(f"/api/plans/{plan}/printfile").json()["document"]
    assert file["differs"] == back.differs == 0 and file["layers"] == alone["layers"]
    assert back.volume_mm3 / 1000 == pytest.approx(2 * alone["volume_ml"], rel=0.01)


def test_the_plates_file_is_played_back_and_printed_on_the_simulated_machine(
    client: TestClient, store: Store, plan: int
) -> None:
    plate = make(client, store, plan, copies=2, gap_mm=3.7)  # laid as nowhere else: its file is not there yet
    held = lay(client, plate)
    assert held["plates"][0]["between"]["crossings"] == 0, "a screen lights both at once"
    at = f"/api/plates/{plate}/1"
    assert client.post(f"{at}/machine", json={"speed": 1e6}).json()["code"] == "not-computed"
    client.post(f"{at}/file")
    work_off(store)
    file = client.get(f"{at}/file").json()["document"]
    picture = np.asarray(Image.open(io.BytesIO(client.get(f"{at}/file/pixels/40").content)).convert("L"))
    assert label(picture > 0)[1] >= 2, "both pieces are lit in one layer"
    assert client.get(f"{at}/file/lines/1").json()["code"] == "no-lines"
    assert client.get(f"{at}/machine").json()["code"] == "no-machine"
    on = client.post(f"{at}/machine", json={"speed": 1e6}).json()
    assert on["layers"] == file["layers"]
    for _ in range(200):
        on = client.get(f"{at}/machine").json()
        if on["seen"]:
            break
        time.sleep(0.05)
    assert on["seen"] and on["state"] in ("done", "failed", "ended"), on
    (batch,) = seen(client, plate)["batches"]
    assert batch["id"] == on["batch"] and len(batch["runs"]) == 2
    rows = client.get("/api/runs").json()["runs"]
    assert len(rows) == 2 and all(row["simulated"] for row in rows), "what is simulated teaches nothing"


def test_pieces_are_printed_one_after_the_other_where_the_head_has_room(client: TestClient, store: Store) -> None:
    ids = machine_ids(client, "kestrel", "marsh matte")
    spec = next(p["spec"] for p in client.get("/api/printers").json() if p["name"] == "kestrel")
    client.put("/api/printers", json=spec | {"head_mm": 25.0, "rail_mm": 30.0})
    number = bring_in(client, store, stl_bytes(box((0, 0, 3), (6, 6, 6))), "step.stl")["plan_id"]
    size(client, number, height_mm=6.0, **ids)
    for name in ("pose", "walls", "supports", "layers", "proof"):
        decide(client, store, number, name)
    plate = make(client, store, number, copies=2, printer_id=ids["printer_id"], gap_mm=2.0)
    held = lay(client, plate)
    near = held["plates"][0]
    assert near["between"]["crossings"] > 10 and not near["in_turn"]["can"] and "apart" in near["in_turn"]["why"]
    change = {
        "name": "Steps", "printer_id": ids["printer_id"], "pieces": [{"plan_id": number, "copies": 2}],
        "gap_mm": 30.0, "version": held["version"], "in_turn": True,
    }  # fmt: skip
    wrong = client.put(f"/api/plates/{plate}", json=change).json()
    assert any("Not one after the other" in w["said"] for w in wrong["plates"][0]["wrong"])
    held = lay(client, plate)
    (far,) = held["plates"]
    assert held["in_turn"] and far["wrong"] == [] and far["between"]["crossings"] == 0
    assert far["doc"]["good"] > near["doc"]["good"] and held["can_undo"] == "laid out"
    at = f"/api/plates/{plate}/1/file"
    client.post(at)
    work_off(store)
    file = client.get(at).json()["document"]
    client.post(f"/api/plans/{number}/printfile")
    work_off(store)
    alone = client.get(f"/api/plans/{number}/printfile").json()["document"]
    assert file["differs"] == 0 and file["layers"] == 2 * alone["layers"], "each piece from the plate upwards"
    assert file["volume_ml"] == pytest.approx(2 * alone["volume_ml"], rel=1e-3)
    last = client.get(f"{at}/lines/{file['layers']}").json()
    own = client.get(f"/api/plans/{number}/printfile/lines/{alone['layers']}").json()
    assert last["z_mm"] == own["z_mm"] and len(last["kind"]) >= len(own["kind"])


def test_other_support_sets_are_told_by_how_many_fit(client: TestClient, store: Store, plan: int) -> None:
    plate = make(client, store, plan)
    rows = client.get(f"/api/plates/{plate}/sets/{plan}").json()
    board = client.get(f"/api/plans/{plan}/compute/supports").json()["document"]["choices"]
    assert [(r["style"], r["risk"], r["tips"]) for r in rows] == [
        (b["style"], b["risk"], b["tip_count"]) for b in board
    ]
    assert sum(r["taken"] for r in rows) == 1 and all(r["fits"] >= 1 and r["hours_per_good"] > 0 for r in rows)
    widest, least = max(rows, key=lambda r: r["box_mm"][0] * r["box_mm"][1]), max(rows, key=lambda r: r["fits"])
    assert widest["fits"] <= least["fits"]
    other = bring_in(client, store, stl_bytes(ball(4.2)))["plan_id"]
    assert client.get(f"/api/plates/{plate}/sets/{other}").status_code == 409


def test_a_plate_is_begun_as_a_run_a_piece(client: TestClient, store: Store, plan: int) -> None:
    plate = make(client, store, plan)
    lay(client, plate)
    assert client.post(f"/api/plates/{plate}/1/start", json={"room": {"lot": "LG-7"}}).status_code == 200
    (batch,) = seen(client, plate)["batches"]
    assert len(batch["runs"]) == 3 and {run["result"] for run in batch["runs"]} == {None}
    client.put(f"/api/runs/{batch['runs'][1]['id']}/outcome", json={"result": "part lost"})
    assert [run["result"] for run in seen(client, plate)["batches"][0]["runs"]] == [None, "part lost", None]
    assert len(client.get("/api/runs").json()["runs"]) == 3
    client.delete(f"/api/plates/{plate}")
    assert client.get(f"/api/plates/{plate}").status_code == 404
    assert len(client.get("/api/runs").json()["runs"]) == 3, "what was begun stays in the log"


def test_lines_tell_what_they_wait_for_and_the_rest_is_laid(client: TestClient, store: Store, plan: int) -> None:
    other = bring_in(client, store, stl_bytes(ball(5)), "reed.stl")["plan_id"]
    lines = [{"plan_id": plan, "copies": 2}, {"plan_id": other, "copies": 1}, {"plan_id": 99_999, "copies": 1}]
    plate = make(client, store, plan, pieces=lines)
    held = lay(client, plate)
    assert [p["state"] for p in held["pieces"]] == ["ready", "open", "gone"] and all(
        p["said"] for p in held["pieces"][1:]
    )
    assert len(held["plates"][0]["doc"]["items"]) == 2 and held["unlaid"] == 2
    size(client, other, height_mm=8.0, **machine_ids(client, "kestrel", "marsh matte"))
    assert seen(client, plate)["pieces"][1]["state"] == "elsewhere"
    changed = client.put(
        f"/api/plates/{plate}",
        json={
            "name": "Wardens",
            "printer_id": held["printer_id"],
            "version": held["version"],
            "pieces": [{"plan_id": plan, "copies": 1}],
            "free": [{"x0_mm": 0, "y0_mm": 0, "x1_mm": 30, "y1_mm": 30}],
        },
    ).json()
    assert changed["unlaid"] == 0 and len(changed["plates"][0]["doc"]["items"]) == 1
    assert changed["plates"][0]["wrong"][0]["kind"] == "free", "it lay in the corner that is kept free now"
    assert lay(client, plate)["plates"][0]["wrong"] == []


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"pieces": [{"plan_id": 1, "copies": 0}]}, "greater than or equal to 1"),
        ({"pieces": [{"plan_id": 1, "copies": 10_000}]}, "less than or equal"),
        ({"pieces": [{"plan_id": 1, "copies": 100}, {"plan_id": 2, "copies": 100}]}, "another plate of the rest"),
        ({"pieces": [{"plan_id": 1, "copies": 1}] * 2}, "add their copies"),
        ({"pieces": []}, "at least 1"),
        ({"gap_mm": -1}, "greater than or equal to 0"),
        ({"name": "two\nlines"}, "name"),
    ],
)
def test_what_cannot_be_a_plate_is_refused_in_words(client: TestClient, change: dict[str, Any], said: str) -> None:
    body = {"name": "Plate", "printer_id": 1, "pieces": [{"plan_id": 1, "copies": 1}]} | change
    refused = client.post("/api/plates", json=body)
    assert refused.status_code == 422 and said in refused.text


def test_a_plate_keeps_its_number_when_another_is_emptied(client: TestClient, store: Store, plan: int) -> None:
    plate = make(client, store, plan, copies=2)
    lay(client, plate)
    held = put(client, plate, nth=2, plate=1, x_mm=60, y_mm=60).json()
    assert [(p["number"], len(p["doc"]["items"])) for p in held["plates"]] == [(0, 1), (1, 1)]
    held = put(client, plate, nth=1, plate=2, x_mm=60, y_mm=60).json()
    assert [p["number"] for p in held["plates"]] == [1, 2]
    assert client.get(f"/api/plates/{plate}/1/files/3mf").status_code == 404
    assert client.get(f"/api/plates/{plate}/3/files/pdf").status_code == 200


def test_two_who_move_at_once_do_not_overwrite_each_other(client: TestClient, store: Store, plan: int) -> None:
    plate = make(client, store, plan)
    version = lay(client, plate)["version"]
    assert put(client, plate, x_mm=50).status_code == 200
    late = client.post(f"/api/plates/{plate}/lay", json={"version": version})
    assert late.status_code == 409 and late.json()["code"] == "changed-meanwhile"
    assert put(client, plate, nth=77).status_code == 404
