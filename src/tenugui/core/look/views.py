"""Shaded views of a mesh as a camera would take them, by the core's own rays: what a face is looked for in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import both_cores, njit, stretches
from ..mesh import Mesh, corners_of, rays_of
from ..mesh.embree import NO_FACE, ray_room, shoot_one

F4 = NDArray[np.float32]
F8 = NDArray[np.float64]
GROUND = 235
"""The grey of what is behind the figure: light, as behind a portrait."""
MARGIN = 1.15
LAMP = (0.2, 0.65, 0.7)
"""From the right, from above, from the camera: eyes lie in shadow under a light from above."""


@dataclass(frozen=True)
class View:
    """A parallel view: unit vectors from the figure to the eye, to the right and upwards in the picture; its middle
    (3,) on the plane through the eye, and mm a pixel.
    """

    toward: F8
    right: F8
    upward: F8
    origin: F8
    step: float


def frame(up: F8) -> F8:
    """Rows: two directions across `up`, and `up` itself; the file's axes where z is up."""
    side = np.array([1.0, 0, 0]) if abs(up[0]) < 0.9 else np.array([0, 1.0, 0])
    side = side - up * float(side @ up)
    side /= np.linalg.norm(side)
    return np.stack([side, np.cross(up, side), up])


def uppermost(points: F8, up: F8, top: float) -> F8:
    """The hull's corners (k, 3) of what lies in the uppermost share `top` of points (n, 3): they fill a view."""
    heights = points @ up
    return corners_of(points[heights >= heights.max() - top * np.ptp(heights)])


def view_from(shown: F8, whole: F8, up: F8, azimuth_deg: float, elevation_deg: float, *, pixels: int) -> View:
    """The view around `up` that is filled by points (n, 3), from beyond all of a figure's (m, 3)."""
    axes, a, e = frame(up), np.radians(azimuth_deg), np.radians(elevation_deg)
    level = np.cos(a) * axes[0] + np.sin(a) * axes[1]
    toward = np.cos(e) * level + np.sin(e) * up
    right = np.cos(a) * axes[1] - np.sin(a) * axes[0]
    upward = np.cross(toward, right)
    flat = shown @ np.stack([right, upward], axis=1)
    low, high = flat.min(axis=0), flat.max(axis=0)
    x, y = (low + high) / 2
    far = float((whole @ toward).max()) + 1.0
    return View(
        toward, right, upward, x * right + y * upward + far * toward, MARGIN * float((high - low).max()) / pixels
    )


def corner_normals(mesh: Mesh) -> F4:
    """Unit normals (n, 3) of the corners, as the faces around them weigh."""
    normals, area = mesh.normals_and_areas()
    weighted = normals * area[:, None]
    corners = np.stack(
        [
            sum(np.bincount(mesh.faces[:, k], weighted[:, axis], minlength=len(mesh.vertices)) for k in range(3))
            for axis in range(3)
        ],
        axis=1,
    )
    return np.asarray(corners / np.maximum(np.linalg.norm(corners, axis=1, keepdims=True), 1e-12), np.float32)


def rendered(mesh: Mesh, views: Sequence[View], pixels: int) -> tuple[NDArray[np.uint8], NDArray[np.int32]]:
    """Pictures (views, pixels, pixels) in grey, and the face seen in each pixel, -1 for none."""
    scene, normals = rays_of(mesh), corner_normals(mesh)
    grey = np.empty((len(views), pixels, pixels), np.uint8)
    face = np.empty((len(views), pixels, pixels), np.int32)
    cameras = np.array(
        [np.concatenate([v.origin, v.toward, v.right, v.upward, [v.step]]) for v in views], np.float32
    ).reshape(-1, 13)
    both_cores(
        lambda a, b: _render(scene.address, mesh.faces, normals, cameras[a:b], grey[a:b], face[a:b]),
        stretches(len(views)),
    )
    return grey, face


@njit()
def _render(
    scene: int, faces: NDArray[np.int32], normals: F4, cameras: F4, grey: NDArray[np.uint8], face: NDArray[np.int32]
) -> None:
    ray = ray_room()
    words = ray.view(np.uint32)
    pixels = grey.shape[1]
    for k in range(len(cameras)):
        c = cameras[k]
        lx = LAMP[0] * c[6] + LAMP[1] * c[9] + LAMP[2] * c[3]
        ly = LAMP[0] * c[7] + LAMP[1] * c[10] + LAMP[2] * c[4]
        lz = LAMP[0] * c[8] + LAMP[1] * c[11] + LAMP[2] * c[5]
        long = np.sqrt(lx * lx + ly * ly + lz * lz)
        lx, ly, lz = lx / long, ly / long, lz / long
        for row in range(pixels):
            y = ((pixels - 1) / 2 - row) * c[12]
            for column in range(pixels):
                x = (column - (pixels - 1) / 2) * c[12]
                shoot_one(
                    scene,
                    ray,
                    c[0] + x * c[6] + y * c[9],
                    c[1] + x * c[7] + y * c[10],
                    c[2] + x * c[8] + y * c[11],
                    -c[3],
                    -c[4],
                    -c[5],
                )
                if words[17] == NO_FACE:
                    grey[k, row, column], face[k, row, column] = GROUND, -1
                    continue
                f = np.int32(words[17])
                u, v = ray[15], ray[16]
                a, b, d = normals[faces[f, 0]], normals[faces[f, 1]], normals[faces[f, 2]]
                w = 1 - u - v
                nx = w * a[0] + u * b[0] + v * d[0]
                ny = w * a[1] + u * b[1] + v * d[1]
                nz = w * a[2] + u * b[2] + v * d[2]
                n = max(np.sqrt(nx * nx + ny * ny + nz * nz), 1e-9)
                lit = max(0.0, (nx * lx + ny * ly + nz * lz) / n)
                facing = max(0.0, (nx * c[3] + ny * c[4] + nz * c[5]) / n)
                grey[k, row, column] = np.uint8(255 * min(1.0, 0.12 + 0.78 * lit + 0.1 * facing))
                face[k, row, column] = f
