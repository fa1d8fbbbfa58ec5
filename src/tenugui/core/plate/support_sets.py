"""More supports, or more pieces: what other support sets of a plan mean for how many fit on a plate."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .nest import Shape, nested
from .plates import MOST_PIECES, Piece, good_of, time_of

TURNS_OF_A_BOX = (0.0, 90.0)
"""A box that is turned by less fits no better beside boxes."""


@dataclass(frozen=True)
class SupportSet:
    """A support set as a plate sees it: its box with supports, mm; seconds of a print, `start_s` of them before the
    first layer, and the chance that a piece is lost.
    """

    box_mm: tuple[float, float]
    tall_mm: float
    time_s: float
    start_s: float
    lost: float


@dataclass(frozen=True)
class SetOnPlate:
    """So many fit a plate, `best` of them at once; what a good piece takes then, in hours, None where none fits."""

    fits: int
    best: int
    hours_per_good: float | None


def sets_on_plate(
    sets: Sequence[SupportSet], size: tuple[float, float, float], *, gap: float, hangs: bool, most: int
) -> list[SetOnPlate]:
    """All sets of a plan by their boxes, so that they are compared alike; footprints fit better than boxes. At most
    `most` pieces.
    """
    told = []
    for one in sets:
        fits = _fitting(one, size, gap=gap, hangs=hangs, most=min(most, MOST_PIECES))
        each = []
        for n in range(1, fits + 1):
            pieces = [_piece(one)] * n
            good, _ = good_of(pieces, hangs=hangs)
            each.append((time_of(pieces, hangs=hangs) / 3600 / good if good > 0 else float("inf"), n))
        hours, best = min(each, default=(float("inf"), 0))
        told.append(SetOnPlate(fits, best, hours if hours < float("inf") else None))
    return told


def _fitting(one: SupportSet, size: tuple[float, float, float], *, gap: float, hangs: bool, most: int) -> int:
    if one.tall_mm > size[2]:
        return 0
    wide, deep = one.box_mm
    shape = Shape([[(0.0, 0.0), (wide, 0.0), (wide, deep), (0.0, deep)]], TURNS_OF_A_BOX if hangs else (0.0,))
    laid, _ = nested([shape] * most, size[:2], gap, most_plates=1)
    return len(laid)


def _piece(one: SupportSet) -> Piece:
    return Piece("", 1, [], one.tall_mm, one.time_s, one.start_s, 0.0, 0.0, one.lost, 0.0, (), 0.0, "")
