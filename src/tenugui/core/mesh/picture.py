"""A small shaded picture of a mesh, by rays: for boards, run sheets and lists. No window system, no graphics card."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from .mesh import F8, Mesh
from .rays import rays_of

INDIGO_SHADE = np.array([58.0, 66.0, 86.0])
COTTON_LIGHT = np.array([214.0, 209.0, 198.0])
TINTS = np.array([[0.0, 0.0, 0.0], [120.0, 150.0, 189.0], [196.0, 92.0, 44.0]])
TINTED = np.array([0.0, 0.55, 0.7])
"""Of each group of faces, and how much of it shows."""


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
    rays = rays_of(mesh)
    right, up, toward = axes_of(azimuth, elevation)
    flat = (mesh.vertices if frame is None else frame) @ np.stack([right, up, toward], axis=1)
    fine = 2  # each pixel is the mean of 2 x 2 rays
    wide, tall = size[0] * fine, size[1] * fine
    middle, step, far = _fit(flat, (wide, tall))
    u = (np.arange(wide) - (wide - 1) / 2) * step + middle[0]
    v = ((tall - 1) / 2 - np.arange(tall)) * step + middle[1]
    grid = np.stack(np.meshgrid(u, v), axis=-1).reshape(-1, 2)
    origins = grid[:, :1] * right + grid[:, 1:] * up + (far + 1.0) * toward
    _, face = rays.first(origins, -toward)
    normal, _ = mesh.normals_and_areas()
    hit = face >= 0
    n = normal[np.where(hit, face, 0)]
    lamp = toward * 0.55 + right * -0.45 + up * 0.7
    lamp /= np.linalg.norm(lamp)
    shade = np.clip(0.18 + 0.55 * np.clip(n @ lamp, 0, 1) + 0.27 * np.clip(n @ toward, 0, 1), 0, 1)[:, None]
    colour = INDIGO_SHADE + shade * (COTTON_LIGHT - INDIGO_SHADE)
    if groups is not None:
        group = groups[np.where(hit, face, 0)].astype(int)
        shows = TINTED[group][:, None]
        colour = colour * (1 - shows) + TINTS[group] * shows
    image = np.concatenate([colour, hit[:, None] * 255.0], axis=1).reshape(tall, wide, 4)
    alpha = image[..., 3:] / 255
    folded = (
        (image * np.concatenate([alpha.repeat(3, axis=2), np.ones_like(alpha)], axis=2))
        .reshape(size[1], fine, size[0], fine, 4)
        .mean(axis=(1, 3))
    )
    cover = folded[..., 3:] / 255
    folded[..., :3] /= np.where(cover > 0, cover, 1)
    out = io.BytesIO()
    Image.fromarray(np.round(folded).astype(np.uint8)).save(out, "PNG", optimize=True)
    return out.getvalue()


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
