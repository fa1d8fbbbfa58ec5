"""The whole path of a filament print: every layer's lines in their order, travels between them, and what each takes.

Roofs and floors close what is not covered within `roof_mm` above or below; the rest is sparse. Supports get one perimeter and sparse lines, and lines side by
side where they end under the figure.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, JoinType, OpType
from numpy.typing import NDArray

from ..errors import CoreError
from ..machines import FilamentPrinter
from ..mesh import Mesh
from ..sections import outlines
from .infill import sparse
from .lines import (
    ARC,
    BRIM,
    INTERFACE,
    OUTER,
    SIMPLE_MM,
    SOLID,
    SPARSE,
    SUPPORT,
    TRAVEL,
    Line,
    fill,
    line_mm2,
    ordered,
    pitch_of,
    rings,
)
from .motion import seconds

F8 = NDArray[np.float64]
U1 = NDArray[np.uint8]
I4 = NDArray[np.int32]
SUPPORT_DENSITY = 0.2
"""Prior: lines of a support's body, as a share of solid."""
NEXT_MM = 1.5
"""Prior: a travel no longer than this oozes nothing, and the filament is not drawn back."""
SLOWEST_MM_S, SLOWED_TIMES = 5.0, 6
"""Prior: no line is drawn slower, however short its layer; and how often a short layer is slowed until it takes its least time."""
MOST_MOVES = 40_000_000
GROWN_MM = 0.05
"""What is covered but for so little counts as covered: outlines of neighbouring layers never match exactly."""


class PathError(CoreError):
    """A path that cannot be planned."""


@dataclass(frozen=True)
class Path:
    """Moves through `points` (n + 1, 3) mm: `kind` (n,) of each (see `lines.KINDS`), nominal `speed` (n,) in mm/s, `fed` (n,) mm³ that it lays down, its
    `layer` (n,), its `seconds` (n,), and whether the filament is `drawn` back before it (n,). `lost` (layers,) mm² that no line is thin enough for; `unslowed` (layers,) seconds if no layer were slowed to cool.
    """

    points: F8
    kind: U1
    speed: F8
    fed: F8
    layer: I4
    seconds: F8
    drawn: NDArray[np.bool_]
    lost: F8
    unslowed: F8
    height: float
    layers: int

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


def nozzle_lays(printer: FilamentPrinter, height: float) -> None:
    """Refuse a layer that the nozzle cannot lay.

    Raises:
        PathError: `bad-height`.
    """
    if not 0 < height <= 0.8 * printer.nozzle_mm:
        raise PathError(
            "bad-height",
            f"A layer of {height:g} mm cannot be laid by a nozzle of {printer.nozzle_mm:g} mm.",
            remedy=f"Choose one up to {0.8 * printer.nozzle_mm:g} mm.",
        )


def planned(figure: Mesh, supports: Mesh | None, printer: FilamentPrinter, height: float) -> Path:
    """Plan a figure and its supports (as they are printed), in build coordinates.

    Raises:
        PathError: `bad-height`: a layer that the nozzle cannot lay.
    """
    nozzle_lays(printer, height)
    own = [section.simplify(SIMPLE_MM) for section in outlines(figure, height)]
    held = [] if supports is None else [section.simplify(SIMPLE_MM) for section in outlines(supports, height)]
    many = max(len(own), len(held))
    own, held = ([*found, *[CrossSection()] * (many - len(found))] for found in (own, held))
    pitch = pitch_of(printer.line_mm, height)
    covered = _covered(own, max(1, round(printer.roof_mm / height)))
    above = int(np.ceil(printer.support_gap_mm / height - 1e-6)) + printer.interface_layers
    # One after another: the polygon library keeps Python's lock, so threads would only wait for each other.
    made = [
        lines_of(own[k], held[k], covered[k], own[k + 1 : k + 1 + above], k, printer, pitch, height)
        for k in range(many)
    ]
    return driven([m[0] for m in made], np.array([m[1] for m in made]), printer, height)


def lines_of(
    section: CrossSection,
    held: CrossSection | None,
    covered: CrossSection,
    roofs: list[CrossSection],
    k: int,
    printer: FilamentPrinter,
    pitch: float,
    height: float,
) -> tuple[list[Line], float]:
    """The lines of layer k, and the area that is lost because it is thinner than a line. `held`: its supports; `covered`: what other layers cover;
    `roofs`: the figure's sections so closely above that supports are closed under them.
    """
    lines, lost = list[Line](), 0.0
    turn = 45.0 if k % 2 else -45.0
    if not section.is_empty():
        walls = rings(section, pitch / 2, pitch, printer.perimeters)
        lines, lost, inside = list(walls.lines), walls.lost, walls.inside
        lines += fill(inside - covered, pitch, turn, SOLID)
        if printer.infill > 0:
            lines += sparse(inside ^ covered, pitch, printer.infill, k, height, printer.infill_form)
    if held is not None and not held.is_empty():
        lines += _supports(held, roofs, pitch, turn)
    if k == 0 and printer.brim_mm > 0:
        lines += brim(section if held is None else section + held, printer.brim_mm, pitch)
    return lines, lost


