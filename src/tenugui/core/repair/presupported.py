"""Supports that a file already carries: found, so that they can be kept knowingly or stripped.

A *prop* is a pillar that starts on the plate or on a raft and ends on the body in a neck. Where props are shells of
their own, they are told by their shape; where all is one surface, the layer stack finds thin columns that narrow before
they meet the body. A figure's own legs and spears do not narrow where they meet it, and are few.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..layers import Components, LayerStack, cut, grid_for, solid_components
from ..mesh import Mesh, shell_labels, subset
from ..mesh.edges import face_volumes
from ..mesh.mesh import I4
from ..mesh.shells import shell_boxes

FEWEST = 5
"""Prior: fewer slender things than this are the figure's own."""
SLENDER = 2.0
WIDEST = 0.06
"""Prior: a prop is thinner than this share of the figure's largest extent."""
NECK = 0.6
"""Prior: a prop's last section before the body is smaller than this share of its middle one."""
LAYERS, MOST_CROSSINGS = 320, 8e6
"""Layers that are looked at, where they cross the surface no more often than this."""


@dataclass(frozen=True)
class Props:
    """Which faces (m,) belong to supports, how many props there are, whether a raft lies under them, and how they were
    told.
    """

    faces: NDArray[np.bool_]
    count: int
    raft: bool
    told_by: str


def find_props(mesh: Mesh) -> Props | None:
    """The supports that a figure came with, or None. The mesh is in its file's frame, z up."""
    return _by_shells(mesh) or _by_necks(mesh)


def _by_shells(mesh: Mesh) -> Props | None:
    labels, count = shell_labels(mesh.faces, len(mesh.vertices))
    if count < FEWEST + 1:
        return None
    lower, upper = shell_boxes(mesh, labels, count)
    volume = np.abs(np.bincount(labels, face_volumes(mesh), count))
    size = upper - lower
    body = int(np.argmax(volume))
    length = np.maximum(np.linalg.norm(size, axis=1), 1e-12)
    girth = np.sqrt(volume / length)
    extent = float(mesh.size.max())
    slender = (length > SLENDER * girth) & (girth < WIDEST * extent) & (volume < 0.05 * volume[body]) & (size[:, 2] > 0)
    floor = float(mesh.lower[2])
    # A prop meets the body's box from below or beside; a raft lies flat under all of it.
    meets = ((lower <= upper[body]) & (upper >= lower[body])).all(axis=1)
    flat = (
        (lower[:, 2] < floor + 1e-3 * extent) & (size[:, 2] < 0.1 * extent) & (size[:, :2].min(axis=1) > 3 * size[:, 2])
    )
    rafts = np.flatnonzero(flat & (np.arange(count) != body))
    starts = lower[:, 2] < floor + 0.05 * extent
    standing = slender & starts & (upper[:, 2] > lower[body, 2] - 1e-9)
    branch = slender & meets & ~starts & (size[:, 2] > 0.25 * length)
    props = (standing | branch) & ~flat
    props[body] = False
    if standing.sum() < FEWEST:
        return None
    props[rafts] = True
    return Props(props[labels], int(props.sum()) - len(rafts), len(rafts) > 0, "shells")


@njit()
def _component_at(
    row_start: NDArray[np.int64],
    x_in: I4,
    x_out: I4,
    of_run: I4,
    rows: int,
    layers: int,
    at: NDArray[np.float64],
    out: I4,
) -> None:
    """Component at (layer, row, x in run units) of each point, or -1."""
    for i in range(len(at)):
        layer, row = int(at[i, 0]), int(at[i, 1])
        out[i] = -1
        if layer < 0 or layer >= layers or row < 0 or row >= rows:
            continue
        line = layer * rows + row
        for r in range(row_start[line], row_start[line + 1]):
            if x_in[r] <= at[i, 2] <= x_out[r]:
                out[i] = of_run[r]
                break


