"""Where tips can push against a posed figure from below."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..layers import Proof
from ..machines import Context
from ..mesh import Mesh, rays_of
from .inside import INSIDE_WEIGHT
from .touch import bare_below, touched

F8 = NDArray[np.float64]
BARRED = 20.0
"""Scar cost from which on no tip may stand on a face: fits and keep-outs."""
REACHED_FROM_BELOW = 0.15
"""A face leans down by at least this share before a tip can push against it."""
INTO_MM = 0.02
APART_MM = 0.9
"""Prior: tips that share a load stand at least so far apart, so that a cutter gets between."""


@dataclass(frozen=True)
class Reachable:
    """Points (n, 3) of a posed figure that a tip can push against from below, what a scar costs there (n,), and the
    component that each lies on (n,), and how thick the figure is there straight up, mm (n,).
    """

    spots: F8
    cost: F8
    on: NDArray[np.int32]
    thick: F8


def spread_on(mesh: Mesh, faces: NDArray[np.int64], wanted: F8) -> tuple[F8, NDArray[np.int64]]:
    """Points on faces (m,), about as many as `wanted` (m,) and at least the middle of each: stratified and barycentric;
    and which face each lies on.
    """
    times = np.clip(np.ceil(wanted), 1, 2000).astype(int)
    index = np.repeat(np.arange(len(faces)), times)
    k = np.arange(len(index)) - np.repeat(np.cumsum(times) - times, times)
    u, v = (k + 0.5) / times[index], (k * 0.6180339887498949 + 0.5) % 1.0
    root = np.sqrt(u)
    shares = np.stack([1 - root, root * (1 - v), root * v], axis=1)
    shares[times[index] == 1] = 1 / 3
    return np.einsum("ij,ijk->ik", shares, mesh.vertices[mesh.faces[faces[index]]]), index


def reachable(mesh: Mesh, proof: Proof, context: Context) -> Reachable:
    """Where tips can push against a figure: on faces that look down, with nothing below them, and where something may
    be scarred at all.
    """
    normal, area = mesh.normals_and_areas()
    cost = np.ones(len(mesh.faces)) if context.weights is None else context.weights
    # What starts in a cavity may be held in there by as many as it wants, after all others.
    may = (cost < BARRED) | (cost >= INSIDE_WEIGHT)
    faces = np.flatnonzero((normal[:, 2] < -REACHED_FROM_BELOW) & may & (area > 0))
    spots, index = spread_on(mesh, faces, area[faces] / APART_MM**2)
    clear = (spots[:, 2] > 2 * context.height) & bare_below(proof, spots)
    spots, cost = spots[clear], cost[faces][index[clear]]
    on = touched(proof, spots)
    spots, cost, on = spots[on >= 0], cost[on >= 0], on[on >= 0]
    thick, _ = rays_of(mesh).first(spots + [0.0, 0.0, INTO_MM], np.array([0.0, 0.0, 1.0]))
    return Reachable(spots, cost, on, thick + INTO_MM)
