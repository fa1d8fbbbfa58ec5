"""Laws of time, material, pull, heights, steps and risk, for machines and figures that nobody has thought of."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.hazards import chance, combined
from tenugui.core.layers import prove
from tenugui.core.layers.steps import cusp_quantiles
from tenugui.core.machines import (
    CURES_ON_MM,
    USUAL_RISK,
    Context,
    FilamentPrinter,
    Material,
    ResinPrinter,
    free_reach,
    limit_angle,
    motor_step,
    printer_heights,
    thin_limits,
    weak_parts,
)
from tenugui.core.machines.printer import PENETRATION_MM, REST_SHARE, STEEPEST_DEG
from tenugui.core.mesh import Mesh, ThinPlace
from tenugui.core.paths import filament_use
from tenugui.core.pose import posed
from tenugui.core.process import process_of
from tenugui.core.risk import ledger
from tenugui.core.supports import manner_of, safety_factor, tip_pitch
from tenugui.core.vat import film_wear, layer_pull, layer_seconds, resin_use
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cone, cylinder

seconds = st.floats(0.0, 60.0)


def resin_printer(wait: float, bottom: int, transition: int) -> ResinPrinter:
    assert isinstance(HERON, ResinPrinter)
    return HERON.model_copy(update={"wait_before_s": wait, "bottom_layers": bottom, "transition_layers": transition})


@settings(max_examples=60, deadline=None)
@given(
    seconds,
    st.integers(0, 12),
    st.integers(0, 12),
    st.integers(1, 400),
    st.floats(0.02, 0.1),
    st.floats(0.5, 10),
    st.floats(10, 60),
)
def test_resin_time_is_the_sum_of_its_layers(
    wait: float, bottom: int, transition: int, layers: int, height: float, normal: float, first: float
) -> None:
    printer = resin_printer(wait, bottom, transition)
    material = RESIN.model_copy(update={"exposure_s": normal, "bottom_exposure_s": first})
    each = layer_seconds(printer, material, layers, height)
    use = resin_use(printer, material, layers, height, 1000.0)
    assert use.time_s == pytest.approx(printer.start_s + each.sum() + printer.end_s)
    assert use.clock_s[-1] == pytest.approx(printer.start_s + each.sum()) and (np.diff(use.clock_s) > 0).all()
    usual = normal * math.exp((height - material.exposure_base_mm) / PENETRATION_MM)
    moving = sum(d / v for d, v in zip(printer.lift_mm, printer.lift_mm_s, strict=True))
    moving += sum(d / v for d, v in zip(printer.return_mm, printer.return_mm_s, strict=True))
    if layers > bottom + transition:
        assert each[-1] == pytest.approx(wait + usual + moving + printer.wait_after_lift_s)
    if bottom and layers:
        assert each[0] == pytest.approx(wait + printer.bottom_wait_s + first + moving + printer.wait_after_lift_s)


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.tuples(st.floats(0, 5000), st.floats(0, 2000)), min_size=1, max_size=30),
    st.floats(1, 30),
    st.floats(1, 100),
)
def test_the_pull_is_linear_in_area_and_in_suction(
    rows: list[tuple[float, float]], peel: float, suction: float
) -> None:
    assert isinstance(HERON, ResinPrinter)
    printer = HERON.model_copy(update={"peel_kpa": peel, "suction_kpa": suction})
    areas, sealed = np.array(rows).T
    pull = layer_pull(printer, areas, sealed)
    assert pull == pytest.approx((peel * areas + suction * sealed) / 1000)
    assert layer_pull(printer, 2 * areas, 2 * sealed) == pytest.approx(2 * pull)


@settings(max_examples=60, deadline=None)
@given(st.floats(0.2, 1.2), st.floats(0.03, 0.5))
def test_the_free_angle_follows_the_line_and_the_layer(line: float, height: float) -> None:
    """atan(f w / h): half the height, twice the tangent; no steeper than lines curl."""
    assert isinstance(KESTREL, FilamentPrinter)
    printer = KESTREL.model_copy(update={"line_mm": line})
    tangent = math.tan(limit_angle(printer, FILAMENT, height))
    assert tangent == pytest.approx(free_reach(printer, FILAMENT, height) / height)
    most = math.tan(math.radians(STEEPEST_DEG))
    assert math.tan(limit_angle(printer, FILAMENT, height / 2)) == pytest.approx(min(2 * tangent, most), rel=1e-6)
    assert tangent == pytest.approx(min(REST_SHARE * line / height, most))


@settings(max_examples=60, deadline=None)
@given(st.integers(1, 80), st.sampled_from([1, 2]))
def test_whole_and_half_steps_are_told(steps: int, parts: int) -> None:
    assert isinstance(KESTREL, FilamentPrinter)
    full = KESTREL.lead_mm / KESTREL.steps
    kind, rounding = motor_step(KESTREL, steps * full / parts)
    assert kind == ("full" if steps % parts == 0 else "half") and rounding == pytest.approx(0, abs=1e-9)


def test_customary_heights_lie_within_the_nozzle() -> None:
    assert isinstance(KESTREL, FilamentPrinter)
    assert all(0.15 * KESTREL.nozzle_mm <= h <= 0.8 * KESTREL.nozzle_mm for h in printer_heights(KESTREL, FILAMENT))
    assert all(0.02 <= h <= 0.1 for h in printer_heights(HERON, RESIN)) and len(set(printer_heights(HERON, RESIN))) == 4


@settings(max_examples=60, deadline=None)
@given(
    st.floats(0.01, 0.2), st.sampled_from([0.005, 0.01, 0.0125]), st.floats(20, 200), st.none() | st.floats(0.02, 0.4)
)
def test_resin_heights_lie_between_half_a_pixel_and_the_reach_of_light(
    base: float, step: float, wide: float, depth: float | None
) -> None:
    """About the layer whose exposure is known, on the motor's grain."""
    screen = HERON.model_copy(update={"build_mm": (wide, 60.0, 100.0), "pixels": (2000, 1200), "step_mm": step})
    resin = RESIN.model_copy(update={"exposure_base_mm": base, "penetration_mm": depth})
    heights = printer_heights(screen, resin)
    assert heights == sorted(set(heights)) and len(heights) == 4
    assert all(abs(h / step - round(h / step)) < 1e-3 for h in heights)
    finest, reach = max(step, wide / 2000 / 2), min(0.15, depth or 1.0)
    assert finest - 1e-9 <= heights[0] and heights[-1] <= max(reach, finest + 4 * step) + 1e-9
    if finest <= 0.6 * base - step and 1.6 * base <= reach and base >= 6 * step:
        assert min(abs(h - base) for h in heights) <= step / 2 + 1e-6, "what is known to work is among them"


