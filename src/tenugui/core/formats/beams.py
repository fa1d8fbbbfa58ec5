"""Supports as beams: 3MF's published lattice extension keeps a strut as two points and two radii, where a mesh keeps it
as some forty triangles.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import lib3mf
import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
SIDES = 10
SHORTEST_MM = 1e-3


@dataclass(frozen=True)
class Beams:
    """Points (n, 3) in mm, pairs of them (b, 2), and the radii (b, 2) of each beam at its ends."""

    points: F8
    pairs: I8
    radii: F8


def add_beams(model: Any, name: str, beams: Beams) -> Any:
    """Give a model an object of beams; returns it."""
    thing = model.AddMeshObject()
    thing.SetName(name)
    for point in beams.points:
        thing.AddVertex(lib3mf.Position((float(point[0]), float(point[1]), float(point[2]))))
    lattice = thing.BeamLattice()
    lattice.SetMinLength(SHORTEST_MM)
    ends = lib3mf.BeamLatticeCapMode.Sphere
    for (a, b), (r, s) in zip(beams.pairs.tolist(), beams.radii.tolist(), strict=True):
        beam = lib3mf.Beam()
        beam.Indices[0], beam.Indices[1] = a, b
        beam.Radii[0], beam.Radii[1] = r, s
        beam.CapModes[0] = beam.CapModes[1] = int(ends)
        lattice.AddBeam(beam)
    return thing


def beams_in(body: Any, vertices: F8, many: int) -> Beams | None:
    """The beams of a mesh object, None where it has none; `many`: no more than that are looked at.

    Raises:
        ValueError: more than `many`.
    """
    lattice = body.BeamLattice()
    count = lattice.GetBeamCount()
    if not count:
        return None
    if count > many:
        raise ValueError(f"{count:,} beams; the limit is {many:,}")
    beams = [lattice.GetBeam(k) for k in range(count)]
    pairs = np.array([list(b.Indices) for b in beams], np.int64)
    return Beams(vertices, pairs, np.array([list(b.Radii) for b in beams], float))


def rods(beams: Beams) -> Mesh:
    """Beams as closed rods of SIDES sides."""
    a, b = beams.points[beams.pairs[:, 0]], beams.points[beams.pairs[:, 1]]
    way = b - a
    long = np.linalg.norm(way, axis=1)
    kept = long > SHORTEST_MM
    a, b, way, radii = a[kept], b[kept], way[kept] / long[kept, None], beams.radii[kept]
    other = np.where(np.abs(way[:, 2:]) < 0.9, [[0.0, 0.0, 1.0]], [[1.0, 0.0, 0.0]])
    u = np.cross(other, way)
    u /= np.linalg.norm(u, axis=1)[:, None]
    v = np.cross(way, u)
    turn = np.arange(SIDES) * 2 * np.pi / SIDES
    ring = u[:, None] * np.cos(turn)[:, None] + v[:, None] * np.sin(turn)[:, None]
    vertices = np.concatenate(
        [a[:, None] + radii[:, :1, None] * ring, b[:, None] + radii[:, 1:, None] * ring, a[:, None], b[:, None]], axis=1
    )
    i, j = np.arange(SIDES), (np.arange(SIDES) + 1) % SIDES
    low, high = np.full(SIDES, 2 * SIDES), np.full(SIDES, 2 * SIDES + 1)
    faces = np.concatenate(
        [
            np.column_stack([i, j, SIDES + j]),
            np.column_stack([i, SIDES + j, SIDES + i]),
            np.column_stack([j, i, low]),
            np.column_stack([SIDES + i, SIDES + j, high]),
        ]
    )
    each = 2 * SIDES + 2
    every = faces[None] + (np.arange(len(a)) * each)[:, None, None]
    return Mesh(vertices.reshape(-1, 3), every.reshape(-1, 3).astype(np.int32))
