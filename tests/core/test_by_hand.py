"""Numbers worked out by hand where a wrong formula would still look right: tips by load, holds by strength, a disc's
corner, the flat foot.
"""

from __future__ import annotations

import math

import numpy as np
import pytest

from tenugui.core.contract import strip_document
from tenugui.core.layers import prove
from tenugui.core.machines import Context, MachineError, load_material
from tenugui.core.mesh import Mesh
from tenugui.core.process import process_of
from tenugui.core.process.heights import HeightChoice, knee
from tenugui.core.risk import ledger
from tenugui.core.supports import make_supports, needs_lift, safety_factor, tip_pitch
from tenugui.core.supports.load import GRIP_MM
from tenugui.core.vat import layer_exposure, resin_use
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box


def test_tips_stand_as_close_as_their_strength_asks() -> None:
    """A weak resin on a strong film: area a tip holds = strength times its section, over peel times safety."""
    weak = RESIN.model_copy(update={"green_strength_mpa": 0.5, "green_modulus_mpa": 5000.0})
    strong_film = HERON.model_copy(update={"peel_kpa": 8.0})
    tip, risk = 0.4, 0.2
    by_hand = math.sqrt(0.5 * math.pi * 0.04 / (0.008 * safety_factor(risk)))
    assert 1.0 < by_hand < 5.0
    steep = math.radians(80)  # stiffness asks for nothing here
    assert tip_pitch(Context.of(strong_film, weak, 0.05), steep, tip, risk) == pytest.approx(by_hand, rel=1e-9)


def test_tips_hold_what_their_sections_hold() -> None:
    """The ledger's pull: the tips as springs of a stiff frame, each as strong as its section, against the peel of the
    figure's widest layer.
    """
    figure = box((0, 0, 8), (20, 20, 6))
    context = Context.of(HERON, RESIN.model_copy(update={"green_strength_mpa": 0.4}), 0.1)
    made = make_supports(figure, context)
    (pull,) = [h for h in ledger(made.after, context, tips=made.tips, own=made.before) if h.code == "pull"]
    strong = np.array([0.4 * math.pi * t.diameter**2 / 4 for t in made.tips])
    at = np.array([[t.x, t.y] for t in made.tips])
    middle = strong @ at / strong.sum()
    frame = np.cov(at.T, aweights=strong, ddof=0) + GRIP_MM**2 * np.eye(2)
    turned = np.linalg.solve(frame, -middle)  # the peel of a centred box passes through the origin
    most = float((1 + (at - middle) @ turned).max() + GRIP_MM * np.linalg.norm(turned))
    assert pull.has == pytest.approx(strong.sum() / most, rel=0.01) and most > 1.02
    widest = float(made.before.areas.max())
    assert pull.needs == pytest.approx(HERON.peel_kpa * 1e-3 * widest * (0.1 + 0.1) / (0.05 + 0.1), rel=0.02)  # type: ignore[union-attr]


def test_a_corner_hangs_outside_the_disc() -> None:
    """A plate that grows by just the step on all sides: its edges are reached, of each corner r²(1 - π/4) is not."""
    r = 0.8
    tower = Mesh.joined([box((0, 0, 0.5), (10, 10, 1)), box((0, 0, 1.5), (10 + 2 * r, 10 + 2 * r, 1))])
    hang = prove(tower, 0.1, r, 0.02).hang
    assert hang.total == pytest.approx(4 * r * r * (1 - math.pi / 4), rel=0.12)


def test_infill_weighs_its_share() -> None:
    """A solid cube between its roofs is walls, two roofs, and infill: less than full by what the infill leaves out."""
    context = Context.of(KESTREL, FILAMENT, 0.2)
    proof = prove(box((0, 0, 10), (20, 20, 20)), 0.2, context.reach)
    use = process_of(KESTREL).use(proof.stack, proof.areas, context)
    wall = 80 * 3 * KESTREL.line_mm  # type: ignore[union-attr]
    inner = 20 * 20 - wall
    roofs = 8 * 0.2
    full = 20 * 20 * 20
    by_hand = full - inner * (20 - roofs) * (1 - 0.15)
    assert use.volume_ml * 1000 / (1 + FILAMENT.waste) == pytest.approx(by_hand, rel=0.005)


def height_row(cusp: float, minutes: float) -> HeightChoice:
    return HeightChoice(cusp, 1, minutes, 1, 1, 1, (cusp, cusp, cusp), "full", 0, 0.1, 0, "formula")


@pytest.mark.parametrize("best", range(4))
def test_the_knee_lies_wherever_the_curve_bends(best: int) -> None:
    cusps, minutes = [0.02, 0.04, 0.06, 0.08], [100.0, 100.0, 100.0, 100.0]
    rows = [height_row(c, m) for c, m in zip(cusps, minutes, strict=True)]
    for k in range(4):
        # Fine as far as `best` at no cost, and nothing gained in hours beyond it.
        rows[k] = height_row(0.02 if k <= best else 0.08, 20.0 if k >= best else 100.0)
    assert knee(rows) == best


