"""Specks: crumbs that came along, loose from everything. They would be what a figure stands on, and print as islands."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh, distance_within, face_grid, shell_labels, subset
from ..mesh.near import winding_numbers
from ..mesh.shells import shell_boxes

SPECK = 0.02
"""Prior: a loose shell smaller than this share of the largest one's extent is a crumb, not a part."""
TOUCH = 1e-3
"""Prior: a shell within this share of the figure's extent of its surface belongs to it."""
CORNERS = 40
"""Corners of a small shell that are looked at: enough that a bead that overlaps another is seen to."""


def loose_specks(mesh: Mesh) -> NDArray[np.bool_]:
    """Faces (m,) of small shells that neither touch the rest of the figure nor lie in it. What hangs on something that hangs on it stays."""
    gone = np.zeros(len(mesh.faces), np.bool_)
    labels, count = shell_labels(mesh.faces, len(mesh.vertices))
    if count < 2:
        return gone
    lower, upper = shell_boxes(mesh, labels, count)
    extent = (upper - lower).max(axis=1)
    loose = extent < SPECK * extent.max()
    reach = TOUCH * float(extent.max())
    while loose.any():
        body = subset(mesh, ~loose[labels])
        grid = face_grid(body)
        order = np.argsort(labels, kind="stable")
        first = np.searchsorted(labels[order], np.flatnonzero(loose))
        last = np.searchsorted(labels[order], np.flatnonzero(loose), side="right")
        picked = [np.linspace(a, b - 1, min(CORNERS, b - a)).astype(int) for a, b in zip(first, last, strict=True)]
        owner = np.repeat(np.flatnonzero(loose), [len(p) for p in picked])
        points = mesh.vertices[mesh.faces[order[np.concatenate(picked)], 0]]
        near = distance_within(points, body, grid, reach) < reach
        near |= winding_numbers(points, body, grid) != 0
        held = np.zeros(count, np.bool_)
        held[owner[near]] = True
        if not held.any():
            break
        loose &= ~held
    return np.asarray(loose[labels])
