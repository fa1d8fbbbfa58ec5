"""Cavities that a figure came with: closed voids, and hollows with drain holes of their own.

Terms. *Closed* figure: what a ball of half the widest drain hole cannot enter from outside or inside (morphological
closing: Serra 1982, Image Analysis and Mathematical Morphology). *Core*: empty space that the closed figure shuts off.
*Mouth*: where a cavity opens into a channel that leads out.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from scipy.spatial import cKDTree

from ..mesh import FAR, Mesh, rays_of, shell_labels
from ..mesh.edges import face_volumes
from ..mesh.fit import subset
from .cavities import LEAST_CAVITY_MM3, Cavity, Hollowed
from .field import depth_field, far_within
from .liquid import MOST_CELLS, Mouth, space_between

B1 = NDArray[np.bool_]
F4 = NDArray[np.float32]
F8 = NDArray[np.float64]
WIDEST_HOLE_MM = 6.0
"""Prior: what is wider is no drain hole but an opening; no liquid stays behind it for want of a hole."""
FINEST_MM, CELLS = 0.2, 2_500_000
THIN_SHARE = 0.01
"""The least wall is told as what this share of the inside lies under: at the lip of a hole a wall ends in nothing."""


def came_hollow(mesh: Mesh) -> Hollowed:
    """The cavities of a closed figure as it is, the largest first, each with the mouths that it has; none for a solid
    one.
    """
    pitch = max(FINEST_MM, float((float(np.prod(mesh.size)) / CELLS) ** (1 / 3)))
    field = depth_field(mesh, pitch, 2 * pitch)
    radius = WIDEST_HOLE_MM / 2
    pad = int(np.ceil(radius / pitch)) + 2
    solid = np.pad(field.depth > 0, pad)
    room, many = ndimage.label(~solid)
    roomy = _far(~solid, pitch)
    closed = _far(roomy <= radius, pitch) > radius
    core, count = ndimage.label(~closed & (room == room[0, 0, 0]))
    outside = core == core[0, 0, 0]
    voids = np.bincount(room.ravel(), minlength=many + 1) * pitch**3
    cavities, walls = [], []
    away: F4 | None = None
    for k in np.flatnonzero(voids >= LEAST_CAVITY_MM3):
        if k not in (0, room[0, 0, 0]):
            cavity, wall = _cavity(
                mesh, room == k, ~solid, roomy=roomy, away=roomy, pad=pad, pitch=pitch, origin=field.origin
            )
            cavities.append(cavity)
            walls.append(wall)
    sizes = np.bincount(core.ravel(), minlength=count + 1) * pitch**3
    for k in np.flatnonzero(sizes >= LEAST_CAVITY_MM3 / 4):
        if k in (0, core[0, 0, 0]):
            continue
        away = _far(~outside, pitch) if away is None else away
        near = _far(core != k, pitch)
        part, _ = ndimage.label(~solid & (near < away) & (near <= radius + 2 * pitch))
        cells = part == part[tuple(np.argwhere(core == k)[0])]
        if cells.sum() * pitch**3 >= LEAST_CAVITY_MM3:
            cavity, wall = _cavity(
                mesh, cells, ~solid, roomy=roomy, away=away, pad=pad, pitch=pitch, origin=field.origin
            )
            cavities.append(cavity)
            walls.append(wall)
    order = sorted(range(len(cavities)), key=lambda i: -cavities[i].volume)
    usual = float(np.median(walls)) if walls else 0.0
    return Hollowed(mesh, usual, tuple(cavities[i] for i in order), None, 0, came=True)


def _far(inside: B1, pitch: float) -> F4:
    """Distance in mm of every cell to the nearest that is not `inside`, as far as a hole is wide."""
    return far_within(inside, pitch, WIDEST_HOLE_MM / 2 + 3 * pitch)


def _cavity(
    mesh: Mesh, cells: B1, empty: B1, *, roomy: F4, away: F4, pad: int, pitch: float, origin: F8
) -> tuple[Cavity, float]:
    """One cavity of its cells (padded grid), and its usual wall in mm."""

    def place(at: NDArray[np.int64]) -> F8:
        return np.asarray(origin + (at - pad)[:, ::-1] * pitch)

    step = max(1, int(np.ceil((int(cells.sum()) / MOST_CELLS) ** (1 / 3))))
    at = np.argwhere(cells[::step, ::step, ::step])
    space = space_between(at, place(at * step), step * pitch)
    # Cells beside empty ones that are nearer to the outside: there the channel begins.
    beyond = ndimage.binary_dilation(empty & ~cells, structure=ndimage.generate_binary_structure(3, 1))
    lips, many = ndimage.label(cells & beyond, structure=np.ones((3, 3, 3)))
    tree, mouths = cKDTree(space.middles), []
    for k in range(1, many + 1):
        here = np.argwhere(lips == k)
        wide = float(roomy[lips == k].max())
        length = 2 * float(away[lips == k].min())
        near = np.unique(np.concatenate(tree.query_ball_point(place(here), 1.01 * step * pitch)).astype(np.int64))
        mouths.append(Mouth(near, max(wide, pitch / 2), length))
    faces = _inside(mesh, cells, pad, pitch, origin)
    surface = subset(mesh, faces)
    wall = np.array([FAR])
    if faces.any():
        normal, _ = mesh.normals_and_areas()
        begin = mesh.middles()[faces] - 1e-3 * normal[faces]
        wall = rays_of(mesh).first(begin, -normal[faces])[0]
    least, usual = (float(v) for v in np.quantile(wall, (THIN_SHARE, 0.5)))
    return Cavity(surface, float(cells.sum()) * pitch**3, least, space, tuple(mouths)), usual


def _inside(mesh: Mesh, cells: B1, pad: int, pitch: float, origin: F8) -> B1:
    """Which faces look into these cells."""
    normal, _ = mesh.normals_and_areas()
    inside = np.zeros(len(mesh.faces), np.bool_)
    for reach in (0.75, 1.5):
        at = np.rint((mesh.middles() + reach * pitch * normal - origin) / pitch).astype(np.int64)[:, ::-1] + pad
        at = np.clip(at, 0, np.array(cells.shape) - 1)
        inside |= cells[at[:, 0], at[:, 1], at[:, 2]]
    return inside


def filled(hollowed: Hollowed) -> Mesh:
    """The figure without the closed voids that it came with."""
    mesh = hollowed.outer
    label, count = shell_labels(mesh.faces, len(mesh.vertices))
    inwards = np.bincount(label, face_volumes(mesh), count) < 0
    void = np.zeros(count, np.bool_)
    for cavity in hollowed.cavities:
        if not cavity.own:
            far, _ = cKDTree(cavity.space.middles).query(
                mesh.vertices[mesh.faces[:, 0]], distance_upper_bound=cavity.space.width
            )
            void |= inwards & (np.bincount(label, np.isfinite(far), count) > 0)
    return subset(mesh, ~void[label]) if void.any() else mesh
