"""The headless contract to the letter: every field it names is there, of the kind it says, finite, and in its unit."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tenugui import cli
from tenugui.core.formats import read
from tenugui.core.layers.stack import RELIEF_LAYERS
from tenugui.core.mesh import Mesh, decimate
from tenugui.core.vat import read_archive
from tests.figures import portrait
from tests.shapes import ball, cup, fork, hollow_ball, knobbly, stl_bytes

Row = dict[str, Any]


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    folder = tmp_path_factory.mktemp("contract")
    made = {
        "gate": fork(),
        "stone": knobbly(9, 4),
        "shell": hollow_ball(fineness=4),
        "cup": cup(),
        "ball": ball(6, fineness=4),
    }
    for name, mesh in made.items():
        (folder / f"{name}.stl").write_bytes(stl_bytes(mesh))
    return {name: str(folder / f"{name}.stl") for name in made}


def told(capsys: pytest.CaptureFixture[str], *words: str) -> Row:
    """One command in this process; one line of JSON on stdout."""
    capsys.readouterr()
    assert cli.main([*words, "--json"]) == 0
    out = capsys.readouterr().out
    assert out.count("\n") == 1
    return dict(json.loads(out))


def check(row: Row, kinds: dict[str, type | tuple[type, ...]]) -> None:
    missing = set(kinds) - set(row)
    assert not missing, f"missing: {missing}"
    for name, kind in kinds.items():
        assert isinstance(row[name], kind), (name, row[name])


def finite(value: Any, where: str = "") -> None:
    """No NaN, no infinity anywhere in a document."""
    if isinstance(value, dict):
        for key, inner in value.items():
            finite(inner, f"{where}.{key}")
    elif isinstance(value, list):
        for index, inner in enumerate(value):
            finite(inner, f"{where}[{index}]")
    elif isinstance(value, float):
        assert math.isfinite(value), where


NUMBER = (int, float)


def test_health(capsys: pytest.CaptureFixture[str], files: dict[str, str]) -> None:
    d = told(capsys, "health", files["stone"])
    check(
        d,
        {
            "triangles": int,
            "vertices": int,
            "watertight": bool,
            "shells": int,
            "size_mm": list,
            "volume_mm3": NUMBER,
            "area_mm2": NUMBER,
            "unit_guess": str,
            "findings": list,
            "repaired": type(None),
        },
    )
    finite(d)
    assert d["schema"] == "tenugui/health@1" and len(d["size_mm"]) == 3 and d["unit_guess"] in ("mm", "cm", "m", "in")


@pytest.mark.parametrize(("unit", "factor"), [("cm", 10.0), ("m", 1000.0), ("in", 25.4)])
def test_units_scale_every_length(
    capsys: pytest.CaptureFixture[str], files: dict[str, str], unit: str, factor: float
) -> None:
    plain, scaled = told(capsys, "health", files["ball"]), told(capsys, "health", files["ball"], "--unit", unit)
    assert scaled["size_mm"] == pytest.approx([factor * v for v in plain["size_mm"]])
    assert scaled["area_mm2"] == pytest.approx(factor**2 * plain["area_mm2"]) and scaled["volume_mm3"] == pytest.approx(
        factor**3 * plain["volume_mm3"]
    )


def test_health_with_repair(capsys: pytest.CaptureFixture[str], files: dict[str, str], tmp_path: Path) -> None:
    whole = Path(files["stone"]).read_bytes()
    holed = tmp_path / "holed.stl"
    count = int.from_bytes(whole[80:84], "little") - 6
    holed.write_bytes(whole[:80] + count.to_bytes(4, "little") + whole[84 : 84 + 50 * count])
    for ending in ("stl", "obj", "ply", "3mf"):
        out = tmp_path / f"mended.{ending}"
        d = told(capsys, "health", str(holed), "--repair", str(out))
        assert not d["watertight"] and d["repaired"]["watertight"] and d["repaired"]["steps"]
        finite(d)
        with open(out, "rb") as handle:
            assert len(read(handle).whole.faces) == d["repaired"]["triangles"]
    assert cli.main(["health", str(holed), "--repair", str(tmp_path / "mended.doc")]) == 2
    assert "does not end in" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("name", "printer"), [("gate", "heron"), ("gate", "kestrel"), ("shell", "heron"), ("cup", "heron")]
)
def test_proof(capsys: pytest.CaptureFixture[str], files: dict[str, str], name: str, printer: str) -> None:
    d = told(capsys, "proof", files[name], "--printer", printer, "--layer-height", "0.1")
    check(
        d,
        {
            "model": dict,
            "layers": dict,
            "islands": list,
            "sealed": list,
            "trapped": list,
            "overhang_area_mm2": NUMBER,
            "time_s": NUMBER,
            "material": dict,
            "hazards": list,
        },
    )
    finite(d)
    check(d["layers"], {"height_mm": NUMBER, "count": int})
    check(d["material"], {"volume_ml": NUMBER, "mass_g": NUMBER, "cost": NUMBER})
    for row in d["islands"]:
        check(
            row,
            {
                "layer": int,
                "z_mm": NUMBER,
                "x_mm": NUMBER,
                "y_mm": NUMBER,
                "area_mm2": NUMBER,
                "merge_layer": (int, type(None)),
            },
        )
        assert row["z_mm"] == pytest.approx(row["layer"] * 0.1, abs=0.1)
    for row in d["sealed"]:
        check(row, {"first_layer": int, "last_layer": int, "peak_area_mm2": NUMBER, "volume_mm3": NUMBER})
    for row in d["trapped"]:
        check(row, {"volume_mm3": NUMBER, "z_mm": list})
        assert row["z_mm"][0] < row["z_mm"][1]
    for row in d["hazards"]:
        check(
            row,
            {
                "code": str,
                "severity": str,
                "layer": int,
                "x_mm": NUMBER,
                "y_mm": NUMBER,
                "z_mm": NUMBER,
                "message": str,
            },
        )
    assert d["schema"] == "tenugui/proof@1"
    assert bool(d["trapped"]) == (name == "shell") and bool(d["islands"]) == (name == "gate")
    if name == "cup":
        assert d["sealed"][0]["volume_mm3"] == pytest.approx(np.pi * 160, rel=0.02)


@pytest.mark.parametrize("printer", ["heron", "kestrel"])
@pytest.mark.parametrize("count", [1, 4, 7])
def test_pose(capsys: pytest.CaptureFixture[str], files: dict[str, str], printer: str, count: int) -> None:
    d = told(capsys, "pose", files["stone"], "--printer", printer, "--count", str(count))
    check(d, {"evaluated": int, "candidates": list, "recommended": int})
    finite(d)
    assert (
        d["schema"] == "tenugui/pose@1"
        and d["evaluated"] > 1000
        and len(d["candidates"]) == count
        and 0 <= d["recommended"] < count
    )
    for row in d["candidates"]:
        check(row, {"down": list, "quaternion": list, "metrics": dict, "why": str})
        numbers = (
            "support_area_mm2",
            "scar_area_mm2",
            "support_volume_mm3",
            "height_mm",
            "minima",
            "peak_section_mm2",
            "step_cost",
        )
        check(row["metrics"], {**dict.fromkeys(numbers, NUMBER), "stable": bool})
        w, x, y, z = row["quaternion"]
        down = np.array(row["down"])
        # Turning by the quaternion brings `down` to the plate.
        u = np.array([x, y, z])
        assert down + 2 * np.cross(u, np.cross(u, down) + w * down) == pytest.approx([0, 0, -1], abs=1e-6)


@pytest.mark.parametrize("style", ["pillars", "trees", "blocks"])
def test_supports(capsys: pytest.CaptureFixture[str], files: dict[str, str], tmp_path: Path, style: str) -> None:
    for ending in ("stl", "3mf"):
        out = tmp_path / f"held.{ending}"
        d = told(
            capsys,
            "supports",
            files["gate"],
            "--printer",
            "heron",
            "--layer-height",
            "0.1",
            "--style",
            style,
            "--out",
            str(out),
        )
        check(d, {"tips": list, "volume_ml": NUMBER, "islands_before": int, "islands_after": int, "findings": list})
        check(d, {"removal_min": NUMBER, "risk": NUMBER, "regions": list})
        assert len(d["regions"]) >= 3
        for row in d["regions"]:
            check(row, {"area_mm2": NUMBER, "z_mm": NUMBER, "held": str})
            assert row["held"] in ("left", "area", "branch", "pin") and row["area_mm2"] > 0
        finite(d)
        with open(out, "rb") as handle:
            held = read(handle)
        assert held.whole.lower[2] >= -1e-5 and (ending == "stl" or set(held.parts) == {"figure", "supports"})
    # Raised onto supports, the post starts in mid air as the tines do.
    assert (
        d["schema"] == "tenugui/supports@1"
        and d["islands_before"] == 3
        and d["islands_after"] == 0
        and d["volume_ml"] > 0
    )
    for row in d["tips"]:
        check(row, {"x_mm": NUMBER, "y_mm": NUMBER, "z_mm": NUMBER, "diameter_mm": NUMBER, "reason": str, "on": str})
        check(row, {"load_n": NUMBER, "capacity_n": NUMBER, "needed": bool, "reach": NUMBER})
        assert 0 <= row["reach"] <= 1 and 0 <= row["load_n"] <= row["capacity_n"] * 1.01
        assert row["on"] in ("plate", "model") and 0.1 < row["diameter_mm"] < 1


def test_judge(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    """Up, front, the face and a value for every triangle of the file, in the file's frame."""
    figure = tmp_path / "portrait.stl"
    mesh = decimate(portrait(), 24_000)
    turned = Mesh(mesh.vertices[:, [0, 2, 1]] * [1, 1, -1], mesh.faces)  # y up, as sculptors save
    figure.write_bytes(stl_bytes(turned))
    d = told(capsys, "judge", str(figure), "--printer", "heron", "--height", "94.5", "--out", str(tmp_path / "out"))
    check(d, {"schema": str, "up": list, "front": list, "faces": list, "importance": str})
    finite(d)
    assert d["schema"] == "tenugui/judge@1"
    assert np.dot(d["up"], (0, 1, 0)) > 0.99 and np.dot(d["front"], (0, 0, 1)) > 0.97
    (face,) = d["faces"]
    check(face, {"x_mm": NUMBER, "y_mm": NUMBER, "z_mm": NUMBER, "radius_mm": NUMBER, "sure": NUMBER})
    times = 94.5 / float(np.ptp(turned.vertices[:, 1]))
    assert np.linalg.norm(np.array([face["x_mm"], face["y_mm"], face["z_mm"]]) / times - (0, 21.2, 12.6)) < 5
    importance = np.load(d["importance"])
    assert importance.shape == (len(turned.faces),) and importance.min() >= 0 and importance.max() <= 1
    nose = np.linalg.norm(turned.middles() - (0, 20, 14), axis=1) < 4
    assert importance[nose].mean() > 0.7 and importance[turned.middles()[:, 2] < -8].max() < 0.9


