"""What a plate of pieces takes and risks, and how many at once are best."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .footprint import Polygon, turned
from .nest import TURNS, Box, Nested, Shape, nested

TAKES = {"hangs": 0.1, "stands": 0.5}
"""Priors: a piece that comes off loses the rest of its plate so often: one that hangs sinks into the vat, one that
stands is dragged through the others.
"""
VAT_ML = 500.0
"""Prior: what a vat holds, where nobody says."""
MOST_PIECES = 400


@dataclass(frozen=True)
class Piece:
    """One copy of a proved plan. Seconds of its own print, `start_s` of them before the first layer; ml that it needs;
    the chance that it is lost by itself, and that the whole print is by what no layer shows; N of pull, and seconds of
    `clock` where they are known, by `pull_mm` steps of height. `alike`: pieces of the same can be printed together,
    such as a material and a layer height.
    """

    plan: str
    copy: int
    outlines: list[Polygon]
    tall_mm: float
    time_s: float
    start_s: float
    ml: float
    grams: float
    lost: float
    mishap: float
    pull_n: tuple[float, ...]
    pull_mm: float
    alike: str
    clock: tuple[float, ...] = ()


@dataclass(frozen=True)
class Plate:
    """Pieces with where they lie; what the plate takes; `good`: pieces that come off whole on average."""

    items: list[tuple[Piece, Nested]]
    time_s: float
    ml: float
    grams: float
    peak_pull_n: float
    risk: float
    good: float

    def footprint(self, k: int) -> list[Polygon]:
        """Of one of its pieces, from the plate's front left corner."""
        piece, at = self.items[k]
        moved = [p + (at.x_mm, at.y_mm) for p in turned(piece.outlines, at.turn_deg)]
        return [[(round(float(x), 3), round(float(y), 3)) for x, y in p] for p in moved]


@dataclass(frozen=True)
class Plates:
    """Plates in the order in which they fill; (piece, why) of what fits none; what a good piece takes in hours."""

    plates: list[Plate]
    unplaced: list[tuple[Piece, str]]
    hours_per_good: float | None


def plates_of(
    pieces: Sequence[Piece],
    size: tuple[float, float, float],
    *,
    gap: float,
    hangs: bool,
    fixed: Sequence[tuple[Piece, Nested]] = (),
    free: Sequence[Box] = (),
    turns: int = TURNS,
) -> Plates:
    """Nest pieces on as many plates as they want. What hangs may be turned, and is grouped by height, since a plate
    takes as long as its tallest; what stands keeps its facing. `fixed`: pieces that lie where somebody has put them,
    their plate counted over all; `free`: what is kept free on every plate.
    """
    ways = tuple(360.0 * k / turns for k in range(turns)) if hangs else (0.0,)
    plates: dict[int, list[tuple[Piece, Nested]]] = {}
    lost: list[tuple[Piece, str]] = []
    alike_on: dict[int, str] = {}
    for piece, at in fixed:
        alike_on.setdefault(at.plate, piece.alike)
    for alike in dict.fromkeys(p.alike for p in [*pieces, *(piece for piece, _ in fixed)]):
        mine = [p for p in pieces if p.alike == alike]
        fitting = [p for p in mine if p.tall_mm <= size[2]]
        lost += [
            (p, f"It is {p.tall_mm:.0f} mm tall; the machine builds {size[2]:.0f}.") for p in mine if p not in fitting
        ]
        ordered = sorted(fitting, key=lambda p: (-round(p.tall_mm), -_area(p)) if hangs else (0, -_area(p)))
        stay = [(piece, at) for piece, at in fixed if piece.alike == alike == alike_on[at.plate]]
        every = [*ordered, *(piece for piece, _ in stay)]
        shapes = {id(p.outlines): Shape(p.outlines, ways) for p in every}
        # Plates on which something else is pinned are not these pieces'; theirs are counted without them.
        numbers = [n for n in range(len(every) + len(alike_on) + len(plates) + 1) if alike_on.get(n, alike) == alike]
        numbers = [n for n in numbers if n not in plates]
        there = [replace(at, shape=len(ordered) + k, plate=numbers.index(at.plate)) for k, (_, at) in enumerate(stay)]
        laid, left = nested([shapes[id(p.outlines)] for p in every], size[:2], gap, fixed=there, free=free)
        lost += [(every[k], f"Nowhere on {size[0]:.0f} x {size[1]:.0f} mm, in no turn.") for k in left]
        for at in laid:
            plates.setdefault(numbers[at.plate], []).append((every[at.shape], replace(at, plate=numbers[at.plate])))
    for piece, at in fixed:
        if piece.alike != alike_on[at.plate]:  # it stays where somebody put it, and `trespasses` tells of it
            plates.setdefault(at.plate, []).append((piece, at))
    whole = [plate_of(items, hangs=hangs) for _, items in sorted(plates.items())]
    hours, good = sum(p.time_s for p in whole) / 3600, sum(p.good for p in whole)
    return Plates(whole, lost, hours / good if good > 0 else None)


