"""Tips taken off against what they hold; and what a knock of the nozzle breaks, both by hand."""

from __future__ import annotations

import dataclasses
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import ndtr

from tenugui.core.hazards import Sight, chance, found_by
from tenugui.core.layers import features, prove
from tenugui.core.machines import PLASTIC_MPA as STIFF_MPA
from tenugui.core.machines import Context, FilamentPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.paths.walls import BOND_MPA, Walls, solid_share
from tenugui.core.pose import KNOCK_N
from tenugui.core.process.filament import ASIDE_MM, KNOCKED
from tenugui.core.removal.handling import CUT, bears, handling
from tenugui.core.supports import Tip
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cylinder

assert isinstance(KESTREL, FilamentPrinter)


def bar(thick: float) -> Mesh:
    """A wall with a square rod that reaches out of it level, 10 mm above the plate."""
    return Mesh.joined([box((-10, 0, 10), (10, 20, 20)), box((4.99, 0, 10), (20, thick, thick))])


def under(thick: float, diameter: float = 0.4) -> Tip:
    z = 10 - thick / 2
    joints = ((12.0, 0.0, 0.0), (12.0, 0.0, z - 2), (12.0, 0.0, z))
    return Tip(12.0, 0.0, z, diameter, (1.0, diameter), "overhang", "plate", joints)


def told(mesh: Mesh, *tips: Tip, scatter: float = 1.0):  # type: ignore[no-untyped-def]
    return handling(mesh, prove(mesh, 0.05, 0.1).stack, tips, scatter)


def test_a_rod_is_told_of_as_the_cube_of_its_thickness_over_the_tips() -> None:
    thick, wide = 0.5, 0.4
    (threat,) = told(bar(thick), under(thick, wide))
    margin = CUT * (thick / (2 * wide)) ** 3
    assert threat.chance == pytest.approx(chance(margin), rel=0.1) and threat.loss == "part lost"
    assert threat.has == pytest.approx(thick, rel=0.02) and "cut" in threat.message and "breaks off" in threat.message
    assert told(bar(1.6), under(1.6)) == [], "what is stout is not told"
    assert told(bar(thick), dataclasses.replace(under(thick), gap=0.2)) == [], "what keeps a gap peels off"
    assert told(bar(thick), under(thick, wide), scatter=2.0)[0].on(2.0).chance > threat.chance
    two = told(bar(thick), under(thick, wide), dataclasses.replace(under(thick, wide), y=0.05))
    assert (
        two[0].chance == pytest.approx(1 - (1 - chance(margin)) ** 2, rel=0.1)
        and "2 tips stand on parts hardly thicker than they are. The worst" in two[0].message
    )


def test_what_no_cutter_reaches_is_snapped_and_bears_less() -> None:
    """The same rod in a shaft so narrow that no jaw comes in."""
    thick, wide = 0.8, 0.4
    shaft = [
        box((4 * x, 4 * y, 20), (8 if x == 0 else 2, 8 if y == 0 else 2, 40))
        for x, y in ((0.5, 0), (-0.5, 0), (0, 0.5), (0, -0.5))
    ]
    walls = Mesh.joined([*shaft, box((0, 0, 10), (4, thick, thick))])
    tip = dataclasses.replace(under(thick, wide), x=0.0, joints=((0, 0, 0), (0, 0, 7.0), (0, 0, 9.6)))
    (threat,) = told(walls, tip)
    assert "snapped" in threat.message and threat.chance == pytest.approx(chance((thick / (2 * wide)) ** 3), rel=0.15)


@settings(max_examples=60, deadline=None)
@given(st.floats(0.1, 3), st.floats(0.1, 9), st.floats(0.1, 1))
def test_what_is_thicker_or_wider_bears_more_and_a_finer_tip_asks_less(thick: float, wide: float, tip: float) -> None:
    def at(t: float, w: float, d: float) -> float:
        return float(bears(np.array([t]), np.array([w]), np.array([d]), np.array([False]))[0])

    here = at(thick, wide, tip)
    assert (
        at(1.1 * thick, wide, tip) > here
        and at(thick, 2 * wide, tip) >= here
        and at(thick, wide, 0.5 * tip) == pytest.approx(8 * here)
    )


def test_a_sheet_chips_and_a_rod_breaks_off() -> None:
    sheet = Mesh.joined([box((-10, 0, 10), (10, 20, 20)), box((4.99, 0, 10), (20, 12, 0.3))])
    found = told(sheet, under(0.3, 0.6))
    assert [t.loss for t in found] == ["scar"] and "chips" in found[0].message


