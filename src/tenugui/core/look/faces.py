"""Faces of a figure: found in views from all around by the trained cascades of a general vision library, where several
neighbouring views agree on one place of the surface.

On a portrait most of the views from its front agree; on a beast's flank a single view errs here and there.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from threading import Lock

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.sparse.csgraph import connected_components

from ..compiled import CORES, both_cores
from ..errors import CoreError
from ..mesh import Mesh, hull_corners
from .views import View, rendered, uppermost, view_from

F8 = NDArray[np.float64]
U1 = NDArray[np.uint8]

AZIMUTHS, ELEVATIONS_DEG = 24, (0.0, 15.0)
TOPS = (0.4,)
"""Beside the whole its uppermost part is looked at enlarged: a standing figure's face is a tenth of it."""
PIXELS = 144
FINER = 1.12
"""Faces are looked for in sizes that each are so many times the last."""
SMALLEST = 24
"""Pixels: no face is told from less."""
CASCADES = ("haarcascade_frontalface_alt2.xml", "haarcascade_frontalface_default.xml")
AGREE = 5
"""Prior: so many views, neighbours of each other, make a face."""
APART = 0.6
"""Prior: hits within this share of their radius are of one place."""
TURN_COS = float(np.cos(np.radians(50.0)))
"""Prior: two views that are farther apart do not speak for each other."""
SURE_AT = 14.0
"""Prior: views that agree, from which a face is as good as certain."""


@dataclass(frozen=True)
class Face:
    """A found face: its middle on the surface and its radius in the mesh's unit, the unit vector towards who looks
    at it, how many views agree, and how sure that is, 0 to 1.
    """

    middle: tuple[float, float, float]
    radius: float
    toward: tuple[float, float, float]
    views: int
    sure: float


_LOOKING = Lock()
"""A cascade looks at one picture at a time."""


@cache
def _cascades(core: int) -> tuple[cv2.CascadeClassifier, ...]:
    """Those with which one core looks."""
    cv2.setNumThreads(1)  # a picture is too small to be shared out
    home = Path(cv2.__file__).parent / "data"
    cascades = tuple(cv2.CascadeClassifier(str(home / name)) for name in CASCADES)
    for name, cascade in zip(CASCADES, cascades, strict=True):
        if cascade.empty():  # the library says nothing of a file that is not there
            raise CoreError("no-cascade", f"{name} is not where its package puts it.", str(home), "Install again.")
    return cascades


def find_faces(mesh: Mesh, up: Sequence[float]) -> list[Face]:
    """Faces of a figure that stands with `up` (3,) upwards, the surest first. `mesh` may be a thinned copy."""
    u = np.array(up, float)
    u /= np.linalg.norm(u)
    whole = hull_corners(mesh)
    shown = [whole, *(uppermost(mesh.vertices, u, top) for top in TOPS)]

    def seen_from(sides: Sequence[int]) -> _Seen:
        places = [(k, part, e) for part in shown for e in ELEVATIONS_DEG for k in sides]
        views = [view_from(part, whole, u, 360.0 * k / AZIMUTHS, e, pixels=PIXELS) for k, part, e in places]
        return _Seen(mesh, [k for k, _, _ in places], views, *rendered(mesh, views, PIXELS))

    # A face is found from several neighbouring sides and by both cascades: where the first of them sees none from every
    # other side, the second is not asked, nor are the sides between, but for those beside one that shows one.
    every_other = seen_from(range(0, AZIMUTHS, 2))
    hits = every_other.hits(0)
    if hits:
        hits += every_other.hits(1)
        between = seen_from(sorted({(k + by) % AZIMUTHS for k, _ in hits for by in (-1, 1)}))
        hits += between.hits(0) + between.hits(1)
    return _agreed(np.array([hit for _, hit in hits]).reshape(-1, 7))


@dataclass(frozen=True)
class _Seen:
    """Views of a mesh, the side that each is from, their pictures, and the face in each pixel."""

    mesh: Mesh
    sides: list[int]
    views: list[View]
    grey: U1
    face: NDArray[np.int32]

    def hits(self, which: int) -> list[tuple[int, tuple[float, ...]]]:
        """What one of the cascades finds in them, with the side, in their order."""

        def look(core: int) -> list[tuple[int, tuple[float, ...]]]:
            cascade = _cascades(core)[which]
            return [(k, hit) for k in range(core, len(self.views), CORES) for hit in self._hits(k, cascade)]

        with _LOOKING:
            found = itertools.chain(*both_cores(look, [(core,) for core in range(CORES)]))
        return [(self.sides[k], hit) for k, hit in sorted(found, key=lambda one: one[0])]

    def _hits(self, k: int, cascade: cv2.CascadeClassifier) -> list[tuple[float, ...]]:
        """Place, radius and the eye's direction of what a cascade finds in a view."""
        hits, view = [], self.views[k]
        for x, y, wide, tall in cascade.detectMultiScale(self.grey[k], FINER, 4, minSize=(SMALLEST, SMALLEST)):
            inner = self.face[k, y + tall // 4 : y + tall - tall // 4, x + wide // 4 : x + wide - wide // 4]
            on = inner[inner >= 0]
            if len(on) > 0.8 * inner.size:
                middle = np.median(self.mesh.vertices[self.mesh.faces[on, 0]], axis=0)
                hits.append((*middle, 0.5 * wide * view.step, *view.toward))
        return hits


def _agreed(hits: F8) -> list[Face]:
    """Places on which views agree. `hits` (n, 7): middle, radius, towards the eye."""
    if not len(hits):
        return []
    middle, radius, toward = hits[:, :3], hits[:, 3], hits[:, 4:]
    between = np.linalg.norm(middle[:, None] - middle[None], axis=2)
    alike = np.maximum(radius[:, None], radius[None])
    near = (between < APART * alike) & (toward @ toward.T > TURN_COS) & (radius[:, None] > 0.5 * alike)
    near &= near.T
    count, of = connected_components(near, directed=False)
    faces = []
    for label in range(count):
        members = np.flatnonzero(of == label)
        # Two cascades that look through one window are one witness.
        views = len(np.unique(np.round(toward[members], 3), axis=0))
        if views < AGREE:
            continue
        x, y, z = np.median(middle[members], axis=0)
        ahead = toward[members].mean(axis=0)
        a, b, c = ahead / np.linalg.norm(ahead)
        sure = float(min(1.0, views / SURE_AT))
        size = float(np.median(radius[members]))
        faces.append(Face((float(x), float(y), float(z)), size, (float(a), float(b), float(c)), views, sure))
    return sorted(faces, key=lambda face: -face.views)


def front_by(faces: Sequence[Face], up: Sequence[float]) -> tuple[float, float, float] | None:
    """Where the surest face looks, across `up`; None without one."""
    if not faces:
        return None
    u, toward = np.array(up, float), np.array(faces[0].toward)
    level = toward - u * float(toward @ u)
    long = float(np.linalg.norm(level))
    if long < 1e-6:
        return None
    x, y, z = level / long
    return float(x), float(y), float(z)
