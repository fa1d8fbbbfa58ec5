"""Specks of relief: held by whom risks little, left to themselves by whom accepts more, and their marks are told and
priced.
"""

from __future__ import annotations

import math

import pytest

from tenugui.core.layers import alone_mm, prove, relief_mm
from tenugui.core.machines import Context, Material, Printer
from tenugui.core.mesh import Mesh
from tenugui.core.removal.hands import SPECK_SHARE, chances
from tenugui.core.risk import ledger
from tenugui.core.supports import make_supports, manner_of, safety_factor
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box

MACHINES: dict[str, tuple[Printer, Material, float]] = {
    "resin": (HERON, RESIN, 0.05),
    "filament": (KESTREL, FILAMENT, 0.1),
}


def scaled_ledge() -> Mesh:
    """A block on a foot, with scales on its sides that start 0.2 mm below where they join it, and one tongue that hangs
    3 mm.
    """
    parts = [box((0, 0, 10), (10, 10, 20))]
    for k in range(8):
        y = -4.2 + 1.2 * k
        parts.append(box((5.65, y, 14.1), (0.5, 0.8, 0.2)))
        parts.append(box((5.4, y, 14.6), (1.0, 0.8, 0.8)))
    parts += [box((-7.5, 0, 14.5), (1.0, 4, 3)), box((-6.2, 0, 16.5), (3.6, 4, 1.0))]
    return Mesh.joined(parts)


@pytest.mark.parametrize("process", list(MACHINES))
def test_specks_are_held_at_little_risk_and_left_at_more(process: str) -> None:
    printer, material, height = MACHINES[process]
    context = Context(printer, material, height)
    sure, light = (make_supports(scaled_ledge(), context, risk=r) for r in (0.01, 0.2))
    specks, left = len(light.after.islands), sure.after.islands
    assert sure.islands == [] and light.islands == [] and specks >= 6
    # A film tears off what hangs; a nozzle draws what joins at once, if roughly.
    most = 0.0 if process == "resin" else relief_mm(height) / 2
    assert all(alone_mm(i, height) <= most for i in left) and len(left) <= specks
    islands = [sum(t.reason == "island" for t in made.tips) for made in (sure, light)]
    assert islands[0] >= islands[1] + specks - len(left) and islands[1] >= 1, "the tongue is held in any case"
    told = {f.code: f.count for f in light.findings}
    assert told["specks-unheld"] == specks and "island-left" not in told
    assert ("specks-unheld" in {f.code for f in sure.findings}) is bool(left)
    marks = [h for h in ledger(light.after, context, tips=light.tips, own=light.before) if h.code == "island"]
    order = ledger(light.after, context, tips=light.tips, own=light.before)
    behind = order[[h.code for h in order].index("island") :]
    assert all(h.loss == "scar" or h.chance < 0.02 for h in behind), "no speck stands before what may fail"
    assert len(marks) == specks and all(h.loss == "scar" and 0 < h.chance < 1 for h in marks)
    lost, part, scars = chances(marks)
    assert (lost, part) == (0, 0) and scars == pytest.approx(SPECK_SHARE * sum(h.chance for h in marks))


def test_who_accepts_more_risk_bridges_farther_on_filament_by_the_safety() -> None:
    manner = manner_of(Context(KESTREL, FILAMENT, 0.1))
    pitches = [manner.pitch_mm(0.0, 0.42, risk) for risk in (0.001, 0.01, 0.05, 0.2, 0.5)]
    assert pitches == sorted(pitches) and pitches[2] == 2.5
    assert pitches[3] / pitches[2] == pytest.approx(safety_factor(0.05) / safety_factor(0.2))
    steep = [manner.pitch_mm(math.radians(90 - lean), 0.42, 0.05) for lean in (89, 80, 70, 65, 50)]
    assert steep == sorted(steep) and steep[0] == 2.5 and steep[-1] == 5.0, "a line that rests in part wants less"


def test_what_hangs_close_over_something_gets_no_tip_from_a_nozzle() -> None:
    """Lines sag onto it, and out of so narrow a slot no support is got again; the same a little higher is held."""
    for low, held in ((0.8, False), (4.0, True)):
        post = box((0, 0, 10), (6, 6, 20))
        over_plate = Mesh.joined([post, box((7, 0, low + 1.5), (14, 14, 3))])
        over_slab = Mesh.joined([post, box((7, 0, 3), (14, 14, 6)), box((7, 0, 6 + low + 1.5), (14, 14, 3))])
        for figure in (over_plate, over_slab):
            tips = make_supports(figure, Context.of(KESTREL.model_copy(update={"bridge_mm": 0.0}), FILAMENT, 0.2)).tips
            assert bool(tips) == held, (low, len(tips))
    resin = make_supports(over_plate, Context.of(HERON, RESIN, 0.05))
    assert resin.tips, "a sheet that is peeled sags onto nothing"


def test_nothing_tall_stands_before_a_face_for_a_droop_that_is_sooner_mended() -> None:
    """A wall with a small bead on it, low and high: the same droop is worth a short pillar, and none of 60 mm."""
    context = Context.of(KESTREL, FILAMENT, 0.16)

    def held(z: float) -> int:
        wall = Mesh.joined([box((0, 0, 40), (30, 6, 80)), ball(3.2, (0, -3.0, z), 4), ball(3.2, (6.2, -3.0, z), 4)])
        proof = prove(wall, context.height, context.reach, bridge=context.bridge)
        assert 2 < proof.hang.total < 24
        return sum(tip.y < -3.5 for tip in make_supports(wall, context, before=proof).tips)

    low, high = held(7.0), held(70.0)
    assert low >= 1 and high == 0
