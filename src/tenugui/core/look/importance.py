"""Importance: how much a scar or a step matters on each face of a figure, 0 to 1: sight x saliency x place, and a found
face of the figure outranks all.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh
from .faces import Face, find_faces
from .saliency import saliency
from .sight import sight

F8 = NDArray[np.float64]
FACE_FROM = 0.9
"""Importance from here on is a found face."""
MOST_ELSEWHERE = 0.85
"""Prior: nothing else matters more than this."""
PLAIN = 0.45
"""Prior: how much what is smooth matters beside the most salient, where both are seen."""
FULL_SIGHT = 0.4
"""Prior: what is seen by this share of the eyes is as much in sight as anything."""
HEAD_SHARE, BELOW_HEAD = 0.25, 0.7
"""Prior: where no face is found, the uppermost part of the height is what people look at first; what lies lower counts
so much beside it.
"""
FACE_REACH = 1.15
"""Prior: a face ends so many of its radii from its middle."""
FACING_COS = 0.0
"""Prior: what turns away from who looks at a face is hair."""
FACE_SIGHT = 0.2
"""Prior: what fewer of the eyes see on a face, under a chin or in a nostril, is no show of it."""


@dataclass(frozen=True)
class Look:
    """`importance` and `sight` (faces,), 0 to 1, and the faces that were found."""

    importance: F8
    sight: F8
    faces: tuple[Face, ...]


def look_at(
    mesh: Mesh,
    up: Sequence[float] = (0.0, 0.0, 1.0),
    front: Sequence[float] | None = None,
    faces: Sequence[Face] | None = None,
    *,
    salient: F8 | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> Look:
    """What people look at on a figure that stands with `up` upwards. `faces` and `salient` (faces,): where they are
    at hand.
    """
    agreed = tuple(find_faces(mesh, up) if faces is None else faces)
    seen = sight(mesh, up, front, progress)
    salient = saliency(mesh) if salient is None else salient
    inside = np.where(seen >= FACE_SIGHT, on_faces(mesh, agreed), 0.0)
    place = np.ones(len(mesh.faces))
    heights = mesh.middles() @ np.array(up, float)
    if agreed:
        place[:] = BELOW_HEAD
    elif np.ptp(heights) > 0:
        place = np.where(heights > heights.max() - HEAD_SHARE * np.ptp(heights), 1.0, BELOW_HEAD)
    whole = np.minimum(1.0, seen / FULL_SIGHT) * (PLAIN + (1 - PLAIN) * salient) * place
    importance = np.where(inside > 0, FACE_FROM + (1 - FACE_FROM) * inside, MOST_ELSEWHERE * whole)
    return Look(np.asarray(importance), seen, agreed)


def on_faces(mesh: Mesh, faces: Sequence[Face]) -> F8:
    """How sure it is that each face of the mesh lies on a face of the figure, 0 where it does not."""
    sure = np.zeros(len(mesh.faces))
    normals, _ = mesh.normals_and_areas()
    middles = mesh.middles()
    for face in faces:
        away = np.linalg.norm(middles - np.array(face.middle), axis=1)
        on = (away < FACE_REACH * face.radius) & (normals @ np.array(face.toward) > FACING_COS)
        sure[on] = np.maximum(sure[on], face.sure)
    return sure
