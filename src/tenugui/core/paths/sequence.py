"""Paths of several pieces one after the other: up over all that stands, across, and down to where the next begins."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..machines import FilamentPrinter
from .drive import Path
from .gcode import CLEAR_MM
from .lines import TRAVEL

F8 = NDArray[np.float64]


def shifted(path: Path, by: F8) -> Path:
    """A path at another place; `by` (3,) mm."""
    return replace(path, points=path.points + by)


def _begun(path: Path) -> int:
    """The move with which something is laid down first: how the nozzle came there is no matter any more."""
    return int(np.argmax(path.fed > 0))


def one_after_another(paths: Sequence[Path], printer: FilamentPrinter) -> Path:
    """One path through all of them in their order; layers are counted through all pieces."""
    whole = paths[0]
    tallest = float(whole.points[:, 2].max())
    for path in paths[1:]:
        tallest = max(tallest, float(path.points[:, 2].max()))
        whole = _joined(whole, path, min(tallest + CLEAR_MM, printer.build_mm[2]), printer)
    return whole


def _joined(one: Path, other: Path, clear: float, printer: FilamentPrinter) -> Path:
    first = _begun(other)
    here, there = one.points[-1], other.points[first]
    way = np.array([[here[0], here[1], clear], [there[0], there[1], clear], there])
    far = np.linalg.norm(np.diff(np.vstack([here, way]), axis=0), axis=1)
    added = len(way)

    def joined(name: str, between: NDArray[np.generic]) -> NDArray[np.generic]:
        return np.concatenate([getattr(one, name), between, getattr(other, name)[first:]])

    return Path(
        points=np.vstack([one.points, way, other.points[first + 1 :]]),
        kind=joined("kind", np.full(added, TRAVEL, np.uint8)),  # type: ignore[arg-type]
        speed=joined("speed", np.full(added, printer.travel_mm_s)),  # type: ignore[arg-type]
        fed=joined("fed", np.zeros(added)),  # type: ignore[arg-type]
        # The way there belongs to the piece that is done: each layer of the next can be read alone.
        layer=np.concatenate(
            [one.layer, np.full(added, one.layers - 1, one.layer.dtype), other.layer[first:] + one.layers]
        ).astype(one.layer.dtype),
        seconds=joined("seconds", far / printer.travel_mm_s),  # type: ignore[arg-type]
        drawn=joined("drawn", np.ones(added, np.bool_)),  # type: ignore[arg-type]
        lost=np.concatenate([one.lost, other.lost]),
        unslowed=np.concatenate([one.unslowed, other.unslowed]),
        tops=np.concatenate([one.tops, other.tops]),
        heights=np.concatenate([one.heights, other.heights]),
        lift=one.lift,
    )
