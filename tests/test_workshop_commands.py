"""The workshop's headless commands keep their contract: documents with every field, and one line for bad input."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from tenugui.cli import main
from tests.command import document

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


@pytest.mark.parametrize(
    ("command", "text", "says"),
    [
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
