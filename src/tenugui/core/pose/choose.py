"""From hundreds of weighed directions to four that no other beats, one of them recommended, with the aims that decided."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..machines import Context, MachineError, Printer
from ..marks import transfer
from ..mesh import Mesh, decimate
from .directions import quaternion_to_plate, resting_directions, spread_directions
from .minutes import minutes
from .place import fitting, hull_points, largest_factor
from .search import AIMS, PoseTable, Scale, thin_rods, weigh
from .upright import Z_UP, Direction

F8 = NDArray[np.float64]
SLENDER = 8.0
"""Prior: a figure taller than this many widths of its foot is not called stable."""
PLINTH_MARGIN_MM = 4.0
"""Prior: how far a plinth reaches past what must stand on it, both sides together."""
SAFE_DEG = 2.0
"""Prior: slopes within this of the steepest free one count as in need of support, or the search would lean figures exactly onto the limit."""
COARSE_FACES = 60_000
"""Directions are weighed on a mesh decimated to about this many faces; the chosen few are weighed again on the whole mesh."""

PRIORITIES: dict[str, dict[str, float]] = {
    "resin": {
        "scar_area_mm2": 1.0,
        "support_volume_mm3": 0.5,
        "minima": 1.0,
        "peak_section_mm2": 1.0,
        "cups": 1.0,
        "height_mm": 1.0,
        "step_cost": 1.0,
    },
    "filament": {
        "scar_area_mm2": 1.0,
        "support_volume_mm3": 1.0,
        "minima": 1.0,
        "height_mm": 0.3,
        "step_cost": 1.0,
        "lean": 1.0,
        "slender": 1.0,
        "weak_mm": 1.0,
    },
}
"""Prior: how much of each aim's price (`minutes.py`) counts in a process until the user says otherwise."""

NAMES = {
    "support_area_mm2": "supported surface",
    "scar_area_mm2": "scars on what matters",
    "support_volume_mm3": "support volume",
    "minima": "starts in mid air",
    "peak_section_mm2": "widest section",
    "cups": "hollows that hold resin",
    "height_mm": "height",
    "step_cost": "visible steps",
    "foot_mm2": "foot",
    "lean": "lean over its foot",
    "slender": "height over its foot",
    "weak_mm": "thin rods printed standing",
}
GOOD = {
    "scar_area_mm2": "little surface to scar",
    "support_volume_mm3": "few supports",
    "minima": "few starts in mid air",
    "peak_section_mm2": "little pull",
    "cups": "it runs empty",
    "height_mm": "short",
    "step_cost": "smooth",
    "lean": "stands over its foot",
    "slender": "a broad foot",
    "weak_mm": "no thin rod upright",
}
POOR = {
    "scar_area_mm2": "much surface to scar",
    "support_volume_mm3": "many supports",
    "minima": "many starts in mid air",
    "peak_section_mm2": "wide sections that pull",
    "cups": "hollows that hold resin",
    "height_mm": "tall",
    "step_cost": "visible steps",
    "lean": "leans off its foot",
    "slender": "a narrow foot",
    "weak_mm": "thin rods upright",
}
"""How a pose is good or poor by an aim, in a few words."""
GRAIN = 0.04
"""Prior: a pose is not better for less than this share of what the middle nine tenths of all directions span."""

UNITS = {
    "support_area_mm2": " mm²",
    "scar_area_mm2": " mm² weighted",
    "support_volume_mm3": " mm³",
    "peak_section_mm2": " mm²",
    "height_mm": " mm",
    "foot_mm2": " mm²",
    "lean": " mm",
    "weak_mm": " mm",
}
FINEST = {
    "minima": 0.5,
    "cups": 0.5,
    "step_cost": 0.002,
    "support_area_mm2": 0.5,
    "scar_area_mm2": 0.5,
    "peak_section_mm2": 1.0,
    "weak_mm": 0.5,
    "slender": 0.2,
}
"""Differences below these mean nothing and are not spoken of."""


