"""Bridges: lines from bank to bank, by hand."""

from __future__ import annotations

import math

import manifold3d
import numpy as np
import pytest

from tenugui.core.layers import bridged, prove
from tenugui.core.layers.bridges import ARCH, RISE_MM
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.risk import ledger
from tenugui.core.supports import make_supports
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import box

CONTEXT = Context.of(KESTREL, FILAMENT, 0.16)
REACH = 0.2


def gate(span: float, turn: float = 0.0, wide: float = 8.0) -> Mesh:
    """Two posts `span` mm apart under a beam, turned about z by degrees."""
    posts = [box((s * (span / 2 + 3), 0, 5), (6, wide, 10)) for s in (-1, 1)]
    whole = Mesh.joined([*posts, box((0, 0, 11), (span + 12, wide, 2))])
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    return Mesh(np.ascontiguousarray(whole.vertices @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])), whole.faces)


@pytest.mark.parametrize("turn", [0, 45, 90])
def test_a_beam_between_two_posts_is_bridged_up_to_the_span_and_hangs_beyond(turn: float) -> None:
    short, far = (prove(gate(18, turn), 0.16, REACH, bridge=b) for b in (20, 16))
    assert short.hang.total < 0.01, "but for a grain at an oblique edge"
    assert far.hang.total == pytest.approx((18 - 2 * REACH) * 8, rel=0.03)


def test_a_shelf_has_one_bank_and_nothing_bridges_it() -> None:
    shelf = Mesh.joined([box((0, 0, 5), (6, 8, 10)), box((5, 0, 11), (16, 8, 2))])
    with_, without = (prove(shelf, 0.16, REACH, bridge=b).hang.total for b in (20, 0))
    assert with_ == without == pytest.approx((10 - REACH) * 8, rel=0.03)


def test_where_a_point_of_the_underside_lies_on_a_bridge() -> None:
    stack = prove(gate(18), 0.16, REACH).stack
    under = np.array([[0, 0, 10.0], [8.5, 3, 10.0], [0, 0, 12.0], [30, 0, 10.0]])
    assert bridged(stack, under, 20).tolist() == [True, True, False, False]
    assert not bridged(stack, under, 16).any() and not bridged(stack, under, 0).any()


def test_a_stump_that_ends_half_way_hangs_between_beams_that_are_bridged() -> None:
    posts = [box((s * 12, 0, 5), (6, 8, 10)) for s in (-1, 1)]
    sides = [box((0, s * 2.75, 11), (30, 2.5, 2)) for s in (-1, 1)]
    stump = box((-7, 0, 11), (16, 3, 2))
    proof = prove(Mesh.joined([*posts, *sides, stump]), 0.16, REACH, bridge=20)
    assert proof.hang.total == pytest.approx((1 + 9 - REACH) * 3, rel=0.02), (
        "its neighbours are of its own layer: no bank"
    )


def bored(radius: float, deep: float = 12.0) -> Mesh:
    """A block with a round hole that lies, all through it."""
    side = 2 * radius + 16
    block = manifold3d.Manifold.cube((side, deep, side), True)
    hole = manifold3d.Manifold.cylinder(deep + 2, radius, radius, 96, True).rotate((90, 0, 0))
    made = (block - hole).to_mesh()
    return Mesh(np.asarray(made.vert_properties[:, :3], float), np.asarray(made.tri_verts, np.int32)).dropped()


@pytest.mark.parametrize("radius", [2.0, 4.0, 6.0, 12.0])
def test_the_crown_of_a_lying_hole_holds_itself_where_it_closes_over_ten_millimetres(radius: float) -> None:
    """By hand: it has to close within 1.5 mm of height from bank to bank of at most 10; what is left open below that,
    and is steeper than what reaches out freely, hangs.
    """
    proof = prove(bored(radius), CONTEXT.height, CONTEXT.reach, bridge=CONTEXT.bridge)
    made = make_supports(bored(radius), CONTEXT, before=proof)
    # Free as long as a layer reaches out less than it may: above that slope the chord is so wide, and so high.
    lean = math.atan(CONTEXT.reach / CONTEXT.height)
    chord, rise = 2 * radius * math.cos(lean), radius * (1 - math.sin(lean))
    closes = chord <= ARCH * CONTEXT.bridge and rise <= RISE_MM
    assert (len(made.tips) == 0) == closes and (proof.hang.total < 0.5) == closes
    open_ = prove(bored(radius), CONTEXT.height, CONTEXT.reach)
    assert open_.hang.total > 4, "a machine that bridges nothing closes no arch either"


def test_a_lip_beside_open_air_is_no_arch() -> None:
    """Under a hole that stays open above, nothing closes: a ring's inner lip hangs as it did."""
    lip = Mesh.joined([box((-9, 0, 6), (6, 8, 12)), box((9, 0, 6), (6, 8, 12)), box((-4.5, 0, 11), (5, 8, 2))])
    hangs = [prove(lip, 0.16, REACH, bridge=b).hang.total for b in (0.0, 20.0)]
    assert hangs[0] == hangs[1] == pytest.approx((4 - REACH) * 8, rel=0.05)


def test_filament_bridges_a_gate_without_a_tip_and_resin_does_not() -> None:
    assert len(make_supports(gate(18), CONTEXT).tips) == 0
    assert len(make_supports(gate(30), CONTEXT).tips) >= 8
    assert len(make_supports(gate(18), Context.of(HERON, RESIN, 0.05)).tips) >= 8
    bare = prove(gate(18), 0.16, CONTEXT.reach, bridge=CONTEXT.bridge)
    assert not [h for h in ledger(bare, CONTEXT) if h.code == "overhang"]
    worse = prove(gate(30), 0.16, CONTEXT.reach, bridge=CONTEXT.bridge)
    assert next(h for h in ledger(worse, CONTEXT) if h.code == "overhang").chance > 0.9
