"""The card before a plate is begun: what stands ready, and what to look at when."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .plates import Piece, Plate

FIRST_LAYERS_MM = 1.0
"""A print is looked at when so much of it is there: what does not stick is seen by then."""
LEAST_CHANCE = 0.002
MOST_LOOKS = 8


@dataclass(frozen=True)
class Threat:
    """What may go wrong with a piece: at which height, how likely, and in words."""

    z_mm: float
    chance: float
    said: str


@dataclass(frozen=True)
class Look:
    """When to look at a plate, in seconds from its start, at which height, at what, and how likely it is to be seen."""

    at_s: float
    z_mm: float
    said: str
    chance: float


def time_at(plate: Plate, z_mm: float, *, hangs: bool) -> float:
    """Seconds until a plate is so high. What hangs grows together, as fast as its slowest; what is drawn adds up all
    of its pieces' lines below.
    """
    pieces = [piece for piece, _ in plate.items]
    if hangs:
        return _until(max(pieces, key=lambda p: p.time_s), z_mm)
    start = max(p.start_s for p in pieces)
    return start + sum(_until(p, z_mm) - p.start_s for p in pieces)


def _until(piece: Piece, z_mm: float) -> float:
    """By its own clock where that is known, else as though it grew evenly."""
    if z_mm >= piece.tall_mm:
        return piece.time_s
    if piece.clock and piece.pull_mm > 0:
        return piece.clock[min(int(z_mm / piece.pull_mm), len(piece.clock) - 1)]
    return piece.start_s + (piece.time_s - piece.start_s) * max(0.0, z_mm / piece.tall_mm)


def looks(
    plate: Plate, threats: Mapping[str, Sequence[Threat]], *, hangs: bool, order: Sequence[int] | None = None
) -> list[Look]:
    """At first layers, where the likeliest of each plan would be seen, and at the end; in the order of the clock.
    `order`: of its pieces, where they are printed one after the other.
    """
    first = "the first layers stick" + ("" if order is None else ", and again as each piece begins")
    seen = [Look(_first_at(plate, "", FIRST_LAYERS_MM, hangs=hangs, order=order), FIRST_LAYERS_MM, first, 0.0)]
    many = {name: sum(piece.plan == name for piece, _ in plate.items) for name in threats}
    likely = sorted(
        (
            (1 - (1 - min(1.0, t.chance)) ** many[name], t, name)
            for name, of in threats.items()
            for t in of
            if t.chance >= LEAST_CHANCE and many[name]
        ),
        key=lambda row: -row[0],
    )
    for chance, threat, name in likely[:MOST_LOOKS]:
        at = _first_at(plate, name, threat.z_mm, hangs=hangs, order=order)
        seen.append(Look(at, threat.z_mm, threat.said, chance))
    tall = max(piece.tall_mm for piece, _ in plate.items)
    seen.append(Look(plate.time_s, tall, "it is done: let it drip or cool before it is lifted off", 0.0))
    return sorted(seen, key=lambda look: look.at_s)


def _first_at(plate: Plate, plan: str, z_mm: float, *, hangs: bool, order: Sequence[int] | None) -> float:
    """Seconds until a height is first reached: by all together, or one after the other by the first piece of a plan, of
    any where none is named.
    """
    if order is None:
        return time_at(plate, z_mm, hangs=hangs)
    before = 0.0
    for k in order:
        piece = plate.items[k][0]
        if plan in ("", piece.plan):
            return before + _until(piece, z_mm)
        before += piece.time_s - piece.start_s
    return before


READY = {
    "hangs": (
        "nitrile gloves, safety glasses, wipes",
        "a plastic scraper and a funnel with a filter",
        "washing fluid, closed, away from flames and lamps",
        "a film without dents, a vat without crumbs",
    ),
    "stands": (
        "a clean plate, wiped",
        "side cutters and safety glasses",
        "a spool that unwinds freely to its end",
        "a smoke alarm within hearing, nothing that burns beside it",
    ),
}
"""What stands ready before a plate is begun; the makers' sheets come first."""
