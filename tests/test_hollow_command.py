"""`hollow` as scripts call it: its document, its file, holes of one's own, and refusals."""

from __future__ import annotations

import itertools
import json
import math
from pathlib import Path
from typing import Any

import pytest

from tenugui.cli import main
from tenugui.core.contract import HollowRow
from tenugui.core.formats import read, read_whole
from tenugui.core.plan import MemoryShelf, computed
from tenugui.core.plan.figure import MadeDoc
from tenugui.core.plan.given import BodyGiven, Cut, FigureGiven, WayGiven
from tenugui.core.repair import make_ready
from tests.given import DOWN, figure_given
from tests.shapes import ball, box, stl_bytes


@pytest.fixture(scope="module")
def globe(tmp_path_factory: pytest.TempPathFactory) -> str:
    file = tmp_path_factory.mktemp("hollow") / "globe.stl"
    file.write_bytes(stl_bytes(ball(14, (0, 0, 14), fineness=4)))
    return str(file)


def told(capsys: pytest.CaptureFixture[str], *words: str) -> dict[str, Any]:
    assert main([*words, "--json"]) == 0
    out = capsys.readouterr().out
    assert out.count("\n") == 1
    return dict(json.loads(out))


def test_the_document_and_the_file_agree(globe: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = str(tmp_path / "hollow.3mf")
    d = told(capsys, "hollow", globe, "--wall", "2", "--out", out)
    assert d["schema"] == "tenugui/hollow@1" and d["left_solid"] == 0
    (cavity,) = d["cavities"]
    assert cavity["volume_mm3"] == pytest.approx(4 / 3 * math.pi * 12**3, rel=0.02) and cavity["min_wall_mm"] >= 2.0
    assert d["saved_ml"] == pytest.approx((d["solid_volume_mm3"] - d["hollow_volume_mm3"]) / 1000)
    assert cavity["vented"] and cavity["retained_ml"] <= 0.01 * cavity["volume_mm3"] / 1000 and cavity["drain_s"] > 0
    for hole in cavity["holes"]:
        assert math.hypot(*hole["axis"]) == pytest.approx(1) and hole["diameter_mm"] > 0
        assert math.dist((hole["x_mm"], hole["y_mm"], hole["z_mm"]), (0, 0, 14)) == pytest.approx(14, abs=0.05)
    proof = told(capsys, "proof", out, "--printer", "heron", "--layer-height", "0.1")
    assert proof["trapped"] == [], "with its holes nothing is closed in"
    assert proof["model"]["volume_mm3"] == pytest.approx(d["hollow_volume_mm3"], rel=0.01)


def test_the_command_cuts_what_the_page_cuts(globe: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """The row of the fold Hollow at that wall, and the body that later folds print."""
    out = tmp_path / "hollow.stl"
    d = told(capsys, "hollow", globe, "--wall", "2", "--out", str(out))
    with open(globe, "rb") as handle:
        mesh = read(handle).whole
    shelf = MemoryShelf()
    figure = figure_given(shelf, make_ready(mesh).mesh).to(FigureGiven, bare=True)
    row = computed(shelf, "hollowrow", figure.to(WayGiven, down=DOWN, wall=2.0), HollowRow)
    assert row.hollow is not None
    page, command = row.hollow.model_dump(), {k: v for k, v in d.items() if k != "prepared"}
    assert json.loads(json.dumps(page)) == command
    asked = Cut(wall=2.0, holes=tuple(h for c in command["cavities"] for h in c["holes"]))
    body = read_whole(shelf.get(computed(shelf, "body", figure.to(BodyGiven, hollow=asked), MadeDoc).sha))
    with open(out, "rb") as handle:
        written = read(handle).whole
    assert len(written.faces) == len(body.faces) and written.vertices.mean() == pytest.approx(body.vertices.mean())


def test_without_holes_the_danger_is_said_and_the_proof_finds_it(
    globe: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = str(tmp_path / "closed.stl")
    d = told(capsys, "hollow", globe, "--wall", "2", "--holes", "none", "--out", out)
    (cavity,) = d["cavities"]
    assert cavity["holes"] == [] and not cavity["vented"] and cavity["drain_s"] is None
    assert cavity["retained_ml"] == pytest.approx(cavity["volume_mm3"] / 1000)
    assert [f["code"] for f in d["findings"]] == ["sealed-cavity"] and "burst" in d["findings"][0]["message"]
    proof = told(capsys, "proof", out, "--printer", "heron", "--layer-height", "0.1")
    assert proof["trapped"][0]["volume_mm3"] == pytest.approx(cavity["volume_mm3"], rel=0.02)


def test_holes_of_ones_own_are_cut_where_they_are_said(
    globe: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    holes = tmp_path / "holes.json"
    rows = [
        {"x_mm": 0, "y_mm": -14, "z_mm": 14, "axis": [0, 2, 0], "diameter_mm": 3},
        {"x_mm": 0, "y_mm": 14, "z_mm": 14, "axis": [0, -1, 0], "diameter_mm": 4},
    ]
    holes.write_text(json.dumps(rows))
    (cavity,) = told(capsys, "hollow", globe, "--wall", "2", "--holes", str(holes))["cavities"]
    assert [h["diameter_mm"] for h in cavity["holes"]] == [3, 4] and cavity["vented"]
    assert cavity["holes"][0]["wall_mm"] == pytest.approx(2.0, abs=0.1)


def test_every_hole_gets_its_plug(globe: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    plugs = tmp_path / "plugs.3mf"
    (cavity,) = told(capsys, "hollow", globe, "--wall", "2", "--plugs", str(plugs))["cavities"]
    with open(plugs, "rb") as handle:
        parts = read(handle).parts
    assert len(parts) == len(cavity["holes"]) >= 2
    boxes = sorted((float(m.lower[0]), float(m.upper[0])) for m in parts.values())
    assert all(a[1] < b[0] for a, b in itertools.pairwise(boxes)), "they lie side by side"


def test_a_lattice_takes_room_and_a_plate_stays_solid(
    globe: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    plain = told(capsys, "hollow", globe, "--wall", "2", "--holes", "none")
    held = told(capsys, "hollow", globe, "--wall", "2", "--holes", "none", "--lattice", "6")
    assert 0.5 * plain["saved_ml"] < held["saved_ml"] < 0.95 * plain["saved_ml"]
    plate = tmp_path / "plate.stl"
    plate.write_bytes(stl_bytes(box((0, 0, 1), (30, 30, 2))))
    d = told(capsys, "hollow", str(plate), "--wall", "1.5")
    assert d["cavities"] == [] and d["saved_ml"] == 0 and d["findings"][0]["code"] == "stays-solid"


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--wall", "0"], "wall of 0 mm is out of range"),
        (["--wall", "nan"], "wall is no number"),
        (["--wall", "2", "--lattice", "0.1"], "cannot be made"),
        (["--wall", "2", "--holes", "{none}"], "there is no file"),
        (["--wall", "2", "--holes", "{words}"], "cannot be read"),
        (["--wall", "2", "--holes", "{empty}"], "no holes in this file"),
        (["--wall", "2", "--holes", "{half}"], "Hole 1 is not complete"),
        (["--wall", "2", "--holes", "{away}"], "Hole 1 opens no cavity"),
        (["--wall", "2", "--out", "{folder}/figure.doc"], "does not end in"),
    ],
)
def test_bad_words_are_one_line_and_exit_2(
    globe: str, tmp_path: Path, capsys: pytest.CaptureFixture[str], words: list[str], said: str
) -> None:
    away = {"x_mm": 50, "y_mm": 0, "z_mm": 0, "axis": [1, 0, 0], "diameter_mm": 3}
    for name, text in (("words", "not json"), ("empty", "[]"), ("half", '[{"x_mm": 1}]'), ("away", json.dumps([away]))):
        (tmp_path / name).write_text(text)
    names = {n: str(tmp_path / n) for n in ("none", "words", "empty", "half", "away")} | {"folder": str(tmp_path)}
    assert main(["hollow", globe, *(w.format(**names) for w in words)]) == 2
    error = capsys.readouterr().err
    assert said in error and error.count("\n") == 1 and "Traceback" not in error
