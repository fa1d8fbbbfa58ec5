"""A folder planned over night: the best machine of each within limits, what wants a look first, and going on."""

from __future__ import annotations

import csv
import os
import signal
import threading
import time
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import orjson
import pytest

from tenugui import cli, headless_night
from tenugui.core.contract.night import NightRow, NightWay
from tenugui.core.plan.night import Night, chosen
from tests.shapes import ball, box, stl_bytes

WAY: dict[str, Any] = {
    "material": "m", "layer_height_mm": 0.1, "hands_min": 9.0, "mass_g": 1.0, "tips": 3, "lean_deg": 0.0,
    "beyond": [], "plan": {},
}  # fmt: skip


def ask(
    capsys: pytest.CaptureFixture[str], folder: Path, *words: str, printers: Sequence[str] = ("heron", "kestrel")
) -> dict[str, Any]:
    machines = [word for name in printers for word in ("--printer", name)]
    assert cli.main(["night", str(folder), *machines, *words, "--json"]) == 0
    told: dict[str, Any] = orjson.loads(capsys.readouterr().out)
    return told


def test_a_night_is_planned_kept_gone_on_with_and_held_to_other_limits(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "egg.stl").write_bytes(stl_bytes(ball(3, fineness=3)))
    (tmp_path / "=block.stl").write_bytes(stl_bytes(box((0, 0, 2), (5, 5, 4))))
    (tmp_path / "diary.stl").write_text("Dear diary, the toad smiled.")
    (tmp_path / "notes.txt").write_text("no figure")
    first = ask(capsys, tmp_path)
    assert first["schema"] == "tenugui/night@1" and [r["file"] for r in first["rows"]] == [
        "=block.stl",
        "diary.stl",
        "egg.stl",
    ]
    block, diary, egg = first["rows"]
    assert first["planned"] == 2 and first["kept"] == 0 and first["looked_first"] >= 1
    assert diary["best"] is None and diary["refused"][0]["code"] == "not-stl" and diary["ways"] == []
    for row in (block, egg):
        assert [w["printer"] for w in row["ways"]] == ["heron", "kestrel"]
        assert row["best"] == min((0, 1), key=lambda k: row["ways"][k]["coins"]), "the cheapest is named"
        assert (tmp_path / "night" / row["ways"][0]["picture"]).read_bytes().startswith(b"\x89PNG")
    laid = sorted(piece for plate in first["plates"] for piece in plate["pieces"])
    assert laid == ["=block.stl", "egg.stl"] and first["unplaced"] == []
    assert first["hours"] == pytest.approx(sum(p["time_s"] for p in first["plates"]) / 3600)

    rows = list(csv.DictReader((tmp_path / "night" / "night.csv").open()))
    assert [row["figure"] for row in rows] == ["'=block.stl", "diary.stl", "egg.stl"], "no sheet takes it for a formula"
    best = egg["ways"][egg["best"]]
    assert rows[2]["machine"] == best["printer"] and float(rows[2]["hours"]) == round(best["time_s"] / 3600, 2)
    page = (tmp_path / "night" / "night.html").read_text()
    assert "2 of 3 planned" in page and page.count("<img") == 2 and "This is" in page

    again = ask(capsys, tmp_path)
    assert again["kept"] == 3 and again["rows"] == first["rows"], "nothing is planned twice"
    (tmp_path / "egg.stl").write_bytes(stl_bytes(ball(3, fineness=2)))
    (tmp_path / "night" / "rows" / "=block.stl.json").write_text('{"cut": ')
    third = ask(capsys, tmp_path, "--most-hours", "0.01", "--workers", "1")
    assert third["kept"] == 1, "another file, and a row that was cut off, are planned again"
    assert third["planned"] == 0 and third["plates"] == []
    assert all("hours, more than 0.01" in w["beyond"][0] for r in third["rows"] for w in r["ways"])


def way(printer: str, *, coins: float, hours: float, risk: float) -> NightWay:
    return NightWay(printer=printer, coins=coins, time_s=hours * 3600, risk=risk, **WAY)


