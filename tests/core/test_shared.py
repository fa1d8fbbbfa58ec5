"""Plans shared as files: settings and supports travel in 3MF and come back without loss; the supports alone are a stand."""

from __future__ import annotations

import io

import numpy as np

from tenugui.core.contract import SettingsDoc, SupportsDoc, tips_from
from tenugui.core.formats import load, read_3mf, write_3mf
from tenugui.core.mesh import Mesh, Nearest, face_grid, measure
from tenugui.core.mesh.near import winding_numbers
from tenugui.core.plan import held_of, stand_of
from tenugui.core.plan.folds import spec_of
from tenugui.core.plan.inputs import Inputs
from tenugui.core.plan.proof import STAND_GAP_MM, as_package, parts_of, settings_of
from tenugui.core.supports import support_mesh
from tests.core.test_hollow_fold import chain_of
from tests.shapes import ball, box


def plan_of(mesh: Mesh):  # type: ignore[no-untyped-def]
    shelf, base, choices = chain_of(mesh)
    spec = spec_of("supports")
    assert spec and spec.given
    given = spec.given(base, choices | {"hollow": {"option": 0, "wall": None}}) | {"height": 0.05, "risk": 0.05}
    made = held_of(shelf, given, height=0.05, risk=0.05, style="trees")
    return Inputs(shelf, given), made


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
    rebuilt = support_mesh(tips_from(again.supports.tips), again.supports.raft)
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
    assert (winding_numbers(stand.vertices, figure, face_grid(figure)) == 0).all()
    gap = Nearest(figure).of(stand.vertices)[1].min()
    assert 0.9 * STAND_GAP_MM < gap < STAND_GAP_MM + 0.2
    held, made = plan_of(box((0, 0, 5), (10, 10, 10)))
    assert made.row.tip_count > 0 or stand_of(made) is None
