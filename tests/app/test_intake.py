"""Intake over the wire: kits, mended copies, weak parts, what fits; against the real database."""

from __future__ import annotations

import io
import zipfile

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tenugui.core.contract import unpack_mesh
from tenugui.core.formats import NO_LIMITS, load, write_3mf
from tenugui.core.mesh import Mesh, measure
from tenugui.store import blobs, figures
from tenugui.store.db import Store
from tests.app.bench import bring_in, decide, head, machine_ids, size, traces, undo, work_off
from tests.shapes import ball, box, knobbly, stl_bytes


def done(client: TestClient, store: Store, address: str, **params: object) -> dict:  # type: ignore[type-arg]
    """A computation's document, worked off here."""
    if client.get(address, params=params).json()["document"] is None:  # type: ignore[arg-type]
        client.post(address, params=params)  # type: ignore[arg-type]
        work_off(store)
    document = client.get(address, params=params).json()["document"]  # type: ignore[arg-type]
    assert document is not None
    return dict(document)


def open_cube() -> Mesh:
    cube = box((0, 0, 10), (20, 20, 20))
    return Mesh(cube.vertices, cube.faces[2:])


def zipped(files: dict[str, bytes]) -> bytes:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        for name, body in files.items():
            archive.writestr(name, body)
    return held.getvalue()


def test_a_broken_figure_is_worked_on_as_its_repaired_copy(client: TestClient, store: Store) -> None:
    made = bring_in(client, store, stl_bytes(open_cube()))
    figure, plan = made["figure_id"], made["plan_id"]
    intake = client.get(f"/api/figures/{figure}/intake").json()["document"]
    ready = intake["ready"]
    assert (
        not intake["health"]["watertight"] and [s["code"] for s in ready["steps"]] == ["fill"] and ready["watertight"]
    )
    assert measure(load(io.BytesIO(blobs.get(store, ready["sha"])), NO_LIMITS)).volume_mm3 == pytest.approx(8000)
    state = size(client, plan, height_mm=30.0)
    assert state["folds"][0]["choice"]["mesh"] == "ready" and state["folds"][0]["choice"]["sha"] == ready["sha"]
    row = decide(client, store, plan, "pose")["folds"][2]
    assert row["state"] == "settled"
    early = {"height_mm": 30.0, "mesh": "original", "head": head(client, plan), **machine_ids(client)}
    assert client.post(f"/api/plans/{plan}/size", json=early).json()["code"] == "not-computed"
    as_it_came = done(client, store, f"/api/figures/{figure}/mend/original")
    assert as_it_came["repair"]["steps"] == [] and not as_it_came["repair"]["watertight"]
    state = size(client, plan, height_mm=30.0, mesh="original", **machine_ids(client))
    assert state["folds"][2]["state"] == "stale", "another mesh, another pose"
    assert undo(client, plan)["folds"][2]["state"] == "settled"


def test_a_sound_figure_is_its_own_ready_copy(client: TestClient, store: Store) -> None:
    made = bring_in(client, store, stl_bytes(ball(6, fineness=3)))
    ready = client.get(f"/api/figures/{made['figure_id']}/intake").json()["document"]["ready"]
    assert ready["sha"] is None and ready["steps"] == [] and ready["specks"] == 0 and ready["refused"] is None


def test_crumbs_are_left_out_and_can_be_kept(client: TestClient, store: Store) -> None:
    body = stl_bytes(Mesh.joined([box((0, 0, 20), (20, 20, 40)), ball(0.15, (0, 0, -2), 2)]))
    made = bring_in(client, store, body, "bust.stl")
    ready = client.get(f"/api/figures/{made['figure_id']}/intake").json()["document"]["ready"]
    assert ready["specks"] == 1 and ready["size_mm"][2] == pytest.approx(40) and ready["lower"][2] == pytest.approx(0)
    whole = done(client, store, f"/api/figures/{made['figure_id']}/mend/whole")
    assert whole["repair"]["size_mm"][2] == pytest.approx(42.15, abs=0.01)


def test_what_cannot_be_worked_on_says_so_in_size(client: TestClient, store: Store) -> None:
    n = 12
    x, y = np.meshgrid(np.arange(n), np.arange(n))
    wave = np.stack([x.ravel(), y.ravel(), np.sin(x.ravel() / 2)], axis=1).astype(float)
    i = (np.arange(n - 1)[:, None] * n + np.arange(n - 1)).ravel()
    sheet = Mesh(
        wave, np.vstack([np.stack([i, i + 1, i + n], 1), np.stack([i + 1, i + n + 1, i + n], 1)]).astype(np.int32)
    )
    made = bring_in(client, store, stl_bytes(sheet), "sheet.stl")
    intake = client.get(f"/api/figures/{made['figure_id']}/intake").json()["document"]
    assert intake["ready"]["refused"]["code"] == "sheet" and "thickness" in intake["ready"]["refused"]["remedy"]
    body = {"height_mm": 30.0, "head": None, **machine_ids(client)}
    refused = client.post(f"/api/plans/{made['plan_id']}/size", json=body)
    assert refused.status_code == 422 and refused.json()["code"] == "sheet"


def test_taking_supports_off_where_there_are_none_says_so(client: TestClient, store: Store) -> None:
    made = bring_in(client, store, stl_bytes(ball(6, fineness=3)))
    address = f"/api/figures/{made['figure_id']}/mend/bare"
    job = client.post(address).json()["job_id"]
    work_off(store)
    assert client.get(f"/api/jobs/{job}").json()["problem"]["code"] == "no-supports"


