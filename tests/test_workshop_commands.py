"""The workshop's headless commands keep their contract: documents with every field, and one line for bad input."""

from __future__ import annotations

import itertools
import json
from pathlib import Path
from typing import Any

import pytest
import shapely

from tenugui.cli import main
from tests.command import document
from tests.shapes import ball, stl_bytes

SPEC = {"factors": {"gap": [1, 2, 3]}, "responses": {"fused": "yesno", "off": "time"}, "repeats": 3, "rate_per_h": None}
RUN = {
    "machine": "kestrel",
    "material": "marsh matte",
    "planned_s": 3600,
    "planned_risk": 0.1,
    "real_s": 4000,
    "result": "good",
    "failed_layer": None,
    "cause": None,
    "plan": None,
}
PLAN = {
    "proof": {
        "hazards": [
            {"code": "island", "chance": 0.2, "loss": "part lost"},
            {"code": "sealed", "chance": 0.5, "loss": "scar"},
        ]
    }
}


def written(folder: Path, name: str, what: Any) -> str:
    path = folder / name
    path.write_text(what if isinstance(what, str) else json.dumps(what))
    return str(path)


def test_a_series_is_planned_and_read(tmp_path: Path) -> None:
    spec = written(tmp_path, "spec.json", SPEC)
    plan = document("series", spec)
    assert plan["schema"] == "tenugui/series@1"
    assert set(plan) >= {"cells", "missing", "aliased", "effects", "best", "knee", "next", "few"}
    assert plan["cells"] == [{"factors": {"gap": k}, "runs": 3} for k in (1, 2, 3)] and plan["effects"] == []
    table = "gap,fused,off\n1,yes,2.0\n1,yes,2.2\n2,no,0.5\n2,no,0.6\n3,no,0.4\n3,no,0.5\n"
    read = document("series", spec, "--results", written(tmp_path, "r.csv", table))
    assert {(e["response"], e["level"]) for e in read["effects"]} == {
        (r, k) for r in ("fused", "off") for k in (1, 2, 3)
    }
    assert all(set(e) == {"response", "factor", "level", "estimate", "low", "high"} for e in read["effects"])
    assert all(e["low"] <= e["estimate"] <= e["high"] for e in read["effects"])
    assert read["knee"] is None and not read["few"] and set(read["next"]) == {"factors", "why"}


def test_a_log_is_learned_from(tmp_path: Path) -> None:
    written(tmp_path, "plan.json", PLAN)
    runs = [RUN, RUN | {"plan": "plan.json", "result": "part lost", "cause": "island"}, RUN | {"plan": PLAN}]
    told = document("learn", written(tmp_path, "runs.json", runs))
    assert told["schema"] == "tenugui/learn@1" and set(told) >= {"hours", "causes", "calibration"}
    assert told["hours"]["low"] < told["hours"]["ratio"] < told["hours"]["high"] and told["hours"]["timed"] == 3
    causes = {c["cause"]: c for c in told["causes"]}
    assert "sealed" not in causes, "what only scars loses nothing"
    assert causes["island"]["seen"] == 1 and causes["island"]["runs"] == 2
    assert set(told["calibration"]) >= {"brier", "bins", "hours_coverage"}
    assert told["machines"][0]["machine"] == "kestrel" and told["few"]


WEEK = {
    "from": "2026-11-30T08:00",
    "to": "2026-12-02T20:00",
    "machines": [{"name": "heron", "free": [["2026-11-30T08:00", "2026-12-02T20:00"]], "setup": {"material": 20}}],
    "stations": [{"name": "wash", "kind": "wash", "capacity": 1}],
    "people": [{"name": "Aki", "hours": [[f"{d}T09:00", f"{d}T19:00"] for d in ("2026-11-30", "2026-12-01")]}],
    "quiet": [],
    "jobs": [
        {
            "name": "warden",
            "machines": ["heron"],
            "hours": 5,
            "spread": 0.06,
            "risk": 0.05,
            "after": [{"step": "washing", "station": "wash", "minutes": 12, "hands": True}],
            "due": "2026-12-01T12:00",
            "first_look_min": 20,
        }
    ],
}


def test_a_week_is_planned(tmp_path: Path) -> None:
    told = document("week", written(tmp_path, "week.json", WEEK))
    assert told["schema"] == "tenugui/week@1" and set(told) >= {"runs", "dates", "unplaced", "optimal"}
    (run,) = told["runs"]
    assert (run["job"], run["machine"], run["start"], run["end"]) == (
        "warden", "heron", "2026-11-30T09:05", "2026-11-30T14:05",
    )  # fmt: skip
    assert [a["what"] for a in run["attend"]] == ["start", "first look", "lift off", "washing"]
    assert all(set(a) >= {"what", "at", "by"} and a["by"] == "Aki" for a in run["attend"])
    assert "2026-11-30T14:05" < run["end_95"] < "2026-11-30T15:00" and told["optimal"]
    assert told["dates"] == [{"job": "warden", "due": "2026-12-01T12:00", "chance": told["dates"][0]["chance"]}]
    assert told["dates"][0]["chance"] > 0.9


