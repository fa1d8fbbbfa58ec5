"""Specks: crumbs that came along, loose from everything. They would be what a figure stands on, and print as
islands.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh, decimate, distance_within, face_grid, shell_labels, subset
from ..mesh.edges import edges_of, face_volumes
from ..mesh.mesh import F8
from ..mesh.near import winding_numbers
from ..mesh.shells import clusters_of, shell_boxes
from ..mesh.winding import solid_angles

SPECK, CRUMB, CRUMB_VOLUME = 0.02, 0.06, 1e-3
"""Priors: a loose shell smaller than the first share of the largest one's extent is a crumb, not a part; so is one up
to the second share that holds less than the third of its volume.
"""
LOOSE_PIECES, MAIN_SHARE = 300, 0.05
"""Priors: a file of more pieces than this that hang together with none another, of which none holds so much of the
whole, is no figure.
"""
TOUCH = 1e-3
"""Prior: a shell within this share of the figure's extent of its surface belongs to it."""
THINNED = 6_000
"""Faces of the copy by which an open body's inside is told from its outside."""
CORNERS = 40
"""Corners of a small shell that are looked at: enough that a bead that overlaps another is seen to."""


def _wrapped(points: F8, body: Mesh) -> NDArray[np.bool_]:
    """Whether the body wraps around points (n, 3) that rays find inside: below an open foot they do, though nothing is
    around them.
    """
    if not edges_of(body).unbalanced.any():
        return np.ones(len(points), np.bool_)
    thin = decimate(body, THINNED)
    return np.asarray(solid_angles(points, thin.vertices, thin.faces) > 0.5)


def loose_specks(mesh: Mesh) -> NDArray[np.bool_]:
    """Faces (m,) of small shells that neither touch the rest of the figure nor lie in it. What hangs on something that
    hangs on it stays.
    """
    gone = np.zeros(len(mesh.faces), np.bool_)
    labels, count = shell_labels(mesh.faces, len(mesh.vertices))
    if count < 2:
        return gone
    lower, upper = shell_boxes(mesh, labels, count)
    extent = (upper - lower).max(axis=1)
    volume = np.abs(np.bincount(labels, face_volumes(mesh), count))
    small = (extent < CRUMB * extent.max()) & (volume < CRUMB_VOLUME * volume.max())
    loose = (extent < SPECK * extent.max()) | small
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
        near = distance_within(points, grid, reach) < reach
        inside = winding_numbers(points, grid) != 0
        inside[inside] = _wrapped(points[inside], body)
        near |= inside
        stays = np.zeros(count, np.bool_)
        stays[owner[near]] = True
        if not stays.any():
            break
        loose &= ~stays
    return np.asarray(loose[labels])


def loose_pieces(mesh: Mesh) -> tuple[int, float]:
    """How many pieces a mesh falls into, by the boxes of its shells, and which share of the volume the largest
    holds.
    """
    labels, count = shell_labels(mesh.faces, len(mesh.vertices))
    if count <= LOOSE_PIECES:
        return count, 1.0
    volume = np.abs(np.bincount(labels, face_volumes(mesh), count))
    of = clusters_of(*shell_boxes(mesh, labels, count))
    volumes = np.bincount(of, volume, count)
    return len(np.unique(of)), float(volumes.max() / max(volumes.sum(), 1e-300))
