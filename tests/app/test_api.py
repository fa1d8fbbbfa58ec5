"""The API on a real store: import, folds, decisions, exports, problems. Jobs are computed as a worker would."""

from __future__ import annotations

import io
import json
import time
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tenugui.core.contract import unpack_mesh
from tenugui.core.formats import load, read_3mf
from tenugui.core.mesh import Mesh, measure
from tenugui.core.paths import read_gcode
from tenugui.core.vat import read_archive
from tenugui.store.db import Store
from tests.app.bench import bring_in, decide, fold, machine_ids, redo, size, traces, undo, work_off
from tests.shapes import box, fork, knobbly, stl_bytes


def read_by_layer(client: TestClient, plan: int, made: dict[str, Any], *, resin: bool) -> None:
    """Every layer by its number from the file itself; one that it has not is refused."""
    kind, other = ("pixels", "lines") if resin else ("lines", "pixels")
    last = client.get(f"/api/plans/{plan}/printfile/{kind}/{made['layers']}")
    assert last.status_code == 200
    assert client.get(f"/api/plans/{plan}/printfile/{kind}/{made['layers'] + 1}").json()["code"] == "no-layer"
    assert client.get(f"/api/plans/{plan}/printfile/{other}/1").status_code == 409
    if resin:
        assert last.headers["content-type"] == "image/png"
        lit = [
            np.asarray(Image.open(io.BytesIO(client.get(f"/api/plans/{plan}/printfile/pixels/{k}").content)))
            for k in (1, 40)
        ]
        assert lit[0].shape == lit[1].shape and (lit[0] > 0).sum() != (lit[1] > 0).sum() > 0
        return
    lines = last.json()
    assert len(lines["points"]) == len(lines["kind"]) + 1 == len(lines["seconds"]) + 1
    bands = client.get(f"/api/plans/{plan}/compute/layers").json()["document"]["choices"][decided_layers(client, plan)][
        "bands"
    ]
    # The tip of a figure may be thinner than a line: then the last layers draw nothing.
    assert lines["layers"] == made["layers"]
    if bands is None:
        assert lines["z_mm"] == pytest.approx(made["layers"] * made["layer_height_mm"], abs=0.01)
    else:
        tops = np.cumsum([h for h, n in bands["runs"] for _ in range(n)])
        assert lines["z_mm"] == pytest.approx(tops[made["layers"] - 1], abs=0.01)
        assert bands["layers"] - 2 <= made["layers"] <= bands["layers"]
    assert made["blemishes"]["starts"] >= made["layers"] - 2, "a loop or more in every layer"
    assert {lines["kinds"][k] for k in lines["kind"]} >= {"outermost line", "travel"}


def decided_layers(client: TestClient, plan: int) -> int:
    """Which row of the fold Layers was taken."""
    folds = client.get(f"/api/plans/{plan}").json()["folds"]
    return int(next(f["choice"]["option"] for f in folds if f["name"] == "layers"))


def asked_for(client: TestClient, store: Store, plan: int) -> None:
    """The dial's live answer: fewer tips at more risk, and as many as the rows were placed by."""
    rows = client.get(f"/api/plans/{plan}/compute/supports").json()["document"]["choices"]
    asked = f"/api/plans/{plan}/supports/demand"
    assert client.post(asked, json={"risk": 0.05}).json()["tips"] is None, "a worker counts, not the server"
    work_off(store)
    told = [client.post(asked, json={"risk": r}).json() for r in (0.01, 0.05, 0.2)]
    tips = [d["tips"] for d in told]
    # Which droop is not worth its pins is weighed region by region: one more or less, never as many as for the least.
    assert tips[0] >= max(tips[1:]) and tips[2] <= tips[1] + 1
    assert all(sum(d["reasons"].values()) == d["tips"] for d in told)
    placed = {r["risk"]: r["tip_count"] for r in rows if r["style"] == "pillars"}
    assert all(placed[d["risk"]] >= 0.8 * d["tips"] for d in told)
    assert client.post(f"/api/plans/{plan}/supports/demand", json={"risk": 0}).status_code == 422


