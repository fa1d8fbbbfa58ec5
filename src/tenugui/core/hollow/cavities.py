"""Hollowing: the space deeper than a wall, cut out of a figure, with struts across it where they are wanted."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from skimage.measure import marching_cubes

from ..compiled import both_cores, njit, stretches
from ..errors import CoreError
from ..mesh import Mesh, Nearest, decimate, measure, shell_labels
from ..mesh.edges import face_volumes
from ..mesh.fit import compact, subset
from ..repair import unite
from .creases import Crease
from .field import Field, depth_field, pitch_for
from .lattice import KINDS, Kind, strut_distance
from .liquid import Mouth, Space, space_of
from .offset import settle

B1 = NDArray[np.bool_]
F4 = NDArray[np.float32]
F8 = NDArray[np.float64]
LEAST_WALL_MM, MOST_WALL_MM = 0.4, 20.0
LEAST_CAVITY_MM3 = 60.0
"""Prior: what would hold less than this is left solid: it saves nothing and wants two holes."""
CLOSE_MM = 0.04
"""A wall is made so much thicker than asked, for the middles of the inside's triangles, which lie nearer than their
corners.
"""
ROUNDS = 8
FOLD_COS = 0.3
"""A triangle that turns farther than this from what it was makes a fold, and in it a flake of solid that hangs on
nothing.
"""
MOST_TOLD = 3
"""Spaces left solid that are told by their place."""
MOST_FACES = 60_000
"""The inside is thinned to about this many triangles: nobody sees it, and its wall is measured after that."""
FEWEST_CELLS, CELLS_A_STRUT = 4.5, 3.0
"""A cavity is cut by every second cell where so many of those still lie in a wall, and in a strut: its surface is
thinned anyway, and settled after that.
"""
STRUT_SHARE = (0.02, 0.7)
"""Priors: a strut is at least and at most such a share of its pitch thick."""


class HollowError(CoreError):
    """A figure that cannot be hollowed as asked."""


@dataclass(frozen=True)
class Lattice:
    """Struts `thick` mm across, `pitch` mm apart, along the axes or body-centred."""

    pitch: float
    thick: float
    kind: Kind = "cubic"


@dataclass(frozen=True)
class Cavity:
    """One closed space: its surface, which looks inwards, its volume in mm³, the least distance in mm from it to the
    outside, and the cells in which its liquid is followed. `own`: the mouths that it came with.
    """

    surface: Mesh
    volume: float
    min_wall: float
    space: Space
    own: tuple[Mouth, ...] = ()


@dataclass(frozen=True)
class Hollowed:
    """A figure (its shells united) and the cavities cut out of it, the largest first; the field they were cut from
    (None where it has been put away); how many were left solid, and of those the middles and mm³ of the largest
    (`solid_at`). `came`: the cavities are the figure's own, and their surfaces are in it already. `creases`: where
    detail of the outside cuts in, where that was looked for.
    """

    outer: Mesh
    wall: float
    cavities: tuple[Cavity, ...]
    field: Field | None
    left_solid: int
    came: bool = False
    solid_at: tuple[tuple[float, float, float, float], ...] = ()
    creases: tuple[Crease, ...] = ()

    @property
    def solid_volume(self) -> float:
        """Of the figure without cavities, mm³."""
        return float(face_volumes(self.outer).sum())

    @property
    def saved(self) -> float:
        """Volume of all cavities, mm³."""
        return sum(c.volume for c in self.cavities)

    @property
    def mesh(self) -> Mesh:
        """The hollow figure: outside and cavities in one, turned so that what is solid lies behind every face."""
        cut = [] if self.came else [c.surface for c in self.cavities]
        return Mesh.joined([self.outer, *cut]) if cut else self.outer


def usual_wall(size: F8) -> float:
    """The wall in mm that a figure of this size is usually given: prior, 1.2 mm at 50 mm and 0.6 mm more for every
    doubling, 1 to 4 mm.

    >>> usual_wall(np.array([20.0, 20.0, 50.0])), usual_wall(np.array([40.0, 40.0, 100.0]))
    (1.2, 1.8)
    """
    tall = float(np.max(size))
    return round(float(np.clip(1.2 + 0.6 * np.log2(max(tall, 1.0) / 50.0), 1.0, 4.0)), 1)


def _outer(mesh: Mesh) -> Mesh:
    """The figure as one closed surface."""
    _, shells = shell_labels(mesh.faces, len(mesh.vertices))
    united = mesh if shells == 1 else unite(mesh)
    if united is None or not measure(united).watertight:
        raise HollowError(
            "not-closed",
            "The figure cannot be hollowed: its surface is not closed, or it is hollow already.",
            remedy="Repair it first, or fill what is hollow in the model.",
        )
    return _without_bubbles(united)


def _without_bubbles(mesh: Mesh) -> Mesh:
    """The surface without closed spaces too small to be cavities: what a union leaves between shells that nearly touch
    is filled.
    """
    label, count = shell_labels(mesh.faces, len(mesh.vertices))
    volumes = np.bincount(label, face_volumes(mesh), count)
    bubble = (volumes < 0) & (volumes > -LEAST_CAVITY_MM3)
    return subset(mesh, ~bubble[label]) if bubble.any() else mesh


def refuse_wall(wall: float, lattice: Lattice | None) -> None:
    """Refuse what cannot be made.

    Raises:
        HollowError: `bad-wall`, `bad-lattice`.
    """
    if not LEAST_WALL_MM <= wall <= MOST_WALL_MM:
        raise HollowError(
            "bad-wall",
            f"A wall of {wall:g} mm is out of range.",
            remedy=f"Give {LEAST_WALL_MM} to {MOST_WALL_MM:g} mm.",
        )
    if lattice is None:
        return
    low, high = (share * lattice.pitch for share in STRUT_SHARE)
    if lattice.kind not in KINDS or not 1.0 <= lattice.pitch <= 100.0 or not low <= lattice.thick <= high:
        raise HollowError(
            "bad-lattice",
            f"Struts of {lattice.thick:g} mm every {lattice.pitch:g} mm ({lattice.kind}) cannot be made.",
            remedy=f"Give a pitch of 1 to 100 mm, struts of 2 to 70 % of it, and {' or '.join(KINDS)}.",
        )


def hollow(
    mesh: Mesh,
    wall: float,
    lattice: Lattice | None = None,
    *,
    least_mm3: float = LEAST_CAVITY_MM3,
    pitch: float | None = None,
) -> Hollowed:
    """Cut every space deeper than `wall` mm and larger than `least_mm3` out of a closed figure; no wall comes out
    thinner than asked. Its cells are `pitch` mm wide, or as wide as suits the wall.

    Raises:
        HollowError: `not-closed`, `bad-wall`, `bad-lattice`.
        LayerError: where the figure is too large for the engine.
    """
    refuse_wall(wall, lattice)
    outer = _outer(mesh)
    pitch = pitch_for(outer.size, wall) if pitch is None else pitch
    field = depth_field(outer, pitch, wall + 4 * pitch)
    # Counting cells errs by a cell at most: cut so much deeper nothing is too thin, and what is cut is moved out to the
    # wall exactly.
    space = field.depth - np.float32(wall + pitch + CLOSE_MM)
    label, count = ndimage.label(space > 0)
    volumes = _counted(label, count) * pitch**3
    kept = set(np.flatnonzero(volumes >= least_mm3).tolist())
    struts = None
    if lattice is not None and kept:
        struts = strut_distance(field, lattice.pitch, lattice.kind) - np.float32(lattice.thick / 2)
        np.minimum(space, struts, out=space)
    outside = Nearest(outer) if kept else None
    finest = min(wall / FEWEST_CELLS, np.inf if lattice is None else lattice.thick / CELLS_A_STRUT)
    spaces = []
    boxes = ndimage.find_objects(label)
    for index, box in enumerate(boxes):
        if index in kept and outside is not None:
            wide = tuple(slice(max(0, s.start - 2), s.stop + 2) for s in box)
            spaces.append(
                _cavity(
                    field,
                    space,
                    struts,
                    label=label[wide],
                    of=index + 1,
                    wide=wide,
                    outside=outside,
                    wall=wall + CLOSE_MM,
                    finest=finest,
                )
            )
    spaces = [c for c in spaces if c.volume > 0]
    small = sorted((i for i in range(count) if i not in kept), key=lambda i: -volumes[i])[:MOST_TOLD]
    solid_at = tuple((*_middle(field, label, i + 1, boxes[i]), float(volumes[i])) for i in small)
    cavities = tuple(sorted(spaces, key=lambda c: -c.volume))
    return Hollowed(outer, wall, cavities, field, count - len(spaces), solid_at=solid_at)


@njit()
def _counted(label: NDArray[np.int32], count: int) -> NDArray[np.int64]:
    """Cells of each of the spaces 1 to `count`."""
    cells = np.zeros(count + 1, np.int64)
    for layer in label:
        for row in layer:
            for one in row:
                cells[one] += 1
    return cells[1:]


def _middle(field: Field, label: NDArray[np.int32], of: int, box: tuple[slice, ...]) -> tuple[float, float, float]:
    """The middle of a space."""
    cells = np.argwhere(label[box] == of).mean(axis=0) + [s.start for s in box]
    x, y, z = (float(v) for v in field.place(cells[None])[0])
    return x, y, z


@njit()
def _free(label: NDArray[np.int32], of: int, depth: F4, wall: float, first: int, last: int, out: B1) -> None:
    """Cells, layers [first, last), of one space and beside it that lie deeper than the wall; the rim is none."""
    nz, ny, nx = label.shape
    for z in range(max(1, first), min(last, nz - 1)):
        for y in range(1, ny - 1):
            for x in range(1, nx - 1):
                if depth[z, y, x] > wall:
                    out[z, y, x] = (
                        label[z, y, x] == of
                        or label[z, y, x - 1] == of
                        or label[z, y, x + 1] == of
                        or label[z, y - 1, x] == of
                        or label[z, y + 1, x] == of
                        or label[z - 1, y, x] == of
                        or label[z + 1, y, x] == of
                    )


def _cavity(
    field: Field,
    space: F4,
    struts: F4 | None,
    *,
    label: NDArray[np.int32],
    of: int,
    wide: tuple[slice, ...],
    outside: Nearest,
    wall: float,
    finest: float,
) -> Cavity:
    """The surface of one cavity, settled onto the wall: thinned, or unthinned where thinning bends it out of the solid,
    or as it was cut.

    `label`: of the cells in the part `wide` of the field, two cells around it; `of` its own; `finest`: mm of a cell
        that still tells of what stands in it.
    """
    start = np.array([s.start for s in wide], float)
    # What is not empty in there is two walls thick at least, or a strut: every second cell tells of it where they are
    # fine.
    step = 2 if 2 * field.pitch <= finest else 1
    every = (slice(None, None, step),) * 3
    others = (label[every] != of) & (label[every] > 0)
    raw = _surface(field, np.where(others, np.float32(-field.pitch), space[wide][every]), start, step)
    free = np.zeros(label.shape, np.bool_)
    depth = field.depth[wide]
    both_cores(lambda a, b: _free(label, of, depth, wall, a, b, free), stretches(len(label)))
    liquid = space_of(field, free if struts is None else free & (struts[wide] > 0), start)
    tries = [raw] if len(raw.faces) <= MOST_FACES else [decimate(raw, MOST_FACES), raw]
    for one in tries:
        fixed = None if struts is None else struts[tuple(field.cell(one.vertices).T)] < 0.75 * step * field.pitch
        settled, least = _settled(one, outside, wall, 3 * field.pitch, fixed)
        if least >= wall - CLOSE_MM:
            return Cavity(settled, -float(face_volumes(settled).sum()), least, liquid)
    return Cavity(raw, -float(face_volumes(raw).sum()), _least(raw, outside), liquid)


def _settled(
    raw: Mesh, outside: Nearest, wall: float, slack: float, fixed: NDArray[np.bool_] | None
) -> tuple[Mesh, float]:
    """A cavity moved out to the wall, and its least wall. Triangles whose middles would come too near, around a
    crevice, or that would turn over stay where they were cut.
    """
    vertices = settle(raw.vertices, outside, wall, slack, fixed)
    suspects, cut = np.arange(len(raw.faces)), raw.vertices.copy()
    were, _ = raw.normals_and_areas()
    for _ in range(ROUNDS):
        surface = Mesh(vertices, raw.faces)
        middles = vertices[raw.faces[suspects]].mean(axis=1)
        at, far = outside.of(middles)
        now, _ = Mesh(vertices, raw.faces[suspects]).normals_and_areas()
        folded = np.einsum("ij,ij->i", now, were[suspects]) < FOLD_COS
        thin = far < wall - CLOSE_MM
        near = suspects[thin | folded]
        if not len(near):
            break
        back = np.unique(raw.faces[near])
        # What thinning brought too near is pushed in from where it is.
        deep = np.flatnonzero(thin & (vertices[raw.faces[suspects]] == cut[raw.faces[suspects]]).all(axis=(1, 2)))
        inwards = (middles[deep] - at[deep]) / np.maximum(far[deep], 1e-9)[:, None]
        for corner in raw.faces[suspects[deep]].T:
            cut[corner] = vertices[corner] + inwards * (wall - far[deep] + CLOSE_MM)[:, None]
        vertices[back] = cut[back]
        touched = np.zeros(len(vertices), np.bool_)
        touched[back] = True
        suspects = np.flatnonzero(touched[raw.faces].any(axis=1))
    return surface, _least(surface, outside)


def _surface(field: Field, cut: F4, start: F8, step: int) -> Mesh:
    """What lies above zero, as a surface that looks inwards (marching cubes, Lorensen and Cline 1987); `cut` is every
    `step`-th cell.
    """
    if float(cut.max()) <= 0:
        return Mesh(np.empty((0, 3)), np.empty((0, 3), np.int32))
    points, faces, _, _ = marching_cubes(np.pad(cut, 1, constant_values=-field.pitch), 0.0)
    raw = compact(Mesh(field.place((points - 1) * step + start), np.ascontiguousarray(faces, np.int32)))
    turned = float(face_volumes(raw).sum()) > 0
    return Mesh(raw.vertices, np.ascontiguousarray(raw.faces[:, ::-1])) if turned else raw


def _least(surface: Mesh, outside: Nearest) -> float:
    """The least distance from a cavity's corners and the middles of its faces to the outside."""
    if not len(surface.faces):
        return float("inf")
    return float(outside.of(np.concatenate([surface.vertices, surface.middles()]))[1].min())
