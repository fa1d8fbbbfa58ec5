"""Lines in their order with travels between, at their speeds, and the seconds that they take."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import CoreError
from ..machines import FilamentPrinter
from .inside import Inside
from .lines import BRIM, INNER, INTERFACE, IRON, KINDS, OUTER, RAFT, SOLID, SPARSE, SUPPORT, TRAVEL, Line, line_mm2
from .motion import seconds
from .order import NEXT_MM, laid
from .seams import Seen

F8 = NDArray[np.float64]
U1 = NDArray[np.uint8]
I4 = NDArray[np.int32]
B1 = NDArray[np.bool_]
SLOWEST_MM_S, SLOWED_TIMES = 5.0, 6
"""Prior: no line is drawn slower, however short its layer; and how often a short layer is slowed until it takes its
least time.
"""
MOST_MOVES = 40_000_000
IRON_FLOW = 0.12
"""Prior: ironing lays so much of a line's section, to fill what lies between lines."""


class PathError(CoreError):
    """A path that cannot be planned."""


@dataclass(frozen=True)
class Path:
    """Moves through `points` (n + 1, 3) mm: `kind` (n,) of each (see `lines.KINDS`), nominal `speed` (n,) in mm/s,
    `fed` (n,) mm³ that it lays down, its `layer` (n,), its `seconds` (n,), and whether the filament is `drawn` back
    before it (n,). `tops` and `heights` (layers,) mm of each layer; `lost` (layers,) mm² that no line is thin enough
    for; `unslowed` (layers,) seconds if no layer were slowed to cool; `air` (n,) mm of open air that each move crosses
    with the filament drawn back, where that was asked; `lift`: mm of the raft that the figure stands on, gap and all.
    """

    points: F8
    kind: U1
    speed: F8
    fed: F8
    layer: I4
    seconds: F8
    drawn: B1
    lost: F8
    unslowed: F8
    tops: F8
    heights: F8
    air: F8 | None = None
    lift: float = 0.0

    @property
    def layers(self) -> int:
        """How many there are."""
        return len(self.tops)

    @property
    def volume_mm3(self) -> float:
        """What is laid down."""
        return float(self.fed.sum())

    def by_layer(self) -> F8:
        """(layers,) seconds of drawing and travel."""
        return np.asarray(np.bincount(self.layer, weights=self.seconds, minlength=self.layers), float)

    def fed_by_layer(self) -> F8:
        """(layers,) mm³ laid down."""
        return np.asarray(np.bincount(self.layer, weights=self.fed, minlength=self.layers), float)


def driven(
    layers: list[list[Line]],
    lost: F8,
    printer: FilamentPrinter,
    tops: F8,
    heights: F8,
    *,
    from_plate: bool = True,
    seen: Seen | None = None,
    insides: Sequence[Inside] | None = None,
) -> Path:
    """The path of layers whose lines are given. `tops`, `heights` (layers,) mm; `from_plate`: the first one lies on the
    plate, and is slow; `seen`: what is looked at, for seams that are kept from it; `insides` (layers,): the figure's
    sections, in which travels are kept.

    Raises:
        PathError: `too-many-moves`.
    """
    each = np.array([line_mm2(printer.line_mm, h) for h in heights.tolist()])
    points, kinds, speed, layer, within = [np.zeros((1, 3))], list[U1](), list[F8](), list[I4](), list[B1]()
    here = np.zeros(2)
    for k, lines in enumerate(layers):
        z, slow = float(tops[k]), printer.first_layer_mm_s if k == 0 and from_plate else np.inf
        costs = None if seen is None else seen.at(z - float(heights[k]) / 2)
        moves = laid(lines, here, seam_at=printer.seam_at, costs=costs, inside=None if insides is None else insides[k])
        if not len(moves.points):
            continue
        kind_of = np.array([line.kind for line in lines], np.uint8)
        kind = np.where(moves.travel, np.uint8(TRAVEL), kind_of[moves.line])
        pace = np.minimum(_speeds(printer, float(each[k]))[kind], slow)
        pace[moves.travel] = printer.travel_mm_s
        points.append(np.column_stack([moves.points, np.full(len(kind), z)]))
        kinds.append(kind)
        speed.append(pace)
        layer.append(np.full(len(kind), k, np.int32))
        within.append(moves.within)
        here = moves.points[-1]
    at = np.concatenate(points)
    if len(at) > MOST_MOVES:
        raise PathError(
            "too-many-moves",
            f"{len(at):,} moves; the limit is {MOST_MOVES:,}.",
            remedy="Choose a coarser layer, or make the figure smaller.",
        )
    kind, pace = np.concatenate([np.empty(0, np.uint8), *kinds]), np.concatenate([np.empty(0), *speed])
    where = np.concatenate([np.empty(0, np.int32), *layer])
    long = np.linalg.norm(np.diff(at, axis=0), axis=1)
    share = np.where(kind == TRAVEL, 0.0, np.where(kind == IRON, IRON_FLOW, 1.0))
    fed = share * long * (each[where] if len(each) else 0.0)
    drawn = (kind == TRAVEL) & (long > NEXT_MM) & ~np.concatenate([np.empty(0, np.bool_), *within])
    took, unslowed = _timed(at, kind, pace, where=where, drawn=drawn, printer=printer, layers=len(layers))
    return Path(at, kind, took[0], fed, where, took[1], drawn, lost, unslowed, tops, heights)


def _speeds(printer: FilamentPrinter, section: float) -> F8:
    """mm/s by kind of line, as far as the nozzle melts."""
    most = printer.flow_mm3_s / section
    speeds = np.full(len(KINDS), printer.travel_mm_s)
    speeds[[OUTER, INNER, SUPPORT, BRIM, RAFT]] = min(printer.wall_mm_s, most)
    speeds[[SOLID, SPARSE, INTERFACE, IRON]] = min(printer.fill_mm_s, most)
    return speeds


def _timed(
    at: F8, kind: U1, pace: F8, *, where: I4, drawn: B1, printer: FilamentPrinter, layers: int
) -> tuple[tuple[F8, F8], F8]:
    """Speeds once short layers are slowed to cool, the seconds of each move at them, and of each layer if none were."""
    stroke = printer.retract_mm / printer.retract_mm_s + printer.hop_mm / printer.travel_mm_s
    back = np.where(drawn, 2 * stroke, 0.0)
    took = seconds(at, pace, printer.acceleration_mm_s2, printer.corner_mm) + back
    unslowed = np.asarray(np.bincount(where, weights=took, minlength=layers), float)
    for _ in range(SLOWED_TIMES if len(pace) else 0):
        by_layer = np.bincount(where, weights=took)
        ratio = np.where((by_layer > 0) & (by_layer < printer.least_layer_s), by_layer / printer.least_layer_s, 1.0)
        if (ratio == 1.0).all():
            break
        slower = np.maximum(pace * ratio[where], np.minimum(pace, SLOWEST_MM_S))
        pace = np.where(kind == TRAVEL, pace, slower)
        took = seconds(at, pace, printer.acceleration_mm_s2, printer.corner_mm) + back
    return (pace, took), unslowed
