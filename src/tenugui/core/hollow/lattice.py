"""Struts across a cavity: how far each cell lies from the nearest of their axes."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from .field import Field

F4 = NDArray[np.float32]
Kind = Literal["cubic", "centred"]
KINDS: tuple[Kind, ...] = ("cubic", "centred")


def strut_distance(field: Field, pitch: float, kind: Kind) -> F4:
    """Distance (nz, ny, nx) in mm from each cell to the nearest strut's axis, counted from the field's corner.

    Struts run along the axes, `pitch` mm apart (`cubic`), or along the diagonals of cells of `pitch` mm (`centred`,
    body-centred cubic). Both lattices are their own mirror in every plane through a corner or a middle of a cell, so
    each place is folded into one eighth of a cell, where one or three axes remain.
    """
    folded = []
    for axis, count in enumerate(field.depth.shape):
        at = np.arange(count, dtype=np.float32) * np.float32(field.pitch / pitch)
        shape = [1, 1, 1]
        shape[axis] = count
        folded.append(np.abs(at - np.rint(at)).reshape(shape))
    z, y, x = (f * f for f in folded)
    if kind == "cubic":
        square = np.minimum(np.minimum(z + y, z + x), y + x)
    else:
        total = folded[0] + folded[1] + folded[2]
        square = np.maximum(z + y + x - total * total / np.float32(3), 0.0)
    return np.asarray(np.sqrt(square) * np.float32(pitch), np.float32)
