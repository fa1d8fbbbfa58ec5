"""Places of a figure as letters on its picture."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from ..mesh import Mesh, picture, rays_of
from ..mesh.picture import axes_of, pixels_of

F8 = NDArray[np.float64]
SIZE = (400, 460)
SIDES = (-60.0, 120.0)
OFF_MM = 0.25
"""A ray to whoever looks starts so far off the surface."""
RADIUS = 11
INK, PAPER = (33, 41, 60, 255), (250, 247, 240, 235)
LETTERS = "ABCDEFGHIJKL"


def in_sight(mesh: Mesh, points: F8, elevation: float) -> NDArray[np.bool_]:
    """Which points (n, 3) on a figure are seen from which of SIDES (n, sides)."""
    seen = np.zeros((len(points), len(SIDES)), np.bool_)
    for k, azimuth in enumerate(SIDES):
        _, _, toward = axes_of(azimuth, elevation)
        _, face = rays_of(mesh).first(points + OFF_MM * toward, toward)
        seen[:, k] = face < 0
    return seen


def lettered(
    mesh: Mesh, points: F8, elevation: float, *, groups: F8 | None = None, seen: NDArray[np.bool_] | None = None
) -> list[bytes]:
    """A picture (PNG) from each of SIDES, with a letter at every point (n, 3) that is seen from there."""
    seen = in_sight(mesh, points, elevation) if seen is None else seen
    made = []
    for k, azimuth in enumerate(SIDES):
        plain = picture(mesh, SIZE, azimuth, elevation, groups=groups)
        at = pixels_of(points, mesh.vertices, SIZE, azimuth, elevation)
        made.append(_with_letters(plain, at, seen[:, k]))
    return made


def _with_letters(plain: bytes, at: F8, shown: NDArray[np.bool_]) -> bytes:
    image = Image.open(io.BytesIO(plain)).convert("RGBA")
    draw, font = ImageDraw.Draw(image), ImageFont.load_default(size=15)
    stand: list[tuple[float, float]] = []
    for i in np.flatnonzero(shown):
        x, y = (float(v) for v in at[i])
        # The letter stands beside its place, towards the middle, and a line leads there.
        way = -1.0 if x > SIZE[0] / 2 else 1.0
        u, v = x + way * 2.2 * RADIUS, float(np.clip(y + 1.4 * RADIUS, RADIUS, SIZE[1] - RADIUS - 1))
        while any(np.hypot(u - a, v - b) < 2.1 * RADIUS for a, b in stand):
            v -= RADIUS
        stand.append((u, v))
        draw.line([(x, y), (u, v)], fill=INK, width=1)
        draw.ellipse([x - 2, y - 2, x + 2, y + 2], fill=INK)
        draw.ellipse([u - RADIUS, v - RADIUS, u + RADIUS, v + RADIUS], fill=PAPER, outline=INK)
        draw.text((u, v), LETTERS[i], fill=INK, font=font, anchor="mm")
    out = io.BytesIO()
    image.save(out, "PNG", optimize=True)
    return out.getvalue()
