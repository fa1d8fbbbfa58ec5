"""Lost detail: what is thinner than a line or a pixel across a layer, or than a layer upright, and so is not drawn as
it was sculpted.

A layer can draw what a disc of the line's width reaches (an opening); a place of the surface is lost where the solid
straight in from it, level or upright, is thinner than that. Two rays a face say how thick, once for all nozzles and
heights.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import both_cores, njit, stretches
from ..machines import Printer
from ..mesh import Mesh, rays_of
from ..mesh.embree import ray_room, shoot_one

F8 = NDArray[np.float64]
F4 = NDArray[np.float32]
INTO_MM = 1e-4
"""Rays begin so far inside."""
LEVEL = 0.2
"""A face that leans less than this from the level has no way into the solid across a layer, and one this steep none
upright.
"""
MOST_MM = 5.0
"""Nothing thicker is told apart."""
MOST_WALLS = 16


@njit()
def _thick(scene: int, ray: F4, normals: F8, x: float, y: float, z: float, u: float, v: float, w: float) -> float:
    """How far a ray that begins inside goes through the solid; walls of other shells that it enters on its way do not
    end it.
    """
    far, depth = 0.0, 1
    words = ray.view(np.int32)
    for _ in range(MOST_WALLS):
        step = shoot_one(scene, ray, x + far * u, y + far * v, z + far * w, u, v, w)
        far += step
        if far >= MOST_MM:
            return MOST_MM
        hit = words[17]
        depth += -1 if normals[hit, 0] * u + normals[hit, 1] * v + normals[hit, 2] * w > 0 else 1
        if depth <= 0:
            return far
        far += INTO_MM
    return far


@njit()
def _through(scene: int, middles: F8, normals: F8, first: int, last: int, across: F4, upright: F4) -> None:
    ray = ray_room()
    for f in range(first, last):
        nx, ny, nz = normals[f, 0], normals[f, 1], normals[f, 2]
        x, y, z = middles[f, 0] - nx * INTO_MM, middles[f, 1] - ny * INTO_MM, middles[f, 2] - nz * INTO_MM
        across[f] = upright[f] = MOST_MM
        level = np.sqrt(nx * nx + ny * ny)
        if level > LEVEL:
            across[f] = _thick(scene, ray, normals, x, y, z, -nx / level, -ny / level, 0.0)
        if abs(nz) > LEVEL:
            upright[f] = _thick(scene, ray, normals, x, y, z, 0.0, 0.0, -1.0 if nz > 0 else 1.0)


@dataclass(frozen=True)
class Detail:
    """Of every face (m,): how thick the solid is straight in from it across its layer and upright, mm, MOST_MM at most;
    and what it weighs (area by mark).
    """

    across: F4
    upright: F4
    weight: F8

    def lost(self, line_mm: float, height: float) -> float:
        """Share of the weighed surface that lines so wide and layers so high do not draw as it is."""
        total = float(self.weight.sum())
        gone = (self.across < line_mm) | (self.upright < height)
        return float(self.weight[gone].sum()) / total if total > 0 else 0.0


def detail_of(figure: Mesh, weights: F8 | None = None) -> Detail:
    """Of a figure in build coordinates. Two rays a face, compiled: O(faces log faces)."""
    many = len(figure.faces)
    across, upright = np.empty(many, np.float32), np.empty(many, np.float32)
    scene, middles = rays_of(figure).address, figure.middles()
    normals, area = figure.normals_and_areas()
    both_cores(lambda a, b: _through(scene, middles, normals, a, b, across, upright), stretches(many) or [(0, 0)])
    return Detail(across, upright, area if weights is None else area * weights)


def draws_mm(printer: Printer) -> float:
    """The narrowest that a machine draws across a layer: its line, or its screen's pixel."""
    return printer.draws_mm