def tried_and_compared(client: TestClient, store: Store, plan: int, resin: bool) -> None:
    """A thousand prints, an outline drawn to scale, and other machines, each from the plan as it stands."""
    asked_for(client, store, plan)
    assert client.get(f"/api/plans/{plan}/trial").json()["document"] is None
    assert client.post(f"/api/plans/{plan}/trial").json()["job_id"]
    work_off(store)
    tried = client.get(f"/api/plans/{plan}/trial").json()["document"]
    assert tried["whole"] + tried["part"] + tried["all"] == tried["prints"] == 1000
    assert sum(c["count"] for c in tried["causes"]) <= tried["part"] + tried["all"] == sum(tried["ribbon"])
    assert f"{tried['whole']:,} of 1,000" in tried["said"] and (tried["kept_sha"] is not None) == resin
    board = client.get(f"/api/plans/{plan}/compute/layers").json()["document"]
    heights = [c["height"]["layer_height_mm"] for c in board["choices"] if not c["bands"]]
    for option in (p["option"] for p in board["purposes"]):
        assert 0 <= option < len(board["choices"])
    place = board["places"][0]["at"]
    drawn = client.post(f"/api/plans/{plan}/layers/profile", json={"at": place, "heights": heights}).json()
    assert [s["layer_height_mm"] for s in drawn["stairs"]] == heights and drawn["round"] is not resin
    assert len(drawn["outline"]) > 0 and all(len(s["rows"]) > 0 for s in drawn["stairs"])
    bad = client.post(f"/api/plans/{plan}/layers/profile", json={"at": place, "heights": [0]})
    assert bad.status_code == 422
    assert client.post(f"/api/plans/{plan}/layers/others?height={heights[0]}").json()["job_id"]
    work_off(store)
    others = client.get(f"/api/plans/{plan}/layers/others?height={heights[0]}").json()["document"]
    assert others["rows"][0]["layer_height_mm"] == heights[0] and len(others["rows"]) > 1
    assert {r["process"] for r in others["rows"]} == {"resin", "filament"} and others["said"]


def on_a_simulated_machine(client: TestClient, plan: int, layers: int) -> None:
    """Started with the written file, followed to its end, and looked at; the run is in the log."""
    assert client.get(f"/api/plans/{plan}/machine").json()["code"] == "no-machine"
    begun = client.post(f"/api/plans/{plan}/machine", json={"speed": 500_000})
    assert begun.status_code == 200, begun.text
    state = begun.json()
    assert state["layers"] == layers
    for _ in range(200):
        state = client.get(f"/api/plans/{plan}/machine").json()
        if state["seen"] is not None:
            break
        time.sleep(0.05)
    assert state["state"] == "done" and state["done_s"] == pytest.approx(state["of_s"]) and state["used"] > 0
    assert state["seen"]["loss"] in ("good", "scar", "part lost", "print lost")
    assert client.post(f"/api/plans/{plan}/machine/pause").status_code == 409
    assert client.get("/api/machines").json() == [{"plan_id": plan, "state": state}], "the bench follows it"
    log = client.get(f"/api/plans/{plan}/runs").json()
    assert log["runs"][0]["id"] == state["run"] and log["runs"][0]["simulated"]
    before = [(m["name"], m["left_g"]) for m in client.get("/api/materials").json()], log["reading"]
    told = {"result": "print lost", "real_s": 1.0, "real_g": 900.0}
    assert client.put(f"/api/runs/{state['run']}/outcome", json=told).status_code == 200
    after = [(m["name"], m["left_g"]) for m in client.get("/api/materials").json()]
    assert (after, client.get(f"/api/plans/{plan}/runs").json()["reading"]) == before, (
        "it teaches nothing and uses nothing"
    )


def through_the_stations(client: TestClient, plan: int, resin: bool) -> None:
    """Each station takes the load by its programme; what the process does not ask is refused."""
    offers = client.get(f"/api/plans/{plan}/stations").json()
    assert [o["station"] for o in offers] == (["wash", "dry", "cure"] if resin else ["dry"])
    assert not any(o["busy"] for o in offers)
    for offer in offers:
        begun = client.post(f"/api/plans/{plan}/stations/{offer['station']}", json={"speed": 100_000})
        assert begun.status_code == 200, begun.text
        assert begun.json()["of_s"] == pytest.approx(60 * sum(m for _, m in offer["steps"]))
    for _ in range(200):
        states = [o["state"]["state"] for o in client.get(f"/api/plans/{plan}/stations").json()]
        if set(states) == {"done"}:
            break
        time.sleep(0.05)
    assert set(states) == {"done"}
    if not resin:
        assert client.post(f"/api/plans/{plan}/stations/cure", json={}).json()["code"] == "no-station"


