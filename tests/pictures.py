"""Layers as whole pictures, for tests and benches to look at pixel by pixel."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from tenugui.core.sections import Raster, Screen


def painted(raster: Raster, screen: Screen) -> NDArray[np.uint8]:
    """Every pixel of the screen (rows, columns)."""
    whole = np.zeros((screen.rows, screen.columns), np.uint8)
    for j in range(len(raster.start) - 1):
        ends = [*raster.at[raster.start[j] : raster.start[j + 1]].tolist(), screen.columns]
        for k, value in enumerate(raster.value[raster.start[j] : raster.start[j + 1]]):
            whole[raster.first + j, ends[k] : ends[k + 1]] = value
    return whole


def spans(grey: NDArray[np.uint8]) -> tuple[NDArray[np.int64], NDArray[np.int32], NDArray[np.uint8]]:
    """A band of pixels (rows, columns) as a raster tells it."""
    start, at, value = [0], list[int](), list[int]()
    for row in grey.astype(int):
        changes = np.flatnonzero(np.diff(row, prepend=0))
        at += changes.tolist()
        value += row[changes].tolist()
        start.append(len(at))
    return np.array(start, np.int64), np.array(at, np.int32), np.array(value, np.uint8)
