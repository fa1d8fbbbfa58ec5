"""From hundreds of weighed directions to four that no other beats, one of them recommended, with the aims that decided."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..machines import Material, Printer, default_height, limit_angle
from ..mesh import Mesh, decimate
from .directions import quaternion_to_plate, resting_directions, spread_directions
from .search import AIMS, PoseTable, weigh

F8 = NDArray[np.float64]
SLENDER = 8.0
"""Prior: a figure taller than this many widths of its foot is not called stable."""
COARSE_FACES = 60_000
"""Directions are weighed on a mesh decimated to about this many faces; the chosen few are weighed again on the whole mesh."""

PRIORITIES: dict[str, dict[str, float]] = {
    "resin": {"scar_area_mm2": 1.0, "support_volume_mm3": 0.4, "minima": 1.0, "peak_section_mm2": 1.0, "height_mm": 0.5, "step_cost": 0.3},
    "filament": {"scar_area_mm2": 1.2, "support_volume_mm3": 1.0, "minima": 0.8, "height_mm": 0.3, "step_cost": 0.4, "lean": 1.5},
}
"""Prior: how much each aim matters for a process until the user says otherwise. Aims are compared by rank, so units do not matter."""

NAMES = {
    "scar_area_mm2": "supported surface",
    "support_volume_mm3": "support volume",
    "minima": "starts in mid air",
    "peak_section_mm2": "widest section",
    "height_mm": "height",
    "step_cost": "visible steps",
    "lean": "lean over its foot",
}


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
class PoseChoice:
    """How many directions were weighed, the candidates, the recommended one's index."""

    evaluated: int
    candidates: list[Candidate]
    recommended: int


def front(costs: F8) -> NDArray[np.bool_]:
    """Rows of `costs` (n, a) that no other row beats in every column: the Pareto front (Deb et al. 2002, first rank)."""
    keep = np.ones(len(costs), np.bool_)
    for i in np.argsort(costs.sum(axis=1)):
        if keep[i]:
            beaten = (costs >= costs[i]).all(axis=1) & (costs > costs[i]).any(axis=1)
            keep &= ~beaten
    return keep


def _ranks(costs: F8) -> F8:
    """Each column as its rank in 0..1; equal costs share the lowest rank."""
    return np.stack([np.searchsorted(np.sort(column), column) / max(1, len(column) - 1) for column in costs.T], axis=1)


def choose_poses(
    mesh: Mesh,
    printer: Printer,
    material: Material,
    count: int = 4,
    directions: int = 500,
    weights: F8 | None = None,
    priorities: dict[str, float] | None = None,
) -> PoseChoice:
    """Weigh the hull's resting faces and `directions` spread ones, and refine around the best; pick `count` diverse members of the front.

    `weights` (faces,) is what a scar on each face costs (1 by default). The recommended candidate comes first in merit; the mesh is in mm.
    """
    angle = limit_angle(printer, material, default_height(printer))
    wish = PRIORITIES[printer.process] if priorities is None else priorities
    coarse = mesh if weights is not None else decimate(mesh, COARSE_FACES)
    rest, _ = resting_directions(coarse)
    upright = np.array([[0.0, 0.0, -1.0]])
    table = weigh(coarse, np.concatenate([upright, rest, spread_directions(directions)]), angle, weights)
    best = np.argsort(_merit(table, wish))[:6]
    near = np.concatenate([_around(table.down[i]) for i in best])
    more = weigh(coarse, near, angle, weights)
    table = PoseTable(np.concatenate([table.down, more.down]), np.concatenate([table.aims, more.aims]))
    fits = _fits(coarse, table.down, printer)
    picked = _pick(table, wish, fits, count)
    exact = weigh(mesh, table.down[picked], angle, weights)
    merit = _merit(table, wish)[picked]
    recommended = int(np.argmin(merit))
    return PoseChoice(len(table.down), [_candidate(exact, i, table, wish) for i in range(len(picked))], recommended)


def _columns(wish: dict[str, float]) -> list[int]:
    return [AIMS.index(aim) for aim in wish]


def _merit(table: PoseTable, wish: dict[str, float]) -> F8:
    """Weighted mean of ranks: only used to order what the front holds, never shown as a number."""
    return np.asarray(_ranks(table.aims[:, _columns(wish)]) @ np.array(list(wish.values())))


def _around(down: F8, step: float = 0.07) -> F8:
    """Eight directions about 4 degrees around one."""
    side = np.cross(down, [1.0, 0, 0] if abs(down[0]) < 0.9 else [0, 1.0, 0])
    side /= np.linalg.norm(side)
    other = np.cross(down, side)
    turn = np.arange(8) * np.pi / 4
    ring = down + step * (np.cos(turn)[:, None] * side + np.sin(turn)[:, None] * other)
    return np.asarray(ring / np.linalg.norm(ring, axis=1, keepdims=True))


def _fits(mesh: Mesh, downs: F8, printer: Printer) -> NDArray[np.bool_]:
    """Whether the height in each pose leaves the machine's; the footprint is checked when the pose is placed."""
    points = mesh.vertices
    return np.array([np.ptp(points @ down) <= printer.build_mm[2] for down in downs])


def _pick(table: PoseTable, wish: dict[str, float], fits: NDArray[np.bool_], count: int) -> NDArray[np.int64]:
    """Greedy: the best merit first, then the best that is at least 25 degrees from all picked, loosening where there are too few."""
    allowed = fits if fits.any() else np.ones(len(fits), np.bool_)
    merit = _merit(table, wish)
    on_front = np.zeros(len(merit), np.bool_)
    members = np.flatnonzero(allowed)
    on_front[members[front(table.aims[np.ix_(members, np.array(_columns(wish)))])]] = True
    order = [int(i) for i in np.argsort(merit + np.where(on_front, 0.0, 10.0)) if allowed[i]]
    picked: list[int] = []
    for apart in (25.0, 12.0, 4.0):
        for i in order:
            if len(picked) < count and all(table.down[i] @ table.down[p] < np.cos(np.radians(apart)) for p in picked):
                picked.append(i)
    return np.array(picked, np.int64)


def _candidate(exact: PoseTable, i: int, table: PoseTable, wish: dict[str, float]) -> Candidate:
    metrics = {aim: float(value) for aim, value in zip(AIMS, exact.aims[i], strict=True)}
    metrics["minima"] = int(metrics["minima"])
    shares = {aim: float((table.column(aim) < metrics[aim]).mean()) for aim in wish}
    good = sorted((aim for aim in wish if shares[aim] <= 0.15), key=lambda aim: shares[aim])
    poor = sorted((aim for aim in wish if shares[aim] >= 0.7), key=lambda aim: -shares[aim])
    text = ("Best at " + _listed(good[:2])) if good else "A middle way: best at nothing, bad at little"
    if poor:
        text += ("; pays with " if good else ", but pays with ") + _listed(poor[:2])
    foot = 2 * math.sqrt(metrics["foot_mm2"] / math.pi)
    stands = metrics["lean"] == 0 and foot > 0
    if stands and metrics["height_mm"] > SLENDER * foot:
        stands = False
        text += f"; slender, {metrics['height_mm']:.0f} mm tall on a foot {foot:.1f} mm wide: it may be knocked over"
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


def _listed(aims: list[str]) -> str:
    names = [NAMES[aim] for aim in aims]
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " and " + names[-1]
