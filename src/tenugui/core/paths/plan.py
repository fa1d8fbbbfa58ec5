"""The whole path of a filament print: every layer's lines in their order, travels between them, and what each takes.

Roofs and floors close what is not covered within `roof_mm` above or below; the rest is sparse. Supports get one
perimeter and sparse lines, and lines side by side where they end under the figure.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from manifold3d import CrossSection, JoinType
from numpy.typing import NDArray

from ..machines import LAYS, FilamentPrinter
from ..mesh import Mesh
from ..sections import outlines_at
from .blemishes import open_air
from .drive import Path, PathError, driven
from .infill import sparse
from .inside import Inside
from .lines import (
    ARC,
    BRIM,
    IRON,
    OUTER,
    RAFT,
    SIMPLE_MM,
    SOLID,
    Line,
    fill,
    pitch_of,
    rings,
)
from .props import PropCut, Props, cut_props, prop_lines, whole
from .seams import Seen

F8 = NDArray[np.float64]
GROWN_MM = 0.05
"""What is covered but for so little counts as covered: outlines of neighbouring layers never match exactly."""
IRON_PITCH = 0.3
"""Prior: ironing lines lie so much of a line's pitch apart."""


def nozzle_lays(printer: FilamentPrinter, height: float) -> None:
    """Refuse a layer that the nozzle cannot lay.

    Raises:
        PathError: `bad-height`.
    """
    if not 0 < height <= LAYS * printer.nozzle_mm:
        raise PathError(
            "bad-height",
            f"A layer of {height:g} mm cannot be laid by a nozzle of {printer.nozzle_mm:g} mm.",
            remedy=f"Choose one up to {LAYS * printer.nozzle_mm:g} mm.",
        )


def planned(
    figure: Mesh,
    props: Props,
    printer: FilamentPrinter,
    heights: float | F8,
    seen: Seen | None = None,
) -> Path:
    """Plan a figure and its supports (`props`, as they are printed), in build coordinates. `heights`: of every layer,
    or (layers,) of each, whole numbers of the motor's grain; `seen`: what is looked at.

    Raises:
        PathError: `bad-height`: a layer that the nozzle cannot lay.
    """
    for height in np.unique(heights).tolist():
        nozzle_lays(printer, height)
    each = heights_of([figure, *props.values()], heights)
    tops = np.cumsum(each)
    own = [section.simplify(SIMPLE_MM) for section in outlines_at(figure, tops)]
    held = cut_props(props, tops)
    covered = _covered(own, tops, printer.roof_mm)
    # One after another: the polygon library keeps Python's lock, so threads would only wait for each other.
    layers = [
        lines_of(
            own[k],
            held[k],
            covered[k],
            above=own[k + 1 : k + 1 + closely(printer, height)],
            k=k,
            printer=printer,
            height=height,
            z=z,
        )
        for k, (height, z) in enumerate(zip(each.tolist(), (tops - each / 2).tolist(), strict=True))
    ]
    lines, lost = [m[0] for m in layers], np.array([m[1] for m in layers])
    insides = [inside_of(section, mine) for section, mine in zip(own, lines, strict=True)]
    under = raft(own[0] + whole(held[0]), printer, float(each[0]))
    lift = printer.raft_mm(float(each[0]))
    if under:
        low = np.full(len(under), each[0])
        tops = np.concatenate([np.cumsum(low), tops + lift])
        lines, insides = under + lines, [Inside.nothing()] * len(under) + insides
        lost, each = np.concatenate([np.zeros(len(under)), lost]), np.concatenate([low, each])
    path = driven(lines, lost, printer, tops, each, seen=seen and seen.raised(lift), insides=insides)
    return replace(path, air=open_air(path, insides), lift=lift)


RAFT_REACH_MM = 3.0
"""Prior: a raft reaches so far past what stands on it."""


def raft(foot: CrossSection, printer: FilamentPrinter, height: float) -> list[list[Line]]:
    """The layers of lines under everything, from the plate up: open ones across each other, the last one closed. None
    where the machine is to lay none.
    """
    pitch, solid = pitch_of(printer.line_mm, height), _filled(foot).offset(RAFT_REACH_MM, JoinType.Round, 2.0, ARC)
    layers = []
    for k in range(printer.raft_layers):
        around = rings(solid, pitch / 2, pitch, 1)
        spacing = pitch if k + 1 == printer.raft_layers else 2 * pitch
        lines = [*around.lines, *fill(around.inside, spacing, 45.0 if k % 2 else -45.0, RAFT)]
        layers.append([Line(line.points, RAFT, line.closed) for line in lines])
    return layers


def inside_of(section: CrossSection, lines: list[Line]) -> Inside:
    """A layer's section with the outermost lines that are drawn in it."""
    return Inside(section, [line.points for line in lines if line.kind == OUTER])


def heights_of(parts: Sequence[Mesh], heights: float | F8) -> F8:
    """(layers,) mm of every layer from the plate to the top of all parts; the last of given ones goes on as far as it
    must.

    >>> from ..mesh import Mesh; import numpy as np
    >>> tall = Mesh(np.array([[0, 0, 0], [1, 0, 0], [0, 0, 1.0]]), np.array([[0, 1, 2]], np.int32))
    >>> heights_of([tall], np.array([0.2, 0.3])).round(1).tolist()
    [0.2, 0.3, 0.3, 0.3]
    """
    top = max(float(part.upper[2]) for part in parts)
    given = np.atleast_1d(np.asarray(heights, float))
    missing = max(0, int(np.ceil((top - given.sum()) / given[-1] - 1e-9)))
    each = np.concatenate([given, np.full(missing, given[-1])])
    return each[: int(np.searchsorted(np.cumsum(each), top - 1e-9)) + 1]