@settings(max_examples=40, deadline=None)
@given(st.floats(0.001, 0.5), st.floats(0.001, 0.5))
def test_a_smaller_accepted_risk_asks_for_closer_and_thicker_tips(a: float, b: float) -> None:
    careful, bold = min(a, b), max(a, b)
    assert safety_factor(careful) >= safety_factor(bold) >= 1 - 1e-9
    for printer, material in ((HERON, RESIN), (KESTREL, FILAMENT)):
        here, there = (manner_of(Context.of(printer, material)).tip_mm(r) for r in (careful, bold))
        assert here >= there - 1e-12
        assert (
            tip_pitch(Context.of(printer, material, 0.1), 0.3, 0.35, careful)
            <= tip_pitch(Context.of(printer, material, 0.1), 0.3, 0.35, bold) + 1e-9
        )


@settings(max_examples=40, deadline=None)
@given(st.floats(0.0, 1.4), st.floats(0.0, 1.4))
def test_a_steeper_slope_never_asks_for_closer_tips(a: float, b: float) -> None:
    flat, steep = min(a, b), max(a, b)
    assert (
        tip_pitch(Context.of(HERON, RESIN, 0.05), flat, 0.35, 0.05)
        <= tip_pitch(Context.of(HERON, RESIN, 0.05), steep, 0.35, 0.05) + 1e-9
    )


def test_the_handbooks_sheet_gives_its_pitch() -> None:
    """One layer of 0.05 mm in green resin of 0.5 GPa at 0.02 mm sag under 8 kPa: about 1.3 mm; what is cured is
    thicker, and the pitch goes with its 3/4th power.
    """
    soft = RESIN.model_copy(update={"green_modulus_mpa": 500.0, "green_strength_mpa": 1e6})
    sheet = 12 * (1 - soft.poisson**2) * 0.00581 * 8e-3
    by_hand = (0.02 * 500 * 0.05**3 / sheet) ** 0.25
    assert by_hand == pytest.approx(1.3, abs=0.1)
    # Who accepts that every second tip fails accepts more sag too, by as much as the usual safety is more than 1.
    more = safety_factor(USUAL_RISK) ** 0.25
    assert tip_pitch(Context.of(HERON, soft, 0.05), 0.0, 0.35, 0.5) == pytest.approx(
        by_hand * more * ((0.05 + CURES_ON_MM) / 0.05) ** 0.75, rel=1e-6
    )


@settings(max_examples=40, deadline=None)
@given(st.floats(5, 85))
def test_a_ramps_cusp_is_its_cosine(degrees: float) -> None:
    a = math.radians(degrees)
    ramp = box((0, 0, 0), (40, 40, 0.5)).transformed(
        np.array([[math.cos(a), 0, math.sin(a)], [0, 1, 0], [-math.sin(a), 0, math.cos(a)]])
    )
    median, _, most = cusp_quantiles(ramp)
    assert median == pytest.approx(math.cos(a), abs=1e-6) and most <= 1


def test_marked_surface_decides_the_steps() -> None:
    stone = ball(6, fineness=5)
    crown = np.where(stone.corners().mean(axis=1)[:, 2] > 4, 1.0, 0.0)
    sides = np.where(np.abs(stone.corners().mean(axis=1)[:, 2]) < 1, 1.0, 0.0)
    assert cusp_quantiles(stone, crown)[0] > 0.6 > 0.2 > cusp_quantiles(stone, sides)[0]