def test_a_bolder_risk_takes_no_more_tips(capsys: pytest.CaptureFixture[str], files: dict[str, str]) -> None:
    careful, bold = (
        told(capsys, "supports", files["ball"], "--printer", "heron", "--layer-height", "0.1", "--risk", r)
        for r in ("0.01", "0.3")
    )
    assert len(bold["tips"]) <= len(careful["tips"]) and bold["volume_ml"] <= careful["volume_ml"]
    assert {t["diameter_mm"] for t in bold["tips"]} <= {t["diameter_mm"] for t in careful["tips"]}, (
        "more hold, none is thicker"
    )


@pytest.mark.parametrize(("printer", "heights"), [("heron", "0.05,0.1"), ("kestrel", "0.12,0.2")])
def test_layers(capsys: pytest.CaptureFixture[str], files: dict[str, str], printer: str, heights: str) -> None:
    d = told(capsys, "layers", files["stone"], "--printer", printer, "--heights", heights)
    finite(d)
    assert (
        d["schema"] == "tenugui/layers@1"
        and d["why"]
        and [c["layer_height_mm"] for c in d["choices"]] == [float(h) for h in heights.split(",")]
    )
    for row in d["choices"]:
        check(
            row,
            {
                "layer_height_mm": NUMBER,
                "layers": int,
                "time_s": NUMBER,
                "material_g": NUMBER,
                "cost": NUMBER,
                "cusp_mm": dict,
                "step_kind": str,
                "risk": NUMBER,
                "blemishes": NUMBER,
            },
        )
        check(row["cusp_mm"], {"median": NUMBER, "p95": NUMBER, "max": NUMBER})
        assert row["cusp_mm"]["median"] <= row["cusp_mm"]["p95"] <= row["cusp_mm"]["max"] <= row["layer_height_mm"]
        assert row["step_kind"] in ("full", "half", "micro", "none") and (row["step_kind"] == "none") == (
            printer == "heron"
        )
    fine, coarse = d["choices"]
    assert fine["time_s"] > coarse["time_s"] and fine["layers"] > coarse["layers"]


