"""Rays against a mesh. Directions need not be unit vectors; distances are in their length."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from ..compiled import CORES, both_cores
from .embree import Scene, shoot
from .mesh import F8, Mesh

FAR = 1e30


class RayMesh:
    """A mesh prepared for rays; cheap to ask, costly to make (about 0.4 s a million triangles)."""

    def __init__(self, mesh: Mesh) -> None:
        self._scene = Scene(mesh.vertices.astype(np.float32), np.ascontiguousarray(mesh.faces, np.int32))

    @property
    def address(self) -> int:
        """The scene as compiled loops are given it, see `embree.shoot_one`."""
        return self._scene.address

    def shot(
        self, origins: NDArray[np.float32], directions: NDArray[np.float32]
    ) -> tuple[NDArray[np.float32], NDArray[np.int32]]:
        """Distance and face hit or -1 of rays (n, 3) already laid out as 32-bit rows; safe to call from several
        threads.
        """
        distance, face = np.empty(len(origins), np.float32), np.empty(len(origins), np.int32)
        shoot(self._scene.address, origins, directions, distance, face)
        return distance, face

    def first(self, origins: F8, directions: F8) -> tuple[F8, NDArray[np.int32]]:
        """Distance (n,) to the first hit, `FAR` where there is none, and the face hit or -1."""
        o = np.ascontiguousarray(origins, np.float32).reshape(-1, 3)
        d = np.ascontiguousarray(np.broadcast_to(np.asarray(directions, np.float32), o.shape))
        if not len(o):
            return np.empty(0), np.empty(0, np.int32)
        marks = np.linspace(0, len(o), (CORES if len(o) > 20_000 else 1) + 1).astype(int)
        parts = [(o[a:b], d[a:b]) for a, b in itertools.pairwise(marks)]
        shots = both_cores(self.shot, parts)
        face = np.concatenate([f for _, f in shots])
        distance = np.concatenate([f for f, _ in shots]).astype(float)
        return np.where(face >= 0, distance, FAR), face


def rays_of(mesh: Mesh) -> RayMesh:
    """The mesh's rays, prepared on first use and kept with the mesh (whose arrays are never written to)."""
    rays: RayMesh | None = mesh.__dict__.get("_rays")
    if rays is None:
        rays = RayMesh(mesh)
        mesh.__dict__["_rays"] = rays
    return rays
