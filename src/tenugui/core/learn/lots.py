"""Bottles, spools and boxes: what is left of each by what was counted, used and wasted, and what runs out when.

Terms. *Lot*: one bottle, spool or box, by the name that is on it. *Step*: something done to it by hand: a count says
what is there and forgets what was reckoned before. *Use*: what a run of the log took, out of the lot that it names,
else out of the oldest of its material that is not empty.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

Did = Literal["counted", "used", "wasted"]
RATE_DAYS = 60
"""What was used in the latest days says what a day uses."""


@dataclass(frozen=True)
class Step:
    """By hand."""

    did: Did
    amount: float
    at: datetime


@dataclass(frozen=True)
class Lot:
    """`amount` that it held when it was opened, and its steps."""

    name: str
    amount: float
    opened_at: datetime
    steps: tuple[Step, ...] = ()


@dataclass(frozen=True)
class Use:
    """What a run took, and the lot that it names, if any."""

    amount: float
    at: datetime
    lot: str = ""


@dataclass(frozen=True)
class Level:
    """What is left of a lot, and what was used of it and wasted since it was opened; `short`: what runs took beyond
    what it can have held: somebody should count it.
    """

    left: float
    used: float
    wasted: float
    short: float


def levels(lots: Sequence[Lot], uses: Sequence[Use]) -> list[Level]:
    """Of every lot of one material, all that happened taken in the order of time.

    >>> day = datetime(2026, 11, 1)
    >>> levels([Lot("A", 1000.0, day)], [Use(30, day + timedelta(1)), Use(20, day + timedelta(2))])[0].left
    950.0
    """
    left = [0.0] * len(lots)
    used, wasted, short = ([0.0] * len(lots) for _ in range(3))
    happened: list[tuple[datetime, int, int, Step | Use | None]] = [
        (lot.opened_at, 0, k, None) for k, lot in enumerate(lots)
    ]
    happened += [(step.at, 1, k, step) for k, lot in enumerate(lots) for step in lot.steps]
    happened += [(use.at, 2, -1, use) for use in uses]
    for at, _, k, what in sorted(happened, key=lambda h: (h[0], h[1])):
        if what is None:
            left[k] = lots[k].amount
        elif isinstance(what, Step):
            if what.did == "counted":
                left[k], short[k] = what.amount, 0.0
                continue
            taken = min(what.amount, left[k])
            short[k] += what.amount - taken
            left[k] -= taken
            (used if what.did == "used" else wasted)[k] += what.amount
        else:
            rest = what.amount
            for k in _from(lots, left, what, at):
                taken = min(rest, left[k])
                left[k] -= taken
                used[k] += taken
                rest -= taken
            if rest > 0 and (named := _from(lots, left, what, at, empty=True)):
                short[named[0]] += rest
                used[named[0]] += rest
    return [Level(*row) for row in zip(left, used, wasted, short, strict=True)]


def _from(lots: Sequence[Lot], left: Sequence[float], use: Use, at: datetime, *, empty: bool = False) -> list[int]:
    """The lots that a use is taken from, in their order: the one that it names, then the oldest that are not empty."""
    there = [k for k, lot in enumerate(lots) if lot.opened_at <= at]
    named = [k for k in there if use.lot and lots[k].name == use.lot]
    others = sorted((k for k in there if k not in named and (left[k] > 0 or empty)), key=lambda k: lots[k].opened_at)
    return [*named, *others]


@dataclass(frozen=True)
class Lasts:
    """What a day uses, in how many days nothing is left at that, and the first of what is planned that would not be
    whole: its place in the list, None where it is enough for all.
    """

    a_day: float
    days: float | None
    before: int | None


def lasts(left: float, uses: Sequence[Use], planned: Sequence[float], now: datetime) -> Lasts:
    """How long what is left lasts, by the latest uses, and for which of what is planned.

    >>> lasts(100.0, [], [40.0, 50.0, 20.0], datetime(2026, 11, 1)).before
    2
    """
    since = now - timedelta(days=RATE_DAYS)
    late = [use for use in uses if since <= use.at <= now]
    first = min((use.at for use in late), default=now)
    span = max((now - first).total_seconds() / 86400, 7.0)
    a_day = sum(use.amount for use in late) / span
    needed, before = 0.0, None
    for k, amount in enumerate(planned):
        needed += amount
        if needed > left:
            before = k
            break
    return Lasts(a_day, left / a_day if a_day > 0 else None, before)
