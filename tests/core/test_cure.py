"""What a resin layer's height changes: how hard it clings, how surely it bonds, how far light blurs what looks down;
and what a finer nozzle costs. By hand, and by laws.
"""

from __future__ import annotations

import math
from statistics import NormalDist

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.layers import prove
from tenugui.core.machines import CURES_ON_MM, Context, Material, by_depth, draws_lines
from tenugui.core.paths import filament_use
from tenugui.core.plan.others import with_nozzle
from tenugui.core.pose import stuff_of
from tenugui.core.process import process_of
from tenugui.core.process.resin import BONDS_FROM_MM, CURVE_GUESSED, CURVE_KNOWN, LAMP_SPREAD
from tenugui.core.risk import ledger
from tenugui.core.vat import print_through_mm
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import box

PAIR = RESIN.model_copy(update={"second_exposure": (0.1, 2.4 * math.exp(0.05 / 0.12))})


def bond_at(material: Material, height: float, scatter: float = 1.0) -> float:
    """The chance that the ledger tells for a block's layers."""
    printer = HERON.model_copy(update={"scatter": scatter})
    context = Context.of(printer, material, height)
    found = ledger(prove(box((0, 0, 4), (6, 6, 8)), height, context.reach), context)
    return next((h.chance for h in found if h.code == "bond"), 0.0)


def test_a_thicker_layer_clings_harder_by_the_depth_of_its_cure() -> None:
    for height in (0.03, 0.05, 0.08, 0.2):
        context = Context.of(HERON, RESIN, height)
        by_hand = HERON.peel_kpa * (height + 0.1) / (0.05 + 0.1)  # type: ignore[union-attr]
        assert context.peel_kpa == pytest.approx(by_hand)
        proof = prove(box((0, 0, 4), (10, 10, 8)), height, context.reach)
        pull = process_of(HERON).pull(proof, context)
        assert pull.max() == pytest.approx(by_hand * 100 * 1e-3, rel=5e-3)
    assert Context.of(KESTREL, FILAMENT, 0.2).peel_kpa == 0


def test_layers_bond_where_the_exposure_is_known_and_less_surely_away_from_it() -> None:
    """By hand: the overcure is normal about 0.1 mm, spread by the lamp and by the curve's doubt over the distance."""
    assert bond_at(RESIN, 0.05) == 0
    for material, doubt in ((RESIN, CURVE_GUESSED), (PAIR, CURVE_KNOWN)):
        spread = math.hypot(LAMP_SPREAD * material.light_mm, 0.15 * doubt)
        by_hand = NormalDist(CURES_ON_MM, spread).cdf(BONDS_FROM_MM)
        assert bond_at(material, 0.2) == pytest.approx(by_hand if by_hand > 1e-3 else 0.0, rel=1e-6)
    assert 0.01 < bond_at(RESIN, 0.2) < 0.04 and bond_at(PAIR, 0.2) == 0, "two known exposures"
    assert bond_at(RESIN, 0.2, scatter=2.0) > bond_at(RESIN, 0.2)


@settings(max_examples=30, deadline=None)
@given(st.floats(0.05, 0.3), st.floats(0.05, 0.3))
def test_a_layer_nearer_to_the_known_one_is_never_riskier(one: float, other: float) -> None:
    near, far = sorted((one, other))
    assert bond_at(RESIN, round(near, 3)) <= bond_at(RESIN, round(far, 3)) + 1e-12


@pytest.mark.parametrize("height", [0.02, 0.05, 0.1])
def test_light_behind_a_downward_face_adds_up_layer_by_layer(height: float) -> None:
    """Layer by layer: each above adds its dose, as faint as the depth of what lies between; the depth at which all of
    them cure is the blur.
    """
    first = math.exp(CURES_ON_MM / RESIN.light_mm)  # dose at the face over what cures, of the layer that makes it
    dose = sum(first * math.exp(-k * height / RESIN.light_mm) for k in range(2000))
    assert print_through_mm(RESIN, height) == pytest.approx(RESIN.light_mm * math.log(dose), rel=1e-9)
    assert print_through_mm(RESIN, height) > print_through_mm(RESIN, 2 * height) > CURES_ON_MM


@settings(max_examples=30)
@given(st.floats(0.01, 0.3), st.floats(0.01, 0.3))
def test_depth_is_a_law_of_height(one: float, other: float) -> None:
    assert (by_depth(RESIN, one) - by_depth(RESIN, other)) * 0.15 == pytest.approx(one - other, abs=1e-9)


def test_a_finer_nozzle_is_slower_than_its_lines_alone() -> None:
    """The same wall by half the line, at four fifths of the speed: a third to a half more than the lines would ask."""
    fine = with_nozzle(KESTREL, 0.2)  # type: ignore[arg-type]
    as_fast = fine.model_copy(update={k: getattr(KESTREL, k) for k in ("wall_mm_s", "fill_mm_s", "acceleration_mm_s2")})
    areas, contours = np.full(200, 400.0), np.full(200, 80.0)
    seconds = [filament_use(p, FILAMENT, 0.1, areas, contours).time_s for p in (fine, as_fast)]
    assert 1.12 < seconds[0] / seconds[1] < 1.35
    assert draws_lines(fine) and with_nozzle(KESTREL, 0.8).wall_mm_s == KESTREL.wall_mm_s  # type: ignore[arg-type,union-attr]


def test_what_a_volume_takes_before_anything_is_posed() -> None:
    resin = stuff_of(Context.of(HERON, RESIN), 20_000.0)
    assert resin.ml == pytest.approx(20 * (1 + RESIN.waste)) and resin.grams == pytest.approx(resin.ml * 1.12)
    assert resin.coins == pytest.approx(resin.ml / 1000 * RESIN.cost)
    lines = stuff_of(Context.of(KESTREL, FILAMENT), 20_000.0)
    assert 0.15 * 20 < lines.ml < 0.8 * 20, "walls and infill"
    assert lines.coins == pytest.approx(lines.grams / 1000 * FILAMENT.cost)