@settings(max_examples=30, deadline=None)
@given(st.lists(st.floats(1, 900), min_size=2, max_size=60), st.floats(0.08, 0.3))
def test_filament_takes_time_and_plastic_for_every_layer(areas: list[float], height: float) -> None:
    assert isinstance(KESTREL, FilamentPrinter)
    area = np.array(areas)
    contour = 4 * np.sqrt(area)
    use = filament_use(KESTREL, FILAMENT, height, area, contour)
    more = filament_use(KESTREL, FILAMENT, height, np.append(area, 50.0), np.append(contour, 28.0))
    assert more.time_s > use.time_s and more.volume_ml > 0
    assert use.mass_g == pytest.approx(use.volume_ml * FILAMENT.density_g_ml)
    assert use.volume_ml <= area.sum() * height / 1000 * (1 + FILAMENT.waste) * 1.001, "never more than solid"


@settings(max_examples=60, deadline=None)
@given(st.floats(0.01, 20), st.floats(1.01, 4))
def test_chances_fall_steadily_and_combine(margin: float, more: float) -> None:
    assert chance(margin * more) <= chance(margin)
    assert 0 <= chance(margin) <= 0.95 and chance(0) == chance(-1) == 0.95


def test_more_hazards_never_lower_the_risk() -> None:
    proof = prove(cylinder(6, 10), 0.1, free_reach(HERON, RESIN, 0.1))
    rows = ledger(proof, Context.of(HERON, RESIN, 0.1))
    thin = [ThinPlace(0, 0, 5, t, 6.0, 4.0, "sheet") for t in (0.29, 0.2, 0.1)]
    risks = [combined(ledger(proof, Context.of(HERON, RESIN, 0.1), thin=thin[:n])) for n in range(4)]
    assert risks == sorted(risks) and risks[0] == pytest.approx(combined(rows)) and risks[3] > risks[0]


def test_a_part_at_its_limit_mostly_survives_and_at_half_the_limit_mostly_not() -> None:
    proof = prove(cylinder(6, 10), 0.1, free_reach(HERON, RESIN, 0.1))
    limit = thin_limits(HERON)["sheet"]

    def of(thickness: float, width: float = 5.0) -> float:
        rows = ledger(proof, Context.of(HERON, RESIN, 0.1), thin=[ThinPlace(0, 0, 5, thickness, 8.0, width, "sheet")])
        (found,) = [h for h in rows if h.code == "thin"]
        return found.chance

    assert of(limit) == pytest.approx(0.083, abs=0.01) and of(limit / 2) == pytest.approx(0.5, abs=0.01)
    rows = ledger(proof, Context.of(HERON, RESIN, 0.1), thin=[ThinPlace(0, 0, 5, limit / 2, 8.0, 1.0, "sheet")])
    assert next(h for h in rows if h.code == "thin").loss == "scar", "a narrow edge chips, it does not take the part"


@settings(max_examples=40, deadline=None)
@given(st.floats(0.02, 0.39), st.sampled_from(["rod", "sheet"]))
def test_the_cure_of_a_weak_part_is_its_number(thickness: float, kind: str) -> None:
    limits = thin_limits(HERON)
    place = ThinPlace(0, 0, 0, thickness, 9.0, 4.0, kind)
    found = weak_parts([place], HERON, 40.0)
    if thickness >= limits[kind]:
        assert found == []
    else:
        (weak,) = found
        assert (
            weak.scale * thickness == pytest.approx(weak.limit, rel=0.02)
            and weak.limit == limits[kind]
            and weak.remedies
        )


def test_use_of_a_proof_is_that_of_its_stack() -> None:
    for printer, material in ((HERON, RESIN), (KESTREL, FILAMENT)):
        figure = posed(cone(6, 14), (0, 0, -1))
        height = printer_heights(printer, material)[1]
        proof = prove(figure, height, free_reach(printer, material, height))
        use = process_of(printer).use(proof.stack, proof.areas, Context.of(printer, material))
        solid = proof.stack.volume() / 1000 * (1 + material.waste)
        assert use.volume_ml == pytest.approx(solid) if printer is HERON else 0 < use.volume_ml <= solid * 1.001
        assert use.mass_g == pytest.approx(use.volume_ml * material.density_g_ml) and use.time_s > 60


def test_a_dearer_material_costs_more_and_nothing_else_changes() -> None:
    dear = RESIN.model_copy(update={"cost": RESIN.cost * 3})
    assert isinstance(dear, Material)
    figure = Mesh.joined([cylinder(5, 8)])
    proof = prove(figure, 0.1, free_reach(HERON, RESIN, 0.1))
    cheap, costly = (process_of(HERON).use(proof.stack, proof.areas, Context.of(HERON, m)) for m in (RESIN, dear))
    film = film_wear(HERON, proof.areas) * HERON.film_cost
    assert film > 0 and costly.cost - film == pytest.approx(3 * (cheap.cost - film))
    assert costly.time_s == cheap.time_s and costly.mass_g == cheap.mass_g
