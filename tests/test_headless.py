"""The headless contract, as a script would call it: one document, exit codes."""

from __future__ import annotations

import io
import json
import math
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from tenugui.core.formats import load, read, read_3mf, write_3mf
from tenugui.core.layers import prove
from tenugui.core.paths import planned, write_gcode
from tests.command import call, document
from tests.figures import hound, staff, y_up
from tests.presets import FILAMENT, HERON, KESTREL
from tests.shapes import ball, box, cone, fork, hollow_ball, knobbly, stl_bytes


@pytest.fixture(scope="module")
def gate(tmp_path_factory: pytest.TempPathFactory) -> str:
    path = tmp_path_factory.mktemp("headless") / "gate.stl"
    path.write_bytes(stl_bytes(fork()))
    return str(path)


def test_a_process_writes_one_document_and_ends_with_its_code(gate: str) -> None:
    words = [sys.executable, "-m", "tenugui.cli", "health"]
    done = subprocess.run([*words, gate, "--json"], capture_output=True, text=True)
    assert done.returncode == 0 and json.loads(done.stdout)["schema"] == "tenugui/health@1"
    refused = subprocess.run([*words, gate + ".gone", "--json"], capture_output=True, text=True)
    assert refused.returncode == 2 and refused.stdout == "" and refused.stderr.count("\n") == 1


def test_health(gate: str, tmp_path: Path) -> None:
    d = document("health", gate)
    assert d["schema"] == "tenugui/health@1" and d["watertight"] and d["shells"] == 4 and d["repaired"] is None
    small = tmp_path / "small.stl"
    small.write_bytes(stl_bytes(ball(1.0)))
    assert document("health", str(small))["unit_guess"] == "in"
    assert document("health", str(small), "--unit", "in")["size_mm"][2] == pytest.approx(50.8, rel=1e-3)


def test_proof(gate: str, tmp_path: Path) -> None:
    d = document("proof", gate, "--printer", "heron", "--layer-height", "0.05")
    assert [(i["layer"], i["merge_layer"]) for i in d["islands"]] == [(200, 560), (260, 560)]
    assert d["layers"]["count"] == 640 and d["material"]["volume_ml"] == pytest.approx(1.22 * 1.1, rel=0.01)
    held = document("proof", gate, "--printer", "heron", "--layer-height", "0.1", "--supports", "auto")
    assert held["islands"] == []
    high = tmp_path / "high.stl"
    high.write_bytes(stl_bytes(box((0, 0, 10), (4, 4, 4))))
    assert len(document("proof", str(high), "--printer", "kestrel", "--as-is")["islands"]) == 1
    assert document("proof", str(high), "--printer", "kestrel")["islands"] == []
    shell = tmp_path / "shell.stl"
    shell.write_bytes(stl_bytes(hollow_ball()))
    assert document("proof", str(shell), "--printer", "heron")["trapped"][0]["volume_mm3"] == pytest.approx(
        4 / 3 * np.pi * 512, rel=0.01
    )


def test_pose_with_marks(tmp_path: Path) -> None:
    path, marks = tmp_path / "cone.stl", tmp_path / "marks.json"
    path.write_bytes(stl_bytes(cone(10, 40)))
    marks.write_text(json.dumps({"faces": {"show": [0, 1, 2], "keep_out": []}}))
    d = document("pose", str(path), "--printer", "kestrel", "--marks", str(marks), "--count", "3")
    assert len(d["candidates"]) == 3 and d["candidates"][d["recommended"]]["down"] == pytest.approx(
        [0, 0, -1], abs=1e-6
    )
    marks.write_text(json.dumps({"faces": {"show": [10**6]}}))
    refused = call("pose", str(path), "--printer", "kestrel", "--marks", str(marks))
    assert refused.code == 2 and "the file has" in refused.stderr


