"""Drills of a plan that is settled: the engine's own answers as questions."""

from __future__ import annotations

import hashlib

import numpy as np

from ..contract import HeldDoc, LayersBoard, tips_from
from ..contract.drills import DrillsDoc, drill_of
from ..contract.removal import RemovalGroup
from ..drills import Scene, figure_drills
from ..drills.drain import ABOVE, MOST_PLACES, Drained, Hollowness, cut
from ..drills.of_figure import HeightShown, Loss, PoseShown, spaced
from ..drills.shown import in_sight
from ..hollow import bores, judged
from ..mesh import picture
from ..pose import rank_poses
from ..removal.hands import weights_at
from ..supports import manner_of
from .cut_out import must_hollow
from .figure import coarse_of
from .given import FigureGiven, LayersGiven, PosedGiven, ProofGiven
from .hollow_alternative import outer_weights
from .inputs import PosedInputs
from .liquid import liquid_of
from .pose import plain_wish, searched
from .proof import removal_sheet
from .shelf import Shelf
from .supports import held_as_taken
from .tasks import Progress, kept, key_of, task
from .what_if import kept_in, needed_of

POSE_SIZE = (250, 300)


@task("drills", ProofGiven, DrillsDoc, rests_on=("held", "search", "coarse"))
def drills(shelf: Shelf, given: ProofGiven, progress: Progress) -> DrillsDoc:
    """One drill of every kind that the plan has a question for."""
    progress(0.05, "reading every layer again")
    inputs, supported = PosedInputs(shelf, given), held_as_taken(shelf, given)
    context = inputs.placed_context(given.height)
    before = inputs.before(context)
    progress(0.4, "looking at its supports")
    tips, figure = tips_from(supported.supports.tips), inputs.placed.whole
    peeled = manner_of(context).hangs
    removal = removal_sheet(inputs, supported)
    scene = Scene(
        name="This figure",
        figure=figure,
        proof=before,
        tips=tips,
        costs=weights_at(figure, context.weights, tips).tolist(),
        needed=needed_of(kept_in(inputs, supported.row), given.risk).needed if peeled and tips else (),
        first_side=removal.groups[0].side if removal.groups else "",
        sides=_sides(removal.groups),
        losses=_losses(supported),
        poses=_poses(shelf, inputs, given),
        heights=_heights(shelf, given),
    )
    progress(0.7, "asking")
    seed = int(hashlib.sha256(key_of("drills", given).encode()).hexdigest()[:12], 16)
    hollow = hollowness(shelf, inputs, given, seed)
    return DrillsDoc(drills=[drill_of(drill, shelf.put) for drill in figure_drills(scene, seed, hollow)])


TRIED = 40
"""Places for a second hole that are weighed before a few of them are shown."""


def hollowness(shelf: Shelf, inputs: PosedInputs, given: PosedGiven, seed: int) -> Hollowness | None:
    """A figure that was hollowed, with a few places for a second hole from the driest to the wettest; None where there
    is nothing to choose.
    """
    taken = given.hollow
    if taken is None or taken.wall <= 0:
        return None
    hollowed = must_hollow(shelf, given, taken.wall, taken.lattice)
    if not hollowed.cavities:
        return None
    cavity, down = hollowed.cavities[0], np.array(given.down, float)
    every = bores(hollowed, cavity, down, outer_weights(inputs, hollowed))
    if not every:
        return None
    vent, rng = every[0], np.random.default_rng(seed)
    others = [every[1 + int(k)] for k in rng.permutation(len(every) - 1)[:TRIED]]
    place = inputs.placed.place
    points = np.array([hole.point for hole in others]).reshape(-1, 3) @ place.turn.T + place.shift
    outside = place.apply(hollowed.outer)
    seen = np.asarray(in_sight(outside, points, ABOVE).any(axis=1))
    opened = [(judged(cavity, [vent, others[k]], down), k) for k in np.flatnonzero(seen).tolist()]
    opened.sort(key=lambda one: one[0].drips.retained)
    shown = spaced(points[[k for _, k in opened[:1] + opened[1:][::-1]]], MOST_PLACES, np.empty((0, 3)))
    by_place = {tuple(points[k]): (one, others[k]) for one, k in opened}
    rows = []
    for p in shown[rng.permutation(len(shown))]:
        one, hole = by_place[tuple(p)]
        drips = one.drips
        doc = liquid_of(hollowed, [[vent, hole], *([] for _ in hollowed.cavities[1:])], np.array(one.gravity))
        rows.append(
            Drained(
                (float(p[0]), float(p[1]), float(p[2])),
                drips.retained / 1000,
                drips.seconds,
                cut(doc.figure, doc.cavity, doc.stays, doc.cell_mm),
            )
        )
    return Hollowness(outside, cavity.volume / 1000, rows)


def _sides(groups: list[RemovalGroup]) -> dict[str, int]:
    sides: dict[str, int] = {}
    for group in groups:
        sides[group.side] = sides.get(group.side, 0) + len(group.tips)
    return sides


def _losses(supported: HeldDoc) -> list[Loss]:
    return [
        Loss((h.x_mm, h.y_mm, h.z_mm), h.chance, h.message)
        for h in supported.proof.hazards
        if h.loss == "part lost" and h.code in ("thin", "handled", "knock", "sway")
    ]


def _poses(shelf: Shelf, inputs: PosedInputs, given: ProofGiven) -> list[PoseShown]:
    """The poses that nobody beats, and what each takes, in the figure's own frame at its size."""
    figure = given.to(FigureGiven)
    search, context = searched(shelf, figure), inputs.context()
    coarse = coarse_of(shelf, given.sha).scaled(inputs.factor)
    choice = rank_poses(search.coarse, search, context, wish=plain_wish(None), front=inputs.front)
    shown = []
    for c in choice.candidates:
        turn = inputs.placed_as(c.down).turn
        said = f"{c.worth.total:.2f} coins: {c.worth.hands_min:.0f} minutes, {c.worth.machine_h:.1f} hours, "
        said += f"{c.worth.risk:.0%} lost. {c.why}"
        shown.append(PoseShown(picture(coarse.transformed(turn, np.zeros(3)), size=POSE_SIZE), c.worth.total, said))
    return shown


def _heights(shelf: Shelf, given: ProofGiven) -> list[HeightShown]:
    board = kept(shelf, "layers", given.to(LayersGiven), LayersBoard)
    rows = [] if board is None else [row for row in board.choices if row.bands is None]
    return [HeightShown(row.height.layer_height_mm, row.height.time_s / 3600) for row in rows]