def _columns(parts: Components, widest: float) -> list[list[int]]:
    """Chains of thin components, each resting on one and carrying one, that begin low and narrow before they join
    something larger.
    """
    below: list[list[int]] = [[] for _ in parts.layer]
    above: list[list[int]] = [[] for _ in parts.layer]
    for a, b in parts.links.tolist():
        below[a].append(b)
        above[b].append(a)
    thin = (parts.area < widest**2) & (parts.width.max(axis=1) < 1.5 * widest)
    top = int(parts.layer.max())
    columns = []
    for c in range(len(parts.layer)):
        # Where a column begins: thin, and on the plate or on something that is not thin.
        if not thin[c] or (below[c] and (len(below[c]) > 1 or thin[below[c][0]])) or parts.layer[c] > 0.15 * top:
            continue
        if parts.layer[c] > 0 and not below[c]:
            continue
        chain = [c]
        while len(above[chain[-1]]) == 1:
            n = above[chain[-1]][0]
            if not thin[n] or len(below[n]) != 1:
                break
            chain.append(n)
        joins = above[chain[-1]]
        areas = parts.area[chain]
        if len(joins) == 1 and len(chain) >= max(4, 0.02 * top) and areas[-3:].min() < NECK * np.median(areas):
            columns.append(chain)
    return columns


@njit()
def _crossings(vertices: NDArray[np.float64], faces: I4, height: float, pitch: float) -> float:
    """How often scan lines of layers cross the surface, at most: each face by its rise over the height and its depth
    over the pitch, halved as a triangle is.
    """
    total = 0.0
    for f in range(len(faces)):
        a, b, c = vertices[faces[f, 0]], vertices[faces[f, 1]], vertices[faces[f, 2]]
        rise = max(a[2], b[2], c[2]) - min(a[2], b[2], c[2])
        deep = max(a[1], b[1], c[1]) - min(a[1], b[1], c[1])
        total += rise * deep
    return total / (2 * height * pitch)


def _by_necks(mesh: Mesh) -> Props | None:
    placed = mesh.dropped()
    height = float(placed.size[2]) / LAYERS
    pitch = max(float(placed.size[:2].max()) / 1200, height / 2)
    # A tangle is looked at by fewer layers and lines, so that it costs no more than any other figure.
    coarser = max(1.0, math.sqrt(_crossings(placed.vertices, placed.faces, height, pitch) / MOST_CROSSINGS))
    stack = cut(placed, grid_for(placed, height * coarser, pitch * coarser))
    parts = solid_components(stack)
    columns = _columns(parts, WIDEST * float(placed.size.max()))
    if len(columns) < FEWEST:
        return None
    member = np.zeros(len(parts.layer), np.bool_)
    for chain in columns:
        member[chain] = True
    start = int(np.median([parts.layer[chain[0]] for chain in columns]))
    raft = start > 0
    if raft:
        member |= parts.layer < start
    faces = _faces_of(placed, stack, parts, member)
    return Props(faces, len(columns), raft, "necks") if faces.any() and not faces.all() else None


def _faces_of(mesh: Mesh, stack: LayerStack, parts: Components, member: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Faces whose middle, moved a little inwards, lies in a component of `member`."""
    grid = stack.grid
    normal, _ = mesh.normals_and_areas()
    points = mesh.middles() - normal * grid.pitch
    at = np.stack(
        [
            np.floor(points[:, 2] / grid.height),
            np.floor((points[:, 1] - grid.y0) / grid.pitch),
            (points[:, 0] - grid.x0) / grid.unit,
        ],
        axis=1,
    )
    out = np.empty(len(points), np.int32)
    _component_at(stack.row_start, stack.x_in, stack.x_out, parts.of_run, grid.rows, grid.layers, at, out)
    return np.asarray((out >= 0) & member[np.maximum(out, 0)])


def without_faces(mesh: Mesh, gone: NDArray[np.bool_]) -> Mesh:
    """The mesh without some faces; the holes they leave are for the repair to close."""
    return subset(mesh, ~gone)
