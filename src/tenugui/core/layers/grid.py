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
    """Layer k covers [k h, (k+1) h) above the plate and is cut at its middle; scan line j of `rows` lies at y0 + (j + 1/2) pitch."""

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

    def z(self, layer: float) -> float:
        """Height in mm of the middle of a layer."""
        return (layer + 0.5) * self.height


def grid_for(mesh: Mesh, height: float, pitch: float | None = None) -> LayerGrid:
    """The grid that covers a mesh in build coordinates with a margin of a scan line; `pitch` defaults to the height, at most 0.1 mm."""
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
    rows = int(np.ceil((upper[1] - lower[1]) / p)) + 2
    if layers < 1 or layers > MAX_LAYERS or layers * rows > MAX_ROWS:
        raise LayerError(
            "too-many-layers",
            f"{layers:,} layers of {rows:,} scan lines are more than this engine proves at once.",
            f"height {upper[2]:.1f} mm at {height} mm",
            "Check the figure's size and unit, or choose a coarser height or pitch.",
        )
    return LayerGrid(height, p, float(lower[0]) - p, float(lower[1]) - p, layers, rows)