def test_plan(capsys: pytest.CaptureFixture[str], files: dict[str, str], tmp_path: Path) -> None:
    d = told(capsys, "plan", files["stone"], "--printer", "heron", "--height", "8", "--out", str(tmp_path / "out"))
    finite(d)
    assert d["schema"] == "tenugui/plan@1" and set(d["files"]) == {p.name for p in (tmp_path / "out").iterdir()}
    for part, schema in (("pose", "pose"), ("supports", "supports"), ("layers", "layers"), ("proof", "proof")):
        assert d[part]["schema"] == f"tenugui/{schema}@1"
    # What is left is relief that joins within a few layers, by the accepted risk.
    assert all(row["merge_layer"] - row["layer"] <= RELIEF_LAYERS for row in d["proof"]["islands"])
    assert d["layer_height_mm"] == d["proof"]["layers"]["height_mm"]
    assert json.loads((tmp_path / "out" / "plan.json").read_text())["proof"]["time_s"] == d["proof"]["time_s"]
    assert (tmp_path / "out" / "stone-run-sheet.pdf").read_bytes().startswith(b"%PDF")
    with open(tmp_path / "out" / "stone-layers.zip", "rb") as held:
        back = read_archive(held)
    assert back.differs == 0 and back.manifest.layers == d["proof"]["layers"]["count"]
    assert back.manifest.time_s == pytest.approx(d["proof"]["time_s"])


