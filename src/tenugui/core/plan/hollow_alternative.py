"""One alternative of the fold Hollow: its body cut, read and priced."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..contract import (
    CreaseDoc,
    Finding,
    HoleDoc,
    HollowRow,
    gift_of,
    hollow_document,
    pack_mesh,
    pack_values,
    strip_document,
)
from ..hazards import combined
from ..hollow import Cavity, Crease, Hollowed, Opened, drilled, judged
from ..layers import Proof, is_slight, prove
from ..machines import USUAL_RISK, Context, default_height, kind_of
from ..marks import transfer
from ..mesh import Mesh, Nearest, decimate
from ..mesh.edges import face_volumes
from ..mesh.thickness import vertex_thickness
from ..pose import Placement
from ..process import process_of
from ..removal.hands import finish_min, mean_lean
from ..risk import MISHAP_CHANCE, ledger
from ..supports import CUT_MIN, PIECE_MIN, SAND_MIN, margin_of, tip_hold, usual_tip
from ..worth import Gift
from .cut_out import AS_IT_CAME, hollowed_of
from .figure import PREVIEW, coarse_of
from .given import WayGiven
from .holes import SLOW_DRAIN_S, findings_of, sorted_holes, suggested
from .inputs import Inputs
from .pose import numbers_of
from .pull import pull_of
from .shelf import Shelf
from .tasks import Progress, task

F8 = NDArray[np.float64]
HOLE_MIN, FLUSH_MIN, DRIP_SHARE = 2.0, 4.0, 0.3
"""Priors: minutes to drill clean, plug and fill a hole, to flush, dry and cure a cavity inside, and the share of its
draining that somebody stands by.
"""
STRUTS_MIN = 3.0
"""Prior: so much longer a cavity is flushed and looked into where struts keep the liquid."""
LEAKS = 0.02
"""Prior: a cavity that was not quite clean inside cracks or sweats its figure so often, for each that there is."""
DYED_WALLS = 2.5
"""What is thicker than so many walls is left without a dye."""
INSIDE_LOST, INSIDE_MM = 0.06, 0.3
"""Priors: what starts in mid air in a cavity and grows on alone is lost so often, since its tips stand in there too; it
starts this near to the cavity.
"""


def outer_weights(inputs: Inputs, hollowed: Hollowed) -> F8 | None:
    """What a scar costs on each face of the outside; it has the figure's own faces unless shells were united."""
    if inputs.weights is None:
        return None
    same = len(hollowed.outer.faces) == len(inputs.figure.faces)
    return inputs.weights if same else np.asarray(transfer(inputs.figure, inputs.weights, hollowed.outer))


ROW = "hollowrow"


