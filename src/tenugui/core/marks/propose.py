"""Proposals: what people look at, what nobody sees, what was cut and what must fit; and what a scar costs where nobody
has marked anything.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..look import FACE_FROM, LOWEST, Look
from ..mesh import Mesh, fits, flat_faces

F8 = NDArray[np.float64]
B1 = NDArray[np.bool_]

PROPOSALS = {"seen": "show", "unseen": "hidden", "cuts": "hidden", "fits": "fit", "faces": "show"}
"""Each proposal and the kind of mark that it proposes."""
SEEN_SHARE = 0.35
"""Prior: a face seen by this share of the eyes around the table is in sight."""
UNSEEN_SHARE = 0.03
SHOWN_QUANTILE = 0.5
"""Prior: of what is in sight, the half that matters more is shown."""
SOFT_LEAST, SOFT_MOST = 0.45, 2.24
"""Priors: what a scar costs on what nobody sees and on what is looked at most, where the figure alone says so: the
roots of what a hand's marks cost.
"""
UNDERSIDE_WEIGHT = 0.1
"""Prior: what a scar costs on what a figure stands on: half of where a hand has marked it hidden, since it is broken
off and stood on.
"""
DOWN_COS = 0.5
"""Prior: what looks down less straight than this is no underside."""
FACE_WEIGHT = 8.0
"""Prior: what a scar costs on a found face: dearer than any mark but what must be kept free."""


@dataclass(frozen=True)
class Proposal:
    """`faces` (n,) bool of the mesh by proposal, and `importance` (n,) of each."""

    faces: dict[str, B1]
    importance: F8


def propose(mesh: Mesh, look: Look) -> Proposal:
    """All proposals for a figure whose every face is looked at as `look` says."""
    cut, meets = _cuts_and_fits(mesh)
    taken = cut | meets
    face = (look.importance >= FACE_FROM) & ~taken
    looked = (look.sight >= SEEN_SHARE) & ~taken
    limit = _quantile(look.importance[looked], mesh.normals_and_areas()[1][looked])
    return Proposal(
        {
            "seen": looked & (look.importance > limit) & ~face,
            "unseen": (look.sight <= UNSEEN_SHARE) & ~taken,
            "cuts": cut & (look.sight <= SEEN_SHARE),
            "fits": meets,
            "faces": face,
        },
        look.importance,
    )


def underside(mesh: Mesh, up: Sequence[float], sight: F8) -> B1:
    """Faces (n,) of the underside that a figure stands on with `up` upwards: low, looking down, and seen by no more
    eyes than what is not seen.
    """
    normals, _ = mesh.normals_and_areas()
    heights = mesh.middles() @ np.array(up, float)
    low = heights < heights.min() + LOWEST * np.ptp(heights)
    return np.asarray(low & (normals @ np.array(up, float) < -DOWN_COS) & (sight <= UNSEEN_SHARE))


def soft_weights(importance: F8, cut: B1, under: B1) -> F8:
    """What a scar costs on each face (n,) by its importance; `cut`: flat cut faces, which count as seen by nobody;
    `under`: the underside.

    >>> yes, no = np.array([True]), np.array([False])
    >>> soft_weights(np.array([0.0, 0.5, 0.95]), np.zeros(3, bool), np.zeros(3, bool)).round(2).tolist()
    [0.45, 1.0, 8.0]
    >>> soft_weights(np.ones(1), yes, no).tolist(), soft_weights(np.zeros(1), no, yes).tolist()
    ([0.45], [0.1])
    """
    weights = SOFT_LEAST * (SOFT_MOST / SOFT_LEAST) ** np.clip(importance, 0.0, 1.0)
    weights = np.where(cut, SOFT_LEAST, np.where(importance >= FACE_FROM, FACE_WEIGHT, weights))
    return np.where(under, UNDERSIDE_WEIGHT, weights)


def _quantile(values: F8, area: F8) -> float:
    """The value below which SHOWN_QUANTILE of an area lies; infinite for none."""
    if not len(values):
        return float("inf")
    order = np.argsort(values, kind="stable")
    below = np.cumsum(area[order])
    return float(values[order][min(int(np.searchsorted(below, SHOWN_QUANTILE * below[-1])), len(values) - 1)])


def _cuts_and_fits(mesh: Mesh) -> tuple[B1, B1]:
    """Faces (n,) that were cut flat, and those that meet another part."""
    cut = np.zeros(len(mesh.faces), np.bool_)
    meets = np.zeros(len(mesh.faces), np.bool_)
    for flat in flat_faces(mesh):
        joints = fits(mesh, flat)
        (meets if joints else cut)[flat.faces] = True
        for one in joints:
            meets[one.faces] = True
    return cut, meets
