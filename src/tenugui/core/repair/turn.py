"""Make neighbouring faces run the same way round, and closed shells face outwards."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..mesh import Mesh, rays_of
from ..mesh.edges import face_volumes, neighbours
from ..mesh.mesh import I4


@njit()
def _flood(neighbour: NDArray[np.int64], same: NDArray[np.bool_], sheet: I4, flip: NDArray[np.bool_]) -> int:
    """Walk over edges with exactly two faces; label sheets, and mark faces that run against the first of their sheet."""
    n = len(sheet)
    stack = np.empty(n, np.int64)
    count = 0
    for seed in range(n):
        if sheet[seed] >= 0:
            continue
        sheet[seed] = count
        stack[0] = seed
        top = 1
        while top:
            top -= 1
            f = stack[top]
            for e in range(3):
                g = neighbour[f, e]
                if g >= 0 and sheet[g] < 0:
                    sheet[g] = count
                    flip[g] = flip[f] != same[f, e]
                    stack[top] = g
                    top += 1
        count += 1
    return count


def _depth(mesh: Mesh, faces: NDArray[np.int64]) -> NDArray[np.int64]:
    """Parity of crossings on the way from each of `faces` to the outside, not counting the face itself: 0 for an outermost one."""
    direction = np.array([0.3713906, 0.5570860, 0.7427813])
    normal, _ = mesh.normals_and_areas()
    start = mesh.corners()[faces].mean(axis=1)
    start = start + np.sign(normal[faces] @ direction)[:, None] * normal[faces] * 1e-5 * float(mesh.size.max())
    crossings = np.zeros(len(faces), np.int64)
    live = np.arange(len(faces))
    rays = rays_of(mesh)
    for _ in range(200):
        distance, hit = rays.first(start[live], direction)
        going = hit >= 0
        crossings[live[going]] += 1
        start[live[going]] += direction * (distance[going, None] + 1e-5 * float(mesh.size.max()))
        live = live[going]
        if not len(live):
            break
    return crossings % 2


def turn(mesh: Mesh) -> tuple[Mesh, NDArray[np.bool_]]:
    """The mesh with faces turned where needed, and which were. A consistent shell inside another keeps its turning: it may be a cavity."""
    across, same = neighbours(mesh.faces)
    sheet = np.full(len(mesh.faces), -1, np.int32)
    against = np.zeros(len(mesh.faces), np.bool_)
    count = _flood(across, same, sheet, against)
    _, area = mesh.normals_and_areas()
    volume = face_volumes(mesh)
    # The smaller part of a mixed sheet gives way.
    against_area, all_area = np.bincount(sheet, area * against, count), np.bincount(sheet, area, count)
    mixed = np.bincount(sheet, against, count) > 0
    swap = against_area > all_area / 2
    flip = against ^ swap[sheet]
    flip &= mixed[sheet]
    signed = np.bincount(sheet, np.where(flip, -volume, volume), count)
    # Only a closed sheet has a volume; one that ends at a hole or at a crowded edge has none to judge by.
    ends = np.bincount(sheet, (across < 0).any(axis=1), count) > 0
    negative = np.flatnonzero((signed < 0) & ~ends)
    if len(negative):
        first = np.full(count, -1, np.int64)
        order = np.argsort(area)
        first[sheet[order]] = order  # each sheet's largest face
        outermost = _depth(Mesh(mesh.vertices, mesh.faces), first[negative]) == 0
        # A closed sheet in the open faces outwards; one inside another is its cavity and stays, unless it was a mixture.
        wrong = negative[outermost | mixed[negative]]
        flip ^= np.isin(sheet, wrong)
    if not flip.any():
        return mesh, flip
    faces = mesh.faces.copy()
    faces[flip] = faces[flip][:, ::-1]
    return Mesh(mesh.vertices, faces), flip