def test_the_cheapest_within_the_limits_is_named() -> None:
    ways = [way("a", coins=3.0, hours=9.0, risk=0.02), way("b", coins=4.0, hours=2.0, risk=0.3)]
    ways.append(way("c", coins=5.0, hours=3.0, risk=0.01))
    row = NightRow(file="f", key="k", size_mm=[], ways=ways, best=None, look=[], refused=[], seconds=1.0)

    def best(most_risk: float = 1.0, most_hours: float = 1e6) -> int | None:
        return chosen(row, Night((), most_risk=most_risk, most_hours=most_hours)).best

    assert (best(), best(most_hours=5.0), best(most_hours=5.0, most_risk=0.2)) == (0, 1, 2)
    assert best(most_hours=1.0) is None
    told = chosen(row, Night((), most_hours=5.0, most_risk=0.01))
    assert [len(w.beyond) for w in told.ways] == [2, 1, 0]


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--most-risk", "0"], "Limits are"),
        (["--workers", "0"], "0 workers"),
        (["--height", "0.2"], "0.2 mm tall"),
        (["--material", "lantern grey"], "1 materials for 2 printers"),
    ],
)
def test_what_no_night_can_be_made_of(
    words: list[str], said: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "egg.stl").write_bytes(b"")
    base = ["night", str(tmp_path), "--printer", "heron", "--printer", "kestrel"]
    assert cli.main([*base, *words]) == 2 and said in capsys.readouterr().err


def test_a_folder_that_is_none_or_empty(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main(["night", str(tmp_path / "nowhere"), "--printer", "heron"]) == 2
    assert "is no folder" in capsys.readouterr().err
    assert cli.main(["night", str(tmp_path), "--printer", "heron"]) == 2
    assert "No figure lies in" in capsys.readouterr().err


@pytest.fixture
def cluster(tmp_path: Path) -> Iterator[Any]:
    """A scheduler on loopback with two workers, each a process of its own."""
    from distributed import LocalCluster

    with LocalCluster(  # type: ignore[no-untyped-call]
        n_workers=2, threads_per_worker=1, dashboard_address=None, host="127.0.0.1", local_directory=str(tmp_path)
    ) as held:
        yield held


def test_workers_of_a_scheduler_give_the_same_rows_and_one_that_dies_loses_nothing(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], cluster: Any
) -> None:
    folder = tmp_path / "figures"
    folder.mkdir()
    for k in range(3):
        (folder / f"egg{k}.stl").write_bytes(stl_bytes(ball(3 + k / 2, fineness=2)))
    here = ask(capsys, folder, "--out", str(tmp_path / "here"), printers=["heron"])

    def kill_one_at_work() -> None:
        while not list((tmp_path / "there").rglob("*.json")):
            time.sleep(0.05)
        os.kill(int(next(iter(cluster.workers.values())).pid), signal.SIGKILL)

    killer = threading.Thread(target=kill_one_at_work, daemon=True)
    killer.start()
    words = ("--out", str(tmp_path / "there"), "--scheduler", cluster.scheduler_address)
    there = ask(capsys, folder, *words, printers=["heron"])
    killer.join()

    def told(night: dict[str, Any]) -> list[dict[str, Any]]:
        return [{k: v for k, v in row.items() if k != "seconds"} for row in night["rows"]]

    assert told(there) == told(here) and there["plates"] == here["plates"]


def test_a_scheduler_that_is_not_there_is_said_in_words(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "egg.stl").write_bytes(stl_bytes(ball(4, fineness=2)))
    words = ["night", str(tmp_path), "--printer", "heron", "--scheduler", "tcp://127.0.0.1:9"]
    assert cli.main(words) == 2
    assert "No scheduler answers at tcp://127.0.0.1:9" in capsys.readouterr().err


def test_what_nobody_foresaw_of_one_figure_is_told_and_stops_no_other(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One raises, one ends its process, the third is planned; neither of the first two is kept as done."""
    for name in ("bad", "deadly", "good"):
        (tmp_path / f"{name}.stl").write_bytes(name.encode())
    (tmp_path / "rows").mkdir()

    def plan(name: str, data: bytes, night: Night) -> tuple[NightRow, list[bytes]]:
        if name == "bad.stl":
            raise ZeroDivisionError("a marsh light")
        if name == "deadly.stl":
            os._exit(9)
        row = NightRow(file=name, key=night.key(data), size_mm=[], ways=[], best=None, look=[], refused=[], seconds=1.0)
        return row, []

    monkeypatch.setattr(headless_night, "planned_figure", plan)
    monkeypatch.setattr(headless_night, "_pool", lambda n: ProcessPoolExecutor(n, mp_context=get_context("fork")))
    files = sorted(tmp_path.glob("*.stl"))
    told = dict(headless_night._planned(lambda: headless_night.pool_of(2, None), files, Night(()), tmp_path))
    assert {name: [r.code for r in row.refused] for name, row in told.items()} == {
        "bad.stl": ["fault"], "deadly.stl": ["died"], "good.stl": [],
    }  # fmt: skip
    assert "a marsh light" in told["bad.stl"].refused[0].what
    kept = {file.name for file in files if headless_night._kept(tmp_path, file, Night(()))}
    assert kept == {"good.stl"}, "what failed is tried again the next night"
