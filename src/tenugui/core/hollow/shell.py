"""Whether a figure came as a shell that is open, how thick it is, and where it opens: a bust cast hollow, a mask."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from ..look.views import frame
from ..mesh import Mesh, hull_corners, local_thickness, rays_of
from ..mesh.edges import face_volumes
from ..mesh.samples import surface_samples

F8 = NDArray[np.float64]
Opening = Literal["foot", "top", "side"]
THICKEST_MM = 8.0
"""Prior: thicker walls are no shell that anybody prints."""
EVEN = 2.0
"""Prior: three quarters of a shell's surface are thinner than so many times what is usual of it."""
WALL_SHARE = 0.15
"""Prior: a wall is thinner than this share of the figure's least extent."""
HULL_SHARE = 0.4
"""Prior: a shell fills less of its convex hull than this."""
INSIDE_SHARE = 0.25
"""Prior: so much of a shell's surface looks at the rest of it across its inside."""
SAMPLES = 4000
"""Points on which it is asked: a median and a quartile of so many are right to a hundredth of their rank."""


@dataclass(frozen=True)
class Shell:
    """How thick it is in mm, about, and where its inside opens."""

    wall_mm: float
    opens: Opening


def open_shell(mesh: Mesh, up: Sequence[float]) -> Shell | None:
    """The shell that a closed figure is; None for any other. `up` (3,) as it stands.

    A shell is about as thick all over, fills little of its hull, and much of its surface looks at itself across an
    inside that has a way out.
    """
    volume = abs(float(face_volumes(mesh).sum()))
    hull = _hull_volume(mesh)
    if hull <= 0 or volume > HULL_SHARE * hull:
        return None
    _, area = mesh.normals_and_areas()
    thick = local_thickness(mesh, THICKEST_MM, float(np.sqrt(area.sum() / SAMPLES)), SAMPLES)
    if not len(thick.mm):
        return None
    usual, most = (float(v) for v in np.quantile(np.minimum(thick.mm, THICKEST_MM), [0.5, 0.75]))
    if usual >= min(THICKEST_MM, WALL_SHARE * float(mesh.size.min())) or most > EVEN * usual:
        return None
    return _opening(mesh, np.array(up, float), usual)


def _opening(mesh: Mesh, up: F8, wall: float) -> Shell | None:
    """Where the inside opens: the way along which most of what looks inwards sees out."""
    normals, area = mesh.normals_and_areas()
    points, face = surface_samples(mesh, float(np.sqrt(area.sum() / SAMPLES)), SAMPLES)
    start = points + normals[face] * (1e-3 * wall)
    rays = rays_of(mesh)
    _, across = rays.first(start, normals[face])
    inside = across >= 0
    if inside.mean() < INSIDE_SHARE:
        return None
    side, across_it, _ = frame(up)
    ways: list[tuple[Opening, F8]] = [("foot", -up), ("top", up)]
    ways += [("side", np.cos(a) * side + np.sin(a) * across_it) for a in np.arange(8) * np.pi / 4]
    out = [float((rays.first(start[inside], way)[1] < 0).mean()) for _, way in ways]
    return Shell(wall, ways[int(np.argmax(out))][0])


def _hull_volume(mesh: Mesh) -> float:
    try:
        return float(ConvexHull(hull_corners(mesh)).volume)
    except QhullError:
        return 0.0
