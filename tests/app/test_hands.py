"""Supports backed off, set beside each other, and changed by hand again elsewhere: through the doors of the page."""

from __future__ import annotations

import base64
import io
import json
import math
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tenugui.store.db import Store
from tests.app.bench import board, bring_in, decide, fold, size
from tests.shapes import ball, stl_bytes


def asked_of(row: dict[str, Any]) -> dict[str, Any]:
    return {"risk": row["risk"], "style": row["style"], "edits": row["edits"]}


def test_sets_are_backed_off_and_compared_and_changes_are_made_again(client: TestClient, store: Store) -> None:
    made = bring_in(client, store, stl_bytes(ball(8, fineness=4).dropped()), "reed-egg.stl")
    plan = made["plan_id"]
    size(client, plan, height_mm=16)
    decide(client, store, plan, "pose")
    rows = fold(client, store, plan, "supports")["choices"]
    address = f"/api/plans/{plan}/supports"

    careful, bold = rows[0], rows[2]
    way = client.post(f"{address}/back-off", json=asked_of(careful)).json()
    assert sorted(way["order"]) == list(range(careful["tip_count"])) and 0 <= way["free"] < careful["tip_count"]
    free, wanted = way["order"][: way["free"]], careful["wanted"]
    assert all(least >= wanted * 0.999 for least in way["least"][: way["free"]])
    worse = client.post(f"{address}/what-if", json={**asked_of(careful), "gone": free, "put": []}).json()["worse"]
    assert worse == [], "what may go leaves nothing weaker than is asked"
    unmade = asked_of(careful) | {"risk": 0.123}
    assert client.post(f"{address}/back-off", json=unmade).json()["code"] == "not-computed"

    two = client.post(f"{address}/beside", json={"one": asked_of(careful), "other": asked_of(bold)}).json()
    assert two["only"][0] + two["both"] == careful["tip_count"] and two["only"][1] <= bold["tip_count"]
    first, second = (
        np.asarray(Image.open(io.BytesIO(base64.b64decode(png))).convert("RGBA"), int) for png in two["pictures"]
    )
    assert first.shape == second.shape and (first != second).any()
    same = client.post(f"{address}/beside", json={"one": asked_of(bold), "other": asked_of(bold)}).json()
    assert same["only"] == [0, 0] and same["pictures"][0] == same["pictures"][1]
    assert client.post(f"{address}/beside", json={"one": asked_of(bold), "other": unmade}).status_code == 409

    edit: dict[str, Any] = {"op": "add", "at": [5.0, 2.0, 3.0]}
    image = client.post(f"{address}/again", json={"edits": [edit], "mirrored": True}).json()["edits"]
    assert len(image) == 1 and image[0]["at"] != edit["at"]
    # A ball is its own image across any plane through its middle.
    away = [math.dist(at, (0.0, 0.0, 8.0)) for at in (image[0]["at"], edit["at"])]
    assert away[0] == pytest.approx(away[1], abs=0.15)
    known = {"edits": [edit], "mirrored": True, "known": image}
    assert client.post(f"{address}/again", json=known).json()["edits"] == []

    wishes = json.dumps({"own": {"risk": 0.05, "style": "pillars", "edits": [edit]}})
    own = board(client, store, plan, "supports", wishes)["document"]["choices"]
    assert own[-1]["own"]
    ask = {"fold": "supports", "own": json.loads(wishes)["own"]}
    body = {"head": client.get(f"/api/plans/{plan}").json()["head"], "option": len(own) - 1, "wishes": ask}
    key = board(client, store, plan, "supports", wishes)["key"]
    assert client.post(f"/api/plans/{plan}/decide/supports", json=body | {"key": key}).status_code == 200

    other = bring_in(client, store, stl_bytes(ball(8, fineness=3).dropped()), "reed-egg-2.stl")["plan_id"]
    size(client, other, height_mm=32)
    listed = client.get(f"/api/plans/{other}/supports/hands").json()
    assert listed == [{"plan_id": plan, "figure": listed[0]["figure"], "edits": 1, "same": False}]
    assert client.get(f"/api/plans/{plan}/supports/hands").json() == [], "one's own changes are no pattern for oneself"
    (twice,) = client.post(f"/api/plans/{other}/supports/again", json={"plan": plan}).json()["edits"]
    assert twice["at"] == pytest.approx([10.0, 4.0, 6.0]), "at twice the size"
    assert client.post(f"/api/plans/{other}/supports/again", json={"plan": 9999}).status_code == 404
