"""The fold Hollow: solid or hollow, with which wall, struts and holes; and the body that later folds print."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..compiled import both_cores
from ..contract import (
    HoleDoc,
    HollowBoard,
    HollowRow,
    JudgedDoc,
    OwnHollow,
    PullDoc,
    PullRemedy,
    Refusal,
    ShellDoc,
    TurnDoc,
    cavity_of,
    priced_at,
    worth_of,
)
from ..hollow import (
    Cavity,
    Hole,
    Hollowed,
    Mouth,
    best_turns,
    judged,
    open_shell,
    turned,
    usual_wall,
)
from ..hollow.holes import mouth_of
from ..machines import default_height
from ..pose import beside, unit
from ..worth import least, rates_of
from .cut_out import AS_IT_CAME, FILLED, hollowed_of
from .given import HollowGiven, WayGiven
from .holes import findings_of, sorted_holes
from .hollow_alternative import ROW
from .inputs import Inputs
from .liquid import liquid_of
from .pull import WORTH_SHARE
from .shelf import Shelf
from .tasks import Progress, computed, draft, task

F8 = NDArray[np.float64]
THICKER = 1.5
STRUTS_FROM_MM, STRUT_WALLS, STRUT_CELLS = 60.0, 4.5, 2.5
"""Priors: struts are weighed from this size on, stand so many walls apart, and only in a cavity of so many of their
cells each way.
"""


def _ways(
    inputs: Inputs, own: OwnHollow | None, came: Sequence[float]
) -> list[tuple[float | None, float | None, bool]]:
    """Walls and struts of the rows: solid, the usual wall, a thicker one, struts in what is large; and what was asked
    for.
    """
    size = inputs.figure.size
    wall = usual_wall(size)
    rows: list[tuple[float | None, float | None, bool]] = [
        (None, None, False),
        *((w, None, False) for w in came),
        (wall, None, False),
        (round(THICKER * wall, 1), None, False),
    ]
    if float(size.max()) >= STRUTS_FROM_MM:
        rows.append((wall, round(STRUT_WALLS * wall, 1), False))
    if own is not None:
        rows.append((own.wall_mm, own.lattice_mm, True))
    return rows


@task("hollow", HollowGiven, HollowBoard, rests_on=(ROW,))
def hollow_board(shelf: Shelf, given: HollowGiven, progress: Progress) -> HollowBoard:
    """Solid beside hollow: what is saved, what pulls, what stays inside, and what it is worth."""
    inputs, own = Inputs(shelf, given), given.own
    progress(0.01, "looking for what it came hollow with")
    _, came = hollowed_of(shelf, given, AS_IT_CAME, None)
    ways = _ways(inputs, own, _more_for(came))
    came_so = bool(came and came.cavities)

    def takes_struts(wall: float | None, pitch: float) -> bool:
        _, plain = hollowed_of(shelf, given, wall or 0.0, None)
        return plain is not None and any(c.volume >= (STRUT_CELLS * pitch) ** 3 for c in plain.cavities)

    def one(wall: float | None, pitch: float | None, asked: bool) -> tuple[HollowRow | None, Refusal | None]:
        refused = None
        if pitch is not None and not asked and not takes_struts(wall, pitch):
            return None, None
        if wall is not None:
            document, hollowed = hollowed_of(shelf, given, wall, pitch)
            # What came hollow need not be hollowed, and is no refusal.
            refused = None if came_so else document.refused
            if hollowed is None or (not hollowed.cavities and not asked and wall != FILLED):
                return None, refused
        # Solid has no holes to be moved.
        holes = own.holes if own and asked else [] if wall is None else None
        way = given.to(WayGiven, wall=wall, lattice=pitch, asked=asked, holes=None if holes is None else tuple(holes))
        return computed(shelf, ROW, way, HollowRow), refused

    rates = rates_of(given.rates)
    shell = None if came_so else open_shell(inputs.figure, inputs.up)

    def told(made: Sequence[tuple[HollowRow | None, Refusal | None]]) -> HollowBoard:
        rows = [row for row, _ in made if row is not None]
        worths = [priced_at(row.gift, rates) for row in rows]
        best = least(worths, 0)
        return HollowBoard(
            choices=[
                r.model_copy(update={"worth": worth_of(w), "pull": pull})
                for r, w, pull in zip(rows, worths, _beside(rows), strict=True)
            ],
            recommended=best,
            why=beside(worths, best, best).strip(),
            usual_wall_mm=usual_wall(inputs.figure.size),
            posed=given.down is not None,
            refused=next((refusal for _, refusal in made if refusal is not None), None),
            layer_height_mm=default_height(inputs.printer),
            shell=None if shell is None else ShellDoc(wall_mm=shell.wall_mm, opens=shell.opens),
        )

    first = [one(*ways[0])]
    if first[0][0] is not None:
        draft(shelf, "hollow", given, told(first))
    progress(0.05, "hollowing at two walls" + (" and with struts" if any(p for _, p, _ in ways) else ""))
    return told([*first, *both_cores(one, ways[1:])])


def _beside(rows: Sequence[HollowRow]) -> list[PullDoc | None]:
    """What pulls at each row; at a solid one with the hollow row that pulls least as a remedy."""
    pulls = [row.pull for row in rows]
    cut = [(row.peak_pull_n, i) for i, row in enumerate(rows) if row.hollow is not None and row.hollow.cavities]
    if rows[0].hollow is None and rows[0].pull is not None and rows[0].pull.remedies and cut:
        newtons, i = min(cut)
        if newtons <= WORTH_SHARE * rows[0].peak_pull_n:
            way = PullRemedy(kind="hollow", what=f"Hollow, wall {rows[i].wall_mm:g} mm", pull_n=newtons, option=i)
            pulls[0] = rows[0].pull.model_copy(update={"remedies": [way, *rows[0].pull.remedies]})
    return pulls


def _more_for(came: Hollowed | None) -> list[float]:
    """What else may be made of a figure that came hollow: more holes where liquid would stay, and no void where it is
    closed.
    """
    if came is None or not came.cavities:
        return []
    shut = [c for c in came.cavities if len(c.own) < 2]
    return ([AS_IT_CAME] if shut else []) + ([FILLED] if any(not c.own for c in shut) else [])


def judge_holes(
    shelf: Shelf,
    given: HollowGiven,
    wall: float,
    *,
    pitch: float | None,
    rows: Sequence[HoleDoc],
    ways: Sequence[Sequence[float]],
) -> JudgedDoc | None:
    """Holes as somebody set them, judged in the pose and, where asked, in positions held one after the other; None
    where nothing was hollowed at this wall yet.
    """
    _, hollowed = hollowed_of(shelf, given, wall, pitch)
    if hollowed is None:
        return None
    plate = np.array(given.down or [-float(v) for v in Inputs(shelf, given).up], float)
    by_cavity, findings = sorted_holes(hollowed, rows)
    opened = [
        judged(c, holes, plate) if holes or c.own else None
        for c, holes in zip(hollowed.cavities, by_cavity, strict=True)
    ]
    turns = []
    for cavity, holes, one in zip(hollowed.cavities, by_cavity, opened, strict=True):
        tried = [plate, -plate, *(np.array(h.point) - cavity.space.middles.mean(axis=0) for h in holes)]
        tried = [w / max(float(np.linalg.norm(w)), 1e-9) for w in tried]
        best = best_turns(cavity.space, _mouths(cavity, holes), tried) if one else None
        turns.append(
            [TurnDoc(down=w, left_ml=left / 1000) for w, left in zip(best.ways, best.left, strict=True)] if best else []
        )
    directions = [unit(way) for way in ways]
    kept = [
        turned(c.space, _mouths(c, holes), [np.array(w) for w in directions])
        for c, holes in zip(hollowed.cavities, by_cavity, strict=True)
    ]
    first = next((o for o in opened if o), None)
    look = directions[-1] if directions else first.gravity if first else unit(plate)
    stay = kept[0][-1] if kept and directions else None
    liquid = liquid_of(hollowed, by_cavity, np.array(look), stay) if hollowed.cavities else None
    return JudgedDoc(
        cavities=[cavity_of(c, o) for c, o in zip(hollowed.cavities, opened, strict=True)],
        turns=turns,
        sequence=[
            TurnDoc(
                down=way,
                left_ml=sum(float(k[i].sum()) * c.space.width**3 for k, c in zip(kept, hollowed.cavities, strict=True))
                / 1000,
            )
            for i, way in enumerate(directions)
        ],
        findings=[*findings, *findings_of(hollowed, opened)],
        liquid=liquid,
    )


def _mouths(cavity: Cavity, holes: Sequence[Hole]) -> list[Mouth]:
    """What is open of a cavity: holes that reach it, and what it came with."""
    return [m for m in (*(mouth_of(cavity, hole) for hole in holes), *cavity.own) if len(m.cells)]
