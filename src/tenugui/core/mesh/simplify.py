"""Fewer triangles for the picture on the screen; never for a proof."""

from __future__ import annotations

import fast_simplification
import numpy as np

from .mesh import Mesh


def decimate(mesh: Mesh, faces: int) -> Mesh:
    """At most about `faces` triangles, by quadric error (Garland and Heckbert 1997); the mesh itself where it is smaller."""
    if len(mesh.faces) <= faces:
        return mesh
    points, triangles = fast_simplification.simplify(
        mesh.vertices.astype(np.float32), mesh.faces, target_reduction=1 - faces / len(mesh.faces), agg=5.0
    )
    return Mesh(np.asarray(points, np.float64), np.ascontiguousarray(triangles, np.int32))
