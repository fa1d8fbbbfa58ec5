"""The walk through the layers of a plan as it is proved: each as it is cut, and the layers worth a look."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, JoinType
from numpy.typing import NDArray

from ..contract import HeldDoc, LayerDoc, StopDoc, StripDoc
from ..errors import CoreError
from ..hazards import Stop, kinds
from ..mesh import Mesh
from ..paths import heights_of
from ..sections import loops_of, outlines_at
from .inputs import PosedInputs
from .parts import SUPPORTS, parts_of

F8 = NDArray[np.float64]
FINE_MM, SPECK_MM2 = 0.01, 0.01
"""Corners of an outline that change it by less are left out, and so is air that is smaller than a speck."""
ROUND = 24


@dataclass(frozen=True)
class Stacked:
    """A proved plan's parts in build coordinates, where each of its layers ends (layers,) mm, and how far a layer may
    reach beyond the one below.
    """

    parts: dict[str, Mesh]
    tops: F8
    reach: float

    @classmethod
    def of(cls, inputs: PosedInputs, supported: HeldDoc, strip: StripDoc) -> Stacked:
        """Of a proof's own inputs, its held figure, and the ribbon that the proof draws."""
        parts = parts_of(inputs, supported)
        return cls(parts, tops_of(strip, parts), inputs.context().reach)

    def cut(self, number: int) -> dict[str, CrossSection]:
        """The section of each part in layer `number`, from 1."""
        top, below = float(self.tops[number - 1]), float(self.tops[number - 2]) if number > 1 else 0.0
        return {name: _at(part, (top + below) / 2, self.tops, number) for name, part in self.parts.items()}


def tops_of(strip: StripDoc, parts: dict[str, Mesh]) -> F8:
    """Where each layer of a plan's parts ends (layers,) mm, as its ribbon says: in bands, or all alike."""
    heights = [strip.layer_height_mm]
    if strip.bands:
        ends = np.array([0.0, *(top for top, _ in strip.bands)])
        counts = np.round(np.diff(ends) / [height for _, height in strip.bands]).astype(int)
        heights = np.repeat([height for _, height in strip.bands], counts).tolist()
    return np.asarray(np.cumsum(heights_of(list(parts.values()), np.array(heights))))


def _at(part: Mesh, z: float, tops: F8, number: int) -> CrossSection:
    """A part's section at a layer's middle: only faces that cross it are cut."""
    heights = part.vertices[:, 2][part.faces]
    crossing = (heights.min(axis=1) <= z) & (heights.max(axis=1) >= z)
    if not crossing.any():
        return CrossSection()
    return outlines_at(Mesh(part.vertices, part.faces[crossing]), tops[:number], np.array([number - 1]))[number - 1]


def layer_of(stacked: Stacked, number: int) -> LayerDoc:
    """Layer `number`, from 1.

    Raises:
        CoreError: `no-layer`: there is none of that number.
    """
    many = len(stacked.tops)
    if not 1 <= number <= many:
        raise CoreError(
            "no-layer",
            f"There is no layer {number:,} of {many:,}.",
            "the walk through the layers",
            "Ask for one of them.",
        )
    cut = stacked.cut(number)
    below = _united(stacked.cut(number - 1)) if number > 1 else CrossSection()
    whole = _united(cut)
    air = CrossSection()
    if number > 1:
        air = whole - below.offset(stacked.reach, JoinType.Round, 2.0, ROUND)
    lower = np.min([part.lower for part in stacked.parts.values()], axis=0)
    upper = np.max([part.upper for part in stacked.parts.values()], axis=0)
    supports = _united({name: section for name, section in cut.items() if name.startswith(SUPPORTS)})
    figure = _united({name: section for name, section in cut.items() if not name.startswith(SUPPORTS)})
    return LayerDoc(
        layer=number,
        layers=many,
        z_mm=float(stacked.tops[number - 1]),
        height_mm=float(stacked.tops[number - 1] - (stacked.tops[number - 2] if number > 1 else 0.0)),
        box=(float(lower[0]), float(lower[1]), float(upper[0]), float(upper[1])),
        figure=_loops(figure),
        supports=_loops(supports - figure),
        below=_loops(below),
        air=[loop for piece in air.decompose() if piece.area() >= SPECK_MM2 for loop in _loops(piece)],
        area_mm2=whole.area(),
        air_mm2=air.area(),
    )


def _united(sections: dict[str, CrossSection]) -> CrossSection:
    whole = CrossSection()
    for section in sections.values():
        whole += section
    return whole


def _loops(section: CrossSection) -> list[list[tuple[float, float]]]:
    return [[(x, y) for x, y in loop.round(3).tolist()] for loop in loops_of(section.simplify(FINE_MM))]


def stops_of(supported: HeldDoc, tops: F8) -> list[StopDoc]:
    """The layers of a held figure that are worth a look, from the plate up: once a kind and layer."""
    first: dict[tuple[str, int], StopDoc] = {}
    rows: list[tuple[Stop, tuple[float, float, float], str]] = []
    known = kinds()
    held = [spot for spot in supported.row.spots if spot.reason == "island"]
    rows += [("starts", spot.at, "Starts in mid air, on a support.") for spot in held]
    rows += [("starts", (i.x_mm, i.y_mm, i.z_mm), "Starts in mid air, unheld.") for i in supported.proof.islands]
    for hazard in supported.proof.hazards:
        kind = known[hazard.code]
        if kind.stop and kind.strikes == "printing":
            rows.append((kind.stop, (hazard.x_mm, hazard.y_mm, hazard.z_mm), hazard.message))
    rows += [("pulls", peak.place, f"Pulls with {peak.pull_n:.1f} N.") for peak in supported.proof.peaks]
    for stop, (x, y, z), said in sorted(rows, key=lambda row: row[1][2]):
        layer = layer_at(tops, z)
        first.setdefault((stop, layer), StopDoc(kind=stop, layer=layer, x_mm=x, y_mm=y, z_mm=z, said=said))
    return list(first.values())


def layer_at(tops: F8, z: float) -> int:
    """The layer, from 1, that holds a height in mm; the last one above all.

    >>> import numpy as np
    >>> [layer_at(np.array([0.2, 0.4, 0.5]), z) for z in (0.0, 0.19, 0.3, 0.45, 9.0)]
    [1, 1, 2, 3, 3]
    """
    return min(int(np.searchsorted(tops, z + 1e-6, side="right")) + 1, len(tops))
