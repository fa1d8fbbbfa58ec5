"""What only a plate knows of its pieces: where the nozzle crosses from one to another, and what cutters cannot reach
past a neighbour.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .by_hand import apart
from .footprint import turned
from .plates import Plate

F8 = NDArray[np.float64]
CUTTER_MM = 6.0
"""Prior: jaws of side cutters want so much room between a support and what stands beside it."""


@dataclass(frozen=True)
class Between:
    """`crossings` of the nozzle from piece to piece, `metres` in all; pairs of pieces, by their place on the plate,
    between which cutters do not reach: their supports come off once they are lifted.
    """

    crossings: int
    metres: float
    tight: list[tuple[int, int]]


def between(plate: Plate, layer_mm: float, *, draws: bool) -> Between:
    """Of a plate whose layers are so high; `draws`: by lines, so that a nozzle crosses."""
    middles, outlines = [], []
    for piece, at in plate.items:
        rings = [ring + (at.x_mm, at.y_mm) for ring in turned(piece.outlines, at.turn_deg)]
        outlines.append(rings)
        points = np.concatenate(rings)
        middles.append((points.min(axis=0) + points.max(axis=0)) / 2)
    crossings, metres = _crossed(np.array(middles), plate, layer_mm) if draws else (0, 0.0)
    return Between(crossings, metres, _tight(outlines))


def _crossed(middles: F8, plate: Plate, layer_mm: float) -> tuple[int, float]:
    """In every layer from piece to piece along a short way, there in one layer and back in the next."""
    tall = np.array([piece.tall_mm for piece, _ in plate.items])
    crossings, mm, below = 0, 0.0, 0.0
    for top in np.unique(tall):
        layers, there = round((top - below) / layer_mm), np.flatnonzero(tall >= top)
        crossings += layers * (len(there) - 1)
        mm += layers * _way(middles[there])
        below = top
    return crossings, mm / 1000


def _way(middles: F8) -> float:
    """Along all of them, always to the nearest that is left, begun at the one in front on the left."""
    left = list(range(len(middles)))
    here = left.pop(int(np.argmin(middles.sum(axis=1))))
    way = 0.0
    while left:
        far = np.linalg.norm(middles[left] - middles[here], axis=1)
        way += float(far.min())
        here = left.pop(int(far.argmin()))
    return way


def _tight(outlines: Sequence[Sequence[F8]]) -> list[tuple[int, int]]:
    boxes = [(np.concatenate(rings).min(axis=0), np.concatenate(rings).max(axis=0)) for rings in outlines]
    return [
        (j, k)
        for k in range(len(outlines))
        for j in range(k)
        if np.maximum(boxes[j][0] - boxes[k][1], boxes[k][0] - boxes[j][1]).max() < CUTTER_MM
        and apart(outlines[j], outlines[k]) < CUTTER_MM
    ]
