"""Plans shared as files: settings and supports travel in 3MF and come back without loss; the supports alone are a
stand.
"""

from __future__ import annotations

import dataclasses
import io
import math
from dataclasses import asdict
from pathlib import Path
from typing import Any

import lib3mf
import numpy as np
import pytest

from tenugui.core.contract import (
    HeldDoc,
    PoseChoice,
    SettingsDoc,
    SupportsBoard,
    SupportsDoc,
    braces_from,
    check_came,
    tips_from,
)
from tenugui.core.formats import FormatError, Limits, load, read, read_3mf, write_3mf
from tenugui.core.mesh import Mesh, Nearest, face_grid, measure
from tenugui.core.mesh.near import winding_numbers
from tenugui.core.plan import PlanError, beams_3mf, computed, held_of, proof, stand_of
from tenugui.core.plan.came import came_with
from tenugui.core.plan.given import HeldGiven, PoseGiven, SupportsGiven
from tenugui.core.plan.inputs import HeldInputs, PosedInputs
from tenugui.core.plan.parts import parts_of
from tenugui.core.plan.proof import STAND_GAP_MM, as_package, checked_package, settings_of
from tenugui.core.plan.supports import held_as_taken
from tenugui.core.supports import support_mesh
from tenugui.reader import read_file
from tests.core.test_hollow_fold import chain_of, inputs
from tests.shapes import ball, box


def plan_of(mesh: Mesh) -> tuple[HeldInputs, HeldDoc]:
    shelf, base, choices = chain_of(mesh)
    given = inputs("supports", base, choices).to(HeldGiven, height=0.05, risk=0.05, style="trees")
    return HeldInputs(shelf, given), held_as_taken(shelf, given)


def test_a_plan_written_to_3mf_comes_back_with_its_settings_and_every_support() -> None:
    held, made = plan_of(ball(9, fineness=4).dropped())
    parts = parts_of(held, made)
    data = as_package(parts, None, settings_of(held, made))
    told: list[str] = []
    back = read_3mf(io.BytesIO(data), len(data), settings=told)
    assert set(back) == {"figure", "supports"} and len(back["supports"].faces) == len(parts["supports"].faces)
    again = SettingsDoc.loaded(told[0].encode())
    assert again.supports == SupportsDoc.loaded(made.supports.dumped()) and again.style == "trees"
    assert (again.printer, again.risk, again.layer_height_mm) == (held.printer.name, 0.05, 0.05)
    rebuilt = support_mesh(
        tips_from(again.supports.tips),
        again.supports.raft,
        braces_from(again.supports.braces),
        margin=again.supports.raft_margin_mm,
    )
    assert rebuilt is not None and np.array_equal(rebuilt.vertices, parts["supports"].vertices)


def test_such_a_file_brings_the_figure_alone_and_other_files_bring_what_they_hold() -> None:
    held, made = plan_of(ball(9, fineness=4).dropped())
    parts = parts_of(held, made)
    data = as_package(parts, None, settings_of(held, made))
    assert len(load(io.BytesIO(data)).faces) == len(held.placed.figure.faces)
    other = io.BytesIO()
    write_3mf(parts, other)
    assert len(load(other).faces) == sum(len(p.faces) for p in parts.values()), (
        "nobody's settings: a file like any other"
    )


def test_the_supports_alone_are_a_closed_stand_that_stops_short_of_the_figure() -> None:
    held, made = plan_of(ball(9, fineness=5).dropped())
    stand = stand_of(made)
    assert stand is not None and measure(stand).watertight
    figure = held.placed.figure
    assert (winding_numbers(stand.vertices, face_grid(figure)) == 0).all()
    gap = Nearest(figure).of(stand.vertices)[1].min()
    assert 0.9 * STAND_GAP_MM < gap < STAND_GAP_MM + 0.2
    held, made = plan_of(box((0, 0, 5), (10, 10, 10)))
    assert made.row.tip_count > 0 or stand_of(made) is None


def test_supports_of_a_plans_file_are_taken_as_they_came_where_the_figure_stands_as_it_did() -> None:
    held, made = plan_of(ball(9, fineness=4).dropped())
    data = as_package(parts_of(held, made), None, settings_of(held, made))
    figure = load(io.BytesIO(data))
    shelf, base, choices = chain_of(figure)
    base = dataclasses.replace(base, came=shelf.put(settings_of(held, made).dumped()))

    def of(down: list[float], factor: float = 1.0) -> PosedInputs:
        size = choices["size"].model_copy(update={"factor": factor})
        x, y, z = down
        given = inputs("supports", base, choices | {"pose": PoseChoice(down=(x, y, z)), "size": size})
        return PosedInputs(shelf, given.to(SupportsGiven))

    came = came_with(shelf, of([0.0, 0.0, -1.0]), base.came)
    assert came is not None and came.raft == made.supports.raft and came.risk == 0.05
    shift = np.array([came.tips[0].x, came.tips[0].y]) - [made.supports.tips[0].x_mm, made.supports.tips[0].y_mm]
    for a, b in zip(came.tips, made.supports.tips, strict=True):
        assert np.allclose(np.array(a.joints), np.array(b.joints) + [*shift, 0.0], atol=1e-4)
        assert (a.diameter, a.widths, a.reason) == (b.diameter_mm, tuple(b.widths_mm), b.reason)
    again = held_of(shelf, of([0.0, 0.0, -1.0]).posed, height=0.05, risk=0.05, style="came")
    assert again.row.tip_count == made.row.tip_count and again.row.islands_after == 0
    assert np.isclose(again.row.numbers.risk, made.row.numbers.risk, atol=0.02)
    assert came_with(shelf, of([0.0, 0.0, 1.0]), base.came) is None, "on its head it stands otherwise"
    assert came_with(shelf, of([0.0, 0.0, -1.0], 1.1), base.came) is None, "larger, it no longer fits"
    board = computed(shelf, "supports", of([0.0, 0.0, -1.0]).posed, SupportsBoard)
    assert [c.style for c in board.choices][-1] == "came"
    poses = inputs("pose", base, choices)
    assert isinstance(poses, PoseGiven) and (0.0, 0.0, -1.0) in poses.pinned, "the way it stood is offered"


