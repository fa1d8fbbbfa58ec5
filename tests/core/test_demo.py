"""The demo's figures are what they are said to be: sculpted coarsely here, read by the engine under test."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from tenugui.core.layers import is_slight, prove
from tenugui.core.mesh import Mesh, examine, local_thickness, measure, thin_places
from tenugui.demo.clay import Clay, frame
from tenugui.demo.figures import DERIVED, NAMES, broken, presupported
from tenugui.demo.sculpts import SCULPTS

COARSE = 0.55


@cache
def sculpt(name: str) -> Mesh:
    return SCULPTS[name](COARSE).dropped()


@pytest.mark.parametrize("name", SCULPTS)
def test_every_sculpt_is_closed_and_of_a_figures_size(name: str) -> None:
    basics = measure(sculpt(name))
    assert basics.watertight and basics.volume_mm3 > 5000 and 45 < basics.size_mm[2] < 95
    assert basics.shells <= 12


def lasting(mesh: Mesh) -> list[float]:
    proof = prove(mesh, 0.1, 0.2)
    return [i.z for i in proof.islands if not is_slight(i, 0.1)]


def test_the_abbots_feelers_start_in_mid_air() -> None:
    starts = lasting(sculpt("toad-abbot"))
    assert sum(18 < z < 26 for z in starts) >= 4, "two feelers on each side"


def test_the_lantern_seals_against_the_film_and_traps_nothing() -> None:
    voids = prove(sculpt("shrine-lantern"), 0.1, 0.2).voids
    largest = voids.sealed[0]
    assert largest.first_layer == 0 and largest.last_layer * 0.1 > 30 and largest.volume > 3000
    assert voids.trapped == []


def test_the_wardens_spear_is_thin_at_tabletop_size() -> None:
    small = sculpt("reed-warden").scaled(28 / 78.7)
    places = thin_places(local_thickness(small), 0.5)
    assert any(p.extent > 8 for p in places)


def test_the_giants_pegs_fit_his_sockets() -> None:
    upper, stilts = SCULPTS["stilt-giant-upper"](COARSE), SCULPTS["stilt-giant-stilts"](COARSE)
    socket, peg = prove(upper.dropped(), 0.2, 0.2), prove(stilts.dropped(), 0.2, 0.2)
    sealed = [s for s in socket.voids.sealed if s.first_layer == 0 and s.volume > 60]
    assert len(sealed) == 2, "two sockets open downwards"
    top = peg.stack.grid.layers - 8
    area = peg.areas[top] / 2
    assert np.sqrt(area / np.pi) == pytest.approx(2.9, abs=0.15)
    assert np.sqrt(np.median(sealed[0].area[5:20]) / np.pi) == pytest.approx(3.1, abs=0.15)


def test_the_broken_file_is_broken_in_every_way_it_promises() -> None:
    found = {f.code for f in examine(broken(sculpt("reed-warden"))).findings}
    assert found >= {"open-edges", "turned-faces", "double-faces", "specks", "many-shells"}


def test_the_file_in_inches_is_guessed() -> None:
    _, shrink = DERIVED["toad-abbot-inches"]
    assert examine(shrink(sculpt("toad-abbot"))).unit_guess == "in"


def test_the_presupported_bust_stands_on_many_shells() -> None:
    whole = presupported(sculpt("ferry-keeper"))
    assert measure(whole).shells > 10 and whole.lower[2] == pytest.approx(0, abs=1e-6)
    assert set(NAMES) == {*SCULPTS, *DERIVED}


def test_clay_makes_balls_and_drums_of_the_right_volume() -> None:
    clay = Clay((-8, -8, -8), (8, 8, 8), 0.25)
    clay.ball((0, 0, 0), 5.0)
    assert measure(clay.mesh()).volume_mm3 == pytest.approx(4 / 3 * np.pi * 125, rel=0.01)
    clay = Clay((-8, -8, -1), (8, 8, 9), 0.2)
    clay.drum((0, 0, 0), 4.0, 6.0, rounding=0.05)
    assert measure(clay.mesh()).volume_mm3 == pytest.approx(np.pi * 16 * 6, rel=0.03)


def test_a_long_limb_is_even_along_its_length() -> None:
    clay = Clay((-3, -3, -1), (3, 3, 21), 0.2)
    clay.limb([(0, 0, 0), (0, 0, 10), (0, 0, 20)], [1.0, 1.0, 1.0], 0.5, 8)
    areas = prove(clay.mesh().dropped(), 0.2, 0.2).areas[15:-15]
    assert areas == pytest.approx(np.full(len(areas), np.pi), rel=0.03), "no beads at the joints"


def test_a_frame_is_a_turn() -> None:
    turn = frame((1, 2, 3), (0, 0, 1))
    assert turn @ turn.T == pytest.approx(np.eye(3)) and turn[0] == pytest.approx(np.array([1, 2, 3]) / np.sqrt(14))
