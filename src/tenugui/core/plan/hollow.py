"""The fold Hollow: solid or hollow, with which wall, struts and holes; and the body that later folds print."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..choice import FIXED_MIN, mean_lean
from ..choice.hands import CUT_MIN, PIECE_MIN, SAND_MIN, finish_min
from ..compiled import both_cores
from ..contract import (
    Finding,
    HoleDoc,
    HollowBoard,
    HollowedDoc,
    HollowRow,
    JudgedDoc,
    Refusal,
    TurnDoc,
    cavity_of,
    gift_of,
    hole_from,
    hollow_document,
    pack_mesh,
    pack_values,
    priced_at,
    strip_document,
    worth_of,
)
from ..errors import CoreError
from ..formats import pack_whole
from ..hollow import (
    Cavity,
    Hole,
    Hollowed,
    Lattice,
    Opened,
    best_turns,
    came_hollow,
    drilled,
    filled,
    hollow,
    judged,
    pack_hollowed,
    suggest,
    unpack_hollowed,
    usual_wall,
)
from ..hollow.holes import mouth_of
from ..layers import prove
from ..machines import Context, default_height
from ..marks import transfer
from ..mesh import FAR, Mesh, decimate, rays_of
from ..mesh.edges import face_volumes
from ..mesh.thickness import vertex_thickness
from ..pose import beside
from ..process import process_of
from ..risk import MISHAP, combined, ledger
from ..supports import USUAL_RISK, safety_factor, tip_hold, usual_tip
from ..worth import Gift, least, rates_of
from .held import HELD
from .inputs import PREVIEW, Inputs, MadeDoc
from .liquid import liquid_of
from .pose import numbers_of
from .shelf import Shelf
from .tasks import Given, Progress, computed, task

F8 = NDArray[np.float64]
STRUT_SHARE, THINNEST_STRUT_MM = 0.15, 0.8
"""Priors: struts are so much of their pitch thick, and no thinner than that."""
THICKER = 1.5
HOLE_MIN, FLUSH_MIN, DRIP_SHARE = 2.0, 4.0, 0.3
"""Priors: minutes to drill clean, plug and fill a hole, to flush, dry and cure a cavity inside, and the share of its draining that somebody stands by."""
LEAKS = 0.02
"""Prior: a cavity that was not quite clean inside cracks or sweats its figure so often, for each that there is."""
SLOW_DRAIN_S = 600.0
"""Prior: longer nobody waits without being told."""
DYED_WALLS = 2.5
"""What is thicker than so many walls is left without a dye."""
READ = ("sealed", "trapped")
"""Hazards that the layers of a bare body tell; what hangs is held later."""
MOST_HOLES = 64
AS_IT_CAME, FILLED = 0.0, -1.0
"""Walls that stand for none: what a figure came hollow with, drained through more holes; and the same without its closed voids."""


def lattice_of(pitch: float | None) -> Lattice | None:
    """Struts at a pitch in mm, as thick as they are usually made; None for none."""
    return None if pitch is None else Lattice(pitch, round(max(THINNEST_STRUT_MM, STRUT_SHARE * pitch), 2))


@task("hollowed", 2, ("sha", "factor", "wall", "lattice"), HollowedDoc)
def hollowed_task(shelf: Shelf, given: Given, progress: Progress) -> HollowedDoc:
    """Cut what lies deeper than a wall out of the figure at its size."""
    held = Inputs(shelf, given)
    wall = float(given["wall"])
    if wall in (AS_IT_CAME, FILLED):
        made = came_hollow(held.figure)
        if wall == FILLED and made.cavities:
            made = Hollowed(filled(made), 0.0, (), None, 0, came=True)
        return HollowedDoc(sha=shelf.put(pack_hollowed(made)), wall_mm=wall, cavities=len(made.cavities), left_solid=0)
    try:
        made = hollow(held.figure, wall, lattice_of(given.get("lattice")))
    except CoreError as refused:
        told = Refusal(code=refused.code, what=refused.what, where=refused.where, remedy=refused.remedy)
        return HollowedDoc(sha=None, wall_mm=wall, cavities=0, left_solid=0, refused=told)
    sha = shelf.put(pack_hollowed(made))
    return HollowedDoc(sha=sha, wall_mm=wall, cavities=len(made.cavities), left_solid=made.left_solid)


def hollowed_of(shelf: Shelf, given: Given, wall: float, lattice: float | None) -> tuple[HollowedDoc, Hollowed | None]:
    """The figure of these inputs hollowed, made or remembered."""
    asked = {k: given[k] for k in ("sha", "factor") if k in given} | {"wall": wall, "lattice": lattice}
    told = computed(shelf, "hollowed", asked, HollowedDoc)
    if told.sha is None:
        return told, None
    sha = told.sha
    return told, shelf.memory.recall(("hollowed", sha), lambda: unpack_hollowed(shelf.get(sha)))


def outer_of(shelf: Shelf, given: Given) -> Mesh:
    """The outside of a figure that later folds print hollow: its shells united."""
    _, made = hollowed_of(shelf, given, given["hollow"]["wall"], given["hollow"].get("lattice"))
    assert made is not None  # a body was made of it
    return made.outer


def opens(made: Hollowed, point: F8, axis: F8) -> tuple[int, float] | None:
    """The cavity that a bore meets first, and how deep; None where it meets none."""
    lengths = [float(rays_of(c.surface).first(point[None], axis)[0][0]) for c in made.cavities]
    best = int(np.argmin(lengths)) if lengths else -1
    return (best, lengths[best]) if best >= 0 and lengths[best] < FAR else None


def sorted_holes(made: Hollowed, rows: Sequence[HoleDoc]) -> tuple[list[list[Hole]], list[Finding]]:
    """Holes by the cavity that each opens, and what is wrong with those that open none, or merge.

    Their way in is what they say; the wall that they go through is measured.
    """
    found: list[list[Hole]] = [[] for _ in made.cavities]
    told = []
    for index, row in enumerate(rows[:MOST_HOLES]):
        hole = hole_from(row)
        axis = np.array(hole.axis) / max(float(np.linalg.norm(hole.axis)), 1e-9)
        met = opens(made, np.array(hole.point), axis)
        if met is None:
            text = f"Hole {index + 1} opens no cavity: move it, or turn it towards one."
            told.append(Finding(code="hole-misses", severity="severe", count=1, message=text, place=hole.point))
            continue
        cavity, deep = met
        found[cavity].append(Hole(hole.point, (float(axis[0]), float(axis[1]), float(axis[2])), hole.diameter, deep))
        if deep > 2.5 * made.wall > 0:
            text = f"Hole {index + 1} goes through {deep:.1f} mm where the wall is {made.wall:g} mm: it runs along the wall, or through a thick place."
            told.append(Finding(code="hole-deep", severity="warning", count=1, message=text, place=hole.point))
    for holes in found:
        for i, one in enumerate(holes):
            for other in holes[:i]:
                apart = float(np.linalg.norm(np.subtract(one.point, other.point)))
                if apart < (one.diameter + other.diameter) / 2 + made.wall / 2:
                    text = f"Two holes {apart:.1f} mm apart run into each other. Move one."
                    told.append(Finding(code="holes-merge", severity="warning", count=1, message=text, place=one.point))
    return found, told


def suggested(made: Hollowed, plate: F8, weights: F8 | None = None) -> tuple[list[Opened | None], list[Finding]]:
    """Holes for every cavity, and where none can be placed."""
    opened: list[Opened | None] = []
    told = []
    for index, cavity in enumerate(made.cavities):
        try:
            opened.append(suggest(made, cavity, plate, weights=weights))
        except CoreError as refused:
            text = f"Cavity {index + 1}: {refused.what} {refused.remedy}"
            told.append(Finding(code=refused.code, severity="severe", count=1, message=text))
            opened.append(None)
    return opened, told


def findings_of(made: Hollowed, opened: Sequence[Opened | None]) -> list[Finding]:
    """What a person should know of a hollowed figure with these holes."""
    found = []
    slow = sum(
        o is not None and o.vented and (o.drips.seconds is None or o.drips.seconds > SLOW_DRAIN_S) for o in opened
    )
    if slow:
        text = f"{slow} cavit{'y runs' if slow == 1 else 'ies run'} empty slowly or not at all: tilt and turn the figure, widen the holes, or warm the resin as far as its maker allows. Times are priors."
        found.append(Finding(code="drains-slowly", severity="warning", count=slow, message=text))
    closed = sum(o is None or not o.vented for o in opened)
    if closed:
        text = f"{closed} cavit{'y' if closed == 1 else 'ies'} without two holes: resin stays inside and can burst the figure. Drain, flush and cure inside."
        found.append(Finding(code="sealed-cavity", severity="severe", count=closed, message=text))
    if not made.cavities and not made.came:
        text = f"Nothing lies deeper than {made.wall:g} mm under the surface in a space worth two holes: the figure stays solid."
        found.append(Finding(code="stays-solid", severity="notice", count=1, message=text))
    return found


@task("body", 2, ("sha", "factor", "hollow"), MadeDoc, rests_on=("hollowed",))
def body_task(shelf: Shelf, given: Given, progress: Progress) -> MadeDoc:
    """The hollow figure with its holes, at its size in its file's frame."""
    asked = given["hollow"]
    told, made = hollowed_of(shelf, given, asked["wall"], asked.get("lattice"))
    if made is None:
        assert told.refused is not None
        raise CoreError(told.refused.code, told.refused.what, told.refused.where, told.refused.remedy)
    holes, _ = sorted_holes(made, [HoleDoc.model_validate(row) for row in asked["holes"]])
    new = [hole for some in holes for hole in some]
    whole = drilled(made, new) if new or not made.came else made.outer
    return MadeDoc(sha=shelf.put(pack_whole(whole)))


