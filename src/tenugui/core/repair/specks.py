"""Specks: crumbs that came along, loose from everything. They would be what a figure stands on, and print as islands."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh, decimate, distance_within, face_grid, shell_labels, subset
from ..mesh.edges import edges_of
from ..mesh.mesh import F8
from ..mesh.near import winding_numbers
from ..mesh.shells import shell_boxes
from ..mesh.winding import solid_angles

SPECK = 0.02
"""Prior: a loose shell smaller than this share of the largest one's extent is a crumb, not a part."""
TOUCH = 1e-3
"""Prior: a shell within this share of the figure's extent of its surface belongs to it."""
THINNED = 6_000
"""Faces of the copy by which an open body's inside is told from its outside."""
CORNERS = 40
"""Corners of a small shell that are looked at: enough that a bead that overlaps another is seen to."""


def _wrapped(points: F8, body: Mesh) -> NDArray[np.bool_]:
    """Whether the body wraps around points (n, 3) that rays find inside: below an open foot they do, though nothing is around them."""
    if not edges_of(body).unbalanced.any():
        return np.ones(len(points), np.bool_)
    thin = decimate(body, THINNED)
    return np.asarray(solid_angles(points, thin.vertices, thin.faces) > 0.5)


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
        inside = winding_numbers(points, body, grid) != 0
        inside[inside] = _wrapped(points[inside], body)
        near |= inside
        held = np.zeros(count, np.bool_)
        held[owner[near]] = True
        if not held.any():
            break
        loose &= ~held
    return np.asarray(loose[labels])