def test_supports_and_layers(gate: str, tmp_path: Path) -> None:
    out = tmp_path / "held.3mf"
    d = document("supports", gate, "--printer", "kestrel", "--layer-height", "0.2", "--out", str(out))
    assert d["islands_before"] == 2 and d["islands_after"] == 0 and d["tips"] and out.stat().st_size > 1000
    # On filament the file has supports end a layer short of what they hold: that is where the gate begins.
    left = document("proof", str(out), "--printer", "kestrel", "--layer-height", "0.2")["islands"]
    assert 0 < len(left) <= 2 and all(i["layer"] >= 1 for i in left)
    heights = document("layers", gate, "--printer", "kestrel", "--heights", "0.1,0.2")
    assert [c["step_kind"] for c in heights["choices"]] == ["half", "full"] and heights["why"]


@pytest.mark.long
def test_plan(tmp_path: Path) -> None:
    path = tmp_path / "stone.stl"
    path.write_bytes(stl_bytes(ball(10, fineness=4)))
    d = document("plan", str(path), "--printer", "heron", "--height", "8", "--out", str(tmp_path / "out"))
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == sorted(d["files"])
    assert d["supports"]["islands_after"] == 0


def test_a_machines_file_is_judged_by_the_same_command(tmp_path: Path) -> None:
    path = planned(box((0, 0, 2), (12, 8, 4)), {}, KESTREL, 0.2)  # type: ignore[arg-type]
    own = tmp_path / "own.gcode"
    own.write_text(write_gcode(path, KESTREL, FILAMENT))  # type: ignore[arg-type]
    told = document("proof", str(own), "--printer", "kestrel")
    assert told["schema"] == "tenugui/printed@1" and told["layers"] == 20 and told["findings"] == []


def test_the_supports_of_a_plan_are_those_of_its_files(tmp_path: Path) -> None:
    """A fork is best held in trees, which take less resin than pillars."""
    path = tmp_path / "fork.stl"
    path.write_bytes(stl_bytes(fork()))
    coarse = tmp_path / "coarse.json"
    coarse.write_text(HERON.model_copy(update={"pixels": (1920, 1080)}).model_dump_json())
    d = document("plan", str(path), "--printer", str(coarse), "--up", "z", "--out", str(tmp_path / "out"))
    with open(tmp_path / "out" / "fork.stl", "rb") as handle:
        # In fine layers: the two lie differently, and a coarse one rounds each in its own way.
        whole, bare = (prove(m, 0.02, 0.2).stack.volume() for m in (load(handle), fork().dropped()))
    assert d["supports"]["volume_ml"] * 1000 == pytest.approx(whole - bare, rel=0.04)


@pytest.mark.parametrize(
    "words",
    [
        ("health", "nowhere.stl"),
        ("proof", "GATE", "--printer", "nobody"),
        ("proof", "GATE", "--printer", "heron", "--layer-height", "9"),
        ("layers", "GATE", "--printer", "heron", "--heights", "a,b"),
    ],
)
def test_bad_input_is_one_line_and_exit_2(gate: str, words: tuple[str, ...]) -> None:
    done = call(*(gate if w == "GATE" else w for w in words), "--json")
    assert done.code == 2 and done.stdout == "" and done.stderr.count("\n") == 1 and "Traceback" not in done.stderr


def test_no_command_writes_over_the_file_that_it_reads(gate: str) -> None:
    """Its folder is where people would have a plan written to."""
    before, folder = Path(gate).read_bytes(), str(Path(gate).parent)
    for words in (
        ("supports", gate, "--printer", "kestrel", "--out", gate),
        ("hollow", gate, "--wall", "2", "--out", folder + "/./gate.stl"),
        ("health", gate, "--repair", gate),
    ):
        done = call(*words)
        assert done.code == 2 and "would be written over" in done.stderr and done.stderr.count("\n") == 1
    d = document("plan", gate, "--printer", "kestrel", "--out", folder)
    assert {"gate-plan.stl", "gate-plan.3mf"} <= set(d["files"]) and (Path(folder) / "gate-plan.stl").exists()
    assert Path(gate).read_bytes() == before


