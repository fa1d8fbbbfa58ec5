"""The door: a mesh as it came is made fit for work once, and every room behind it may rely on that.

A *working mesh* has no face that names a vertex twice (such a face bounds nothing, and its edges cancel, so that
leaving it out changes neither shape nor closedness) and no vertex that no face uses (which would count in sizes and in
what touches the plate).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .mesh import I4, Mesh


@dataclass(frozen=True)
class Working:
    """A working mesh and, for each of its faces (m,), the face of the mesh it was made from."""

    mesh: Mesh
    faces: NDArray[np.int64]

    def then(self, mesh: Mesh, kept: NDArray[np.int64]) -> Working:
        """A further mesh whose faces are `kept` of this one's (-1 for new ones)."""
        return Working(mesh, np.where(kept >= 0, self.faces[np.maximum(kept, 0)], -1))


def repeating(faces: I4) -> NDArray[np.bool_]:
    """Faces (m,) that name a vertex twice."""
    return np.asarray((faces[:, 0] == faces[:, 1]) | (faces[:, 1] == faces[:, 2]) | (faces[:, 0] == faces[:, 2]))


def compact(mesh: Mesh) -> Mesh:
    """The mesh without vertices that no face uses, in their order; itself where there are none."""
    used = np.zeros(len(mesh.vertices), np.bool_)
    used[mesh.faces] = True
    if used.all():
        return mesh
    place = np.cumsum(used, dtype=np.int64) - 1
    return Mesh(mesh.vertices[used], np.ascontiguousarray(place[mesh.faces], np.int32))


def subset(mesh: Mesh, keep: NDArray[np.bool_]) -> Mesh:
    """Only the faces of `keep` (m,), with the vertices that they use."""
    return compact(Mesh(mesh.vertices, np.ascontiguousarray(mesh.faces[keep])))


def fit_for_work(mesh: Mesh) -> Working:
    """The working mesh of a mesh as it came; the mesh itself where it is fit already.

    >>> odd = Mesh(np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0], [9, 9, 9]]), np.array([[0, 1, 2], [1, 1, 2]], np.int32))
    >>> made = fit_for_work(odd)
    >>> made.mesh.faces.tolist(), len(made.mesh.vertices), made.faces.tolist()
    ([[0, 1, 2]], 3, [0])
    """
    odd = repeating(mesh.faces)
    if not odd.any():
        return Working(compact(mesh), np.arange(len(mesh.faces)))
    return Working(subset(mesh, ~odd), np.flatnonzero(~odd))
