"""Beside the heights: several at once, other nozzles and machines, and the places that are worth a close look."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tenugui.core.contract.layers import CuspDoc, OtherDoc
from tenugui.core.layers import prove
from tenugui.core.layers.places import telling_places
from tenugui.core.machines import Context, FilamentPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.paths import filament_use, planned
from tenugui.core.plan.others import said_of, with_nozzle
from tenugui.core.process import COUNTS, process_of
from tenugui.core.process.heights import HeightChoice, choose_height, knee, more_or_less
from tenugui.core.worth import PRESETS, Gift, priced
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box

assert isinstance(KESTREL, FilamentPrinter)


def test_several_share_what_a_machine_shares() -> None:
    """A screen lights all at once; lines are drawn for each, and only the start, the changes and the waits to cool are
    shared.
    """
    figure = box((0, 0, 5), (20, 20, 10))
    on_screen, context = prove(figure, 0.05, 0.4), Context.of(HERON, RESIN, 0.05)
    assert set(process_of(HERON).use_of(figure, {}, on_screen, context).several_s) == {
        process_of(HERON).use_of(figure, {}, on_screen, context).time_s
    }
    proof = prove(figure, 0.2, 0.4)
    use = process_of(KESTREL).use_of(figure, {}, proof, Context.of(KESTREL, FILAMENT, 0.2))
    path = planned(figure, {}, KESTREL, 0.2)
    fixed = KESTREL.start_s + KESTREL.layer_change_s * path.layers
    for count, seconds in zip(COUNTS, use.several_s, strict=True):
        drawn = np.maximum(count * path.unslowed, KESTREL.least_layer_s).sum()
        assert seconds == pytest.approx(fixed + drawn, rel=0.02)


def test_small_ones_wait_for_each_other_instead_of_cooling() -> None:
    """A pin whose layers are slowed to cool: two take hardly longer than one, twenty take what they draw."""
    areas, contours = np.full(100, 3.0), np.full(100, 6.0)
    use = filament_use(KESTREL, FILAMENT, 0.2, areas, contours)
    fixed = KESTREL.start_s + 100 * KESTREL.layer_change_s
    assert use.unslowed_s.max() < KESTREL.least_layer_s / 2
    assert use.several_s(KESTREL, 2) == pytest.approx(use.time_s)
    assert use.several_s(KESTREL, 1000) == pytest.approx(fixed + 1000 * use.unslowed_s.sum())


def test_a_finer_nozzle_draws_narrower_lines_and_as_thick_a_wall() -> None:
    fine = with_nozzle(KESTREL, 0.2)
    assert fine.line_mm == pytest.approx(KESTREL.line_mm / 2, abs=1e-3)
    assert fine.perimeters * fine.line_mm == pytest.approx(KESTREL.perimeters * KESTREL.line_mm, rel=0.01)
    assert max(fine.heights()) < max(KESTREL.heights()) and fine.flow_mm3_s < KESTREL.flow_mm3_s
    assert with_nozzle(KESTREL, 0.8).flow_mm3_s == KESTREL.flow_mm3_s


def row(place: str, process: str, nozzle: float | None, *, hours: float, lost: float, fits: bool = True) -> OtherDoc:
    return OtherDoc(
        place=place,
        process=process,  # type: ignore[arg-type]
        nozzle_mm=nozzle,
        layer_height_mm=0.1,
        time_s=hours * 3600,
        material_g=10,
        cost=1,
        cusp_mm=CuspDoc(median=0.05, p95=0.09, max=0.1),
        lost_share=lost,
        blemishes=1,
        fits=fits,
    )


def test_what_is_said_of_others_are_their_own_numbers() -> None:
    own, fine = (
        row("own", "filament", 0.4, hours=2, lost=0.07),
        row("nozzle of 0.2 mm", "filament", 0.2, hours=5.25, lost=0.02),
    )
    screen, small = (
        row("Screen", "resin", None, hours=1.5, lost=0.0),
        row("Small screen", "resin", None, hours=1.0, lost=0.0, fits=False),
    )
    nozzle, other = said_of([own, fine, small, screen])
    assert "2.0 % of what is seen rather than 7.0 %" in nozzle and "3 h 15 more" in nozzle
    assert other.startswith("Screen at") and "30 minutes less" in other and "nothing not drawn" in other
    assert said_of([own]) == []


def test_places_worth_a_look_are_where_they_say() -> None:
    """A ball on a stalk beside a low table: the ball's crown is the top, the ball's shoulder or underside the rest."""
    figure = Mesh.joined([ball(8, (0, 0, 30), 4), box((0, 0, 11), (3, 3, 22))])
    found = {place.called.split(",")[0]: place.at for place in telling_places(figure)}
    assert found["its top"][2] > 37.0
    x, y, z = found["a near-flat underside"]
    assert z < 24 and np.hypot(x, y) < 8 * np.sqrt(1 - 0.85**2) + 1
    assert len(found) >= 3 and all(
        any(f"{at[2]:.0f} mm up" in p.called for p in telling_places(figure)) for at in found.values()
    )
    assert telling_places(box((0, 0, 5), (10, 10, 10)), np.zeros(12)) == []


def choice(height: float, cusp: float, hours: float, *, blemishes: float = 0.0, risk: float = 0.03) -> HeightChoice:
    cusps = (cusp / 2, cusp, 2 * cusp)
    return HeightChoice(
        height, 100, hours * 3600, 1.0, 1.0, 0.1, cusps, "full", 0.0, risk=risk, blemishes=blemishes, basis="path"
    )


def test_the_knee_is_nearest_to_the_corner_that_nobody_reaches() -> None:
    """Of steps 10, 20, 60 µm at 9, 4 and 3 hours the middle one; where it is risky and blemished, another."""
    rows = [choice(0.05, 0.01, 9), choice(0.1, 0.02, 4), choice(0.2, 0.06, 3)]
    assert knee(rows) == 1
    shifted = [replace(row, time_s=row.time_s + 36000, cusp=(0.0, row.cusp[1] + 1, 2.0)) for row in rows]
    assert knee(shifted) == 1, "what all share tells nothing"
    between = choice(0.1, 0.03, 7)
    assert knee([rows[0], between, rows[2]]) == 1
    assert knee([rows[0], replace(between, blemishes=2.0, risk=0.9), rows[2]]) == 0


def test_heights_are_told_in_words() -> None:
    rows = [choice(0.05, 0.012, 9), choice(0.1, 0.04, 4)]
    worths = [priced(Gift(10, row.time_s / 3600, 0.1, 0.0), PRESETS["evening"]) for row in rows]
    why = choose_height(rows, worths).why
    assert "0.1 mm leaves steps of 40 µm" in why and "which primer hides" in why
    assert "From 0.1 to 0.05 mm: 5 h 00 more, steps from 0.040 to 0.012 mm, which nobody sees" in why
    assert (more_or_less(5400), more_or_less(-600), more_or_less(20)) == ("1 h 30 more", "10 minutes less", "as long")
