"""Spans from one moment to another, be they times or minutes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import TypeVar

T = TypeVar("T", int, datetime)


def joined(spans: Iterable[tuple[T, T]]) -> list[tuple[T, T]]:
    """Sorted, one where they meet, without those that are none.

    >>> joined([(5, 7), (1, 3), (3, 4), (9, 9)])
    [(1, 4), (5, 7)]
    """
    found: list[tuple[T, T]] = []
    for a, b in sorted(spans):
        if b <= a:
            continue
        if found and a <= found[-1][1]:
            found[-1] = (found[-1][0], max(b, found[-1][1]))
        else:
            found.append((a, b))
    return found


def without(spans: Sequence[tuple[T, T]], taken: Iterable[tuple[T, T]]) -> list[tuple[T, T]]:
    """What is left of spans where others are taken out.

    >>> without([(0, 10)], [(3, 4), (8, 12)])
    [(0, 3), (4, 8)]
    """
    left = list(spans)
    for a, b in taken:
        left = [piece for s, e in left for piece in ((s, min(e, a)), (max(s, b), e)) if piece[1] > piece[0]]
    return left