def a_log_that_tells_of_scatter(client: TestClient, store: Store, plan: int, printer: str) -> None:
    """Ten outcomes and more say how much this printer's prints differ; what is simulated says nothing."""

    def read() -> dict[str, Any] | None:
        found: dict[str, Any] | None = next(m for m in client.get("/api/printers").json() if m["name"] == printer)[
            "scatter"
        ]
        return found

    assert read() is None
    for k in range(12):
        run = client.post(f"/api/plans/{plan}/runs", json={}).json()
        client.put(f"/api/runs/{run}/outcome", json={"result": "part lost" if k % 2 else "good"})
    told = read()
    assert told is not None and (told["prints"], told["failed"]) == (13, 6) and told["feared"] < 6
    assert told["times"] > 1.2 and told["low"] < told["times"] < told["high"]
    with store.work() as sql:
        sql.execute("SELECT by_scatter FROM runs ORDER BY id DESC LIMIT 1")
        assert json.loads(sql.fetchone()["by_scatter"])[2][0] == 1.0  # type: ignore[index]


def machines_own_file(client: TestClient, store: Store, plan: int, layers: int, resin: bool) -> None:
    """Written when it is asked for, told, and handed out; layers for a screen, a path for a nozzle."""
    there = client.get(f"/api/plans/{plan}/printfile/content")
    assert there.status_code == 409 and there.json()["code"] == "not-computed"
    assert client.get(f"/api/plans/{plan}/printfile/lines/1").json()["code"] == "not-computed"
    tried_and_compared(client, store, plan, resin)
    assert client.post(f"/api/plans/{plan}/printfile").json()["job_id"]
    work_off(store)
    told = client.get(f"/api/plans/{plan}/printfile").json()
    assert told["document"]["differs"] == 0
    body = client.get(f"/api/plans/{plan}/printfile/content")
    read_by_layer(client, plan, told["document"], resin=resin)
    if not resin:
        assert told["document"]["kind"] == "gcode" and ".gcode" in body.headers["content-disposition"]
        assert read_gcode(body.text).layers == told["document"]["layers"] <= layers
        return
    assert (
        told["document"]["layers"] == layers
        and body.headers["content-type"] == "application/zip"
        and "-layers.zip" in body.headers["content-disposition"]
    )
    back = read_archive(io.BytesIO(body.content))
    assert back.manifest.layers == layers and len(body.content) == told["document"]["size"]
    beams = client.get(f"/api/plans/{plan}/beams").content
    assert "supports" in read_3mf(io.BytesIO(beams), len(beams))


@pytest.mark.parametrize(
    ("printer", "material"),
    [pytest.param("heron", "lantern grey", marks=pytest.mark.long), ("kestrel", "marsh matte")],
)
def test_from_a_file_to_a_logged_outcome(client: TestClient, store: Store, printer: str, material: str) -> None:
    made = bring_in(client, store, stl_bytes(knobbly(fineness=4)))
    plan = made["plan_id"]
    intake = client.get(f"/api/figures/{made['figure_id']}/intake").json()["document"]
    sight = client.get(f"/api/plans/{made['plan_id']}").json()["preview_sha"]
    assert unpack_mesh(client.get(f"/api/blobs/{sight}").content).size == pytest.approx(
        intake["ready"]["size_mm"], rel=0.05
    )
    assert intake["health"]["watertight"] and intake["health"]["triangles"] == 5120
    preview = unpack_mesh(client.get(f"/api/blobs/{intake['preview_sha']}").content)
    assert measure(preview).volume_mm3 == pytest.approx(intake["health"]["volume_mm3"], rel=1e-3)
    state = size(client, plan, height_mm=12.0, **machine_ids(client, printer, material))
    assert [f["state"] for f in state["folds"]] == ["settled"] + ["open"] * 7
    for name in ("pose", "supports", "layers", "proof"):
        state = decide(client, store, plan, name)
        assert next(f for f in state["folds"] if f["name"] == name)["state"] == "settled"
    proof = fold(client, store, plan, "proof")
    assert proof["proof"]["schema"] == "tenugui/proof@1" and proof["held"]["numbers"] == state["numbers"]
    assert proof["held"]["islands_after"] == 0
    proof = proof["proof"]
    assert state["numbers"]["time_s"] == pytest.approx(proof["time_s"])
    whole = load(io.BytesIO(client.get(f"/api/plans/{plan}/files/stl").content))
    packed = client.get(f"/api/plans/{plan}/files/3mf").content
    parts = read_3mf(io.BytesIO(packed), len(packed))
    assert whole.size == pytest.approx(Mesh.joined(list(parts.values())).size, abs=1e-3) and whole.lower[
        2
    ] == pytest.approx(0, abs=1e-5)
    assert client.get(f"/api/plans/{plan}/files/pdf").content.startswith(b"%PDF")
    offer = client.get(f"/api/plans/{plan}/offer", params={"pieces": 12, "more": 0.2, "unit": "reeds"})
    assert offer.content.startswith(b"%PDF") and "offer.pdf" in offer.headers["content-disposition"]
    assert client.get(f"/api/plans/{plan}/offer", params={"pieces": 0}).status_code == 422
    machines_own_file(client, store, plan, proof["layers"]["count"], resin=printer == "heron")
    run = client.post(f"/api/plans/{plan}/runs", json={}).json()
    assert (
        client.put(
            f"/api/runs/{run}/outcome", json={"result": "good", "real_s": 5000, "removal": 2, "note": "clean"}
        ).status_code
        == 200
    )
    (logged,) = client.get("/api/runs").json()["runs"]
    assert (logged["result"], logged["figure_name"], logged["planned_s"]) == (
        "good",
        "Marsh stone",
        pytest.approx(proof["time_s"]),
    )
    on_a_simulated_machine(client, plan, client.get(f"/api/plans/{plan}/printfile").json()["document"]["layers"])
    through_the_stations(client, plan, resin=printer == "heron")
    a_log_that_tells_of_scatter(client, store, plan, printer)