def test_marks_in_a_3mf_are_heard_and_handed_on(tmp_path: Path) -> None:
    stone = knobbly(9, 4)
    labels = np.where(stone.corners().mean(axis=1)[:, 2] < 6, 4, 0).astype(np.uint8)  # keep out below
    path, plain, out = tmp_path / "marked.3mf", tmp_path / "plain.stl", tmp_path / "held.3mf"
    with open(path, "wb") as handle:
        write_3mf({"figure": stone}, handle, {"figure": labels})
    plain.write_bytes(stl_bytes(stone))
    marked, bare = (document("pose", str(p), "--printer", "heron") for p in (path, plain))
    there = bare["candidates"][bare["recommended"]]["metrics"]
    assert marked["candidates"][marked["recommended"]]["down"][2] > -0.3, "what is kept out does not look at the plate"
    softly = there["scar_area_mm2"] / there["support_area_mm2"]
    assert 0.2**0.5 <= softly <= 5**0.5, "without marks the figure itself is heard, softly"
    d = document("supports", str(path), "--printer", "kestrel", "--layer-height", "0.2", "--out", str(out))
    assert d["islands_after"] == 0
    with open(out, "rb") as handle:
        back = read(handle)
    assert (back.marks["figure"] == labels).all()


def test_a_marked_hold_shows_in_the_tips(tmp_path: Path) -> None:
    path, marks = tmp_path / "ball.stl", tmp_path / "marks.json"
    stone = ball(9, fineness=4)
    path.write_bytes(stl_bytes(stone))
    middles = stone.corners().mean(axis=1)
    wanted = np.flatnonzero((middles[:, 2] < -2) & (middles[:, 2] > -4) & (middles[:, 0] > 0)).tolist()
    marks.write_text(json.dumps({"faces": {"hold": wanted}}))
    d = document("supports", str(path), "--printer", "heron", "--layer-height", "0.1", "--marks", str(marks))
    assert {t["reason"] for t in d["tips"]} >= {"hold", "island"}
    assert min(t["z_mm"] for t in d["tips"] if t["reason"] == "hold") > 5


def test_a_figure_is_stood_up_as_it_looks_or_as_it_is_told(tmp_path: Path) -> None:
    file = tmp_path / "hound.stl"
    file.write_bytes(stl_bytes(y_up(hound())))
    assert document("health", str(file))["up_guess"] == [0, 1, 0]
    auto = document("pose", str(file), "--printer", "kestrel")
    best = auto["candidates"][auto["recommended"]]
    assert best["down"][1] < -0.9
    assert set(best["metrics"]["worth"]) >= {"hands_min", "machine_h", "material", "risk", "total"}
    told = document("pose", str(file), "--printer", "kestrel", "--up", "z")
    assert any(c["down"] == [0, 0, -1] for c in told["candidates"]), "what is said to be upright is offered"
    made = document("plan", str(file), "--printer", "kestrel", "--height", "12", "--out", str(tmp_path / "plan"))
    assert made["up"] == [0, 1, 0]
    assert made["proof"]["model"]["size_mm"][1] == pytest.approx(12, rel=1e-3), "12 mm along its own up"
    refused = call("pose", str(file), "--printer", "kestrel", "--up", "sideways")
    assert refused.code == 2 and "no direction" in refused.stderr


def test_a_staff_stands_on_a_plinth_that_is_printed_with_it(tmp_path: Path) -> None:
    file = tmp_path / "staff.stl"
    file.write_bytes(stl_bytes(staff()))
    made = document("plan", str(file), "--printer", "kestrel", "--out", str(tmp_path / "plan"))
    best = made["pose"]["candidates"][made["pose"]["recommended"]]
    assert best["down"] == [0, 0, -1] and best["metrics"]["plinth_mm"] > 10
    package = (tmp_path / "plan" / "staff.3mf").read_bytes()
    parts = read_3mf(io.BytesIO(package), len(package))
    side = best["metrics"]["plinth_mm"]
    assert parts["plinth"].size == pytest.approx([side, side, 1.2], abs=1e-3)
    assert parts["figure"].lower[2] == pytest.approx(1.0, abs=1e-3), "its foot reaches into it"
    hazards = made["proof"]["hazards"]
    (sways,) = [h for h in hazards if h["code"] == "sway"]
    assert sways["chance"] > 0.5 and sways["z_mm"] > 60, "so thin and tall the nozzle sways it, plinth or not"
    others = 1 - math.prod(1 - h["chance"] for h in hazards if h["loss"] != "scar" and h["code"] != "sway")
    assert others < 0.2 and not made["proof"]["islands"], "it does not fall"