@dataclass(frozen=True)
class Candidate:
    """A pose: unit vector `down` of the mesh's frame, its turn, its aims by name, whether it stands on its foot, and why it is here."""

    down: tuple[float, float, float]
    quaternion: tuple[float, float, float, float]
    metrics: dict[str, float]
    stable: bool
    why: str
    best_at: tuple[str, ...]


@dataclass(frozen=True)
class Search:
    """All weighed directions of a figure, whether each fits the machine, and the mesh and its weights on which they were weighed."""

    table: PoseTable
    fits: NDArray[np.bool_]
    coarse: Mesh
    weights: F8 | None
    limit_angle: float

    def scale(self, printer: Printer) -> Scale:
        """What weighs any further direction by the measure of the search."""
        rods = thin_rods(self.coarse) if printer.process == "filament" else None
        return Scale(self.coarse, self.limit_angle, self.weights, rods)

    def merit(self, wish: dict[str, float]) -> F8:
        """Minutes (n,) that each direction costs by a wish."""
        return _merit(self.table, wish)

    def best(self, wish: dict[str, float]) -> int:
        """The direction of best merit that fits."""
        return int(np.argmin(_merit(self.table, wish) + np.where(self.fits, 0.0, np.inf)))


@dataclass(frozen=True)
class PoseChoice:
    """How many directions were weighed, the candidates, the recommended one's index, and the directions that no other beats."""

    evaluated: int
    candidates: list[Candidate]
    recommended: int
    on_front: NDArray[np.bool_]


def front(costs: F8) -> NDArray[np.bool_]:
    """Rows of `costs` (n, a) that no other row beats in every column: the Pareto front (Deb et al. 2002, first rank)."""
    keep = np.ones(len(costs), np.bool_)
    for i in np.argsort(costs.sum(axis=1)):
        if keep[i]:
            beaten = (costs >= costs[i]).all(axis=1) & (costs > costs[i]).any(axis=1)
            keep &= ~beaten
    return keep


def wish_of(printer: Printer, priorities: dict[str, float] | None) -> dict[str, float]:
    """The process's priorities with the user's over them; an aim of no weight is left out. Raises `MachineError`."""
    wish = dict(PRIORITIES[printer.process])
    for aim, weight in (priorities or {}).items():
        if aim not in NAMES or not isinstance(weight, int | float) or not 0 <= weight <= 10:
            raise MachineError(
                "bad-priority",
                f"{weight!r} is no weight for '{aim}'.",
                remedy="Give 0 to 10 for " + ", ".join(NAMES) + ".",
            )
        wish[aim] = float(weight)
    wish = {aim: weight for aim, weight in wish.items() if weight > 0}
    return wish or dict(PRIORITIES[printer.process])


def search_poses(
    mesh: Mesh,
    context: Context,
    *,
    directions: int = 1000,
    wish: dict[str, float] | None = None,
    coarse: Mesh | None = None,
    up: Direction = Z_UP,
) -> Search:
    """Weigh the hull's resting faces and `directions` spread ones, and refine around the best, on a mesh of about COARSE_FACES.

    `up`: which way of its frame the figure stands; that pose comes first. `coarse`: such a mesh where it is at hand. What the context's marks say weighs the scars.

    Raises:
        MachineError: `does-not-fit` where no direction fits at any turn about z, with the size that would.
    """
    printer, weights = context.printer, context.weights
    angle = context.limit_angle - math.radians(SAFE_DEG)
    coarse = decimate(mesh, COARSE_FACES) if coarse is None else coarse
    light = weights if weights is None or coarse is mesh else transfer(mesh, weights, coarse)
    rods = thin_rods(coarse) if printer.process == "filament" else None
    scale = Scale(coarse, angle, light, rods)
    rest, _ = resting_directions(coarse)
    table = scale.weigh(np.concatenate([[-np.array(up)], rest, spread_directions(directions)]))
    fits = _fitting(coarse, table.down, printer)
    wish = wish_of(printer, None) if wish is None else wish
    for angle_step in (0.07, 0.025):
        best = np.argsort(_merit(table, wish) + np.where(fits, 0.0, np.inf))[:6]
        more = scale.weigh(np.concatenate([_around(table.down[i], angle_step) for i in best]))
        table = PoseTable(np.concatenate([table.down, more.down]), np.concatenate([table.aims, more.aims]))
        fits = np.concatenate([fits, _fitting(coarse, more.down, printer)])
    return Search(table, fits, coarse, light, angle)


