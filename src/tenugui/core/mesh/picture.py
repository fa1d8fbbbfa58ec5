"""A small shaded picture of a mesh, by rays: for boards, run sheets and lists. No window system, no graphics card."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ..compiled import both_cores, njit, stretches
from .embree import NO_FACE, ray_room, shoot_one
from .mesh import F8, Mesh
from .rays import rays_of

INDIGO_SHADE = np.array([58.0, 66.0, 86.0])
COTTON_LIGHT = np.array([214.0, 209.0, 198.0])
TINTS = np.array([[0.0, 0.0, 0.0], [120.0, 150.0, 189.0], [196.0, 92.0, 44.0]])
TINTED = np.array([0.0, 0.55, 0.7])
"""Of each group of faces, and how much of it shows."""
FINE = 2
"""Each pixel is the mean of so many rays squared."""


def picture(
    mesh: Mesh,
    size: tuple[int, int] = (160, 200),
    azimuth: float = -60.0,
    elevation: float = 14.0,
    *,
    groups: F8 | None = None,
    frame: F8 | None = None,
) -> bytes:
    """PNG with a transparent ground: the mesh seen from (`azimuth`, `elevation`) degrees, parallel, filling the frame.

    `groups` (faces,) tints faces of group 1 (supports) lighter and those of group 2 (what differs) warm; `frame`:
    points (n, 3) that fill the frame in place of the mesh, so that two pictures are to one scale.
    """
    right, up, toward = axes_of(azimuth, elevation)
    flat = (mesh.vertices if frame is None else frame) @ np.stack([right, up, toward], axis=1)
    middle, step, far = _fit(flat, (size[0] * FINE, size[1] * FINE))
    corner = middle[0] * right + middle[1] * up + (far + 1.0) * toward
    lamp = toward * 0.55 + right * -0.45 + up * 0.7
    lamp /= np.linalg.norm(lamp)
    camera = np.stack([corner, right * step, up * step, toward, lamp])
    normal, _ = mesh.normals_and_areas()
    tint = np.zeros(0, np.int64) if groups is None else groups.astype(np.int64)
    pixels = np.empty((size[1], size[0], 4), np.uint8)
    scene = rays_of(mesh)
    both_cores(lambda a, b: _draw(scene.address, normal, tint, camera, a, b, pixels), stretches(size[1]))
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()


@njit()
def _draw(
    scene: int,
    normal: F8,
    tint: NDArray[np.int64],
    camera: F8,
    first: int,
    last: int,
    pixels: NDArray[np.uint8],
) -> None:
    """Rows [first, last) of `pixels` (tall, wide, 4); the eye's middle, a ray's step to the right and up, the way to
    the eye and to the lamp as `camera` (5, 3).
    """
    ray = ray_room()
    words = ray.view(np.uint32)
    tall, wide = pixels.shape[0], pixels.shape[1]
    middle, right, up, toward, lamp = camera[0], camera[1], camera[2], camera[3], camera[4]
    colour = np.empty(3)
    for row in range(first, last):
        for column in range(wide):
            colour[:] = 0.0
            hits = 0
            for k in range(FINE * FINE):
                u = column * FINE + k % FINE - (wide * FINE - 1) / 2
                v = (tall * FINE - 1) / 2 - (row * FINE + k // FINE)
                o = middle + u * right + v * up
                shoot_one(scene, ray, o[0], o[1], o[2], -toward[0], -toward[1], -toward[2])
                if words[17] == NO_FACE:
                    continue
                f = np.int64(words[17])
                n = normal[f]
                lit = max(0.0, min(1.0, n[0] * lamp[0] + n[1] * lamp[1] + n[2] * lamp[2]))
                facing = max(0.0, min(1.0, n[0] * toward[0] + n[1] * toward[1] + n[2] * toward[2]))
                shade = min(1.0, 0.18 + 0.55 * lit + 0.27 * facing)
                group = tint[f] if len(tint) else 0
                hits += 1
                for c in range(3):
                    bare = INDIGO_SHADE[c] + shade * (COTTON_LIGHT[c] - INDIGO_SHADE[c])
                    colour[c] += bare * (1 - TINTED[group]) + TINTS[group, c] * TINTED[group]
            for c in range(3):
                pixels[row, column, c] = np.uint8(np.round(colour[c] / max(hits, 1)))
            pixels[row, column, 3] = np.uint8(np.round(255.0 * hits / (FINE * FINE)))


def axes_of(azimuth: float, elevation: float) -> tuple[F8, F8, F8]:
    """Unit vectors (3,) to the right, up and towards whoever looks from (`azimuth`, `elevation`) degrees."""
    az, el = np.radians(azimuth), np.radians(elevation)
    toward = np.array([np.cos(el) * np.cos(az), np.cos(el) * np.sin(az), np.sin(el)])
    right = np.array([-np.sin(az), np.cos(az), 0.0])
    return right, np.cross(toward, right), toward


def _fit(flat: F8, size: tuple[int, int]) -> tuple[F8, float, float]:
    """Middle (2,), mm a pixel, and what lies nearest, of points (n, 3) seen along their last axis that fill a frame."""
    low, high = flat.min(axis=0), flat.max(axis=0)
    step = 1.04 * max((high - low)[0] / size[0], (high - low)[1] / size[1])
    return (low + high)[:2] / 2, float(step), float(high[2])


def pixels_of(points: F8, frame: F8, size: tuple[int, int], azimuth: float, elevation: float) -> F8:
    """Where points (n, 3) lie on a `picture` (n, 2), from its left upper corner, that these `frame` points fill.

    >>> corners = np.array([[0.0, 0, 0], [10, 0, 0], [0, 0, 10], [10, 0, 10]])
    >>> pixels_of(np.array([[5.0, 0, 5]]), corners, (100, 100), -90.0, 0.0).tolist()
    [[50.0, 50.0]]
    """
    turn = np.stack(axes_of(azimuth, elevation), axis=1)
    middle, step, _ = _fit(frame @ turn, size)
    across = (points @ turn)[:, :2] - middle
    return np.asarray(np.array(size) / 2 + across * [1, -1] / step)
