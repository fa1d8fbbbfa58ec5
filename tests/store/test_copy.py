"""Backup and restore of a whole bench, by the commands: what comes back, what is refused, and that nothing is lost by
either.
"""

from __future__ import annotations

import stat
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from tenugui.store import blobs, figures, jobs, plans, results, settings
from tenugui.store.copy import MARK, backup, main
from tenugui.store.db import Store, migrate
from tenugui.store.server import DatabaseServer, InUse


def filled(folder: Path) -> str:
    """A bench with a figure, a decision and a setting."""
    server = DatabaseServer(folder / "db")
    address = server.start()
    migrate(address)
    store = Store(address)
    sha = blobs.put_bytes(store, bytes(range(256)) * 40)
    plan = plans.create(store, figures.add(store, figures.NewFigure('Mønk\'s "toad"', "toad.stl", sha, 12)))
    plans.decide(store, plan, "size", choice={"factor": 1.5}, evidence={}, reason="larger; it's for the shelf")
    settings.keep(store, {"most_triangles": 1234})
    store.close()
    server.stop()
    return sha


def test_a_bench_that_was_lost_comes_back_from_its_backup(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    first, second, file = tmp_path / "first", tmp_path / "second", tmp_path / "bench.sql"
    first.mkdir()
    second.mkdir()
    sha = filled(first)
    monkeypatch.setenv("TENUGUI_STATE", str(first))
    assert main(["backup", str(file)]) == 0 and file.stat().st_size > 10_000
    assert not file.with_suffix(".sql.part").exists()
    monkeypatch.setenv("TENUGUI_STATE", str(second))
    assert main(["restore", str(file)]) == 0
    server = DatabaseServer(second / "db")
    address = server.start()
    try:
        migrate(address)
        store = Store(address)
        (figure,) = figures.on_bench(store)
        assert figure["name"] == 'Mønk\'s "toad"' and blobs.get(store, sha) == bytes(range(256)) * 40
        (decision,) = plans.chain(store, figure["plan_id"])
        assert decision["choice"] == {"factor": 1.5} and decision["reason"] == "larger; it's for the shelf"
        store.close()
    finally:
        server.stop()


@pytest.mark.parametrize("words", [[], ["backup"], ["copy", "x"], ["backup", "a", "b"]])
def test_other_words_are_told_how_it_is_said(words: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    assert main(words) == 2 and "usage" in capsys.readouterr().err


def test_a_backup_that_is_not_there_is_named(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["restore", str(tmp_path / "gone.sql")]) == 2
    assert "there is no file" in capsys.readouterr().err


@pytest.fixture(scope="module")
def bench(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The state of a bench with work on it, and a backup of it beside."""
    folder = tmp_path_factory.mktemp("bench")
    filled(folder)
    backup(folder / "db", folder / "bench.sql")
    return folder


@pytest.fixture
def here(bench: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """The same, for commands; as it was afterwards."""
    monkeypatch.setenv("TENUGUI_STATE", str(bench))
    yield bench
    assert plans_of(bench) == [1.5], "what was on the bench is on it still"


def plans_of(folder: Path) -> list[float]:
    """Factors of the size decisions on a bench."""
    server = DatabaseServer(folder / "db")
    store = Store(server.start())
    try:
        return [
            decision["choice"]["factor"]
            for figure in figures.on_bench(store)
            for decision in plans.chain(store, figure["plan_id"])
        ]
    finally:
        store.close()
        server.stop()


def test_a_backup_is_its_owners_alone_and_ends_with_its_mark(bench: Path) -> None:
    file = bench / "bench.sql"
    assert stat.S_IMODE(file.stat().st_mode) == 0o600
    assert file.read_bytes().rstrip(b"\n").rpartition(b"\n")[2].startswith(MARK)


@pytest.mark.parametrize("share", [0.0, 0.3, 0.9])
def test_a_backup_that_was_cut_off_changes_nothing(
    here: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], share: float
) -> None:
    whole = (here / "bench.sql").read_bytes()
    (tmp_path / "cut.sql").write_bytes(whole[: int(share * len(whole))])
    assert main(["restore", str(tmp_path / "cut.sql")]) == 1
    assert "cut off" in capsys.readouterr().err


def test_one_wrong_byte_is_noticed_before_anything_is_touched(
    here: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    whole = bytearray((here / "bench.sql").read_bytes())
    whole[whole.index(b"larger; it")] ^= 1
    (tmp_path / "wrong.sql").write_bytes(bytes(whole))
    assert main(["restore", str(tmp_path / "wrong.sql")]) == 1
    assert "checksum" in capsys.readouterr().err


def test_what_does_not_verify_is_not_put_in_place(
    here: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """A dump that is whole by its own word, but whose content is not what its hash says, or that a newer
    version wrote.
    """
    other = tmp_path / "other"
    other.mkdir()
    sha = filled(other)
    server = DatabaseServer(other / "db")
    store = Store(server.start())
    with store.work() as sql:
        sql.execute("UPDATE blob_chunks SET packed = 0 WHERE sha256 = %s", (sha,))
    store.close()
    server.stop()
    backup(other / "db", tmp_path / "damaged.sql")
    assert main(["restore", str(tmp_path / "damaged.sql")]) == 1
    assert "Nothing was changed" in capsys.readouterr().err
    store = Store(server.start())
    with store.work() as sql:
        sql.execute("UPDATE _yoyo_migration SET migration_id = '9999_later' LIMIT 1")
    store.close()
    server.stop()
    backup(other / "db", tmp_path / "newer.sql")
    assert main(["restore", str(tmp_path / "newer.sql")]) == 1
    assert "newer version" in capsys.readouterr().err
    assert not (here / "db.new").exists()


def test_a_running_bench_is_backed_up_and_not_restored_over(
    here: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    server = DatabaseServer(here / "db")
    store = Store(server.start())
    try:
        assert main(["backup", str(tmp_path / "live.sql")]) == 0
        with store.work() as sql:
            sql.execute("SELECT 1 AS lives")
            assert sql.fetchone() == {"lives": 1}
        assert main(["restore", str(here / "bench.sql")]) == 1
        assert "Stop it first" in capsys.readouterr().err
        with pytest.raises(InUse):
            DatabaseServer(here / "db").start()
        with store.work() as sql:
            sql.execute("SELECT COUNT(*) AS n FROM figures")
            assert sql.fetchone() == {"n": 1}, "nobody ended it"
    finally:
        store.close()
        server.stop()


def test_what_was_there_is_kept_beside_what_was_restored(
    here: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    server = DatabaseServer(here / "db")
    store = Store(server.start())
    (figure,) = figures.on_bench(store)
    plans.decide(store, figure["plan_id"], "size", choice={"factor": 3.0}, evidence={}, reason="after the backup")
    store.close()
    server.stop()
    monkeypatch.chdir(here)
    assert main(["restore", "bench.sql"]) == 0, "a name is of the folder that one is in"
    kept = Path(capsys.readouterr().out.rsplit("kept in ", 1)[1].strip().rstrip("."))
    assert kept.parent == here and kept.name.startswith("db.before-")
    kept.rename(here / "old")
    (here / "olds").mkdir()
    (here / "old").rename(here / "olds" / "db")
    assert 3.0 in plans_of(here / "olds")


def test_data_without_its_system_tables_is_never_deleted(tmp_path: Path) -> None:
    filled(tmp_path)
    (tmp_path / "db" / "data" / "mysql").rename(tmp_path / "away")
    with pytest.raises(RuntimeError, match="Nothing was touched"):
        DatabaseServer(tmp_path / "db").start()
    (tmp_path / "away").rename(tmp_path / "db" / "data" / "mysql")
    assert plans_of(tmp_path) == [1.5]


def test_what_can_be_computed_again_is_left_out_unless_all_is_asked_for(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, second = tmp_path / "first", tmp_path / "second"
    first.mkdir()
    second.mkdir()
    filled(first)
    server = DatabaseServer(first / "db")
    store = Store(server.start())
    made, marks = blobs.put_bytes(store, b"made" * 300_000), blobs.put_bytes(store, b"strokes of a file")
    results.keep(store, "k" * 64, "preview", f'{{"sha":"{made}"}}'.encode())
    plans.decide(store, figures.on_bench(store)[0]["plan_id"], "marks", choice={"what": marks}, evidence={}, reason="")
    jobs.want(store, "pose", {}, key="j" * 64)
    store.close()
    server.stop()
    monkeypatch.setenv("TENUGUI_STATE", str(first))
    small, whole = tmp_path / "small.sql", tmp_path / "whole.sql"
    assert main(["backup", str(small)]) == 0 and main(["backup", str(whole), "--whole"]) == 0
    assert made not in small.read_text() and made in whole.read_text()
    monkeypatch.setenv("TENUGUI_STATE", str(second))
    assert main(["restore", str(small)]) == 0
    server = DatabaseServer(second / "db")
    store = Store(server.start())
    try:
        (figure,) = figures.on_bench(store)
        assert blobs.get(store, figure["source_sha"]) == bytes(range(256)) * 40
        assert blobs.get(store, marks) == b"strokes of a file", "what a plan rests on is no result"
        assert not results.has(store, "k" * 64) and jobs.under_way(store) == []
        results.keep(store, "k" * 64, "preview", b"{}")
        assert jobs.want(store, "pose", {}, key="j" * 64), "its tables are there"
        store.close()
    finally:
        server.stop()
    assert main(["restore", str(whole)]) == 0


def test_a_backup_without_its_mark_is_taken_only_where_that_is_said(
    here: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "whole.sql"
    assert main(["backup", str(file), "--whole"]) == 0
    file.write_bytes(file.read_bytes().rpartition(MARK)[0])
    assert main(["restore", str(file)]) == 1 and "no end mark" in capsys.readouterr().err
    assert main(["restore", str(file), "--unmarked"]) == 0


def test_a_backup_into_a_folder_that_is_not_there_is_refused_in_words(
    here: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["backup", str(tmp_path / "nowhere" / "bench.sql")]) == 1
    assert "There is no folder" in capsys.readouterr().err


def test_a_backup_that_is_ended_leaves_nothing_behind(here: Path, tmp_path: Path) -> None:
    file = tmp_path / "ended.sql"
    slow = (
        "import sys, time\nfrom tenugui.store import copy\nlines = copy._lines\n"
        "def slowly(*words):\n    for line in lines(*words):\n        "
        "print('.', flush=True)\n        time.sleep(0.05)\n        yield line\n"
        "copy._lines = slowly\nsys.exit(copy.main(sys.argv[1:]))\n"
    )
    ended = subprocess.Popen([sys.executable, "-c", slow, "backup", str(file)], stdout=subprocess.PIPE)
    assert ended.stdout is not None and ended.stdout.readline()
    ended.terminate()
    assert ended.wait(30) == 143 and not list(tmp_path.glob("ended*"))