def knocks(mesh: Mesh, printer=KESTREL):  # type: ignore[no-untyped-def]
    context = Context.of(printer, FILAMENT, 0.2)
    proof = prove(mesh, 0.2, context.reach)
    return found_by(Sight(proof, context, proof), "knock")


def pin(radius: float, tall: float) -> Mesh:
    return Mesh.joined([box((0, 0, 2), (30, 30, 4)), cylinder(radius, tall, (0, 0, 4))])


def test_a_knock_breaks_what_is_neither_stout_nor_slender() -> None:
    """By hand: a pin of 2 mm, 9 mm tall, breaks at σ π D³ / 32 L; what is slender bends out of the way, what is stout
    bears it.
    """
    (threat,) = knocks(pin(1.0, 9.0))
    stiff = 3 * STIFF_MPA * math.pi * 2.0**4 / 64 / 9.0**3
    needs = min(KNOCK_N, stiff * ASIDE_MM)
    assert threat.needs == pytest.approx(needs, rel=0.15)
    assert threat.has == pytest.approx(BOND_MPA * math.pi * 2.0**3 / 32 / 9.0, rel=0.1)
    assert threat.chance == pytest.approx(KNOCKED * ndtr(-math.log(threat.has / threat.needs) / 0.5), rel=0.01)
    assert knocks(pin(0.5, 40.0)) == [], "it sways, and bends aside"
    assert knocks(pin(4.0, 25.0)) == []
    screen, cured = Context.of(HERON, RESIN, 0.1), prove(pin(1.0, 9.0), 0.1, 0.1)
    assert found_by(Sight(cured, screen, cured), "knock") == [], "nothing runs into what hangs in resin"
    hollow = KESTREL.model_copy(update={"perimeters": 1, "infill": 0.0})
    weaker = knocks(pin(1.5, 13.0), hollow)
    if weaker:
        share = float(solid_share(np.array([3.0]), Walls(1, 0.8, 0.0), KESTREL.line_mm)[0])
        assert weaker[0].has == pytest.approx(share * BOND_MPA * math.pi * 3.0**3 / 32 / 13.0, rel=0.1)


def test_features_are_measured_on_the_layers_through_shells_that_overlap() -> None:
    """A plate of two shells pushed into each other is as thick as both, a rod as wide as itself, a ball as thick as it
    is over its lowest point.
    """
    plate = Mesh.joined([box((0, 0, 5.2), (12, 3, 0.8)), box((0, 0, 5.8), (12, 3, 0.8))])
    stack = prove(plate, 0.05, 0.1).stack
    (found,) = features(stack, np.array([[1.0, 0.2, 4.8]]))
    assert found[:2] == pytest.approx([1.4, 3.0], abs=0.11) and found[2] == pytest.approx(6.0, abs=0.7)
    round_ = prove(ball(1.5, (0, 0, 4), 4), 0.05, 0.1).stack
    (found,) = features(round_, np.array([[0.0, 0.0, 2.5]]))
    assert found[:2] == pytest.approx([3.0, 2 * math.sqrt(1.5**2 - 0.5**2)], abs=0.15), "in its middle, or a mm up"
    assert features(round_, np.array([[0.0, 0.0, 1.0], [9.0, 0, 4], [0, 99, 0]])).tolist() == [[0, 0, 0]] * 3


def test_a_bump_is_no_part_and_a_slanting_rod_is_one_along_its_whole_length() -> None:
    """A bump 0.5 mm thick at a wall chips; a rod that rises at 30 degrees is followed to its end."""
    wall = box((-10, 0, 10), (10, 20, 20))
    bump = Mesh.joined([wall, box((-4.6, 0, 10), (1.2, 0.5, 0.5))])
    tip = dataclasses.replace(under(0.5), x=-4.3, joints=((-4.3, 0, 0), (-4.3, 0, 7.75), (-4.3, 0, 9.75)))
    assert [t.loss for t in told(bump, tip)] == ["scar"]
    rod = cylinder(0.3, 12.0)
    turn = np.array([[0.5, 0, 0.866], [0, 1, 0], [-0.866, 0, 0.5]])
    slant = Mesh.joined([box((-5, 0, 5), (10, 10, 10)), Mesh(rod.vertices @ turn.T + [-0.5, 0, 5], rod.faces)])
    stack = prove(slant, 0.05, 0.1).stack
    (found,) = features(stack, np.array([[5.0, 0.0, 5 + 5.5 * 0.577 - 0.36]]))
    assert found[0] == pytest.approx(0.6 / 0.866, abs=0.12) and found[2] == pytest.approx(4.9, abs=0.6)