@pytest.fixture(scope="module")
def planned(tmp_path_factory: pytest.TempPathFactory) -> str:
    """A plan of a small ball, as `plan` writes it."""
    folder = tmp_path_factory.mktemp("planned")
    (folder / "ball.stl").write_bytes(stl_bytes(ball(4)))
    document("plan", str(folder / "ball.stl"), "--printer", "heron", "--height", "8", "--out", str(folder / "out"))
    return str(folder / "out" / "plan.json")


def test_plans_are_laid_on_plates(planned: str, tmp_path: Path) -> None:
    told = document("plate", planned, "--printer", "heron", "--copies", "5", "--out", str(tmp_path))
    assert told["schema"] == "tenugui/plate@1" and set(told) >= {"plates", "unplaced", "hours_per_good_piece", "batch"}
    (plate,) = told["plates"]
    assert set(plate) >= {"items", "time_s", "material_ml", "peak_pull_n", "risk", "enough"}
    assert [(i["plan"], i["copy"]) for i in plate["items"]] == [(planned, k + 1) for k in range(5)]
    plan = json.loads(Path(planned).read_text())
    assert plate["time_s"] == pytest.approx(plan["proof"]["time_s"]), "a plate takes as long as its tallest"
    assert plate["material_ml"] == pytest.approx(5 * plan["proof"]["material"]["volume_ml"])
    assert plate["peak_pull_n"] == pytest.approx(5 * max(plan["on_plate"]["pull_n"]))
    assert plate["risk"] > plan["proof"]["risk"] and plate["enough"] == {"vat": True, "stock": True}
    shapes = [shapely.Polygon(i["footprint"]) for i in plate["items"]]
    assert all(a.distance(b) >= 2.0 - 1e-3 for a, b in itertools.combinations(shapes, 2))
    assert all(
        s.bounds[0] >= 0 and s.bounds[2] <= 207.36 and s.bounds[1] >= 0 and s.bounds[3] <= 116.64 for s in shapes
    )
    poor = document("plate", planned, "--printer", "heron", "--copies", "5", "--vat", "1", "--stock", "0.5")
    assert poor["plates"][0]["enough"] == {"vat": False, "stock": False}
    assert json.loads((tmp_path / "plates.json").read_text()) == told


def test_a_plan_is_finished_by_a_time(planned: str) -> None:
    told = document("finish", planned, "--by", "2026-12-05T18:00", "--school", "after", "--failed", "thin:50")
    assert told["schema"] == "tenugui/finish@1" and set(told) >= {"steps", "ready", "mend_or_print"}
    assert told["ready"] == "2026-12-05T18:00" and told["school"] == "after"
    names = {"name", "start", "minutes", "hands", "amount", "with", "caution"}
    assert all(set(step) >= names for step in told["steps"])
    assert set(told["mend_or_print"]) >= {"mend", "print", "recommended"}
    assert document("finish", planned)["mend_or_print"] is None


def test_what_cannot_be_laid_or_finished_is_said(
    planned: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    old = written(tmp_path, "old.json", {"proof": {}})
    for words, says in (
        (("plate", planned, "--printer", "heron", "--copies", "0"), "From 1 copy"),
        (("plate", planned, "--printer", "heron", "--copies", "10000"), "From 1 copy"),
        (("plate", planned, "--printer", "heron", "--copies", "1,2"), "2 counts for 1 plans"),
        (("plate", planned, "--printer", "kestrel"), "works another way"),
        (("plate", old, "--printer", "heron"), "layer_height_mm"),
        (("plate", planned, "--printer", "heron", "--gap", "-1"), "gap"),
        (("finish", planned, "--by", "tomorrow"), "no time"),
        (("finish", planned, "--failed", "song:3"), "names no cause"),
        (("finish", planned, "--failed", "thin:99999"), "Layer 99,999"),
        (("finish", old), "off_plate"),
        (("plate", "nowhere.json", "--printer", "heron"), "nowhere.json"),
    ):
        assert main([*words, "--json"]) == 2, words
        told = capsys.readouterr()
        assert told.out == "" and told.err.count("\n") == 1 and says in told.err, (words, told.err)


@pytest.mark.parametrize(
    ("command", "text", "says"),
    [
        ("week", "{", "The week cannot be read"),
        ("week", json.dumps(WEEK | {"to": "2026-11-29T08:00"}), "ends before it begins"),
        ("series", "{", "The series cannot be read"),
        ("series", json.dumps(SPEC | {"repeats": -1}), "repeats"),
        ("learn", "[1]", "Run 1"),
        ("learn", json.dumps([RUN | {"planned_s": 0}]), "Run 1, planned_s"),
        ("learn", json.dumps([RUN | {"result": "fine"}]), "Run 1, result"),
        ("learn", json.dumps([RUN | {"plan": "nowhere.json"}]), "its plan cannot be read"),
        ("learn", json.dumps([RUN | {"plan": {"proof": {}}}]), "its plan tells no hazards"),
        ("learn", "{}", "is no list"),
    ],
)
def test_bad_input_is_one_line_and_ends_with_2(
    command: str, text: str, says: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main([command, written(tmp_path, "bad.json", text), "--json"]) == 2
    told = capsys.readouterr()
    assert told.out == "" and told.err.count("\n") == 1 and says in told.err
