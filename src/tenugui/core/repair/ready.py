"""From the mesh of a file to the mesh that every fold works on: fit, without specks, and mended where it is broken; or
refused.

What comes in broken must not go broken through a plan. A sound figure comes out as it went in.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..layers import cut, grid_for
from ..mesh import Mesh, Working, edges_of, fit_for_work, require_figure, shell_labels, subset
from ..mesh.edges import face_volumes
from .specks import LOOSE_PIECES, MAIN_SHARE, loose_pieces, loose_specks
from .steps import RepairError, Step, repair

SHEET_SHARE = 0.6
"""Prior: where closing the borders adds more than this share of the surface there is, the file holds a sheet and not a
solid with holes.
"""
OPEN_SHARE = 0.03
"""Prior: where more than this share of the scan lines runs into a hole, the layers are not to be trusted."""
HOLLOW = 1e-5
"""A figure whose volume is less than this share of its area to the power 3/2 has no inside."""
PROBE_LAYERS = 160


@dataclass(frozen=True)
class Ready:
    """The mesh to work on; for each of its faces the file's (-1 for new ones); what was mended; how many specks were
    left out; open edges left.
    """

    mesh: Mesh
    faces: NDArray[np.int64]
    steps: list[Step]
    specks: int
    open_left: int

    @property
    def changed(self) -> bool:
        """Whether it differs from what came in by more than faces that bound nothing."""
        return bool(self.steps) or self.specks > 0

    def carried(self, labels: NDArray[Any]) -> NDArray[Any]:
        """Labels of the file's faces on this mesh's (m,): zero on new faces. A new surface takes them by nearness, see
        `marks.transfer`.
        """
        return np.asarray(np.where(self.faces >= 0, labels[np.maximum(self.faces, 0)], 0)).astype(labels.dtype)


def _sound(mesh: Mesh) -> bool:
    """Whether every edge is balanced and no shell faces inwards."""
    if edges_of(mesh).unbalanced.any():
        return False
    labels, count = shell_labels(mesh.faces, len(mesh.vertices))
    return bool((np.bincount(labels, face_volumes(mesh), count) >= 0).all())


def open_share(mesh: Mesh) -> float:
    """Share of a coarse stack's scan lines that run into a hole of the surface, of those that meet it at all."""
    placed = mesh.dropped()
    height = max(float(placed.size[2]) / PROBE_LAYERS, 1e-9)
    stack = cut(placed, grid_for(placed, height, max(float(placed.size[:2].max()) / 600, height / 4)))
    met = int((np.diff(stack.row_start) > 0).sum()) + stack.open_rows
    return stack.open_rows / met if met else 1.0


def make_ready(mesh: Mesh, *, mend: bool = True, specks: bool = False) -> Ready:
    """Make a file's mesh ready. `mend` False leaves faults as they are; `specks` True keeps crumbs that lie loose.

    Raises:
        MeshError: there is nothing to work on.
        RepairError: `loose-pieces`, `sheet`, `still-open` or `no-volume`, with the step that would mend it.
    """
    working = fit_for_work(mesh)
    if not len(working.mesh.faces):
        raise RepairError(
            "nothing-left",
            "No face of the file has three corners.",
            f"{len(mesh.faces):,} faces",
            "Export the figure again.",
        )
    require_figure(working.mesh)
    _refuse_crumbs(working.mesh)
    crumbs = np.zeros(len(working.mesh.faces), np.bool_) if specks else loose_specks(working.mesh)
    loose = 0
    if crumbs.any():
        left = subset(working.mesh, crumbs)
        loose = shell_labels(left.faces, len(left.vertices))[1]
        working = Working(subset(working.mesh, ~crumbs), working.faces[~crumbs])
    if not mend or _sound(working.mesh):
        ready = Ready(
            working.mesh, working.faces, [], loose, int(edges_of(working.mesh).unbalanced.sum()) if not mend else 0
        )
    else:
        done = repair(working.mesh)
        mended = working.then(done.mesh, done.faces)
        ready = Ready(done.mesh, mended.faces, done.steps, loose, done.open_left)
        _refuse_sheets(working.mesh, ready)
    _refuse_nothing(ready)
    return ready


def _refuse_crumbs(mesh: Mesh) -> None:
    many, largest = loose_pieces(mesh)
    if many > LOOSE_PIECES and largest < MAIN_SHARE:
        raise RepairError(
            "loose-pieces",
            f"The file is {many:,} loose pieces, and the largest "
            f"holds {largest:.2%} of them: nothing holds them together.",
            f"{len(mesh.faces):,} faces",
            "Unite them where they were sculpted, or bring them in as a kit: a ZIP of files.",
        )


def _refuse_sheets(before: Mesh, ready: Ready) -> None:
    _, area = ready.mesh.normals_and_areas()
    added, whole = float(area[ready.faces < 0].sum()), float(before.normals_and_areas()[1].sum())
    if added > SHEET_SHARE * whole:
        raise RepairError(
            "sheet",
            f"The file holds an open sheet: closing its borders would add {added / whole:.0%} of the surface there is.",
            f"{len(before.faces):,} faces",
            "Give it thickness where it was sculpted, and export the solid.",
        )


def _refuse_nothing(ready: Ready) -> None:
    mesh = ready.mesh
    _, area = mesh.normals_and_areas()
    if ready.open_left:
        share = open_share(mesh)
        if share > OPEN_SHARE:
            raise RepairError(
                "still-open",
                f"{ready.open_left:,} edges stay open, and {share:.0%} of a layer's scan lines run into a hole.",
                "the surface after repair",
                "Make a new surface around it: 'New surface' in the fold "
                "Size, or ./tenugui health FILE --repair OUT --remesh.",
            )
    elif abs(float(face_volumes(mesh).sum())) < HOLLOW * float(area.sum()) ** 1.5:
        raise RepairError(
            "no-volume",
            "The surface is closed but holds next to no volume: it lies folded onto itself.",
            f"{len(mesh.faces):,} faces",
            "Give it thickness where it was sculpted, and export the solid.",
        )
