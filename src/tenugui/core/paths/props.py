"""Lines of supports: closed ones around, sparse ones within, and where they end under the figure an interface."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from manifold3d import CrossSection, OpType
from numpy.typing import NDArray

from ..machines import FilamentPrinter
from ..mesh import Mesh
from ..sections import outlines_at
from .lines import INTERFACE, SIMPLE_MM, SUPPORT, Line, fill, pitch_of, rings

F8 = NDArray[np.float64]
Props = Mapping[float | None, Mesh]
"""Solids of supports by the density of their lines, a share of solid; None for what the machine has."""
PropCut = Mapping[float | None, CrossSection]
"""Their sections in one layer."""
RINGS_MOST = 400
"""An interface in rings wider than this many lines is filled no farther."""


def cut_props(props: Props, tops: F8) -> list[PropCut]:
    """The sections of supports in every layer, whose tops (layers,) lie in mm."""
    cut = {
        density: [section.simplify(SIMPLE_MM) for section in outlines_at(solid, tops)]
        for density, solid in props.items()
    }
    return [{density: layers[k] for density, layers in cut.items()} for k in range(len(tops))]


def whole(cut: PropCut) -> CrossSection:
    """All of them in one."""
    return CrossSection.batch_boolean(list(cut.values()), OpType.Add) if cut else CrossSection()


def prop_lines(
    cut: PropCut, above: Sequence[CrossSection], printer: FilamentPrinter, *, height: float, k: int
) -> list[Line]:
    """The lines of supports in layer `k`: `above` are the figure's sections under which they are closed. Where solids
    of two densities meet the denser one is drawn.
    """
    pitch, turn = pitch_of(printer.line_mm, height), 45.0 if k % 2 else -45.0
    walls = rings(whole(cut), pitch / 2, pitch, printer.support_walls)
    lines = [Line(w.points, SUPPORT, True) for w in walls.lines]
    over = [section for section in above if not section.is_empty()]
    roof = CrossSection.batch_boolean(over, OpType.Add) if over else CrossSection()
    lines += _interface(walls.inside ^ roof, printer, pitch, turn)
    rest = walls.inside - roof
    usual = printer.support_density
    for density in sorted(cut, key=lambda d: -(usual if d is None else d)):
        share = usual if density is None else density
        alone = len(cut) == 1
        lines += fill(rest if alone else rest ^ cut[density], pitch / share, turn, SUPPORT)
        rest = rest if alone else rest - cut[density]
    return lines


def _interface(region: CrossSection, printer: FilamentPrinter, pitch: float, turn: float) -> list[Line]:
    """Lines across those of the layer, or rings from the edge inwards; so far apart as the machine has it."""
    apart = pitch / printer.interface_density
    if not printer.interface_form:
        return fill(region, apart, turn + 90, INTERFACE)
    drawn = rings(region, pitch / 2, apart, RINGS_MOST).lines
    return [Line(line.points, INTERFACE, line.closed) for line in drawn]
