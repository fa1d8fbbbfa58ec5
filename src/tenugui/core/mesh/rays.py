"""Rays against a mesh, through embree. Directions need not be unit vectors; distances are in their length."""

from __future__ import annotations

import itertools

import numpy as np
from embreex import rtcore_scene
from embreex.mesh_construction import TriangleMesh
from numpy.typing import NDArray

from ..compiled import CORES, both_cores
from .mesh import F8, Mesh

FAR = 1e30


class RayMesh:
    """A mesh prepared for rays; cheap to ask, costly to make (about a second a million triangles)."""

    def __init__(self, mesh: Mesh) -> None:
        self._scene = rtcore_scene.EmbreeScene()
        self._held = TriangleMesh(
            self._scene, mesh.vertices.astype(np.float32), np.ascontiguousarray(mesh.faces, np.int32)
        )

    def shot(
        self, origins: NDArray[np.float32], directions: NDArray[np.float32]
    ) -> tuple[NDArray[np.float32], NDArray[np.int32]]:
        """Distance and face hit or -1 of rays (n, 3) already laid out for embree; safe to call from several threads."""
        found = self._scene.run(origins, directions, output=1)
        return found["tfar"], found["primID"]

    def first(self, origins: F8, directions: F8) -> tuple[F8, NDArray[np.int32]]:
        """Distance (n,) to the first hit, `FAR` where there is none, and the face hit or -1."""
        o = np.ascontiguousarray(origins, np.float32).reshape(-1, 3)
        d = np.ascontiguousarray(np.broadcast_to(np.asarray(directions, np.float32), o.shape))
        if not len(o):
            return np.empty(0), np.empty(0, np.int32)
        marks = np.linspace(0, len(o), (CORES if len(o) > 20_000 else 1) + 1).astype(int)
        parts = [(o[a:b], d[a:b]) for a, b in itertools.pairwise(marks)]
        found = both_cores(lambda p, q: self._scene.run(p, q, output=1), parts)
        face = np.concatenate([np.asarray(f["primID"], np.int32) for f in found])
        distance = np.concatenate([np.asarray(f["tfar"], float) for f in found])
        return np.where(face >= 0, distance, FAR), face


def rays_of(mesh: Mesh) -> RayMesh:
    """The mesh's rays, prepared on first use and kept with the mesh (whose arrays are never written to)."""
    held: RayMesh | None = mesh.__dict__.get("_rays")
    if held is None:
        held = RayMesh(mesh)
        mesh.__dict__["_rays"] = held
    return held
