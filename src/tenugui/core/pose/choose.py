"""From hundreds of weighed directions to four that no other beats, one of them recommended, with the aims that
decided.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..machines import Context, MachineError, Printer, draws_lines, kind_of
from ..marks import transfer
from ..mesh import Mesh, decimate
from ..mesh.edges import face_volumes
from ..worth import HANDS_UNSURE, RISK_UNSURE, SAME_RISK, Rates, harm_of, least, priced, totals
from .candidate import Candidate, candidate
from .directions import Direction, resting_directions, spread_directions
from .expected import UPRIGHT_COS, expected
from .place import fitting, hull_points, largest_factor
from .price import Pace, Takes, takes
from .search import AIMS, PoseTable, Scale, thin_rods, weigh
from .upright import Z_UP
from .wish import Wish, meeting, wish_of
from .words import FINEST

F8 = NDArray[np.float64]
SAFE_DEG = 2.0
"""Prior: slopes within this of the steepest free one count as in need of support, or the search would lean figures
exactly onto the limit.
"""
DOOMED = 0.6
"""Prior: what is lost more often is offered only where there is nothing else."""
OVERLAP = 0.005
"""Prior: a mesh whose volume differs by more of it from its united copy has shells that overlap."""
COARSE_FACES = 60_000
"""Directions are weighed on a mesh decimated to about this many faces; the chosen few are weighed again on the whole
mesh.
"""


GRAIN = 0.04
"""Prior: a pose is not better for less than this share of what the middle nine tenths of all directions span."""


@dataclass(frozen=True)
class Search:
    """All weighed directions of a figure, whether each fits the machine, and the mesh and its weights on which they
    were weighed.
    """

    table: PoseTable
    fits: NDArray[np.bool_]
    coarse: Mesh
    weights: F8 | None
    limit_angle: float

    def scale(self, printer: Printer) -> Scale:
        """What weighs any further direction by the measure of the search."""
        rods = thin_rods(self.coarse) if draws_lines(printer) else None
        return Scale(self.coarse, self.limit_angle, self.weights, rods)

    @cached_property
    def volume_mm3(self) -> float:
        """The figure's."""
        return abs(float(face_volumes(self.coarse).sum()))

    def takes(self, context: Context, table: PoseTable | None = None) -> Takes:
        """What each direction of the search, or of another table, takes."""
        weighed = self.table if table is None else table
        aims = {aim: weighed.column(aim) for aim in AIMS}
        return takes(aims, Pace.of(context), self.volume_mm3, self.upright(weighed.down))

    def upright(self, down: F8) -> NDArray[np.bool_]:
        """Which directions (n, 3) stand the figure as it is meant to, nearly: the first of the search does."""
        return np.asarray(down @ self.table.down[0] > UPRIGHT_COS)

    def looked_for(self, worth: F8, able: NDArray[np.bool_], front: Direction | None, hangs: bool) -> int | None:
        """The cheapest of the directions that a person would look for, `worth` (n,) each; upright where there is none
        of them; None where not that.
        """
        x, y, z = -self.table.down[0]
        such = able & expected(self.table.down, (float(x), float(y), float(z)), front, hangs)
        if hangs and such.any():
            return int(np.argmin(np.where(such, worth, np.inf)))
        return 0 if able[0] else None

    def merit(self, context: Context, wish: Wish) -> F8:
        """Coins (n,) that each direction is worth at the wish's rates."""
        return _totals(self.takes(context), wish.rates)[0]


def _totals(stakes: Takes, rates: Rates) -> tuple[F8, F8]:
    """Coins (n,) of directions, and half the width of what is not known of each."""
    hands, _, loss, total = totals(
        stakes.hands_min,
        stakes.machine_h,
        stakes.material,
        lost=stakes.lost,
        part_lost=stakes.part_lost,
        rates=rates,
    )
    return total, np.hypot(HANDS_UNSURE * hands, RISK_UNSURE * loss)


@dataclass(frozen=True)
class PoseChoice:
    """How many directions were weighed, the candidates, the recommended one's index, the directions that no other
    beats, and the hard wishes that no direction met, so that they were let go.
    """

    evaluated: int
    candidates: list[Candidate]
    recommended: int
    on_front: NDArray[np.bool_]
    unmet: tuple[str, ...] = ()