def test_a_change_makes_later_folds_stale_and_undo_mends_it(client: TestClient, store: Store) -> None:
    plan = bring_in(client, store, stl_bytes(fork()))["plan_id"]
    ids = machine_ids(client)
    size(client, plan, height_mm=32.0, **ids)
    fold(client, store, plan, "pose")
    decide(client, store, plan, "pose", 1)
    state = size(client, plan, height_mm=54.0, **ids)
    assert [f["state"] for f in state["folds"]][:3] == ["settled", "open", "stale"]
    refused = client.get(f"/api/plans/{plan}/compute/supports")
    assert refused.status_code == 409 and refused.json()["code"] == "fold-open"
    state = undo(client, plan)
    assert [f["state"] for f in state["folds"]][:3] == ["settled", "open", "settled"] and state["can_redo"] == "Size"
    state = redo(client, plan)
    assert state["folds"][2]["state"] == "stale"


def test_results_are_cached_by_their_inputs(client: TestClient, store: Store) -> None:
    plan = bring_in(client, store, stl_bytes(fork()))["plan_id"]
    size(client, plan, factor=1.0)
    fold(client, store, plan, "pose")
    other = bring_in(client, store, stl_bytes(fork()), "the-same.stl")["plan_id"]
    size(client, other, factor=1.0)
    assert client.get(f"/api/plans/{other}/compute/pose").json()["document"] is not None


BAD_FILES = {
    "empty": (b"", "empty-file"),
    "text": (b"not a mesh " * 40, "not-stl"),
    "cut": (stl_bytes(fork())[:900], "truncated"),
    "flat": (b" " * 80 + (1).to_bytes(4, "little") + bytes(50), "flat"),
}


@pytest.mark.parametrize("name", BAD_FILES)
def test_a_bad_upload_is_refused_and_leaves_no_trace(client: TestClient, store: Store, name: str) -> None:
    (body, code), before = BAD_FILES[name], traces(store)
    refused = client.post("/api/figures", params={"name": "bad.stl"}, content=body)
    assert (
        refused.status_code == 422
        and refused.json()["code"] == code
        and refused.headers["content-type"] == "application/problem+json"
    )
    assert traces(store) == before


def test_a_huge_upload_is_refused_by_its_first_bytes(client: TestClient) -> None:
    read = 0

    def zeros() -> Iterator[bytes]:
        nonlocal read
        for _ in range(64):
            read += 1
            yield bytes(1024 * 1024)

    refused = client.post(
        "/api/figures", params={"name": "zeros.stl"}, content=zeros(), headers={"Content-Length": str(2 * 1024**3)}
    )
    assert refused.status_code == 422 and refused.json()["code"] == "no-triangles"


