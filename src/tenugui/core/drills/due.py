"""Which drills come next: what was missed comes again after a rest, what was right after a longer one; what is new is
about as hard as somebody is good, and of the skills that were seen least.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from .question import KINDS
from .rating import NOBODY, Rating, chance

ROUND = 5
RIGHT = 0.75
"""Prior: so right counts as known."""
RESTS_H = (0.2, 20.0, 70.0, 170.0, 400.0, 900.0)
"""Priors, hours: how long a drill rests after it was right so many times in a row; the first after a miss."""
AIM = 0.7
"""Prior: people learn most from what they get right about so often."""


@dataclass(frozen=True)
class Tried:
    """How a drill went so far: its kind, how hard it is, when it was answered last (None: never), and how often it was
    right in a row since it was missed.
    """

    drill: int
    kind: str
    hard: float
    last: datetime | None = None
    row: int = 0


def rests_until(tried: Tried) -> datetime | None:
    """When it comes again; None where it was never asked.

    >>> missed = Tried(1, "angle", 0.0, datetime(2026, 12, 1, 12), 0)
    >>> rests_until(missed).isoformat()
    '2026-12-01T12:12:00'
    """
    if tried.last is None:
        return None
    return tried.last + timedelta(hours=RESTS_H[min(tried.row, len(RESTS_H) - 1)])


def next_round(drills: Sequence[Tried], skills: Mapping[str, Rating], now: datetime, many: int = ROUND) -> list[int]:
    """Drills of the next round: due ones first, those that waited longest; then new ones, no kind twice while another
    is there, the nearest to AIM first. Where all rest, those that come next.
    """
    due = [t for t in drills if (at := rests_until(t)) is not None and at <= now]
    chosen = [t.drill for t in sorted(due, key=lambda t: (rests_until(t), t.drill))][:many]
    fresh = [t for t in drills if t.last is None]
    seen: dict[str, int] = {}
    for t in drills:
        if t.last is not None or t.drill in chosen:
            seen[t.kind] = seen.get(t.kind, 0) + 1
    taken: dict[str, int] = {}
    while len(chosen) < many and fresh:
        best = min(fresh, key=lambda t: (taken.get(t.kind, 0), seen.get(t.kind, 0), _off(t, skills), t.drill))
        fresh.remove(best)
        taken[best.kind] = taken.get(best.kind, 0) + 1
        chosen.append(best.drill)
    rest = [t for t in drills if t.last is not None and t.drill not in chosen]
    chosen += [t.drill for t in sorted(rest, key=lambda t: (rests_until(t), t.drill))][: many - len(chosen)]
    return chosen


def _off(tried: Tried, skills: Mapping[str, Rating]) -> float:
    return abs(chance(skills.get(KINDS[tried.kind].skill, NOBODY), tried.hard) - AIM)
