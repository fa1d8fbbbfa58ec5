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


def cluster(mesh: Mesh, faces: int) -> Mesh:
    """About `faces` triangles at once, by vertex clustering (Rossignac and Borrel 1993): a first sight while `decimate` is at work.

    Vertices of a cubic cell become their mean; faces within a cell vanish. Ten times faster than `decimate`, and coarser.
    """
    if len(mesh.faces) <= faces:
        return mesh
    _, areas = mesh.normals_and_areas()
    cell = float(np.sqrt(2 * areas.sum() / faces))
    steps = np.floor((mesh.vertices - mesh.lower) / cell).astype(np.int64)
    keys = (steps[:, 0] << 42) | (steps[:, 1] << 21) | steps[:, 2]
    _, index = np.unique(keys, return_inverse=True)
    count = np.bincount(index)
    points = np.stack([np.bincount(index, mesh.vertices[:, axis]) / count for axis in range(3)], axis=1)
    mapped = index[mesh.faces].astype(np.int32)
    whole = (mapped[:, 0] != mapped[:, 1]) & (mapped[:, 1] != mapped[:, 2]) & (mapped[:, 0] != mapped[:, 2])
    return Mesh(points, np.ascontiguousarray(mapped[whole]))