def test_settings_that_cannot_be_read_are_refused_by_name(tmp_path: Path) -> None:
    held, made = plan_of(ball(9, fineness=4).dropped())
    good, bad = (tmp_path / n for n in ("good.3mf", "bad.3mf"))
    good.write_bytes(as_package(parts_of(held, made), None, settings_of(held, made)))
    other = io.BytesIO()
    write_3mf({"figure": held.placed.figure}, other, settings='{"schema": "tenugui/settings@1", "style": 3}')
    bad.write_bytes(other.getvalue())

    def read(path: Path) -> dict[str, Any]:
        return read_file({"path": str(path), "out": str(tmp_path), "limits": asdict(Limits()), "thin_to": None})

    assert "settings" in read(good)["parts"][0]["files"]
    assert SettingsDoc.loaded((tmp_path / "0-settings").read_bytes()).supports.tips == made.supports.tips
    with pytest.raises(FormatError) as refused:
        read(bad)
    assert refused.value.code == "bad-settings"
    (tip, *_) = made.supports.tips
    wrongs: tuple[dict[str, object], ...] = (
        {"widths_mm": []},
        {"joints": [tip.joints[0], tip.joints[0]], "widths_mm": [1.0]},
        {"diameter_mm": 1e6},
        {"joints": [(0, 0, 0), (0, 0, 1e9)], "widths_mm": [1.0]},
    )
    for wrong in wrongs:
        with pytest.raises(ValueError, match="support"):
            check_came(made.supports.model_copy(update={"tips": [tip.model_copy(update=wrong)]}))
    with pytest.raises(ValueError, match="4,000"):
        check_came(made.supports.model_copy(update={"tips": [tip] * 4001}))


def test_supports_travel_as_beams_and_are_the_same_solid_where_they_are_read() -> None:
    held, made = plan_of(ball(9, fineness=4).dropped())
    data = beams_3mf(made)
    assert data is not None and len(data) < len(as_package(parts_of(held, made), None, settings_of(held, made))) / 4
    model = lib3mf.get_wrapper().CreateModel()
    model.QueryReader("3mf").ReadFromBuffer(data)
    items, beams = model.GetMeshObjects(), 0
    while items.MoveNext():
        beams += items.GetCurrentMeshObject().BeamLattice().GetBeamCount()
    tips = made.supports.tips
    assert beams == sum(len(t.joints) - 1 for t in tips) + len(made.supports.braces)
    back = read_3mf(io.BytesIO(data), len(data))
    assert set(back) == {"supports", "raft"} and measure(back["supports"]).watertight
    shafts = sum(
        math.pi * math.dist(a, b) * (r * r + r * s + s * s) / 12
        for t in tips
        for a, b, r, s in zip(t.joints, t.joints[1:], t.widths_mm, [*t.widths_mm[1:], t.diameter_mm], strict=False)
    )
    grips = sum(math.pi * t.diameter_mm**2 / 4 * 0.12 for t in tips)
    assert measure(back["supports"]).volume_mm3 == pytest.approx((shafts + grips) * polygon(10), rel=0.03)


def polygon(sides: int) -> float:
    """Area of a polygon over that of its circle."""
    return sides / (2 * math.pi) * math.sin(2 * math.pi / sides)


def test_settings_of_a_thousand_tips_come_back_from_the_file() -> None:
    """The library reads metadata up to 65,535 characters; the settings of plans of scans are longer."""
    held, made = plan_of(ball(9, fineness=4).dropped())
    tips = (made.supports.tips * (1000 // len(made.supports.tips) + 1))[:1000]
    many = made.model_copy(update={"supports": made.supports.model_copy(update={"tips": tips})})
    settings, parts = settings_of(held, many), parts_of(held, made)
    assert len(settings.dumped()) > 200_000
    labels = np.zeros(len(parts["figure"].faces), np.uint8)
    labels[::3] = 1
    back = read(io.BytesIO(checked_package(parts, labels, settings)))
    assert back.settings is not None and SettingsDoc.loaded(back.settings.encode()) == SettingsDoc.loaded(
        settings.dumped()
    )
    assert np.array_equal(back.marks["figure"], labels)


def test_a_package_that_reads_back_otherwise_is_not_offered(monkeypatch: pytest.MonkeyPatch) -> None:
    held, made = plan_of(ball(9, fineness=4).dropped())
    parts, settings = parts_of(held, made), settings_of(held, made)
    other = as_package({"figure": parts["figure"]}, None, settings.model_copy(update={"printer": "another"}))
    monkeypatch.setattr(proof, "as_package", lambda *_: other)
    with pytest.raises(PlanError, match="supports, settings"):
        checked_package(parts, None, settings)
