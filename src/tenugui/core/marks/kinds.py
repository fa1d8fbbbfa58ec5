"""The kinds of marks, what a scar costs on each, and their form in files."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import CoreError

U1 = NDArray[np.uint8]
F8 = NDArray[np.float64]

KINDS = ("show", "hidden", "fit", "keep_out", "hold")
"""A face's label is the place of its kind here plus one; 0 is no mark."""

KEPT_FREE = 20.0
"""What a scar costs on a fit or a keep-out: from here on nothing may touch it without a person's word."""
SCAR_WEIGHT = (1.0, 5.0, 0.2, KEPT_FREE, KEPT_FREE, 1.0)
"""Prior: what a scar costs on a face by its label, where an unmarked one costs 1."""


class MarkError(CoreError):
    """Marks that do not belong to the figure or cannot be read."""


def scar_weights(labels: U1) -> F8:
    """What a scar costs on each face (n,).

    >>> scar_weights(np.array([0, 1, 2], np.uint8)).tolist()
    [1.0, 5.0, 0.2]
    """
    return np.array(SCAR_WEIGHT)[labels]


def to_hold(labels: U1) -> NDArray[np.bool_]:
    """Faces (n,) that the user wants held whatever the computation says."""
    return labels == KINDS.index("hold") + 1


def lists_of(labels: U1) -> dict[str, list[int]]:
    """Faces by kind, kinds without faces left out: the sparse form."""
    return {
        kind: np.flatnonzero(labels == code).tolist() for code, kind in enumerate(KINDS, 1) if (labels == code).any()
    }


def labels_from_lists(lists: Any, faces: int, where: str = "") -> U1:
    """The inverse for a mesh of so many faces; what is named twice takes the later kind. Raises `MarkError`."""
    labels = np.zeros(faces, np.uint8)
    shape = 'Expected {"faces": {"show": [...], "hidden": [...], ...}} with indices of triangles.'
    if not isinstance(lists, dict):
        raise MarkError("bad-marks", "The marks cannot be read.", where, shape)
    for kind, indices in lists.items():
        if kind not in KINDS:
            raise MarkError("bad-marks", f"There is no mark '{kind}'.", where, "Marks are " + ", ".join(KINDS) + ".")
        try:
            picked = np.asarray(indices)
        except ValueError as reason:
            raise MarkError("bad-marks", f"The list of '{kind}' is not a list of triangles.", where, shape) from reason
        if picked.size and not (picked.ndim == 1 and picked.dtype.kind in "iu"):
            raise MarkError("bad-marks", f"The list of '{kind}' is not a list of triangles.", where, shape)
        if picked.size and (picked.min() < 0 or picked.max() >= faces):
            wrong = int(picked.min()) if picked.min() < 0 else int(picked.max())
            raise MarkError(
                "bad-marks",
                f"The marks name face {wrong}; the file has {faces:,}.",
                where,
                "Make the marks for this file.",
            )
        labels[picked.astype(np.int64)] = KINDS.index(kind) + 1
    return labels