def _outer_weights(held: Inputs, made: Hollowed) -> F8 | None:
    """What a scar costs on each face of the outside; it has the figure's own faces unless shells were united."""
    if held.weights is None:
        return None
    same = len(made.outer.faces) == len(held.figure.faces)
    return held.weights if same else np.asarray(transfer(held.figure, held.weights, made.outer))


def _ways(held: Inputs, own: dict[str, Any], came: Sequence[float]) -> list[tuple[float | None, float | None, bool]]:
    """Walls and struts of the rows: solid, the usual wall and a thicker one; and what was asked for. Struts take ten times as long: only when asked."""
    wall = usual_wall(held.figure.size)
    rows: list[tuple[float | None, float | None, bool]] = [
        (None, None, False),
        *((w, None, False) for w in came),
        (wall, None, False),
        (round(THICKER * wall, 1), None, False),
    ]
    if own.get("wall_mm") is not None:
        rows.append((float(own["wall_mm"]), own.get("lattice_mm"), True))
    return rows


TAKES = (*(n for n in HELD if n not in ("height", "risk", "style", "plinth", "hollow")), "rates", "own")


@task("hollow", 3, TAKES, HollowBoard, rests_on=("hollowed", "proposed"))
def hollow_board(shelf: Shelf, given: Given, progress: Progress) -> HollowBoard:
    """Solid beside hollow: what is saved, what pulls, what stays inside, and what it is worth."""
    held = Inputs(shelf, given)
    context, own = held.context(default_height(held.printer)), given.get("own") or {}
    down = given.get("down") or [-float(v) for v in held.up]
    progress(0.01, "looking for what it came hollow with")
    _, came = hollowed_of(shelf, given, AS_IT_CAME, None)
    ways = _ways(held, own, _more_for(came))
    whole = came if came and came.cavities else None

    def one(wall: float | None, pitch: float | None, asked: bool) -> tuple[HollowRow | None, Refusal | None]:
        made, refused = whole, None
        if wall is not None:
            told, made = hollowed_of(shelf, given, wall, pitch)
            # What came hollow need not be hollowed, and is no refusal.
            refused = None if whole else told.refused
            if made is None or (not made.cavities and not asked and wall != FILLED):
                return None, refused
        chosen = own if asked else {"holes": []} if wall is None else {}
        return _row(held, context, made, wall, pitch, down, chosen, asked), refused

    progress(0.05, "hollowing at two walls" + (" and with struts" if any(p for _, p, _ in ways) else ""))
    found = both_cores(one, ways)
    rows = [row for row, _ in found if row is not None]
    refused = next((told for _, told in found if told is not None), None)
    rates = rates_of(given.get("rates"))
    worths = [priced_at(row.gift, rates) for row in rows]
    best = least(worths, 0)
    return HollowBoard(
        choices=[r.model_copy(update={"worth": worth_of(w)}) for r, w in zip(rows, worths, strict=True)],
        recommended=best,
        why=beside(worths, best, best).strip(),
        usual_wall_mm=usual_wall(held.figure.size),
        posed="down" in given,
        refused=refused,
        layer_height_mm=context.height,
    )


