"""Where a figure faces: by the face that is found on it, by its head where it is long, by what people look at."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..look import Face, front_by, saliency
from ..look.views import frame
from ..marks import Plane, mirror_plane
from ..mesh import Mesh
from .directions import Direction, rotation_to_plate, unit

F8 = NDArray[np.float64]
LONG = 1.25
"""Prior: what is so many times as long as wide is a beast, and faces along its length."""
HEADS = ((0.25, 0.12), (0.5, 0.05))
"""Priors: the head is in the uppermost share of the height, and at least so far ahead of the middle, in halves of the
length; where wings or a rider are uppermost, in the upper half.
"""
ALONG_MIRROR_COS = 0.85
"""Prior: a face that looks nearly along the mirror plane looks along it."""
MORE = 0.03
"""Prior: a side that shows less more than the other is no front."""


def front_of(
    mesh: Mesh,
    up: Direction,
    mirror: Plane | None = None,
    faces: Sequence[Face] = (),
    salient: F8 | None = None,
) -> Direction:
    """The unit vector across `up` in which a figure looks; the file's custom where nothing speaks for any.

    A found face decides. Else it looks along its mirror plane; without one along its length, or across its width where
    it is about as deep as wide: a beast to where its head is, anything else to the side with more to be seen.
    `salient` (faces,): where it is at hand. Custom: -y where z is up; else what is turned there by the shortest turn.
    """
    u = np.array(up)
    usual = rotation_to_plate(-u).T @ np.array([0.0, -1.0, 0.0])
    seen = front_by(faces, up)
    plane = mirror_plane(mesh) if mirror is None else mirror
    if seen is not None:
        along = np.zeros(3) if plane is None else np.cross(u, plane.normal)
        with_it = float(along @ np.array(seen))
        return unit(np.sign(with_it) * along if abs(with_it) > ALONG_MIRROR_COS else seen)
    ahead, long = _axis(mesh, u, plane)
    heads = [(_head(mesh, u, ahead, top), least) for top, least in HEADS] if long else []
    head = next((far for far, least in heads if abs(far) >= least), 0.0)
    if not head:
        head = _shows(mesh, u, ahead, saliency(mesh) if salient is None else salient)
    if head:
        return unit(ahead if head > 0 else -ahead)
    if plane is None:
        return unit(usual)
    return unit(ahead if float(ahead @ usual) >= 0 else -ahead)


def _axis(mesh: Mesh, up: F8, plane: Plane | None) -> tuple[F8, bool]:
    """The line along which it looks, and whether it is long that way."""
    axes = frame(up)[:2]
    _, area = mesh.normals_and_areas()
    flat = mesh.middles() @ axes.T
    flat = flat - (flat * area[:, None]).sum(axis=0) / max(float(area.sum()), 1e-12)
    _, ways = np.linalg.eigh((flat.T * area) @ flat)
    ahead = ways[:, 1] @ axes
    if plane is not None:
        across = np.cross(up, plane.normal)
        if np.linalg.norm(across) > 0.7:
            ahead = across / np.linalg.norm(across)
            return ahead, _is_long(mesh, up, ahead) or _is_lengthy(mesh, up, ahead)
    # Arms that are spread make a standing figure wider than deep; a beast is longer than it is tall.
    long = _is_long(mesh, up, ahead) and _is_lengthy(mesh, up, ahead)
    return (ahead, True) if long else (ways[:, 0] @ axes, False)


def _is_long(mesh: Mesh, up: F8, ahead: F8) -> bool:
    return bool(np.ptp(mesh.vertices @ ahead) >= LONG * np.ptp(mesh.vertices @ np.cross(up, ahead)))


def _is_lengthy(mesh: Mesh, up: F8, ahead: F8) -> bool:
    return bool(np.ptp(mesh.vertices @ ahead) > np.ptp(mesh.vertices @ up))


def _head(mesh: Mesh, up: F8, ahead: F8, top: float) -> float:
    """How far the uppermost share `top` of the height lies ahead of the middle, in halves of the length."""
    _, area = mesh.normals_and_areas()
    along, heights = mesh.middles() @ ahead, mesh.middles() @ up
    upper = area * (heights > heights.max() - top * np.ptp(heights))
    middle = float((along * area).sum()) / max(float(area.sum()), 1e-12)
    half = max(float(np.ptp(along)) / 2, 1e-12)
    return float((upper * (along - middle)).sum()) / max(float(upper.sum()), 1e-12) / half


def _shows(mesh: Mesh, up: F8, ahead: F8, salient: F8) -> float:
    """By how much more there is to be seen on the side that looks ahead than on the other, -1 to 1; 0 for little."""
    normals, area = mesh.normals_and_areas()
    level = area * salient * (1 - np.abs(normals @ up))
    facing = normals @ ahead
    one, other = (float((level * np.clip(side * facing, 0, None)).sum()) for side in (1, -1))
    more = (one - other) / max(one + other, 1e-12)
    return more if abs(more) > MORE else 0.0