def test_the_parts_of_a_kit_share_one_factor(client: TestClient, store: Store) -> None:
    body = zipped(
        {
            "giant/legs.stl": stl_bytes(box((0, 0, 5), (4, 4, 10))),
            "giant/trunk.stl": stl_bytes(box((0, 0, 10), (8, 6, 20))),
        }
    )
    made = bring_in(client, store, body, "stilt-giant.zip")
    assert made["parts"] == 2
    kit = client.get(f"/api/kits/{made['kit_id']}").json()
    assert [p["name"] for p in kit["parts"]] == ["Legs", "Trunk"] and kit["name"] == "Stilt giant" and not kit["placed"]
    legs, trunk = (p["plan_id"] for p in kit["parts"])
    size(client, legs, height_mm=25.0)
    state = client.get(f"/api/plans/{trunk}").json()
    assert state["folds"][0]["choice"]["factor"] == pytest.approx(2.5) and state["folds"][0]["choice"][
        "height_mm"
    ] == pytest.approx(50)
    assert state["folds"][0]["reason"].startswith("With the kit")
    rows = client.get("/api/figures").json()
    assert {r["kit_name"] for r in rows} == {"Stilt giant"}


def test_a_3mf_of_several_objects_is_a_placed_kit_in_mm(client: TestClient, store: Store) -> None:
    held = io.BytesIO()
    write_3mf({"upper": ball(4, (0, 0, 20)), "lower": box((0, 0, 5), (6, 6, 10))}, held)
    made = bring_in(client, store, held.getvalue(), "warden.3mf")
    kit = client.get(f"/api/kits/{made['kit_id']}").json()
    assert kit["placed"] and [p["name"] for p in kit["parts"]] == ["Upper", "Lower"]
    assert client.get(f"/api/plans/{made['plan_id']}").json()["unit"] == "mm"
    preview = unpack_mesh(client.get(f"/api/blobs/{kit['parts'][0]['preview_sha']}").content)
    assert preview.lower[2] == pytest.approx(16, abs=0.1)  # in place, not dropped


def test_a_kit_with_one_bad_part_leaves_no_trace(client: TestClient, store: Store) -> None:
    body = zipped({"good.stl": stl_bytes(ball(3, fineness=2)), "bad.obj": b"v 0 0 0\nf 1 2 3\n"})
    before = traces(store)
    refused = client.post("/api/figures", params={"name": "kit.zip"}, content=body)
    assert refused.status_code == 422 and refused.json()["where"].startswith("bad.obj")
    assert traces(store) == before


def test_weak_parts_follow_the_size_and_the_printer(client: TestClient, store: Store) -> None:
    import trimesh

    shape = trimesh.creation.cylinder(0.3, 9, sections=24).subdivide_to_size(0.4)
    spear = Mesh(np.asarray(shape.vertices, float), np.asarray(shape.faces, np.int32))
    made = bring_in(client, store, stl_bytes(Mesh.joined([spear, ball(4, (8, 0, 0), 4)])))
    printers = {p["name"]: p["id"] for p in client.get("/api/printers").json()}
    address = f"/api/figures/{made['figure_id']}/weak"
    thin = done(client, store, address, printer=printers["kestrel"], factor=1.0)
    (part,) = thin["parts"]
    assert (
        part["kind"] == "rod"
        and part["thickness"] == pytest.approx(0.6, rel=0.1)
        and thin["cure"] == pytest.approx(part["scale"])
    )
    assert done(client, store, address, printer=printers["kestrel"], factor=part["scale"] * 1.02)["parts"] == []
    assert done(client, store, address, printer=printers["heron"], factor=1.0)["parts"] == []
    values = client.get(f"/api/blobs/{thin['thickness_sha']}").content
    assert values[:4] == b"TNV1" and np.frombuffer(values, "<f4", offset=8).min() == pytest.approx(0.6, rel=0.15)


def test_what_fits_is_told_for_every_printer(client: TestClient, store: Store) -> None:
    made = bring_in(client, store, stl_bytes(box((0, 0, 150), (10, 10, 300))))
    fits = {f["printer_id"]: f["factor"] for f in client.get(f"/api/figures/{made['figure_id']}/fits").json()}
    for printer in client.get("/api/printers").json():
        width, depth, height = printer["spec"]["build_mm"]
        # A long rod fits at most along the space's diagonal, and at least along its longest edge.
        assert (
            max(width, depth, height) / 300
            <= fits[printer["id"]] * 1.001
            <= np.linalg.norm([width, depth, height]) / 300 * 1.001
        )


def test_the_same_file_again_is_known_at_once(client: TestClient, store: Store) -> None:
    body = stl_bytes(knobbly(fineness=3))
    first = bring_in(client, store, body)
    again = client.post("/api/figures", params={"name": "the-same.stl"}, content=body).json()
    rows = {row["id"]: row for row in client.get("/api/figures").json()}
    assert again["figure_id"] != first["figure_id"]
    assert rows[again["figure_id"]]["picture"] == rows[first["figure_id"]]["picture"] is not None
    assert not rows[again["figure_id"]]["doing"], "nothing is examined twice"


def test_a_files_name_is_taken_as_it_is(client: TestClient, store: Store) -> None:
    made = bring_in(client, store, stl_bytes(ball(3)), "50%41 toad.stl")
    assert figures.one(store, made["figure_id"])["name"] == "50%41 toad"