def _more_for(came: Hollowed | None) -> list[float]:
    """What else may be made of a figure that came hollow: more holes where liquid would stay, and no void where it is closed."""
    if came is None or not came.cavities:
        return []
    shut = [c for c in came.cavities if len(c.own) < 2]
    return ([AS_IT_CAME] if shut else []) + ([FILLED] if any(not c.own for c in shut) else [])


def _row(
    held: Inputs,
    context: Context,
    made: Hollowed | None,
    wall: float | None,
    pitch: float | None,
    down: Sequence[float],
    own: dict[str, Any],
    asked: bool,
) -> HollowRow:
    plate = np.array(down, float)
    opened: list[Opened | None] = []
    told: list[Finding] = []
    body = held.figure
    if made is not None:
        if own.get("holes") is None:
            opened, told = suggested(made, plate, _outer_weights(held, made))
        else:
            rows, told = sorted_holes(made, [HoleDoc.model_validate(row) for row in own["holes"]])
            opened = [
                judged(c, holes, plate) if holes or c.own else None
                for c, holes in zip(made.cavities, rows, strict=True)
            ]
        new = [hole for o in opened if o for hole in o.holes]
        body = drilled(made, new) if new or not made.came else made.outer
    place = held.placed_as(down)
    figure = place.apply(body)
    proof = prove(figure, context.height, context.reach)
    use = process_of(held.printer).use(proof.stack, proof.areas, context)
    bare = context.bare()
    hazards = ledger(proof, bare)
    pull = process_of(held.printer).pull(proof)
    holes = sum(len(o.holes) for o in opened if o)
    drain = [o.drips.seconds for o in opened if o]
    seconds = None if any(s is None for s in drain) or None in opened else float(sum(s or 0.0 for s in drain))
    left = sum((o.drips.retained + o.drips.clings) if o else c.volume for c, o in _pairs(made, opened))
    solid = place.apply(held.figure)
    lean = finish_min(mean_lean(solid, held.weights), context.height, "resin")
    gift = Gift(
        FIXED_MIN["resin"] + lean + _hold_min(context, float(pull.max())) + _hollow_min(made, holes, seconds),
        use.time_s / 3600,
        use.cost,
        1 - math.prod(1 - h.chance for h in hazards if h.code in READ) * (1 - _leaks(made)) * (1 - MISHAP),
    )
    doc = (
        None
        if made is None
        else hollow_document(made, opened, float(face_volumes(body).sum()), [*told, *findings_of(made, opened)])
    )
    preview_sha, wall_sha = _looked_at(held, made, body) if made is not None and wall is not None else (None, None)
    return HollowRow(
        wall_mm=wall,
        lattice_mm=pitch,
        own=asked,
        hollow=doc,
        holes=holes,
        retained_ml=left / 1000,
        drain_s=seconds if made is not None else None,
        peak_pull_n=float(pull.max()),
        strip=strip_document(proof, use, hazards, [], bare),
        numbers=numbers_of(
            solid, context, use, combined([h for h in hazards if h.code in (*READ, "mishap")]), unheld=True
        ),
        gift=gift_of(gift),
        matrix=held.matrix_as(down),
        preview_sha=preview_sha,
        wall_sha=wall_sha,
    )


