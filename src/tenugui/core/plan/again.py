"""Changes of supports made once and wanted again: on the other side of a figure that is its own mirror, on a copy at
another size, on the next version of a sculpt.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..contract import EditAsk
from ..contract.base import Place
from ..marks import Plane

GRAIN = 3
"""Places are kept to so many digits of a mm, as the page gives them."""


def at_size(edits: Sequence[EditAsk], times: float) -> list[EditAsk]:
    """Changes made at one size, at another one `times` as large: what all stand on is no place, and stays out."""
    return [_moved(edit, lambda at: _told(np.array(at) * times)) for edit in edits if edit.op != "raft"]


def mirrored(edits: Sequence[EditAsk], mirror: Plane, factor: float) -> list[EditAsk]:
    """The same changes on the other side, of a figure at its size, `factor` times its file's; `mirror` in the file's
    numbers.
    """
    return [
        _moved(edit, lambda at: _told(mirror.reflected(np.array([at]) / factor)[0] * factor))
        for edit in edits
        if edit.op != "raft"
    ]


def without_twins(edits: Sequence[EditAsk], known: Sequence[EditAsk], apart_mm: float = 0.05) -> list[EditAsk]:
    """Those of some changes that are not among the known ones: what lies on the mirror is its own image."""
    places: dict[str, list[Place]] = {}
    for other in known:
        places.setdefault(other.op, []).append(other.at)
    near = {op: cKDTree(np.array(at, float)) for op, at in places.items()}
    return [e for e in edits if e.op not in near or float(near[e.op].query(e.at)[0]) > apart_mm]


def _moved(edit: EditAsk, to: Callable[[Place], Place]) -> EditAsk:
    return edit.model_copy(update={"at": to(edit.at), "to": None if edit.to is None else to(edit.to)})


def _told(at: NDArray[np.float64]) -> Place:
    x, y, z = (round(float(v), GRAIN) for v in at)
    return x, y, z