def test_the_first_kilobyte_is_judged_before_the_rest_travels(client: TestClient) -> None:
    refused = client.post("/api/figures/judge", params={"size": 2 * 1024**3}, content=bytes(1024))
    assert refused.status_code == 422 and refused.json()["code"] == "no-triangles"
    whole = stl_bytes(fork())
    assert client.post("/api/figures/judge", params={"size": len(whole)}, content=whole[:1024]).status_code == 200
    assert client.post("/api/figures/judge", params={"size": 9}, content=bytes(4096)).json()["code"] == "bad-request"


def test_problems_say_what_and_what_to_do(client: TestClient, store: Store) -> None:
    plan = bring_in(client, store, stl_bytes(fork()))["plan_id"]
    ids, key = {"head": None, **machine_ids(client)}, "0" * 64
    wrong = machine_ids(client, "kestrel", "marsh matte")["material_id"]
    for path, body, status in (
        (f"/api/plans/{plan}/size", {"height_mm": -3, **ids}, 422),
        (f"/api/plans/{plan}/size", {**ids}, 422),
        (f"/api/plans/{plan}/size", {"height_mm": 10, "head": None, "printer_id": 999, "material_id": 1}, 404),
        (f"/api/plans/{plan}/size", {"height_mm": 10, **ids, "material_id": wrong}, 422),
        (f"/api/plans/{plan}/decide/pose", {"head": None, "key": key, "option": 0}, 409),
        (f"/api/plans/{plan}/decide/dance", {"head": None, "key": key, "option": 0}, 404),
        (f"/api/plans/{plan}/runs", {}, 409),
        ("/api/plans/999/undo", {"head": None}, 404),
        (f"/api/plans/{plan}/undo", {"head": None}, 409),
    ):
        answer = client.post(path, json=body)
        assert answer.status_code == status, (path, answer.text)
        assert answer.json()["title"] and answer.json()["code"]
    assert client.get("/api/plans/999").json()["code"] == "no-plan"
    assert client.get("/api/nowhere").json()["code"] == "no-address"
    assert client.get(f"/api/plans/{plan}/files/exe").status_code == 422


def test_a_figure_too_large_for_the_printer_fails_its_job_in_words(client: TestClient, store: Store) -> None:
    plan = bring_in(client, store, stl_bytes(fork()))["plan_id"]
    size(client, plan, height_mm=400.0)
    job = client.post(f"/api/plans/{plan}/compute/pose").json()["job_id"]
    work_off(store)
    state = client.get(f"/api/jobs/{job}").json()
    assert (
        state["state"] == "failed"
        and state["problem"]["code"] == "does-not-fit"
        and "smaller" in state["problem"]["remedy"]
    )


def test_progress_is_streamed_until_the_end(client: TestClient, store: Store) -> None:
    client.post("/api/figures", params={"name": "post.stl"}, content=stl_bytes(box((0, 0, 5), (3.3, 4.4, 10.1))))
    work_off(store)
    with client.stream("GET", "/api/jobs/1/events") as events:
        text = "".join(events.iter_text())
    assert "event: job" in text and '"state":"done"' in text


def test_put_away_and_back(client: TestClient, store: Store) -> None:
    figure = bring_in(client, store, stl_bytes(fork()))["figure_id"]
    client.delete(f"/api/figures/{figure}")
    assert client.get("/api/figures").json() == []
    client.post(f"/api/figures/{figure}/back")
    client.patch(f"/api/figures/{figure}", json={"name": "Gate"})
    assert [f["name"] for f in client.get("/api/figures").json()] == ["Gate"]


def test_machines_through_the_door(client: TestClient) -> None:
    spec = next(m for m in client.get("/api/printers").json() if m["name"] == "heron")["spec"]
    assert client.put("/api/printers", json={**spec, "name": "egret", "peel_kpa": 6.0}).status_code == 200
    assert client.put("/api/printers", json={**spec, "build_mm": [1, 2]}).json()["code"] == "bad-field"
    assert client.put("/api/materials", json={"name": "x"}).json()["code"] == "missing-field"
    steam = {"name": "x", "process": "steam", "density_g_ml": 1.0, "cost": 1.0}
    assert client.put("/api/materials", json=steam).json()["code"] == "bad-field"
    assert client.get("/api/materials").status_code == 200
    assert len(client.get("/api/cautions/resin").json()) > 5
