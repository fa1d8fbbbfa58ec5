"""Results and what they name, machines on the shelf, material used, and an old database brought up to date."""

from __future__ import annotations

import hashlib
import io
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from pathlib import Path

import pymysql
import pytest
from yoyo import get_backend, read_migrations

from tenugui.core.machines import load_material, load_printer
from tenugui.store import blobs, db, figures, machines, plans, results, runs
from tenugui.store.db import Store, StoreError, address_from_environment, address_to_environment, migrate
from tenugui.store.server import Address, DatabaseServer
from tenugui.store.tidy import tidy

MIGRATIONS = Path(plans.__file__).parent / "migrations"


def key(name: str) -> str:
    return hashlib.sha256(name.encode()).hexdigest()


def named_by(store: Store, result: str) -> set[str]:
    with store.work() as sql:
        sql.execute("SELECT sha256 FROM result_blobs WHERE result_key = %s", (result,))
        return {row["sha256"] for row in sql.fetchall()}


def test_a_result_comes_back_byte_for_byte_and_names_what_it_holds(store: Store) -> None:
    sha = blobs.put_bytes(store, b"a preview")
    body = f'{{"preview": "{sha}", "note": "not a hash"}}'.encode()
    results.keep(store, key("one"), "pose", body)
    assert results.kept(store, key("one")) == body and results.has(store, key("one"))
    assert named_by(store, key("one")) == {sha}
    assert results.kept(store, key("two")) is None and not results.has(store, key("two"))
    assert results.every(store) == [("pose", body)]


def test_a_result_computed_again_names_what_it_holds_now(store: Store) -> None:
    first, second = (blobs.put_bytes(store, body) for body in (b"first", b"second"))
    for sha in (first, second):
        results.keep(store, key("one"), "pose", f'["{sha}"]'.encode())
    assert named_by(store, key("one")) == {second}


def test_use_is_noted_once_a_day(store: Store) -> None:
    results.keep(store, key("one"), "pose", b"{}")

    def age() -> int:
        with store.work() as sql:
            sql.execute("SELECT TIMESTAMPDIFF(HOUR, used_at, CURRENT_TIMESTAMP(3)) AS h FROM results")
            return int(sql.fetchone()["h"])  # type: ignore[index]

    for hours, left in ((20, 20), (30, 0)):
        with store.work() as sql:
            sql.execute("UPDATE results SET used_at = CURRENT_TIMESTAMP(3) - INTERVAL %s HOUR", (hours,))
        results.kept(store, key("one"))
        assert age() == left