def _looked_at(held: Inputs, made: Hollowed, body: Mesh) -> tuple[str, str | None]:
    """The copy of a body that the page turns, in its file's frame, and what is solid behind every corner of it, for the dye."""
    seen = decimate(body, PREVIEW)
    sha = held.shelf.put(pack_mesh(seen.scaled(1 / held.factor)))
    if not made.cavities:
        return sha, None
    return sha, held.shelf.put(pack_values(vertex_thickness(seen, beyond=DYED_WALLS * made.wall)))


def _pairs(made: Hollowed | None, opened: Sequence[Opened | None]) -> list[tuple[Cavity, Opened | None]]:
    return [] if made is None else list(zip(made.cavities, opened, strict=True))


def _leaks(made: Hollowed | None) -> float:
    return 0.0 if made is None else 1 - (1 - LEAKS) ** len(made.cavities)


def _hold_min(context: Context, pull_n: float) -> float:
    """Minutes to take off the tips that a pull wants: as many as hold it at the usual risk."""
    tips = pull_n * safety_factor(USUAL_RISK) / float(tip_hold(context, usual_tip(context)))
    return tips * (CUT_MIN + PIECE_MIN + SAND_MIN)


def _hollow_min(made: Hollowed | None, holes: int, seconds: float | None) -> float:
    if made is None:
        return 0.0
    drip = DRIP_SHARE * (SLOW_DRAIN_S if seconds is None else min(seconds, SLOW_DRAIN_S)) / 60
    return HOLE_MIN * holes + FLUSH_MIN * len(made.cavities) + drip


