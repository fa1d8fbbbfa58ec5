"""Backup and restore of a whole bench, by the commands."""

from __future__ import annotations

from pathlib import Path

import pytest

from tenugui.store import blobs, figures, plans, settings
from tenugui.store.copy import main
from tenugui.store.db import Store, migrate
from tenugui.store.server import DatabaseServer


def filled(folder: Path) -> str:
    """A bench with a figure, a decision and a setting."""
    server = DatabaseServer(folder / "db")
    address = server.start()
    migrate(address)
    store = Store(address)
    sha = blobs.put_bytes(store, bytes(range(256)) * 40)
    plan = plans.create(store, figures.add(store, figures.NewFigure('Mønk\'s "toad"', "toad.stl", sha, 12)))
    plans.decide(store, plan, "size", {"factor": 1.5}, {}, "larger; it's for the shelf")
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