def front(costs: F8) -> NDArray[np.bool_]:
    """Rows of `costs` (n, a) that no other row beats in every column: the Pareto front (Deb et al. 2002, first
    rank).
    """
    keep = np.ones(len(costs), np.bool_)
    for i in np.argsort(costs.sum(axis=1)):
        if keep[i]:
            beaten = (costs >= costs[i]).all(axis=1) & (costs > costs[i]).any(axis=1)
            keep &= ~beaten
    return keep


def search_poses(
    mesh: Mesh,
    context: Context,
    *,
    directions: int = 1000,
    wish: Wish | None = None,
    coarse: Mesh | None = None,
    light: F8 | None = None,
    up: Direction = Z_UP,
) -> Search:
    """Weigh the hull's resting faces and `directions` spread ones, and refine around the best, on a mesh of about
    COARSE_FACES.

    `up`: which way of its frame the figure stands; that pose comes first. `coarse`: such a mesh, and `light` what the
        marks say on it, where they are at hand. What the context's marks say weighs the scars.

    Raises:
        MachineError: `does-not-fit` where no direction fits at any turn about z, with the size that would.
    """
    printer, weights = context.printer, context.weights
    angle = context.limit_angle - math.radians(SAFE_DEG)
    coarse = decimate(mesh, COARSE_FACES) if coarse is None else coarse
    if light is None:
        light = weights if weights is None or coarse is mesh else transfer(mesh, weights, coarse)
    rods = thin_rods(coarse) if draws_lines(printer) else None
    scale = Scale(coarse, angle, light, rods)
    rest, _ = resting_directions(coarse)
    table = scale.weigh(np.concatenate([[-np.array(up)], rest, spread_directions(directions)]))
    fits = _fitting(coarse, table.down, printer)
    rates = wish_of(None).rates if wish is None else wish.rates
    pace, volume = Pace.of(context), abs(float(face_volumes(coarse).sum()))
    for angle_step in (0.07, 0.025):
        stands = table.down @ table.down[0] > UPRIGHT_COS
        stakes = takes({aim: table.column(aim) for aim in AIMS}, pace, volume, stands)
        best = np.argsort(_totals(stakes, rates)[0] + np.where(fits, 0.0, np.inf))[:6]
        more = scale.weigh(np.concatenate([_around(table.down[i], angle_step) for i in best]))
        table = PoseTable(np.concatenate([table.down, more.down]), np.concatenate([table.aims, more.aims]))
        fits = np.concatenate([fits, _fitting(coarse, more.down, printer)])
    return Search(table, fits, coarse, light, angle)


def _fitting(mesh: Mesh, downs: F8, printer: Printer) -> NDArray[np.bool_]:
    """Directions that leave room for supports; where there are none, those in which the bare figure fits;
    `does-not-fit` where none does.
    """
    fits = fitting(mesh, downs, printer.room_mm)
    fits = fits if fits.any() else fitting(mesh, downs, printer.build_mm)
    if fits.any() or len(downs) < 100:  # a few refined ones need not fit
        return fits
    factor = largest_factor(hull_points(mesh), printer.build_mm)
    width, depth, height = printer.build_mm
    raise MachineError(
        "does-not-fit",
        f"The figure fits '{printer.name}' in no pose: its longest extent is {float(mesh.size.max()):.0f} mm.",
        f"'{printer.name}' builds {width:.0f} x {depth:.0f} x {height:.0f} mm",
        f"The largest that fits is {factor:.0%} of this size. Make it smaller, or split it.",
    )