def judge_holes(
    shelf: Shelf, given: Given, wall: float, pitch: float | None, rows: Sequence[HoleDoc], way: Sequence[float] | None
) -> JudgedDoc | None:
    """Holes as somebody set them, judged in the pose and, where asked, in the position `way`; None where nothing was hollowed at this wall yet."""
    _, made = hollowed_of(shelf, given, wall, pitch)
    if made is None:
        return None
    plate = np.array(given.get("down") or [-float(v) for v in Inputs(shelf, given).up], float)
    by_cavity, found = sorted_holes(made, rows)
    opened = [
        judged(c, holes, plate) if holes or c.own else None for c, holes in zip(made.cavities, by_cavity, strict=True)
    ]
    turns = []
    for cavity, holes, one in zip(made.cavities, by_cavity, opened, strict=True):
        mouths = [*(mouth_of(cavity, hole) for hole in holes), *cavity.own]
        ways = [plate, -plate, *(np.array(h.point) - cavity.space.middles.mean(axis=0) for h in holes)]
        ways = [w / max(float(np.linalg.norm(w)), 1e-9) for w in ways]
        best = best_turns(cavity.space, [m for m in mouths if len(m.cells)], ways) if one else None
        turns.append(
            [TurnDoc(down=w, left_ml=left / 1000) for w, left in zip(best.ways, best.left, strict=True)] if best else []
        )
    first = next((o for o in opened if o), None)
    look = tuple(way) if way is not None else first.gravity if first else tuple(float(v) for v in plate)
    liquid = liquid_of(made, by_cavity, np.array(look)) if made.cavities else None
    return JudgedDoc(
        cavities=[cavity_of(c, o) for c, o in zip(made.cavities, opened, strict=True)],
        turns=turns,
        findings=[*found, *findings_of(made, opened)],
        liquid=liquid,
    )


__all__ = ["findings_of", "hollowed_of", "judge_holes", "lattice_of", "opens", "sorted_holes", "suggested"]
