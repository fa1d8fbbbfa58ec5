"""Supports in a cavity stay there: they are told apart, and cost no cutting and no sanding."""

from __future__ import annotations

import numpy as np
import pytest

from tenugui.core.layers import prove
from tenugui.core.machines import Context
from tenugui.core.marks.kinds import SCAR_WEIGHT
from tenugui.core.mesh import Mesh
from tenugui.core.process import process_of
from tenugui.core.removal.hands import held_gift, mean_lean, weights_at
from tenugui.core.risk import ledger
from tenugui.core.supports import INSIDE_WEIGHT, make_supports, seen_weights
from tests.presets import HERON, RESIN
from tests.shapes import box


def chamber() -> tuple[Mesh, np.ndarray]:
    """A closed room with a post that hangs from its ceiling, and the weights of its faces: inside beyond all."""
    outer, inner, post = box((0, 0, 15), (24, 24, 30)), box((0, 0, 15), (18, 18, 24)), box((0, 0, 21), (4, 4, 14))
    shut = Mesh(inner.vertices, inner.faces[:, ::-1])
    weights = np.concatenate([np.ones(12), np.full(24, INSIDE_WEIGHT)])
    return Mesh.joined([outer, shut, post]), weights


def test_what_hangs_in_a_cavity_is_held_there_and_told_so() -> None:
    mesh, weights = chamber()
    context = Context(HERON, RESIN, 0.1, weights=weights)
    made = make_supports(mesh, context)
    assert made.inside.any() and not made.after.islands
    inside = [t for t, i in zip(made.tips, made.inside, strict=True) if i]
    assert all(t.on == "model" and 2.9 < t.joints[0][2] < t.z < 27.1 + made.figure.lower[2] for t in inside)
    codes = {f.code for f in made.findings}
    assert "stands-inside" in codes and "stands-on-figure" not in codes
    plain = make_supports(mesh, Context(HERON, RESIN, 0.1))
    assert not plain.inside.any() and "stands-on-figure" in {f.code for f in plain.findings}


def test_what_pulls_in_a_cavity_gets_as_many_tips_as_it_wants() -> None:
    """A slab that hangs by a rod from the ceiling, tilted so that it starts at one edge: one tip under its edge does
    not carry it.
    """
    outer, inner = box((0, 0, 20), (40, 40, 40)), box((0, 0, 20), (34, 34, 34))
    slab = box((0, 0, 0), (20, 12, 2))
    lean = np.radians(12)
    turn = np.array([[np.cos(lean), 0, np.sin(lean)], [0, 1, 0], [-np.sin(lean), 0, np.cos(lean)]])
    hung = Mesh(slab.vertices @ turn.T + [0, 0, 15], slab.faces)
    mesh = Mesh.joined([outer, Mesh(inner.vertices, inner.faces[:, ::-1]), hung, box((0, 0, 26), (3, 3, 23))])
    weights = np.concatenate([np.ones(12), np.full(36, INSIDE_WEIGHT)])

    def lost(weights: np.ndarray) -> float:
        context = Context(HERON, RESIN, 0.1, weights=weights)
        made = make_supports(mesh, context)
        told = ledger(made.after, context, tips=made.tips, own=made.before, off=[])
        return max((h.chance for h in told if h.loss == "part lost" and h.code in ("pull", "island")), default=0.0)

    assert lost(weights) < 0.1
    barred = np.where(weights >= INSIDE_WEIGHT, max(SCAR_WEIGHT), weights)
    assert lost(barred) > 0.5, "where nothing may stand it is lost"


def test_they_are_no_hazard_and_no_work() -> None:
    mesh, weights = chamber()
    context = Context(HERON, RESIN, 0.1, weights=weights)
    made = make_supports(mesh, context)
    off = [t for t, i in zip(made.tips, made.inside, strict=True) if not i]
    assert len(off) < len(made.tips)
    told = ledger(made.after, context, tips=made.tips, own=made.before, off=off)
    assert "stands-on-figure" not in {h.code for h in told}
    use = process_of(HERON).use(made.after.stack, made.after.areas, context)
    less = held_gift(off, weights_at(made.figure, weights, off), 0.5, hazards=told, use=use, context=context)
    more = held_gift(
        made.tips, weights_at(made.figure, weights, made.tips), 0.5, hazards=told, use=use, context=context
    )
    inner = len(made.tips) - len(off)
    assert 0.1 * inner < more.hands_min - less.hands_min < 3 * inner, "cut off, they would not be sanded in there"
    assert prove(made.figure, 0.1, context.reach).islands


def test_a_keep_out_that_stands_on_the_figure_is_no_cavity() -> None:
    """What weighs as much as marks can is cut off like any other: told to stay there, it would be printed into
    a fit.
    """
    mesh, weights = chamber()
    marked = np.where(weights >= INSIDE_WEIGHT, max(SCAR_WEIGHT), weights)
    made = make_supports(mesh, Context(HERON, RESIN, 0.1, weights=marked))
    assert not any(t.on == "model" for t in made.tips) and not made.inside.any()
    assert made.islands and "island-left" in {f.code for f in made.findings}, "and what hangs there is told"
    shown = make_supports(mesh, Context(HERON, RESIN, 0.1, weights=np.where(weights >= INSIDE_WEIGHT, 10.0, weights)))
    assert any(t.on == "model" for t in shown.tips) and not shown.inside.any()
    assert "stands-on-figure" in {f.code for f in shown.findings}


def test_the_finish_is_that_of_the_outside() -> None:
    mesh, weights = chamber()
    seen = seen_weights(weights)
    assert seen is not None and (seen[:12] == 1).all() and (seen[12:] == 0).all() and seen_weights(None) is None
    tilt = np.array([[1, 0, 0], [0, 0.8, -0.6], [0, 0.6, 0.8]])
    turned = mesh.transformed(tilt, np.zeros(3))
    outer = Mesh(turned.vertices, turned.faces[:12])
    assert mean_lean(turned, seen) == pytest.approx(mean_lean(outer, None))