@pytest.mark.parametrize("size", [0, 1, blobs.CHUNK - 1, blobs.CHUNK, blobs.CHUNK + 1])
def test_content_of_any_size_comes_back(store: Store, size: int) -> None:
    body = bytes(range(256)) * (size // 256) + bytes(size % 256)
    assert blobs.get(store, blobs.put_bytes(store, body)) == body


def test_content_is_packed_without_the_database_and_stored_in_one(store: Store) -> None:
    body = bytes(range(256)) * 40_000
    made = blobs.packed(io.BytesIO(body))
    assert made.sha == hashlib.sha256(body).hexdigest() and made.size == len(body) and len(made.lengths) == 3
    with pytest.raises(StoreError, match="no stored file"):
        blobs.get(store, made.sha)
    assert blobs.put_packed(store, made) == blobs.put_packed(store, made) == made.sha
    assert blobs.get(store, made.sha) == body


def test_content_that_is_found_again_is_young_again(store: Store) -> None:
    """A running task that makes what is there already names it only later; it is not freed before."""
    sha = blobs.put_bytes(store, b"made by another plan, long ago")
    with store.work() as sql:
        sql.execute("UPDATE blobs SET created_at = created_at - INTERVAL 3 DAY")
    assert tidy(store, dry=True).blobs == 1
    assert blobs.put_bytes(store, b"made by another plan, long ago") == sha
    assert tidy(store).blobs == 0 and blobs.get(store, sha)


@pytest.mark.parametrize(("number", "times"), [(1213, 2), (1205, 4), (1213, 99), (1146, 1)])
def test_what_crossed_in_the_database_is_done_again(number: int, times: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(db, "PAUSE_SECONDS", 0.0)
    tried = list[int]()

    @db.retried
    def deed() -> str:
        tried.append(1)
        if len(tried) <= times:
            raise pymysql.err.OperationalError(number, "crossed")
        return "done"

    if number == 1146:
        with pytest.raises(pymysql.err.OperationalError):
            deed()
        assert len(tried) == 1, "what is wrong is not tried again"
    elif times > db.TRIES:
        with pytest.raises(StoreError, match="busy"):
            deed()
        assert len(tried) == db.TRIES
    else:
        assert deed() == "done" and len(tried) == times + 1


def test_a_machine_is_replaced_by_its_name_and_keeps_its_number(store: Store) -> None:
    heron = load_printer("heron").model_dump(mode="json")
    number = machines.keep(store, "printers", heron)
    assert machines.keep(store, "printers", {**heron, "start_s": 99.0}) == number
    assert machines.one(store, "printers", number)["spec"]["start_s"] == 99.0
    with pytest.raises(StoreError, match="is kept for resin"):
        machines.keep(store, "printers", {**load_printer("kestrel").model_dump(mode="json"), "name": "heron"})
    with pytest.raises(StoreError, match="no printer number"):
        machines.one(store, "printers", 999_999)


def test_a_retired_machine_is_off_the_shelf_and_still_known(store: Store) -> None:
    number = next(m["id"] for m in machines.every(store, "printers") if m["name"] == "heron")
    machines.retire(store, "printers", number)
    assert "heron" not in {m["name"] for m in machines.every(store, "printers")}
    assert "heron" in {m["name"] for m in machines.every(store, "printers", retired=True)}
    assert machines.one(store, "printers", number)["name"] == "heron"
    again = machines.keep(store, "printers", load_printer("heron").model_dump(mode="json"))
    assert again == number and "heron" in {m["name"] for m in machines.every(store, "printers")}


def test_material_used_is_what_was_weighed_else_what_was_planned(store: Store) -> None:
    sha = blobs.put_bytes(store, b"a figure")
    plan = plans.create(store, figures.add(store, figures.NewFigure("Toad", "toad.stl", sha, 12)))
    printer = machines.every(store, "printers")[0]["id"]
    grey, tough = (m["id"] for m in machines.every(store, "materials") if m["process"] == "resin")
    when = datetime(2026, 5, 1, 20, 0)
    weighed, lost, other = (
        runs.start(
            store, plan, None, printer_id=printer, material_id=m, planned=(3600.0, g, 0.1, 0.04), started_at=when
        )
        for m, g in ((grey, 10.0), (grey, 20.0), (tough, 5.0))
    )
    assert runs.used_g(store) == {grey: 30.0, tough: 5.0}
    assert runs.film_worn(store)[printer] == pytest.approx(0.04 * len(runs.of_plan(store, plan)))
    machines.new_film(store, printer)
    assert printer not in runs.film_worn(store), "a new film is not worn by what was printed before it"
    runs.end(store, weighed, {"result": "good", "real_g": 12.5})
    runs.end(store, lost, {"result": "print lost", "failed_layer": 40})
    assert runs.used_g(store) == {grey: 32.5, tough: 5.0}
    runs.end(store, weighed, {"result": "scarred", "real_g": 11.0})
    rows = {row["id"]: row for row in runs.of_plan(store, plan)}
    assert rows[weighed]["result"] == "scarred" and rows[lost]["failed_layer"] == 40 and rows[other]["result"] is None
    with pytest.raises(StoreError, match="no run number"):
        runs.end(store, 999_999, {"result": "good"})


def test_an_address_survives_the_environment(monkeypatch: pytest.MonkeyPatch) -> None:
    given = Address(4567, "sæcret % with / odd @ signs")
    for name, value in address_to_environment(given).items():
        monkeypatch.setenv(name, value)
    assert address_from_environment() == given


def test_a_database_that_is_not_there_is_said_to_be_away() -> None:
    nowhere = Store(Address(1, "nothing"))
    with pytest.raises(StoreError) as told, nowhere.work():
        pass
    assert (
        told.value.code == "database-away"
        and told.value.status == 503
        and "Nothing that was confirmed is lost" in told.value.remedy
    )


def _statements(file: Path) -> list[str]:
    lines = [line for line in file.read_text().splitlines() if not line.startswith("--")]
    return [s for s in "\n".join(lines).split(";\n") if s.strip()]


def test_a_database_of_the_first_release_is_brought_up_to_date_with_all_that_is_in_it(tmp_path: Path) -> None:
    """What the first migration made, filled by hand as it was then; then all others over it."""
    server = DatabaseServer(tmp_path / "db")
    address = server.start()
    try:
        old = pymysql.connect(
            host=address.host,
            port=address.port,
            user=address.user,
            password=address.password,
            database=address.database,
        )
        sha = hashlib.sha256(b"a figure").hexdigest()
        with old.cursor() as sql:
            for statement in _statements(MIGRATIONS / "0001_first.sql"):
                sql.execute(statement)
            sql.execute("INSERT INTO blobs (sha256, size, chunks) VALUES (%s, 8, 1)", (sha,))
            sql.execute("INSERT INTO blob_chunks (sha256, n, data) VALUES (%s, 0, 'a figure')", (sha,))
            sql.execute(
                "INSERT INTO figures (name, file_name, source_sha, triangles) VALUES ('Toad', 'toad.stl', %s, 12)",
                (sha,),
            )
            sql.execute("INSERT INTO plans (figure_id, number) VALUES (1, 1)")
            sql.execute("INSERT INTO printers (name, process, spec) VALUES ('heron', 'resin', '{}')")
            sql.execute("INSERT INTO materials (name, process, spec) VALUES ('grey', 'resin', '{}')")
            sql.execute(
                "INSERT INTO runs (plan_id, printer_id, material_id, planned_s, planned_g, planned_risk, started_at)"
                " VALUES (1, 1, 1, 3600, 10, 0.1, '2026-01-05 20:00:00')"
            )
        old.commit()
        old.close()
        backend = get_backend(
            f"mysql://{address.user}:{address.password}@{address.host}:{address.port}/{address.database}"
        )
        every = read_migrations(str(MIGRATIONS))
        backend.mark_migrations(every.filter(lambda m: m.id == "0001_first"))
        backend.connection.close()
        migrate(address)
        migrate(address)  # twice is once
        store = Store(address)
        (run,) = runs.every(store)
        assert (run["figure_name"], run["plan_number"]) == ("Toad", 1), "the log names what it prints by itself now"
        assert blobs.get(store, sha) == b"a figure", "chunks of before are not packed and still read"
        assert [f["name"] for f in figures.on_bench(store)] == ["Toad"]
        store.close()
    finally:
        server.stop()


def test_materials_of_every_preset_are_on_a_new_shelf(store: Store) -> None:
    names = {m["name"] for m in machines.every(store, "materials")}
    assert {load_material(None, load_printer(p)).name for p in ("heron", "kestrel")} <= names


def test_a_first_start_that_was_killed_in_the_middle_begins_anew(tmp_path: Path) -> None:
    """Tables half made and the mark of who was making them: once every later start failed. With a single row of
    somebody's it is not touched.
    """
    server = DatabaseServer(tmp_path / "db")
    address = server.start()
    try:
        store = Store(address)
        with store.work() as sql:
            sql.execute("CREATE TABLE blobs (sha256 CHAR(64) PRIMARY KEY)")
        migrate(address)
        with store.work() as sql:
            sql.execute("INSERT INTO yoyo_lock (locked, ctime, pid) VALUES (1, CURRENT_TIMESTAMP, 4242)")
            sql.execute("DELETE FROM _yoyo_migration")
        migrate(address)
        sha = blobs.put_bytes(store, b"reeds")
        with store.work() as sql:
            sql.execute("DELETE FROM _yoyo_migration ORDER BY migration_id DESC LIMIT 1")
        with pytest.raises(pymysql.err.Error):  # it is brought up to date, which half of it already is
            migrate(address)
        assert blobs.get(store, sha) == b"reeds"
        store.close()
    finally:
        server.stop()


def test_of_two_that_cross_one_is_taken_back_whole(store: Store) -> None:
    """A pool that does a failed statement once more by itself would keep the second half of what was taken back."""
    names = ("heron", "toad")
    with store.work() as sql:
        sql.executemany("INSERT INTO settings (name, value) VALUES (%s, 0)", [(name,) for name in names])
    both = threading.Barrier(2)

    def add(order: tuple[str, str], once: list[bool]) -> None:
        with store.work() as sql:
            for name in order:
                sql.execute("UPDATE settings SET value = value + 1 WHERE name = %s", (name,))
                if once:
                    once.clear()
                    both.wait(20)  # each has one, and wants the other's

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(db.retried(add), (names, names[::-1]), ([True], [True])))
    with store.work() as sql:
        sql.execute("SELECT value FROM settings ORDER BY name")
        assert [row["value"] for row in sql.fetchall()] == [2, 2]