def rank_poses(
    mesh: Mesh,
    search: Search,
    context: Context,
    *,
    count: int = 4,
    wish: Wish | None = None,
    pinned: list[tuple[float, float, float]] | None = None,
    scale: Scale | None = None,
    front: Direction | None = None,
) -> PoseChoice:
    """Diverse members of the front of least worth, and directions that the user has `pinned` after them, weighed again
    on the whole mesh.

    The direction that a person would look for (`expected`; `front`: where the figure faces) is taken for the best where
    nobody could tell the two apart. `scale` is the search's own, where it is at hand: it then weighs for the whole mesh
    too, at once.
    """
    printer = context.printer
    wish = wish_of(None) if wish is None else wish
    table, stakes = search.table, search.takes(context)
    able, unmet = meeting(table, stakes, search.fits, wish)
    on_front = _front_of(table, kind_of(printer.process).deciding, able)
    worth, unsure = _totals(stakes, wish.rates)
    looked_for = search.looked_for(worth, able, front, printer.hangs)
    merit = _where_alike(worth, unsure, harm_of(stakes.lost, stakes.part_lost), able, looked_for)
    always = [i for i in (looked_for, 0) if i is not None and able[i]]
    picks = _pick(table, merit, able, on_front=on_front & (stakes.lost < DOOMED), count=count, always=always)
    picked = table.down[picks]
    chosen = picked if not pinned else np.concatenate([picked, np.array(pinned, float)])
    # Worth is of one measure: that of the search, the pinned ones beside it.
    coarse = (scale or search.scale(printer)).weigh(chosen)
    rods = thin_rods(search.coarse) if draws_lines(printer) else None
    # Where shells overlap the whole mesh counts what lies inside; the search's was united.
    overlap = abs(abs(float(face_volumes(mesh).sum())) - search.volume_mm3) > OVERLAP * search.volume_mm3
    exact = coarse if scale or overlap else weigh(mesh, chosen, search.limit_angle, context.weights, rods)
    mine = search.takes(context, coarse)
    gifts = [mine.gift(i) for i in range(len(chosen))]
    worths = [priced(gift, wish.rates) for gift in gifts]
    best = least(worths[: len(picked)], next((i for i, k in enumerate(picks) if k == looked_for), None))
    usual = {aim: float(np.median(table.column(aim))) for aim in AIMS}
    candidates = [
        candidate(
            exact,
            i,
            usual,
            gift=gifts[i],
            worth=worths[i],
            pace=Pace.of(context),
            volume=search.volume_mm3,
            plinth=float(mine.plinth[i]),
        )
        for i in range(len(chosen))
    ]
    order = sorted(range(len(picked)), key=lambda i: (i != best, worths[i].total))
    candidates = [candidates[i] for i in (*order, *range(len(picked), len(candidates)))]
    return PoseChoice(len(table.down), candidates, 0, on_front, unmet)


def _around(down: F8, step: float) -> F8:
    """Eight directions about `step` radians around one."""
    side = np.cross(down, [1.0, 0, 0] if abs(down[0]) < 0.9 else [0, 1.0, 0])
    side /= np.linalg.norm(side)
    other = np.cross(down, side)
    turn = np.arange(8) * np.pi / 4
    ring = down + step * (np.cos(turn)[:, None] * side + np.sin(turn)[:, None] * other)
    return np.asarray(ring / np.linalg.norm(ring, axis=1, keepdims=True))


def _front_of(table: PoseTable, aims: tuple[str, ...], able: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Directions that may be taken and that no other of them beats in every aim by more than a grain."""
    members = np.flatnonzero(able)
    columns = table.aims[np.ix_(members, np.array([AIMS.index(aim) for aim in aims]))]
    low, high = np.quantile(columns, [0.05, 0.95], axis=0)
    grain = np.maximum((high - low) * GRAIN, [FINEST.get(aim, 0.05) for aim in aims])
    on_front = np.zeros(len(able), np.bool_)
    on_front[members[front(np.round(columns / grain))]] = True
    return on_front


def _where_alike(total: F8, unsure: F8, harm: F8, able: NDArray[np.bool_], looked_for: int | None) -> F8:
    """The totals, that of the direction which is looked for just below the least where the two cannot be told apart."""
    if looked_for is None:
        return total
    best = int(np.argmin(np.where(able, total, np.inf)))
    far, apart = total[looked_for] - total[best], 0.5 * max(unsure[looked_for], unsure[best])
    if far <= apart and harm[looked_for] <= harm[best] + SAME_RISK:
        total = total.copy()
        total[looked_for] = total[best] - 1e-9
    return total


def _pick(
    table: PoseTable,
    merit: F8,
    able: NDArray[np.bool_],
    *,
    on_front: NDArray[np.bool_],
    count: int,
    always: Sequence[int] = (),
) -> NDArray[np.int64]:
    """Greedy: the least merit first, then the least that is at least 25 degrees from all picked, loosening where there
    are too few.

    What another beats comes after all that none does, however little lies between them; but the least of all is taken,
    beaten or not, and those that are to be seen `always`.
    """
    order = [int(i) for i in np.lexsort((merit, ~on_front)) if able[i]]
    first = min(order, key=lambda i: merit[i])
    order = [first, *always, *(i for i in order if i != first and i not in always)]
    picked: list[int] = []
    for i in (first, *always):
        if len(picked) < count and all(table.down[i] @ table.down[p] < np.cos(np.radians(4.0)) for p in picked):
            picked.append(i)
    for apart in (25.0, 12.0, 4.0):
        for i in order:
            if len(picked) < count and all(table.down[i] @ table.down[p] < np.cos(np.radians(apart)) for p in picked):
                picked.append(i)
    return np.array(picked, np.int64)
