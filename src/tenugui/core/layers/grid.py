"""Where the layers and scan lines lie."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import CoreError
from ..mesh import Mesh

SUB = 256
"""Run ends are whole numbers of pitch / SUB: 0.2 µm at a pitch of 0.05 mm."""

MAX_LAYERS = 20_000
MAX_ROWS = 40_000_000
"""Scan lines in all layers together; beyond it the figure is too large for the pitch and is refused, not attempted."""


class LayerError(CoreError):
    """A layer stack that cannot be made."""


@dataclass(frozen=True)
class LayerGrid:
    """Layer k covers [k h, (k+1) h) above the plate and is cut at its middle; scan line j of `rows` lies at y0 + (j +
    1/2) pitch.

    `x0` and `y0` are whole pitches, so that stacks of one pitch and height can be laid on each other line by line.
    """

    height: float
    pitch: float
    x0: float
    y0: float
    layers: int
    rows: int

    @property
    def unit(self) -> float:
        """Length in mm of one step of a run's end."""
        return self.pitch / SUB

    def offset(self, other: LayerGrid) -> tuple[int, int]:
        """How many pitches another grid of the same pitch begins after this one, in x and y."""
        return round((other.x0 - self.x0) / self.pitch), round((other.y0 - self.y0) / self.pitch)

    def z(self, layer: float) -> float:
        """Height in mm of the middle of a layer."""
        return (layer + 0.5) * self.height


def grid_for(mesh: Mesh, height: float, pitch: float | None = None) -> LayerGrid:
    """The grid that covers a mesh in build coordinates with a margin of a scan line; `pitch` defaults to the height, at
    most 0.1 mm.

    Raises:
        LayerError: `bad-height`, `below-plate`.
    """
    if not height > 0 or (pitch is not None and not pitch > 0):
        raise LayerError(
            "bad-height", f"A layer height of {height} mm cannot be cut.", remedy="Give a height above zero."
        )
    p = min(height, 0.1) if pitch is None else pitch
    lower, upper = mesh.lower, mesh.upper
    if lower[2] < -1e-6 * max(1.0, float(upper[2])):
        raise LayerError(
            "below-plate",
            f"The figure reaches {-lower[2]:.3f} mm below the plate.",
            "z < 0",
            "Drop it onto the plate first.",
        )
    layers = int(np.ceil(upper[2] / height - 1e-9))
    west, south = (int(np.floor(v / p)) - 1 for v in lower[:2])
    return _checked(height, p, (west, south), layers, int(np.ceil(upper[1] / p)) + 1 - south)


def covering(grid: LayerGrid, mesh: Mesh) -> LayerGrid:
    """The grid that covers what a grid covers, and a mesh too, on the same lines."""
    other = grid_for(mesh, grid.height, grid.pitch)
    dx, dy = grid.offset(other)
    west, south = round(grid.x0 / grid.pitch) + min(dx, 0), round(grid.y0 / grid.pitch) + min(dy, 0)
    rows = max(grid.rows, dy + other.rows) - min(dy, 0)
    return _checked(grid.height, grid.pitch, (west, south), max(grid.layers, other.layers), rows)


def _checked(height: float, pitch: float, corner: tuple[int, int], layers: int, rows: int) -> LayerGrid:
    if layers < 1 or layers > MAX_LAYERS or layers * rows > MAX_ROWS:
        raise LayerError(
            "too-many-layers",
            f"{layers:,} layers of {rows:,} scan lines are more than this engine proves at once.",
            f"height {layers * height:.1f} mm at {height} mm",
            "Check the figure's size and unit, or choose a coarser height or pitch.",
        )
    return LayerGrid(height, pitch, corner[0] * pitch, corner[1] * pitch, layers, rows)
