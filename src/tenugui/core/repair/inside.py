"""What came as a shell that is open on one side, made whole: its inside filled, or closed there with a floor.

The shell's own triangles stay as they are: what is added is another shell that overlaps its wall from within, and
overlaps count once.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from skimage.measure import marching_cubes

from ..layers import cut, grid_for
from ..layers.grid import SUB
from ..mesh import Mesh, edges_of
from ..mesh.edges import face_volumes
from .remesh import cover, field_pitch
from .steps import Repair, RepairError, Step

B1 = NDArray[np.bool_]
F8 = NDArray[np.float64]
CELLS_A_WALL = 4
"""A wall is so many cells thick, so that what is added grips it by two."""
RIM_SHARE, RIM_DEEP = 0.6, 1 / 3
"""Prior: the rim is where walls first enclose this share of what they enclose a wall's thickness farther in, within the
nearest third.
"""
LEAST_SHARE = 0.1
"""Prior: an inside that encloses less of what lies between its walls opens elsewhere as well."""


@dataclass(frozen=True)
class Cells:
    """What of a figure is solid (z, y, x), its opening below; the first cell's middle and a cell's width in mm, and the
    turn (3, 3) that puts it so.
    """

    solid: B1
    origin: F8
    pitch: float
    turn: F8


def with_floor(mesh: Mesh, out: F8, wall: float) -> Repair:
    """A floor as thick as the `wall` (mm) across the opening that looks along `out` (3,); the inside stays, shut in.

    Raises:
        RepairError: `no-inside`: nothing is shut in by it.
    """
    cells = _cells(mesh, out, wall)
    first = _rim(cells)
    floor = np.zeros_like(cells.solid)
    thick = max(CELLS_A_WALL, round(wall / cells.pitch))
    floor[first : first + thick] = _between(cells.solid[first : first + thick])
    _inside(cells, floor)  # it has to shut something in
    said = f"A floor of {thick * cells.pitch:.1f} mm across its opening: what is inside stays, and is shut in"
    return _with(mesh, _grown(cells, floor, wall), cells, "floor", said)


def filled(mesh: Mesh, out: F8, wall: float) -> Repair:
    """The inside filled from the rim of the opening that looks along `out` (3,) on.

    Raises:
        RepairError: `no-inside`: it opens elsewhere as well.
    """
    cells = _cells(mesh, out, wall)
    first = _rim(cells)
    seal = np.zeros_like(cells.solid)
    seal[first] = _between(cells.solid[first])
    inside = _inside(cells, seal) | seal
    return _with(mesh, _grown(cells, inside, wall), cells, "filled", "Its inside is filled")


def _cells(mesh: Mesh, out: F8, wall: float) -> Cells:
    turn = _downwards(out)
    turned = Mesh(mesh.vertices @ turn.T, mesh.faces)
    placed = turned.dropped()
    pitch = max(wall / CELLS_A_WALL, 2 * field_pitch(mesh))
    grid = grid_for(placed, pitch, pitch)
    stack = cut(placed, grid)
    columns = int(np.ceil((placed.upper[0] - grid.x0) / pitch)) + 2
    field = np.zeros((grid.layers + 2, grid.rows + 2, columns + 2), np.float32)
    cover(stack.row_start, stack.x_in, stack.x_out, grid.rows, SUB, field)
    origin = np.array([grid.x0 - pitch / 2, grid.y0 - pitch / 2, -pitch / 2]) + (turned.lower - placed.lower)
    return Cells(field >= 0.5, origin, pitch, turn)


def _downwards(out: F8) -> F8:
    """A turn (3, 3) that brings a unit vector to point down."""
    z = -out / np.linalg.norm(out)
    side = np.cross([1.0, 0.0, 0.0] if abs(z[0]) < 0.9 else [0.0, 1.0, 0.0], z)
    side /= np.linalg.norm(side)
    return np.array([side, np.cross(z, side), z])


def _between(layer: B1) -> B1:
    """What of each layer (..., y, x) lies between its walls."""
    if layer.ndim == 2:
        return np.asarray(ndimage.binary_fill_holes(layer) & ~layer)
    return np.array([_between(one) for one in layer]).reshape(layer.shape)


def _rim(cells: Cells) -> int:
    """The first layer that walls enclose all round."""
    near = max(1, int(len(cells.solid) * RIM_DEEP))
    areas = np.array([_between(layer).sum() for layer in cells.solid[:near]], float)
    if not areas.any():
        raise RepairError(
            "no-inside",
            "No wall runs all round its opening.",
            "the third of it that lies nearest to the opening",
            "Make a new surface around it ('New surface'), or print it as it came.",
        )
    farther = np.append(areas, np.repeat(areas[-1], CELLS_A_WALL))[CELLS_A_WALL:]
    return int(np.argmax((areas > 0) & (areas >= RIM_SHARE * farther)))


def _inside(cells: Cells, seal: B1) -> B1:
    """What is shut in once the cells of `seal` are closed."""
    label, _ = ndimage.label(~(cells.solid | seal))
    shut = (label != label[0, 0, 0]) & (label > 0)
    between = sum(int(_between(layer).sum()) for layer in cells.solid)
    if shut.sum() < LEAST_SHARE * between:
        raise RepairError(
            "no-inside",
            "Its inside opens elsewhere as well, so that closing its foot shuts nothing in.",
            "its inside, followed cell by cell",
            "Make a new surface around it ('New surface'), or print it as it came.",
        )
    return np.asarray(shut)


def _grown(cells: Cells, what: B1, wall: float) -> B1:
    """Cells grown into the wall by half of it, never up to its outside."""
    half = max(1, round(wall / cells.pitch / 2))
    whole = cells.solid | what
    whole[0] = whole[1]  # the rim is no outside: what is added ends level with it
    deep = ndimage.binary_erosion(whole)
    deep[0] = False
    return np.asarray(ndimage.binary_dilation(what, iterations=half, mask=deep | what))


def _with(mesh: Mesh, more: B1, cells: Cells, code: str, said: str) -> Repair:
    points, faces, _, _ = marching_cubes(np.pad(more, 1).astype(np.float32), 0.5)
    places = cells.origin + (points[:, ::-1] - 1) * cells.pitch
    shell = Mesh(places @ cells.turn, np.ascontiguousarray(faces, np.int32))
    if face_volumes(shell).sum() < 0:
        shell = Mesh(shell.vertices, np.ascontiguousarray(shell.faces[:, ::-1]))
    added = float((more & ~cells.solid).sum()) * cells.pitch**3
    step = Step(code, f"{said}: {added / 1000:.2f} ml. The outside is as it was.", len(shell.faces), 0, added, 0.0)
    new = np.concatenate([np.zeros(len(mesh.faces), np.bool_), np.ones(len(shell.faces), np.bool_)])
    whole = Mesh.joined([mesh, shell])
    old = np.concatenate([np.arange(len(mesh.faces)), np.full(len(shell.faces), -1)])
    return Repair(whole, [step], new, old, int(edges_of(whole).unbalanced.sum()))
