"""Pieces that somebody has put where they lie: what comes too near to what."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..compiled import njit
from .footprint import F8, turned
from .nest import Box
from .plates import Plate

SLACK_MM = 1e-6


@dataclass(frozen=True)
class Trespass:
    """Something that must not be on a plate: `items` of it that it concerns, by their place in the list, and by how
    many mm; `kind`: what they do.
    """

    kind: str
    items: tuple[int, ...]
    by_mm: float


def trespasses(
    plate: Plate, size: tuple[float, float, float], *, gap: float, free: Sequence[Box] = ()
) -> list[Trespass]:
    """All of a plate: `outside` it, `near` or over another piece, on what is kept `free`, and `unlike` the first piece
    in material or layers.
    """
    found: list[Trespass] = []
    placed = [[p + (at.x_mm, at.y_mm) for p in turned(piece.outlines, at.turn_deg)] for piece, at in plate.items]
    boxes = [(np.concatenate(p).min(axis=0), np.concatenate(p).max(axis=0)) for p in placed]
    for k, (low, high) in enumerate(boxes):
        out = max(float((-low).max()), float((high - size[:2]).max()))
        if out > SLACK_MM:
            found.append(Trespass("outside", (k,), out))
        for box in free:
            corners = np.array(
                [(box.x0_mm, box.y0_mm), (box.x1_mm, box.y0_mm), (box.x1_mm, box.y1_mm), (box.x0_mm, box.y1_mm)]
            )
            if apart(placed[k], [corners]) <= 0:
                found.append(Trespass("free", (k,), 0.0))
        for j in range(k):
            far = np.maximum(boxes[j][0] - high, low - boxes[j][1]).max()
            if far >= gap:
                continue
            away = apart(placed[j], placed[k])
            if away < gap - SLACK_MM:
                found.append(Trespass("near", (j, k), gap - away))
    first = plate.items[0][0].alike if plate.items else ""
    found += [Trespass("unlike", (k,), 0.0) for k, (piece, _) in enumerate(plate.items) if piece.alike != first]
    return found


def apart(one: Sequence[F8], other: Sequence[F8]) -> float:
    """mm between two sets of outlines (n, 2) each; 0 where they touch or one lies within the other."""
    least = np.inf
    for a in one:
        for b in other:
            if _inside(a[0], b) or _inside(b[0], a) or _cross(a, b):
                return 0.0
            least = min(least, float(_to_edges(a, b)), float(_to_edges(b, a)))
    return float(least)


@njit()
def _to_edges(points: F8, ring: F8) -> float:
    """The least distance from points (n, 2) to the sides of a ring (m, 2)."""
    least = np.inf
    for k in range(len(ring)):
        ax, ay = ring[k - 1, 0], ring[k - 1, 1]
        dx, dy = ring[k, 0] - ax, ring[k, 1] - ay
        span = max(dx * dx + dy * dy, 1e-18)
        for n in range(len(points)):
            px, py = points[n, 0] - ax, points[n, 1] - ay
            t = min(1.0, max(0.0, (px * dx + py * dy) / span))
            least = min(least, (px - t * dx) ** 2 + (py - t * dy) ** 2)
    return np.sqrt(least)


def _side(p: F8, q: F8, r: F8) -> F8:
    """Twice the signed area of triangles, broadcast."""
    area: F8 = (q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1]) - (q[..., 1] - p[..., 1]) * (r[..., 0] - p[..., 0])
    return area


def _cross(one: F8, other: F8) -> bool:
    """Whether any two sides of two rings cross."""
    a, b = one[:, None], np.roll(one, -1, axis=0)[:, None]
    c, d = other[None], np.roll(other, -1, axis=0)[None]
    return bool(((_side(a, b, c) * _side(a, b, d) < 0) & (_side(c, d, a) * _side(c, d, b) < 0)).any())


def _inside(point: F8, ring: F8) -> bool:
    """Whether a point lies within a ring: it crosses an odd number of its sides on its way out."""
    a, b = ring, np.roll(ring, -1, axis=0)
    spans = (a[:, 1] > point[1]) != (b[:, 1] > point[1])
    rise = np.where(spans, b[:, 1] - a[:, 1], 1.0)
    x = a[:, 0] + (point[1] - a[:, 1]) / rise * (b[:, 0] - a[:, 0])
    return bool((spans & (x > point[0])).sum() % 2)