def _fitting(mesh: Mesh, downs: F8, printer: Printer) -> NDArray[np.bool_]:
    """Directions that leave room for supports; where there are none, those in which the bare figure fits; `does-not-fit` where none does."""
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
    wish: dict[str, float] | None = None,
    pinned: list[tuple[float, float, float]] | None = None,
    scale: Scale | None = None,
) -> PoseChoice:
    """Diverse members of the front for these priorities, and directions that the user has `pinned` after them, weighed again on the whole mesh.

    The recommended candidate comes first in merit; the mesh is in mm. `scale` is the search's own, where it is at hand: it then weighs for
    the whole mesh too, at once.
    """
    printer = context.printer
    wish = wish_of(printer, None) if wish is None else wish
    table = search.table
    on_front = _front_of(table, wish, search.fits)
    picked = table.down[_pick(table, wish, search.fits, on_front, count)]
    chosen = picked if not pinned else np.concatenate([picked, np.array(pinned, float)])
    # The merit is of one measure: that of the search, the pinned ones beside it.
    coarse = (scale or search.scale(printer)).weigh(chosen)
    rods = thin_rods(search.coarse) if printer.process == "filament" else None
    exact = coarse if scale else weigh(mesh, chosen, search.limit_angle, context.weights, rods)
    joint = PoseTable(np.concatenate([table.down, chosen]), np.concatenate([table.aims, coarse.aims]))
    merit = _merit(joint, wish)[len(table.down) :][: len(picked)]
    candidates = [_candidate(exact, i, table, wish, printer) for i in range(len(chosen))]
    return PoseChoice(len(table.down), candidates, int(np.argmin(merit)), on_front)


def choose_poses(
    mesh: Mesh,
    context: Context,
    *,
    count: int = 4,
    directions: int = 1000,
    priorities: dict[str, float] | None = None,
    up: Direction = Z_UP,
) -> PoseChoice:
    """`search_poses` and `rank_poses` in one."""
    wish = wish_of(context.printer, priorities)
    search = search_poses(mesh, context, directions=directions, wish=wish, up=up)
    return rank_poses(mesh, search, context, count=count, wish=wish)


def why_not(
    metrics: dict[str, float], against: dict[str, float], table: PoseTable, wish: dict[str, float]
) -> list[str]:
    """What a direction costs and gains beside another, in words and numbers, the largest difference of rank first."""
    found = []
    for aim in wish:
        here, there = metrics[aim], against[aim]
        if abs(here - there) < FINEST.get(aim, 0.05):
            continue
        column = table.column(aim)
        shift = float((column < here).mean() - (column < there).mean())
        share = float((column < here).mean() if here > there else (column > here).mean())
        digits = 0 if aim in ("minima", "cups") else 3 if aim == "step_cost" else 1
        side = "worse" if here > there else "better"
        name = NAMES[aim][0].upper() + NAMES[aim][1:]
        text = f"{name} {here:.{digits}f} against {there:.{digits}f}{UNITS.get(aim, '')}: {side} than {share:.0%} of all directions"
        found.append((-abs(shift), text))
    return [text for _, text in sorted(found)]


def _columns(wish: dict[str, float]) -> list[int]:
    return [AIMS.index(aim) for aim in wish]


def _merit(table: PoseTable, wish: dict[str, float]) -> F8:
    """Minutes (n,) of each direction."""
    return minutes({aim: table.column(aim) for aim in wish}, wish)


def _around(down: F8, step: float) -> F8:
    """Eight directions about `step` radians around one."""
    side = np.cross(down, [1.0, 0, 0] if abs(down[0]) < 0.9 else [0, 1.0, 0])
    side /= np.linalg.norm(side)
    other = np.cross(down, side)
    turn = np.arange(8) * np.pi / 4
    ring = down + step * (np.cos(turn)[:, None] * side + np.sin(turn)[:, None] * other)
    return np.asarray(ring / np.linalg.norm(ring, axis=1, keepdims=True))