def test_a_foot_is_flat_where_a_fifth_of_the_shadow_touches() -> None:
    def mushroom(foot: float) -> Mesh:
        """A cap of 20 x 20 on a square stem: the stem's foot is this share of its shadow."""
        side = 20 * math.sqrt(foot)
        return Mesh.joined([box((0, 0, 5), (side, side, 10)), box((0, 0, 11), (20, 20, 4))])

    assert needs_lift(mushroom(0.1), HERON) and not needs_lift(mushroom(0.4), HERON)
    assert not needs_lift(mushroom(0.1), KESTREL), "nothing hangs on a filament printer"


def test_the_ribbon_draws_the_pull_of_resin_alone() -> None:
    for printer, material, pulls in ((HERON, RESIN, True), (KESTREL, FILAMENT, False)):
        context = Context.of(printer, material, 0.1)
        proof = prove(ball(8).dropped(), 0.1, context.reach)
        use = process_of(printer).use(proof.stack, proof.areas, context)
        strip = strip_document(proof, use, [], [], context)
        assert strip.has_pull is pulls
        if pulls:
            peak = context.peel_kpa * 1e-3 * math.pi * 64
            assert max(strip.pull_n) == pytest.approx(peak, rel=0.02)
        else:
            assert not np.any(strip.pull_n)


@pytest.mark.parametrize(
    ("radius", "low", "high"), [(0.5, 0.0, 0.0), (1.2, 0.005, 0.02), (2.3, 0.2, 0.3), (8.0, 0.48, 0.5)]
)
def test_a_drop_closed_in_threatens_nothing_and_a_cupful_every_second_print(
    radius: float, low: float, high: float
) -> None:
    shell = Mesh.joined(
        [ball(10, fineness=4), Mesh(ball(radius, fineness=4).vertices, ball(radius, fineness=4).faces[:, ::-1])]
    )
    context = Context.of(HERON, RESIN, 0.1)
    found = [h for h in ledger(prove(shell.dropped(), 0.1, context.reach), context) if h.code == "trapped"]
    assert low <= (found[0].chance if found else 0.0) <= high
    if found:
        assert found[0].needs == pytest.approx(4 / 3 * math.pi * radius**3, rel=0.05)


def test_exposure_follows_the_working_curve_of_two_known_pairs() -> None:
    """By hand: 2.0 s at 0.05 mm and 3.2 s at 0.10 mm: D_p = 0.05 / ln 1.6; halfway lies the geometric mean; not
    proportional to the height.
    """
    resin = RESIN.model_copy(update={"exposure_s": 2.0, "exposure_base_mm": 0.05, "second_exposure": (0.10, 3.2)})
    assert resin.light_mm == pytest.approx(0.05 / math.log(1.6))
    assert layer_exposure(resin, 0.05) == pytest.approx(2.0) and layer_exposure(resin, 0.10) == pytest.approx(3.2)
    assert layer_exposure(resin, 0.075) == pytest.approx(math.sqrt(2.0 * 3.2))
    assert layer_exposure(resin, 0.025) == pytest.approx(2.0 / math.sqrt(1.6)) and layer_exposure(resin, 0.025) > 1.0
    deep = RESIN.model_copy(update={"exposure_s": 2.0, "exposure_base_mm": 0.05, "penetration_mm": 0.1})
    assert layer_exposure(deep, 0.15) == pytest.approx(2.0 * math.e)
    # Where no pair and no depth is known, a prior stands for them: thicker layers take longer, and not in proportion.
    assert layer_exposure(RESIN, 0.1) == pytest.approx(RESIN.exposure_s * math.exp(0.05 / 0.12))


@pytest.mark.parametrize("pair", [(0.05, 3.0), (0.1, 1.0), (0.02, 9.0), (0.0, 1.0), (0.1, 0.0), (0.1, float("inf"))])
def test_pairs_that_lie_on_no_curve_are_refused_at_the_door(pair: tuple[float, float]) -> None:
    given = RESIN.model_dump() | {"exposure_s": 2.0, "exposure_base_mm": 0.05, "second_exposure": pair}
    with pytest.raises(MachineError) as refused:
        load_material(given, HERON)
    assert "second_exposure" in refused.value.what


def test_a_curve_changes_the_hours_and_the_run_sheet_alike() -> None:
    curved = RESIN.model_copy(update={"exposure_s": 2.0, "exposure_base_mm": 0.05, "second_exposure": (0.10, 3.2)})
    heights = (0.03, 0.05, 0.1)
    guessed = RESIN.model_copy(update={"exposure_s": 2.0, "exposure_base_mm": 0.05})
    times = {
        name: [resin_use(HERON, m, 1000, h, 5000.0).time_s for h in heights]  # type: ignore[arg-type]
        for name, m in (("curve", curved), ("prior", guessed))
    }
    # D_p of 0.106 mm is steeper than the prior of 0.12.
    assert times["curve"][0] < times["prior"][0] and times["curve"][2] > times["prior"][2]
    assert times["curve"][1] == pytest.approx(times["prior"][1])
    sheet = dict(process_of(HERON).sheet(Context.of(HERON, curved, 0.1)))
    assert sheet["Exposure"].startswith("3.20 s")