@task(
    ROW,
    WayGiven,
    HollowRow,
    rests_on=("hollowed", "proposed", "coarse"),
)
def hollow_row(shelf: Shelf, given: WayGiven, progress: Progress) -> HollowRow:
    """Solid where `wall` is None, hollow at a wall, with holes as suggested where none are given; `asked` says that a
    person asked for it.
    """
    inputs = Inputs(shelf, given)
    context = inputs.context(default_height(inputs.printer))
    wall, pitch, asked = given.wall, given.lattice, given.asked
    down = given.down or [-float(v) for v in inputs.up]
    hollowed: Hollowed | None
    if wall is None:
        _, came = hollowed_of(shelf, given, AS_IT_CAME, None)
        hollowed = came if came and came.cavities else None
    else:
        _, hollowed = hollowed_of(shelf, given, wall, pitch)
    plate = np.array(down, float)
    opened: list[Opened | None] = []
    findings: list[Finding] = []
    body = inputs.figure
    if hollowed is not None:
        if given.holes is None:
            opened, findings = suggested(hollowed, plate, outer_weights(inputs, hollowed))
        else:
            rows, findings = sorted_holes(hollowed, [HoleDoc(**hole.model_dump()) for hole in given.holes])
            opened = [
                judged(c, holes, plate) if holes or c.own else None
                for c, holes in zip(hollowed.cavities, rows, strict=True)
            ]
        new = [hole for o in opened if o for hole in o.holes]
        body = drilled(hollowed, new) if new or not hollowed.came else hollowed.outer
    place = inputs.placed_as(down)
    figure = place.apply(body)
    proof = prove(figure, context.height, context.reach)
    use = process_of(inputs.printer).use(proof.stack, proof.areas, context)
    bare = context.bare()
    hazards = ledger(proof, bare)
    pull = process_of(inputs.printer).pull(proof, context)
    holes = sum(len(o.holes) for o in opened if o)
    drain = [o.drips.seconds for o in opened if o]
    seconds = None if any(s is None for s in drain) or None in opened else float(sum(s or 0.0 for s in drain))
    left = sum((o.drips.retained + o.drips.clings) if o else c.volume for c, o in _pairs(hollowed, opened))
    solid = place.apply(inputs.figure)
    lean = finish_min(mean_lean(solid, inputs.weights), context.height, inputs.printer.process)
    by_hand = kind_of(inputs.printer.process).fixed_min + lean + _hold_min(context, float(pull.max()))
    gift = Gift(
        inputs.printer.hands_times * (by_hand + _hollow_min(hollowed, holes, seconds, pitch is not None)),
        use.time_s / 3600,
        use.cost,
        1
        - math.prod(1 - h.chance for h in hazards if h.kind.bare)
        * (1 - _leaks(hollowed))
        * (1 - INSIDE_LOST) ** _hang_inside(hollowed, proof, place)
        * (1 - MISHAP_CHANCE),
    )
    doc = (
        None
        if hollowed is None
        else hollow_document(
            hollowed, opened, float(face_volumes(body).sum()), [*findings, *findings_of(hollowed, opened)]
        )
    )
    seen = (
        decimate(body, PREVIEW)
        if hollowed is not None and wall is not None
        else coarse_of(inputs.shelf, inputs.given.sha).scaled(inputs.factor)
    )
    preview_sha, wall_sha = (
        _looked_at(inputs, hollowed, seen) if hollowed is not None and wall is not None else (None, None)
    )
    return HollowRow(
        wall_mm=wall,
        lattice_mm=pitch,
        own=asked,
        hollow=doc,
        holes=holes,
        retained_ml=left / 1000,
        drain_s=seconds if hollowed is not None else None,
        peak_pull_n=float(pull.max()),
        pull=pull_of(proof, body, seen, context=context, down=down, printer=inputs.printer, film=use.film),
        strip=strip_document(proof, use, hazards, [], bare),
        numbers=numbers_of(
            solid, context, use, combined(h for h in hazards if h.kind.bare or h.code == "mishap"), unheld=True
        ),
        gift=gift_of(gift),
        matrix=inputs.matrix_as(down),
        creases=[] if hollowed is None else [_crease(c, place) for c in hollowed.creases],
        preview_sha=preview_sha,
        wall_sha=wall_sha,
    )


def _crease(crease: Crease, place: Placement) -> CreaseDoc:
    x, y, z = (float(v) for v in place.turn @ np.array(crease.place) + place.shift)
    return CreaseDoc(place=(x, y, z), deep_mm=crease.deep, taken_mm3=crease.taken, hollow=crease.hollow)


def _looked_at(inputs: Inputs, hollowed: Hollowed, seen: Mesh) -> tuple[str, str | None]:
    """The copy of a body that the page turns, on the shelf in its file's frame, and what is solid behind every corner
    of it, for the dye.
    """
    sha = inputs.shelf.put(pack_mesh(seen.scaled(1 / inputs.factor)))
    if not hollowed.cavities:
        return sha, None
    return sha, inputs.shelf.put(pack_values(vertex_thickness(seen, beyond=DYED_WALLS * hollowed.wall)))


def _pairs(hollowed: Hollowed | None, opened: Sequence[Opened | None]) -> list[tuple[Cavity, Opened | None]]:
    return [] if hollowed is None else list(zip(hollowed.cavities, opened, strict=True))


def _leaks(hollowed: Hollowed | None) -> float:
    return 0.0 if hollowed is None else 1 - (1 - LEAKS) ** len(hollowed.cavities)


def _hang_inside(hollowed: Hollowed | None, proof: Proof, place: Placement) -> int:
    """How many parts start in mid air in a cavity and grow on alone."""
    height = proof.stack.grid.height
    lasting = np.array([[i.x, i.y, i.z] for i in proof.islands if not is_slight(i, height)]).reshape(-1, 3)
    if hollowed is None or not hollowed.cavities or not len(lasting):
        return 0
    inside = Nearest(place.apply(Mesh.joined([c.surface for c in hollowed.cavities])))
    return int((inside.of(lasting)[1] < INSIDE_MM).sum())


def _hold_min(context: Context, pull_n: float) -> float:
    """Minutes to take off the tips that a pull wants: as many as hold it at the usual risk."""
    tips = pull_n * margin_of(context, USUAL_RISK) / float(tip_hold(context, usual_tip(context)))
    return tips * (CUT_MIN + PIECE_MIN + SAND_MIN)


def _hollow_min(hollowed: Hollowed | None, holes: int, seconds: float | None, struts: bool) -> float:
    if hollowed is None:
        return 0.0
    drip = DRIP_SHARE * (SLOW_DRAIN_S if seconds is None else min(seconds, SLOW_DRAIN_S)) / 60
    return HOLE_MIN * holes + (FLUSH_MIN + STRUTS_MIN * struts) * len(hollowed.cavities) + drip
