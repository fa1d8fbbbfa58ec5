"""A thinner copy of a mesh with more triangles than can be worked on, and how far its surface has moved."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..mesh import Mesh, Nearest, decimate

SAMPLES = 40_000


@dataclass(frozen=True)
class Thinned:
    """The copy, the triangles before, and how far from it the original's points lie, in the mesh's units: the largest
    and the 95th percentile of SAMPLES.
    """

    mesh: Mesh
    before: int
    deviation: float
    usual: float


def thin(mesh: Mesh, faces: int) -> Thinned:
    """At most about `faces` triangles by quadric error. The deviation is measured at points of the original spread
    evenly over its list.

    Where the original is no larger it comes back itself, with no deviation.
    """
    if len(mesh.faces) <= faces:
        return Thinned(mesh, len(mesh.faces), 0.0, 0.0)
    copy = decimate(mesh, faces)
    points = mesh.vertices[:: max(1, len(mesh.vertices) // SAMPLES)]
    away = Nearest(copy).of(points)[1]
    return Thinned(copy, len(mesh.faces), float(away.max()), float(np.quantile(away, 0.95)))
