"""Necks: sections that a pull must pass, by hand."""

from __future__ import annotations

import numpy as np
import pytest

from tenugui.core.layers import prove
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.supports.holds import PLATE_KPA
from tenugui.core.supports.necks import Neck, necks
from tests.presets import HERON, RESIN
from tests.shapes import box, cylinder

CONTEXT = Context.of(HERON, RESIN, 0.05)
PEEL = HERON.peel_kpa * 1e-3  # type: ignore[union-attr]
GREEN = RESIN.green_strength_mpa
NONE = np.empty((0, 3))


def found(mesh: Mesh, points: list[tuple[float, float, float]] | None = None, least: float = 1e9) -> list[Neck]:
    proof = prove(mesh, CONTEXT.height, CONTEXT.reach)
    spots = np.array(points or []).reshape(-1, 3)
    return necks(proof, spots, np.full(len(spots), 0.35), CONTEXT, least)


def test_a_sign_on_a_post_bends_it_as_a_beam_bends() -> None:
    """A 2 mm post carries a 20 x 2 x 6 mm sign that hangs out to one side: force over area, moment over A w / 8."""
    out = 9.0
    sign = Mesh.joined([box((0, 0, 1), (12, 12, 2)), box((0, 0, 8), (2, 2, 12)), box((out, 0, 17), (20, 2, 6))])
    post = next(n for n in found(sign) if 2 < n.z < 14)
    pull = PEEL * 40
    by_hand = (pull / 4 + 8 * pull * out / (4 * 2)) / GREEN
    assert post.pull == pytest.approx(pull, rel=0.02) and post.lever == pytest.approx(out, abs=0.06)
    assert 1 / post.margin == pytest.approx(by_hand, rel=0.04)
    assert post.section_mm2 == pytest.approx(4, rel=0.05) and post.by_layer * 0.05 >= 14


def test_a_post_right_under_its_sign_is_only_pulled() -> None:
    sign = Mesh.joined([box((0, 0, 1), (12, 12, 2)), box((0, 0, 8), (2, 2, 12)), box((0, 0, 17), (20, 2, 6))])
    post = next(n for n in found(sign) if 2 < n.z < 14)
    assert 1 / post.margin == pytest.approx(PEEL * 40 / 4 / GREEN, rel=0.05)


def test_two_legs_under_a_beam_pull_and_hardly_bend() -> None:
    """A gate: each leg takes half of the beam's pull at its own middle, not half of the moment about it."""
    legs = [box((x, 0, 7), (2, 2, 14)) for x in (-10.0, 10.0)]
    gate = Mesh.joined([*legs, box((0, 0, 15), (22, 2, 2))])
    both = [n for n in found(gate) if n.z < 13.5 and n.by_layer * 0.05 >= 14]
    assert {round(n.x) for n in both} == {-10, 10}
    for leg in both:
        assert 1 / leg.margin == pytest.approx(PEEL * 22 / 4 / GREEN, rel=0.1)


def test_a_tip_under_what_hangs_out_takes_the_moment_off_the_post() -> None:
    sign = Mesh.joined([box((0, 0, 1), (12, 12, 2)), box((0, 0, 8), (2, 2, 12)), box((9, 0, 17), (20, 2, 6))])
    alone = next(n for n in found(sign) if 2 < n.z < 14)
    tips = [(x, 0.0, 14.0) for x in (6.0, 11.0, 16.0, 18.5)]
    held = [n for n in found(sign, tips) if 2 < n.z < 14]
    assert max(n.margin for n in held) > 2 * alone.margin
    assert min(n.margin for n in held) > alone.margin


def test_a_thicker_post_holds_by_the_cube_of_its_width() -> None:
    def margin(width: float) -> float:
        parts = [box((0, 0, 1), (30, 30, 2)), cylinder(width / 2, 12), box((12, 0, 17), (30, 2, 6))]
        parts[1] = Mesh(parts[1].vertices - [0, 0, parts[1].lower[2] - 2], parts[1].faces)
        return next(n.margin for n in found(Mesh.joined(parts)) if 2 < n.z < 13.5)

    assert margin(3.0) / margin(1.5) == pytest.approx(8, rel=0.2)


def test_a_squat_block_has_no_neck_to_speak_of() -> None:
    assert not found(box((0, 0, 5), (12, 12, 10)), least=5.0)
    hold = PLATE_KPA * 1e-3 * 144
    assert hold > PEEL * 144


def test_a_sliver_beside_a_sound_post_is_no_neck_and_alone_it_is() -> None:
    """Two legs of one foot carry a plate: the thin one may break where the thick one carries it all; where that is thin
    too, both are told.
    """
    foot, plate = box((0, 0, 1), (20, 12, 2)), box((0, 0, 13), (12, 8, 2))
    thin = box((-4, 0, 7), (0.2, 0.2, 12))
    sound = found(Mesh.joined([foot, plate, thin, box((1, 0, 7), (6, 6, 12))]), least=4.0)
    assert not [n for n in sound if n.section_mm2 < 0.1]
    alone = found(Mesh.joined([foot, plate, thin]), least=4.0)
    assert [n for n in alone if n.section_mm2 < 0.1 and n.margin < 1]
    both = found(Mesh.joined([foot, plate, thin, box((4, 0, 7), (0.25, 0.25, 12))]), least=4.0)
    assert len([n for n in both if n.section_mm2 < 0.1]) >= 2