BAD = (
    (["pose", "{stone}", "--printer", "heron", "--count", "0"], "out of range"),
    (["pose", "{stone}", "--printer", "egret"], "egret"),
    (["layers", "{stone}", "--printer", "heron", "--heights", "thin"], "not a list of numbers"),
    (["layers", "{stone}", "--printer", "heron", "--heights", "9"], "out of range"),
    (["proof", "{stone}", "--printer", "heron", "--layer-height", "0"], "out of range"),
    (["proof", "{stone}", "--printer", "heron", "--material", "marsh matte"], "is for filament"),
    (["plan", "{stone}", "--printer", "heron", "--height", "-5"], "out of range"),
    (["health", "nowhere.stl"], "there is no file"),
    (["health", "."], "cannot be read"),
)


@pytest.mark.parametrize(("words", "says"), BAD, ids=[w[0] + " " + w[-1][:12] for w, _ in BAD])
def test_bad_words_are_one_line_and_exit_2(
    capsys: pytest.CaptureFixture[str], files: dict[str, str], words: list[str], says: str
) -> None:
    capsys.readouterr()
    assert cli.main([w.format(**files) for w in words]) == 2
    out = capsys.readouterr()
    assert out.out == "" and says in out.err and out.err.strip().count("\n") == 0 and out.err.startswith("tenugui: ")


def test_machines_come_from_json_files_too(
    capsys: pytest.CaptureFixture[str], files: dict[str, str], tmp_path: Path
) -> None:
    printer, material = tmp_path / "egret.json", tmp_path / "moss.json"
    printer.write_text(
        json.dumps(
            {"process": "resin", "name": "egret", "build_mm": [120, 68, 150], "pixels": [3840, 2160], "start_s": 600.0}
        )
    )
    material.write_text(json.dumps({"process": "resin", "name": "moss", "density_g_ml": 2.0, "cost": 10.0}))
    usual = told(capsys, "proof", files["ball"], "--printer", "heron", "--layer-height", "0.1")
    own = told(
        capsys, "proof", files["ball"], "--printer", str(printer), "--material", str(material), "--layer-height", "0.1"
    )
    assert own["time_s"] > usual["time_s"] and own["material"]["mass_g"] == pytest.approx(
        2.0 * own["material"]["volume_ml"]
    )
    broken = tmp_path / "broken.json"
    broken.write_text("{")
    assert cli.main(["proof", files["ball"], "--printer", str(broken)]) == 2
    assert "is not JSON" in capsys.readouterr().err