def _front_of(table: PoseTable, wish: dict[str, float], fits: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Directions that fit and that no other that fits beats in every aim of the wish by more than a grain."""
    members = np.flatnonzero(fits)
    costs = table.aims[np.ix_(members, np.array(_columns(wish)))]
    low, high = np.quantile(costs, [0.05, 0.95], axis=0)
    grain = np.maximum((high - low) * GRAIN, [FINEST.get(aim, 0.05) for aim in wish])
    on_front = np.zeros(len(fits), np.bool_)
    on_front[members[front(np.round(costs / grain))]] = True
    return on_front


def _pick(
    table: PoseTable, wish: dict[str, float], fits: NDArray[np.bool_], on_front: NDArray[np.bool_], count: int
) -> NDArray[np.int64]:
    """Greedy: the best merit first, then the best that is at least 25 degrees from all picked, loosening where there are too few.

    What another beats comes after all that none does, however few minutes lie between them.
    """
    order = [int(i) for i in np.lexsort((_merit(table, wish), ~on_front)) if fits[i]]
    picked: list[int] = []
    for apart in (25.0, 12.0, 4.0):
        for i in order:
            if len(picked) < count and all(table.down[i] @ table.down[p] < np.cos(np.radians(apart)) for p in picked):
                picked.append(i)
    return np.array(picked, np.int64)


def plinth_side(metrics: dict[str, float]) -> float:
    """Side in mm of a square block under the lowest point on which a figure stands: under its centre of mass, and no eighth of its height."""
    foot = 2 * math.sqrt(metrics["foot_mm2"] / math.pi)
    return float(math.ceil(max(foot + 2 * metrics["lean"] + PLINTH_MARGIN_MM, metrics["height_mm"] / SLENDER)))


def _candidate(exact: PoseTable, i: int, table: PoseTable, wish: dict[str, float], printer: Printer) -> Candidate:
    metrics = {aim: float(value) for aim, value in zip(AIMS, exact.aims[i], strict=True)}
    metrics["minima"], metrics["cups"] = int(metrics["minima"]), int(metrics["cups"])
    shares = {aim: float((table.column(aim) < metrics[aim]).mean()) for aim in wish}
    # Good by an aim is what few are better at and many are worse at: what all have alike decides nothing.
    worse = {aim: float((table.column(aim) > metrics[aim]).mean()) for aim in wish}
    good = sorted(
        (aim for aim in wish if shares[aim] <= 0.2 and worse[aim] >= 0.5), key=lambda aim: shares[aim] - worse[aim]
    )
    poor = sorted((aim for aim in wish if shares[aim] >= 0.7), key=lambda aim: -shares[aim])
    text = _listed([GOOD[aim] for aim in good[:2]]) if good else "a middle way, bad at little"
    text = text[0].upper() + text[1:]
    if poor:
        text += "; but " + _listed([POOR[aim] for aim in poor[:2]])
    foot = 2 * math.sqrt(metrics["foot_mm2"] / math.pi)
    stands = metrics["lean"] == 0 and foot > 0
    if stands and metrics["height_mm"] > SLENDER * foot:
        stands = False
        text += f"; slender, {metrics['height_mm']:.0f} mm tall on a foot {foot:.1f} mm wide: it may be knocked over"
    if not stands and printer.process == "filament":
        metrics["plinth_mm"] = plinth_side(metrics)
        text += f"; a plinth {metrics['plinth_mm']:.0f} mm square would make it stand"
    if printer.process == "filament" and metrics["weak_mm"] > FINEST["weak_mm"]:
        text += f"; {metrics['weak_mm']:.0f} mm of thin rod stands upright and breaks easily between layers"
    down = exact.down[i]
    q = quaternion_to_plate(down)
    return Candidate(
        (float(down[0]), float(down[1]), float(down[2])),
        (float(q[0]), float(q[1]), float(q[2]), float(q[3])),
        metrics,
        stands,
        text + ".",
        tuple(good),
    )


def _listed(names: list[str]) -> str:
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " and " + names[-1]
