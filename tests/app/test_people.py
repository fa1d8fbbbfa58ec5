"""A bench that is open to the house: nobody acts unknown, and nobody beyond their role."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import datetime, timedelta

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from tenugui.app.main import make_app
from tenugui.app.porter import ANYBODY, COOKIE, KEPT, may
from tenugui.store import people
from tenugui.store.db import Store
from tests.app.bench import HOST

WORDS = "reeds under a slow lantern"
ROLES = ("keeper", "member", "guest")


@pytest.fixture
def opened(store: Store) -> FastAPI:
    return make_app(store, frozenset({HOST}), open_to_the_house=True)


def visitor(opened: FastAPI) -> TestClient:
    return TestClient(opened, base_url=f"https://{HOST}", headers={"Origin": f"https://{HOST}"})


def somebody(opened: FastAPI, store: Store, role: str, name: str | None = None) -> TestClient:
    """Somebody of a role, who came by an invitation."""
    client = visitor(opened)
    token = people.invite(store, role, datetime.now())
    taken = client.post("/api/invitation", json={"token": token, "name": name or f"the {role}", "password": WORDS})
    assert taken.status_code == 200 and taken.json()["me"]["role"] == role, taken.text
    return client


@pytest.fixture
def house(opened: FastAPI, store: Store) -> Iterator[dict[str, TestClient]]:
    """One of each role."""
    yield {role: somebody(opened, store, role) for role in ROLES}


def doors(app: FastAPI) -> list[tuple[str, str]]:
    """Every door of the schema, its places filled in."""
    return [
        (method.upper(), re.sub(r"\{[^}]*\}", "1", path))
        for path, methods in app.openapi()["paths"].items()
        for method in methods
    ]


def test_every_door_asks_who_comes_but_those_for_anybody(opened: FastAPI) -> None:
    client = visitor(opened)
    asked = doors(opened)
    assert len(asked) > 150
    unasked = [door for door in asked if client.request(*door).status_code != 401]
    assert {f"{method} {path}" for method, path in unasked} == {
        "GET /api/health",
        "GET /api/session",
        "DELETE /api/session",
        "POST /api/session",
        "POST /api/invitation",
        "POST /api/invitation/read",
        "GET /api/week/calendar/1.ics",
    }
    assert all(ANYBODY.fullmatch(f"{method} {path}") for method, path in unasked)
    assert client.get("/metrics").status_code == 401


def test_no_door_lets_a_role_do_what_is_not_its_own(opened: FastAPI, house: dict[str, TestClient]) -> None:
    for role in ("member", "guest"):
        for method, path in doors(opened):
            if not may(role, method, path):
                answer = house[role].request(method, path)
                assert (answer.status_code, answer.json()["code"]) == (403, "not-yours"), (role, method, path)


@pytest.mark.parametrize("path", ["/api/people%0A", "/api/audit%0A", "/api/printers/1%0A", "/api/people/1%0Ax"])
def test_a_line_break_in_an_address_is_no_way_around(opened: FastAPI, house: dict[str, TestClient], path: str) -> None:
    for client in (visitor(opened), house["member"], house["keeper"]):
        for method in ("GET", "DELETE"):
            assert client.request(method, path).status_code == 404
    assert house["keeper"].get("/api/printers").json(), "no machine is gone"


def test_signing_out_when_a_token_is_due_leaves_nothing_signed_in(
    store: Store, house: dict[str, TestClient], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(people, "TURNED_AFTER", timedelta(0))
    member = house["member"]
    turned = member.get("/api/session")
    assert COOKIE in turned.headers["Set-Cookie"]
    out = member.delete("/api/session")
    assert out.headers.get_list("set-cookie") == [f"{COOKIE}=; Max-Age=0; {KEPT}"]
    with store.work() as sql:
        sql.execute("SELECT p.name FROM sessions s JOIN people p ON p.id = s.person_id")
        assert "the member" not in {row["name"] for row in sql.fetchall()}


def test_a_guest_looks_and_says_what_became_of_a_run_and_nothing_else(opened: FastAPI) -> None:
    changing = {f"{m} {p}" for m, p in doors(opened) if m not in ("GET", "HEAD") and may("guest", m, p)}
    assert changing == {
        "POST /api/session",
        "DELETE /api/session",
        "DELETE /api/sessions",
        "POST /api/invitation",
        "POST /api/invitation/read",
        "PUT /api/runs/1/outcome",
        "POST /api/runs/1/photos",
        "POST /api/plans/1/timers",
        "DELETE /api/timers/1",
    }


def test_members_change_no_machine_and_see_no_audit(house: dict[str, TestClient]) -> None:
    member = house["member"]
    assert member.get("/api/figures").status_code == 200
    assert member.put("/api/printers", json={}).status_code == 403
    assert member.get("/api/audit").status_code == 403 and member.get("/api/people").status_code == 403
    assert house["keeper"].put("/api/printers", json={}).status_code == 422  # heard, and found wanting


def test_signing_in_and_out(opened: FastAPI, house: dict[str, TestClient]) -> None:
    client = visitor(opened)
    assert client.get("/api/session").json() == {"open": True, "me": None}
    wrong = client.post("/api/session", json={"name": "the member", "password": "wrong"})
    nobody = client.post("/api/session", json={"name": "nobody", "password": "wrong"})
    assert (wrong.status_code, wrong.json()) == (401, nobody.json())
    right = client.post("/api/session", json={"name": "the member", "password": WORDS})
    said = right.headers["Set-Cookie"]
    assert all(word in said for word in (COOKIE, "Secure", "HttpOnly", "SameSite=Strict"))
    assert client.get("/api/session").json()["me"]["name"] == "the member"
    assert client.get("/api/figures").status_code == 200
    assert client.delete("/api/session").status_code == 204
    assert client.get("/api/figures").status_code == 401
    assert house["member"].get("/api/figures").status_code == 200


def test_a_token_from_elsewhere_opens_nothing(opened: FastAPI, house: dict[str, TestClient]) -> None:
    for token in ("", "x" * 43, "\x7f", 'a"; b=c'):
        client = visitor(opened)
        assert client.get("/api/figures", headers={"Cookie": f"{COOKIE}={token}"}).status_code == 401


def test_signed_out_everywhere(opened: FastAPI, house: dict[str, TestClient]) -> None:
    elsewhere = visitor(opened)
    elsewhere.post("/api/session", json={"name": "the member", "password": WORDS})
    assert house["member"].delete("/api/sessions").status_code == 204
    assert elsewhere.get("/api/figures").status_code == 401
    assert house["keeper"].get("/api/figures").status_code == 200


def test_a_keeper_invites_gives_roles_and_shows_out(opened: FastAPI, house: dict[str, TestClient]) -> None:
    keeper, guest = house["keeper"], house["guest"]
    path = keeper.post("/api/invitations", json={"role": "member"}).json()["path"]
    token = path.removeprefix("/invited#")
    new = visitor(opened)
    assert new.post("/api/invitation/read", json={"token": token}).json() == {"role": "member", "name": None}
    taken = {"token": token, "name": "Kiri", "password": WORDS}
    assert new.post("/api/invitation", json=taken).json()["me"]["name"] == "Kiri"
    twice = visitor(opened).post("/api/invitation", json=taken)
    assert (twice.status_code, twice.json()["code"]) == (410, "no-invitation")

    numbers = {row["name"]: row["id"] for row in keeper.get("/api/people").json()}
    assert guest.put("/api/printers", json={}).status_code == 403
    keeper.post(f"/api/people/{numbers['the guest']}/role", json={"role": "keeper"})
    assert guest.put("/api/printers", json={}).status_code == 422
    gone = keeper.delete(f"/api/people/{numbers['Kiri']}").json()
    assert next(row for row in gone if row["name"] == "Kiri")["left_at"]
    assert new.get("/api/figures").status_code == 401
    assert keeper.delete("/api/people/99").status_code == 404


def test_the_only_keeper_stays(house: dict[str, TestClient]) -> None:
    keeper = house["keeper"]
    me = keeper.get("/api/session").json()["me"]["id"]
    for answer in (keeper.delete(f"/api/people/{me}"), keeper.post(f"/api/people/{me}/role", json={"role": "guest"})):
        assert (answer.status_code, answer.json()["code"]) == (409, "last-keeper")


def test_what_was_done_is_noted_with_who_did_it_and_without_secrets(house: dict[str, TestClient]) -> None:
    house["member"].patch("/api/figures/99", json={"name": "Toad"})
    house["guest"].post("/api/plans/1/undo", json={})
    rows = house["keeper"].get("/api/audit").json()
    assert [(r["name"], r["deed"], r["status"]) for r in rows[:2]] == [
        ("the guest", "POST /api/plans/1/undo", 403),
        ("the member", "PATCH /api/figures/99", 404),
    ]
    assert {(r["name"], r["deed"]) for r in rows[2:]} == {(f"the {role}", "POST /api/invitation") for role in ROLES}
    assert WORDS not in str(rows) and all("token" not in r["deed"] for r in rows)
    older = house["keeper"].get("/api/audit", params={"before": rows[0]["id"]}).json()
    assert older == rows[1:]


def test_alone_nobody_is_asked_and_nobody_is_let_in(client: TestClient) -> None:
    assert client.get("/api/session").json() == {"open": False, "me": None}
    for answer in (
        client.get("/api/people"),
        client.post("/api/session", json={"name": "Ume", "password": WORDS}),
        client.post("/api/invitations", json={"role": "keeper"}),
    ):
        assert (answer.status_code, answer.json()["code"]) == (409, "alone")
