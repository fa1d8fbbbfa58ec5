"""Machines, time, material, heights, risk and folds against formulas by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tenugui.core.contract import strip_document
from tenugui.core.hazards import chance, combined, kinds
from tenugui.core.layers import prove
from tenugui.core.layers.steps import cusp_quantiles
from tenugui.core.machines import (
    Context,
    FilamentPrinter,
    MachineError,
    Material,
    ResinPrinter,
    free_reach,
    limit_angle,
    load_material,
    load_printer,
    motor_step,
    printer_heights,
)
from tenugui.core.mesh import Mesh
from tenugui.core.paths import filament_use
from tenugui.core.plan import bare_heights
from tenugui.core.process import process_of
from tenugui.core.process.heights import knee
from tenugui.core.risk import ledger
from tenugui.core.vat import layer_pull, layer_seconds, resin_use
from tenugui.core.worth import rates_of
from tests.shapes import ball, box, cup, cylinder, fork, hollow_ball, knobbly

HERON, KESTREL = load_printer("heron"), load_printer("kestrel")
RESIN, FILAMENT = load_material(None, HERON), load_material(None, KESTREL)
assert isinstance(HERON, ResinPrinter) and isinstance(KESTREL, FilamentPrinter)


def test_resin_time_equals_the_formula_by_hand() -> None:
    """100 layers of 0.05 mm: 5 bottom, 5 transition falling in equal steps of a sixth, 90 normal."""
    lift = 2.5 / 1.0 + 3.5 / 3.0
    back = 4.5 / 3.0 + 1.5 / 1.0
    each = 0.8 + lift + 0.2 + back
    transition = sum(28.0 + (i / 6) * (2.4 - 28.0) for i in range(1, 6))
    by_hand = 45 + 30 + 100 * each + 5 * (28.0 + 1.0) + transition + 90 * 2.4
    assert resin_use(HERON, RESIN, 100, 0.05, 0).time_s == pytest.approx(by_hand, abs=1e-9)  # type: ignore[arg-type]


def test_resin_material_by_hand() -> None:
    use = resin_use(HERON, RESIN, 10, 0.05, 20_000)  # type: ignore[arg-type]
    assert (use.volume_ml, use.mass_g, use.cost) == (
        pytest.approx(22),
        pytest.approx(22 * 1.12),
        pytest.approx(0.022 * 34),
    )


def test_time_does_not_depend_on_the_area_but_the_pull_does() -> None:
    assert resin_use(HERON, RESIN, 50, 0.05, 10.0).time_s == resin_use(HERON, RESIN, 50, 0.05, 9000.0).time_s  # type: ignore[arg-type]
    assert np.diff(layer_seconds(HERON, RESIN, 50, 0.05)).max() <= 0, "no layer takes longer than one before it"  # type: ignore[arg-type]
    pull = layer_pull(HERON, np.array([100.0, 200.0]), np.array([0.0, 50.0]))  # type: ignore[arg-type]
    assert pull == pytest.approx([0.8, 1.6 + 1.0])


def test_filament_estimate_of_a_solid_column() -> None:
    """A 1 mm square column of 10 mm is all wall: 1 mm² a layer over a 0.42 mm line, slower than the least layer
    time.
    """
    use = filament_use(KESTREL, FILAMENT, 0.2, np.full(50, 1.0), np.full(50, 4.0))  # type: ignore[arg-type]
    assert use.time_s == pytest.approx(240 + 50 * (8.0 + 0.6))
    assert use.volume_ml == pytest.approx(0.01 * 1.05)


def test_infill_lies_only_between_roofs() -> None:
    areas, contours = np.full(100, 400.0), np.full(100, 80.0)
    solid = filament_use(KESTREL, FILAMENT, 0.2, areas, contours).volume_ml  # type: ignore[arg-type]
    wall = 80 * 3 * 0.42
    inner = 400 - wall
    by_hand = (100 * wall + 8 * inner + 92 * inner * 0.15) * 0.2 / 1000 * 1.05
    assert solid == pytest.approx(by_hand, rel=1e-6)


def test_limits_of_the_handbook() -> None:
    assert math.degrees(limit_angle(KESTREL, FILAMENT, 0.2)) == pytest.approx(46.4, abs=0.1)
    assert math.degrees(limit_angle(KESTREL, FILAMENT, 0.16)) == pytest.approx(52.7, abs=0.1)
    # Thin layers in the air curl: no lean is free beyond a bound, but as the machine's own test piece says.
    assert [math.degrees(limit_angle(KESTREL, FILAMENT, h)) for h in (0.04, 0.08)] == pytest.approx([60, 60])
    tested = KESTREL.model_copy(update={"overhang_test": (0.08, 69.0)})
    assert math.degrees(limit_angle(tested, FILAMENT, 0.08)) == pytest.approx(69)
    # The wedge cantilever is a law of angle: the resin limit does not change with the layer height.
    assert limit_angle(HERON, RESIN, 0.05) == pytest.approx(limit_angle(HERON, RESIN, 0.1))
    assert 60 < math.degrees(limit_angle(HERON, RESIN, 0.05)) < 80


@pytest.mark.parametrize(
    ("height", "kind"), [(0.04, "full"), (0.12, "full"), (0.1, "half"), (0.06, "half"), (0.105, "micro")]
)
def test_motor_steps(height: float, kind: str) -> None:
    assert motor_step(KESTREL, height)[0] == kind
    assert motor_step(HERON, height)[0] == "none"


def test_customary_heights_lie_on_full_steps() -> None:
    assert [motor_step(KESTREL, h)[0] for h in printer_heights(KESTREL, FILAMENT)] == ["full"] * 4


def test_machines_from_json_are_checked() -> None:
    spec = {"name": "reed", "process": "filament", "build_mm": [100, 100, 100], "nozzle_mm": 0.2}
    assert load_printer(spec).build_mm == (100, 100, 100)
    for wrong, code in (
        ({**spec, "build_mm": [0, 1, 2]}, "bad-field"),
        ({**spec, "wings": 2}, "unknown-field"),
        ({**spec, "nozzle_mm": "thin"}, "bad-field"),
        ({"process": "steam"}, "bad-field"),
        ({"process": "resin", "name": "x"}, "missing-field"),
        ("nobody", "unknown-printer"),
    ):
        with pytest.raises(MachineError) as refused:
            load_printer(wrong)  # type: ignore[arg-type]
        assert refused.value.code == code
    with pytest.raises(MachineError, match="is for filament"):
        load_material("marsh matte", HERON)


def test_cusps_of_a_ramp_and_of_a_box() -> None:
    assert cusp_quantiles(box((0, 0, 0), (4, 4, 4))) == (0, 0, 0)
    ramp = box((0, 0, 0), (20, 20, 1)).transformed(
        np.array([[math.cos(0.5), 0, math.sin(0.5)], [0, 1, 0], [-math.sin(0.5), 0, math.cos(0.5)]])
    )
    assert cusp_quantiles(ramp)[0] == pytest.approx(math.cos(0.5), abs=1e-6)
    assert cusp_quantiles(ball(5))[1] == pytest.approx(0.95, abs=0.01)  # |cos| of a sphere's area is uniform


def test_heights_trade_steps_for_time() -> None:
    heights = bare_heights(knobbly(), Context.of(HERON, RESIN), [0.1, 0.05, 0.03], thin=[], rates=rates_of(None))
    rows = heights.choices
    assert [r.height for r in rows] == [0.03, 0.05, 0.1]
    assert rows[0].time_s > rows[1].time_s > rows[2].time_s and rows[0].cusp < rows[1].cusp < rows[2].cusp
    assert rows[1].layers == math.ceil(knobbly().size[2] / 0.05) and "minutes" in heights.why


def test_the_knee_is_found_where_the_curve_bends() -> None:
    def row(cusp: float, time: float):  # type: ignore[no-untyped-def]
        from tenugui.core.process.heights import HeightChoice

        return HeightChoice(cusp, 1, time, 1, 1, 1, (cusp, cusp, cusp), "full", 0, 0.1, 0, "formula")

    assert knee([row(0.02, 100), row(0.04, 30), row(0.09, 24), row(0.2, 20)]) == 1


@given(st.floats(0.01, 50), st.floats(0.01, 50))
def test_chance_falls_with_the_margin(a: float, b: float) -> None:
    assert (chance(min(a, b)) >= chance(max(a, b))) and 0 <= chance(a) <= 0.95
    assert chance(1.0) == pytest.approx(0.5)


def hazards(mesh: Mesh, printer=HERON):  # type: ignore[no-untyped-def]
    material = load_material(None, printer)
    return ledger(prove(mesh, 0.1, free_reach(printer, material, 0.1)), Context.of(printer, material, 0.1))


def test_the_ledger_names_what_there_is() -> None:
    assert {h.code for h in hazards(fork())} >= {"island", "overhang"}
    assert "trapped" in {h.code for h in hazards(hollow_ball())}
    cups = [h for h in hazards(cup(12, 1, 1, 20)) if h.code == "sealed"]
    assert cups and cups[0].needs == pytest.approx(20 * np.pi * 144 * 1e-3, rel=0.01), "suction is pressure times area"
    assert not {h.code for h in hazards(cup(12, 1, 1, 20), KESTREL)} & {"sealed", "pull", "trapped"}, (
        "a filament printer has no film"
    )
    assert {h.code for h in hazards(fork())} <= set(kinds())


def test_risk_combines_as_independent_and_leaves_scars_out() -> None:
    rows = hazards(fork())
    assert combined(rows) == pytest.approx(min(0.95, 1 - math.prod(1 - h.chance for h in rows if h.loss != "scar")))
    assert combined([]) == 0 and 0.03 <= combined(hazards(cylinder(8, 10))) < 0.2


def test_the_strip_loses_no_peak() -> None:
    proof = prove(fork(), 0.02, 0.2)

    strip = strip_document(
        proof,
        process_of(HERON).use(proof.stack, proof.areas, Context.of(HERON, RESIN)),
        [],
        [],
        Context.of(HERON, RESIN),
    )
    assert max(strip.area_mm2) == pytest.approx(proof.areas.max(), rel=1e-3) and len(strip.area_mm2) <= 600
    assert [i.layer for i in strip.islands] == [500, 650]


def test_a_figure_that_leans_off_its_foot_is_named_on_filament_alone() -> None:
    crane = Mesh.joined([box((0, 0, 10), (4, 4, 20)), box((15, 0, 21), (34, 4, 2))])
    (found,) = [h for h in hazards(crane, KESTREL) if h.code == "unstable"]
    weight, arm = 4 * 4 * 20.0, 34 * 4 * 2.0
    assert found.place[0] == pytest.approx(arm * 15 / (weight + arm), abs=0.05) and found.chance > 0.5
    (steady,) = [h for h in hazards(cylinder(8, 10), KESTREL) if h.code == "unstable"]
    assert steady.chance < 0.01 and not [h for h in hazards(crane, HERON) if h.code == "unstable"]


def test_a_blade_on_its_edge_tips_over() -> None:
    """A foot of one scan line is a strip as wide as the lines lie apart, and no figure without a foot."""
    context = Context.of(KESTREL, FILAMENT, 0.2)
    proof = prove(box((0, 0.05, 10), (20, 0.08, 20)), 0.2, context.reach, 0.1, bridge=context.bridge)
    assert len(np.unique(proof.stack.layer_runs(0)[:, 0])) == 1
    (found,) = [h for h in ledger(proof, context) if h.code == "unstable"]
    assert found.chance > 0.5


def test_an_exposure_that_rests_on_a_prior_says_so() -> None:
    def told(material: Material, height: float) -> str:
        return dict(process_of(HERON).sheet(Context.of(HERON, material, height)))["Exposure"]

    assert "prior" not in told(RESIN, RESIN.exposure_base_mm)
    assert "a prior of D_p 0.12 mm" in told(RESIN, 0.03) and told(RESIN, 0.03).startswith("2.03 s")
    assert "prior" not in told(RESIN.model_copy(update={"penetration_mm": 0.1}), 0.03)
    assert "prior" not in told(RESIN.model_copy(update={"second_exposure": (0.1, 3.6)}), 0.03)