def _area(piece: Piece) -> float:
    return sum(_shoelace(np.array(p)) for p in piece.outlines)


def _shoelace(p: NDArray[np.float64]) -> float:
    return abs(float(np.dot(p[:, 0], np.roll(p[:, 1], -1)) - np.dot(p[:, 1], np.roll(p[:, 0], -1)))) / 2


def time_of(pieces: Sequence[Piece], *, hangs: bool) -> float:
    """Seconds of a plate: of what hangs the longest, whose layers cure all others' with theirs; of what is drawn, all
    one after the other in every layer, begun once.
    """
    if hangs:
        return max(p.time_s for p in pieces)
    start = max(p.start_s for p in pieces)
    return start + sum(p.time_s - p.start_s for p in pieces)


def good_of(pieces: Sequence[Piece], *, hangs: bool, takes: float | None = None) -> tuple[float, float]:
    """How many come off whole on average, and the chance that not all do.

    What no layer shows strikes the plate once; a piece that is lost takes the rest with it now and then: `takes`, by
    the usual where it is None.
    """
    takes = TAKES["hangs" if hangs else "stands"] if takes is None else takes
    lost = np.array([p.lost for p in pieces])
    keeps = 1 - takes * lost
    whole = math.prod(keeps.tolist())
    spared = 1 - max(p.mishap for p in pieces)
    good = spared * float(((1 - lost) * whole / keeps).sum())
    return good, 1 - spared * float(np.prod(1 - lost))


def pull_of(pieces: Sequence[Piece]) -> float:
    """The largest pull of a layer, N: all pieces' at the same height added up."""
    step = min((p.pull_mm for p in pieces if p.pull_n), default=0.0)
    if step <= 0:
        return 0.0
    tallest = max(len(p.pull_n) * p.pull_mm for p in pieces)
    heights = (np.arange(math.ceil(tallest / step)) + 0.5) * step
    total = np.zeros(len(heights))
    for p in pieces:
        if p.pull_n:
            at = np.floor(heights / p.pull_mm).astype(int)
            inside = at < len(p.pull_n)
            total[inside] += np.array(p.pull_n)[at[inside]]
    return float(total.max())


def plate_of(items: list[tuple[Piece, Nested]], *, hangs: bool, takes: float | None = None) -> Plate:
    """What a plate takes and risks; `takes`: see `good_of`."""
    pieces = [piece for piece, _ in items]
    good, risk = good_of(pieces, hangs=hangs, takes=takes)
    return Plate(
        items,
        time_of(pieces, hangs=hangs),
        sum(p.ml for p in pieces),
        sum(p.grams for p in pieces),
        pull_of(pieces),
        risk,
        good,
    )


def batch_curve(
    piece: Piece, size: tuple[float, float, float], *, gap: float, hangs: bool, most: int, takes: float | None = None
) -> list[tuple[int, float]]:
    """(pieces at once, expected hours a good piece) from one to as many as fit one plate, at most `most`; `takes`: see
    `good_of`.
    """
    copies = [piece] * most
    laid = plates_of(copies, size, gap=gap, hangs=hangs)
    fits = len(laid.plates[0].items) if laid.plates else 0
    curve = []
    for n in range(1, fits + 1):
        good, _ = good_of(copies[:n], hangs=hangs, takes=takes)
        curve.append((n, time_of(copies[:n], hangs=hangs) / 3600 / good))
    return curve