def closely(printer: FilamentPrinter, height: float) -> int:
    """So many layers above a support it is closed under the figure."""
    return int(np.ceil(printer.support_gap_mm / height - 1e-6)) + printer.interface_layers


def lines_of(
    section: CrossSection,
    held: PropCut,
    covered: CrossSection,
    *,
    above: list[CrossSection],
    k: int,
    printer: FilamentPrinter,
    height: float,
    z: float,
) -> tuple[list[Line], float]:
    """The lines of layer k, whose middle lies at z, and the area that is lost because it is thinner than a line.
    `held`: its supports; `covered`: what other layers cover; `above`: the figure's sections so closely above that
    supports are closed under them, the next one first.
    """
    lines, lost = list[Line](), 0.0
    turn, pitch = 45.0 if k % 2 else -45.0, pitch_of(printer.line_mm, height)
    if not section.is_empty():
        walls = rings(section, pitch / 2, pitch, printer.perimeters)
        lines, lost, inside = list(walls.lines), walls.lost, walls.inside
        lines += fill(inside - covered, pitch, turn, SOLID)
        if printer.infill > 0:
            lines += sparse(inside ^ covered, pitch, printer.infill, layer=k, z=z, form=printer.infill_form)
        if printer.iron:
            lines += _ironed(section, above, pitch, turn)
    if any(not section.is_empty() for section in held.values()):
        lines += prop_lines(held, above, printer, height=height, k=k)
    if k == 0 and printer.brim_mm > 0 and not printer.raft_layers:
        lines += brim(section + whole(held), printer.brim_mm, pitch)
    return lines, lost


def _ironed(section: CrossSection, above: list[CrossSection], pitch: float, turn: float) -> list[Line]:
    """Close lines over what nothing lies on, where it is wide enough to be a level place and not the step of a
    slope.
    """
    open_ = section if not above or above[0].is_empty() else section - above[0]
    level = open_.offset(-pitch, JoinType.Round, 2.0, ARC).offset(pitch / 2, JoinType.Round, 2.0, ARC)
    return fill(level, pitch * IRON_PITCH, turn + 90, IRON)


def ironing_s(printer: FilamentPrinter, height: float, level_mm2: float) -> float:
    """Seconds to iron level places, corners and travel left out."""
    return level_mm2 / (pitch_of(printer.line_mm, height) * IRON_PITCH) / printer.fill_mm_s


def brim(foot: CrossSection, width: float, pitch: float) -> list[Line]:
    """Lines around a foot out to a width, the outermost first; none in its holes."""
    lines: list[Line] = []
    solid = _filled(foot)
    for n in range(math.ceil(width / pitch - 1e-9), 0, -1):
        out = solid.offset((n - 0.5) * pitch, JoinType.Round, 2.0, ARC).simplify(SIMPLE_MM)
        lines += [Line(np.asarray(loop, float), BRIM, True) for loop in out.to_polygons()]
    return lines


def _filled(foot: CrossSection) -> CrossSection:
    """Without its holes."""
    return CrossSection([loop for loop in foot.to_polygons() if _area(np.asarray(loop, float)) > 0])


def _area(loop: F8) -> float:
    x, y = loop.T
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum() / 2)


def coarse(section: CrossSection) -> CrossSection:
    """What a section covers of its neighbours: but for so little that outlines of neighbouring layers never match
    exactly.
    """
    return section.simplify(GROWN_MM).offset(2 * GROWN_MM, JoinType.Miter)


def _covered(own: list[CrossSection], tops: F8, roof_mm: float) -> list[CrossSection]:
    """What of each layer lies under and over all layers within `roof_mm` on both sides. A table of powers of two: an
    intersection may count its layers twice, so that any stretch is two of its entries (Bender and Farach-Colton 2000).
    """
    many = len(own)
    table = [[coarse(s) if not s.is_empty() else s for s in own]]
    bottoms = np.concatenate([[0.0], tops[:-1]])
    half = (tops - bottoms) / 2 - 1e-9
    # As many whole layers as come nearest to it, one at least.
    up = np.maximum(np.searchsorted(tops, tops + roof_mm - half), np.arange(many) + 1)
    down = np.minimum(np.searchsorted(bottoms, bottoms - roof_mm + half, side="right"), np.arange(many)) - 1
    most = int(max((up - np.arange(many)).max(initial=1), (np.arange(many) - down).max(initial=1)))
    for power in range(1, most.bit_length()):
        step, below = 1 << (power - 1), table[-1]
        table.append([below[k] ^ below[k + step] for k in range(len(below) - step)])

    def stretch(first: int, last: int) -> CrossSection:
        """All of first to last."""
        if first < 0 or last >= many:
            return CrossSection()
        power = (last - first + 1).bit_length() - 1
        one, other = table[power][first], table[power][last + 1 - (1 << power)]
        return one if last + 1 - (1 << power) == first else one ^ other

    return [stretch(k + 1, int(up[k])) ^ stretch(int(down[k]), k - 1) for k in range(many)]
