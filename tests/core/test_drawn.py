"""What a nozzle's lines leave: gaps on shallow slopes by hand, and strings counted on the path."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from tenugui.core.contract import hazard_of
from tenugui.core.hazards import Sight, chance, found_by, kinds
from tenugui.core.layers import prove
from tenugui.core.layers.bands import Bands
from tenugui.core.machines import Context, FilamentPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.paths import Strings, Walls, planned, sampled_use
from tenugui.core.paths.blemishes import AIR_MM
from tenugui.core.paths.sampled import SAMPLES
from tenugui.core.paths.walls import open_lean
from tenugui.core.plan.bands import fewer_strings
from tenugui.core.risk import ledger
from tenugui.core.risk.drawn import GAPS_MM2, HAIRS, TOLD, hairs, open_slopes
from tenugui.core.risk.meeting import carries_mm2
from tenugui.core.supports import Tip, make_supports
from tenugui.core.supports.firm import footings
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cone

assert isinstance(KESTREL, FilamentPrinter)
THIN = KESTREL.model_copy(update={"perimeters": 1, "infill": 0.1})
H = 0.2


def test_a_flank_that_its_lines_do_not_close_is_told_by_its_area() -> None:
    """A cone whose flank rises so that its step is wider than one line and narrower than two: all of the flank stays
    open.
    """
    step = 1.5 * THIN.line_mm
    figure = cone(20, 20 * H / step)
    low, high = open_lean(Walls(1, THIN.roof_mm, THIN.infill), THIN.line_mm, H)
    lean = step / math.hypot(step, H)
    assert low < lean < high
    (threat,) = open_slopes(figure, Context.of(THIN, FILAMENT, H))  # type: ignore[arg-type]
    flank = math.pi * 20 * math.hypot(20, 20 * H / step)
    assert threat.code == "gaps" and threat.needs == pytest.approx(flank, rel=0.02) and threat.has == GAPS_MM2
    assert threat.loss == "scar" and 0 < threat.place[2] < 20 * H / step and "1 lines" in threat.message
    assert open_slopes(figure, Context.of(KESTREL, FILAMENT, H)) == [], "three lines close it"
    weights = np.full(len(figure.faces), 0.2)
    hidden = open_slopes(figure, Context(THIN, FILAMENT, H, weights=weights))  # type: ignore[arg-type]
    assert hidden[0].needs == pytest.approx(0.2 * flank, rel=0.02), "where nobody looks it is worth a fifth"
    cured, screen = prove(figure, 0.05, 0.05), Context.of(HERON, RESIN, 0.05)
    sight = Sight(cured, screen, cured, figure=figure, strings=Strings(3000.0, 12, 4.0, 5.0))
    assert found_by(sight, "gaps", "strings") == [], "a screen draws no lines"


def test_strings_are_those_of_the_path_where_all_of_it_is_planned() -> None:
    towers = Mesh.joined([box((-10, 0, 2), (8, 8, 4)), box((10, 0, 2), (8, 8, 4))])
    proof = prove(towers, H, 0.21)
    assert len(proof.areas) <= SAMPLES
    use = sampled_use(towers, {}, KESTREL, material=FILAMENT, height=H, rough=(proof.areas, proof.stack.contour_mm))
    path = planned(towers, {}, KESTREL, H)
    assert use.strings is not None and path.air is not None
    assert use.strings.count == pytest.approx((path.air > AIR_MM).sum(), rel=0.1) and use.strings.count >= 20
    assert 0 <= use.strings.layer < 20 and 6 <= abs(use.strings.x) <= 14
    tall = Mesh.joined([box((-10, 0, 20), (8, 8, 40)), box((10, 0, 20), (8, 8, 40))])
    more = prove(tall, H, 0.21)
    high = sampled_use(
        tall, {}, KESTREL, material=FILAMENT, height=H, rough=(more.areas, more.stack.contour_mm)
    ).strings
    assert high is not None and high.count == pytest.approx(10 * use.strings.count, rel=0.1), "from some of its layers"
    alone = prove(ball(5, (0, 0, 5), 4), H, 0.21)
    one = sampled_use(
        ball(5, (0, 0, 5), 4), {}, KESTREL, material=FILAMENT, height=H, rough=(alone.areas, alone.stack.contour_mm)
    ).strings
    assert one is not None and one.count == 0


def test_strings_are_hazards_with_their_place_and_few_are_none() -> None:
    figure, context = box((0, 0, 5), (10, 10, 10)), Context.of(KESTREL, FILAMENT, H)
    (threat,) = hairs(Strings(3000.0, 12, 4.0, 5.0), context)
    assert (threat.layer, threat.place) == (12, (4.0, 5.0, 2.5)) and "3,000 times" in threat.message
    assert hairs(Strings(TOLD * HAIRS - 1, 12, 4.0, 5.0), context) == []
    told = ledger(prove(figure, H, 0.21), context, strings=Strings(3000.0, 12, 4.0, 5.0))
    (hazard,) = [h for h in told if h.code == "strings"]
    assert hazard.chance == pytest.approx(chance(HAIRS / 3000.0)) and hazard.loss == kinds()["strings"].loss == "scar"


def test_bands_cross_as_often_as_they_have_layers() -> None:
    """A plan in bands is held as its finest layer; what each layer crosses is crossed once a layer, and all else stays
    as it was.
    """
    figure, context = box((0, 0, 5), (10, 10, 10)), Context.of(KESTREL, FILAMENT, 0.1)
    strings = Strings(3000.0, 12, 4.0, 5.0)
    told = [hazard_of(h) for h in ledger(prove(figure, 0.1, 0.21), context, strings=strings)]
    bands = Bands(0.05, np.full(50, 0.2), np.ones(50), 0.0, (0.0, 0.0, 0.0), 0.0)
    fewer = fewer_strings(told, 100, bands)
    before, after = ({h.code: h for h in hazards} for hazards in (told, fewer))
    assert after["strings"].needs == pytest.approx(1500) and "1,500 times" in after["strings"].message
    assert after["strings"].chance == pytest.approx(0.5) and before["strings"].chance > 0.8
    assert {c: h for c, h in after.items() if c != "strings"} == {c: h for c, h in before.items() if c != "strings"}


def test_what_a_support_lies_under() -> None:
    def tip(**more: Any) -> Tip:
        return Tip(0, 0, 9, 0.5, (1.0,), "island", "plate", ((0, 0, 0), (0, 0, 9)), **more)

    assert carries_mm2(tip(cell=0.5, cells=((0, 0), (0, 1), (1, 1)))) == pytest.approx(0.75)
    assert carries_mm2(tip(cap=3.0)) == pytest.approx(math.pi * 2.25)
    assert carries_mm2(tip()) == pytest.approx(math.pi / 16)


def test_feet_under_what_starts_in_mid_air_are_told_apart_from_those_under_undersides() -> None:
    """A beam on a post, and a peg that hangs from its end: the peg is lost with its foot, the beam only sags."""
    figure = Mesh.joined([box((0, 0, 15), (6, 6, 30)), box((14, 0, 29), (34, 6, 2)), box((27, 0, 20), (5, 5, 18))])
    context = Context.of(KESTREL, FILAMENT, 0.2)
    made = make_supports(figure, context, style="pillars")
    sight = Sight(made.after, context, made.before, tips=made.tips, off=made.tips, braces=made.braces)
    lost, sags = sorted(found_by(sight, "falls"), key=lambda h: h.loss)
    (start,) = made.before.islands
    under = [t for t in made.tips if (t.x, t.y, t.z) == (start.x, start.y, start.z)]
    assert (lost.loss, sags.loss) == ("part lost", "scar") and len(under) == 1
    assert len(lost.arises.margins) == len(under)
    assert len(lost.arises.margins) + len(sags.arises.margins) == len(footings(made.tips, made.braces, context))