def brim(foot: CrossSection, width: float, pitch: float) -> list[Line]:
    """Lines around a foot out to a width, the outermost first; none in its holes."""
    found: list[Line] = []
    solid = CrossSection([loop for loop in foot.to_polygons() if _area(np.asarray(loop, float)) > 0])
    for n in range(math.ceil(width / pitch - 1e-9), 0, -1):
        out = solid.offset((n - 0.5) * pitch, JoinType.Round, 2.0, ARC).simplify(SIMPLE_MM)
        found += [Line(np.asarray(loop, float), BRIM, True) for loop in out.to_polygons()]
    return found


def _area(loop: F8) -> float:
    x, y = loop.T
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum() / 2)


def coarse(section: CrossSection) -> CrossSection:
    """What a section covers of its neighbours: but for so little that outlines of neighbouring layers never match exactly."""
    return section.simplify(GROWN_MM).offset(2 * GROWN_MM, JoinType.Miter)


def _covered(own: list[CrossSection], many: int) -> list[CrossSection]:
    """What of each layer lies under and over `many` layers on both sides. Prefixes and suffixes of blocks (van Herk 1992): three cuts a layer."""
    grown = [coarse(s) if not s.is_empty() else s for s in own]
    padded = [CrossSection()] * many + grown + [CrossSection()] * many
    ahead, behind = list(padded), list(padded)
    for k in range(len(padded)):
        if k % many:
            behind[k] = behind[k - 1] ^ padded[k]
    for k in range(len(padded) - 2, -1, -1):
        if (k + 1) % many:
            ahead[k] = ahead[k + 1] ^ padded[k]

    def window(first: int) -> CrossSection:
        return ahead[first] ^ behind[first + many - 1]

    return [window(k) ^ window(k + many + 1) for k in range(len(own))]


def _supports(held: CrossSection, roofs: list[CrossSection], pitch: float, turn: float) -> list[Line]:
    """One perimeter and sparse lines, side by side where the figure lies closely above."""
    walls = rings(held, pitch / 2, pitch, 1)
    lines = [Line(w.points, SUPPORT, True) for w in walls.lines]
    inside = walls.inside
    above = [r for r in roofs if not r.is_empty()]
    roof = CrossSection.batch_boolean(above, OpType.Add) if above else CrossSection()
    lines += fill(inside ^ roof, pitch, turn + 90, INTERFACE)
    return lines + fill(inside - roof, pitch / SUPPORT_DENSITY, turn, SUPPORT)


def driven(layers: list[list[Line]], lost: F8, printer: FilamentPrinter, height: float, first: int = 0) -> Path:
    """Lines in their order with travels between, at their speeds, and the seconds that they take. `first`: which of the figure's layers comes first."""
    each = line_mm2(printer.line_mm, height)
    most = printer.flow_mm3_s / each
    speeds = {
        TRAVEL: printer.travel_mm_s,
        **{kind: min(printer.wall_mm_s, most) for kind in (OUTER, OUTER + 1, SUPPORT, BRIM)},
        **{kind: min(printer.fill_mm_s, most) for kind in (SOLID, SPARSE, INTERFACE)},
    }
    points, kinds, speed, layer = [np.zeros((1, 3))], list[U1](), list[F8](), list[I4]()
    here = np.zeros(2)
    for k, lines in enumerate(layers):
        z = (k + 1) * height
        slow = printer.first_layer_mm_s if k + first == 0 else np.inf
        for group in _groups(lines):
            for line in ordered(group, (float(here[0]), float(here[1])), printer.seam_at):
                way = np.concatenate([line.points, line.points[:1]]) if line.closed else line.points
                points.append(np.column_stack([way, np.full(len(way), z)]))
                kind = np.full(len(way), line.kind, np.uint8)
                kind[0] = TRAVEL
                kinds.append(kind)
                pace = np.full(len(way), min(speeds[line.kind], slow))
                pace[0] = printer.travel_mm_s
                speed.append(pace)
                layer.append(np.full(len(way), k, np.int32))
                here = way[-1]
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
    fed = np.where(kind == TRAVEL, 0.0, long * each)
    drawn = (kind == TRAVEL) & (long > NEXT_MM)
    stroke = printer.retract_mm / printer.retract_mm_s + printer.hop_mm / printer.travel_mm_s
    back = np.where(drawn, 2 * stroke, 0.0)
    took = seconds(at, pace, printer.acceleration_mm_s2, printer.corner_mm) + back
    unslowed = np.asarray(np.bincount(where, weights=took, minlength=len(layers)), float)
    for _ in range(SLOWED_TIMES if len(pace) else 0):
        by_layer = np.bincount(where, weights=took)
        ratio = np.where((by_layer > 0) & (by_layer < printer.least_layer_s), by_layer / printer.least_layer_s, 1.0)
        if (ratio == 1.0).all():
            break
        slower = np.maximum(pace * ratio[where], np.minimum(pace, SLOWEST_MM_S))
        pace = np.where(kind == TRAVEL, pace, slower)
        took = seconds(at, pace, printer.acceleration_mm_s2, printer.corner_mm) + back
    return Path(at, kind, pace, fed, where, took, drawn, lost, unslowed, height, len(layers))


def _groups(lines: list[Line]) -> list[list[Line]]:
    """Supports first, then what is inside, the outer wall last: what is seen rests on what is not."""
    order = ((BRIM,), (SUPPORT, INTERFACE), (OUTER + 1,), (OUTER,), (SOLID,), (SPARSE,))
    return [found for kinds in order if (found := [line for line in lines if line.kind in kinds])]
