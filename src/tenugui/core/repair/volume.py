"""The volume that will be printed: overlaps once, cavities not at all."""

from __future__ import annotations

from ..layers import cut, grid_for
from ..mesh import Mesh, shell_labels
from ..mesh.edges import face_volumes
from .remesh import unite

EXACT_FACES = 300_000
"""Up to so many faces the union is made by the boolean library, and the volume is exact."""
FINE = 400
NOTICEABLE = 2e-3
"""A difference below this share is the grain of the stack: shells do not overlap."""


def solid_volume(mesh: Mesh) -> float:
    """Volume in mm³ by the non-zero winding number: exact for shells that do not overlap and for those that can be
    united, else to some thousandths, from a stack of FINE layers.
    """
    signed = float(face_volumes(mesh).sum())
    if shell_labels(mesh.faces, len(mesh.vertices))[1] < 2:
        return signed
    placed = mesh.dropped()
    height = max(float(placed.size[2]) / FINE, 1e-9)
    stacked = cut(placed, grid_for(placed, height, max(float(placed.size[:2].max()) / 900, height / 4))).volume()
    if abs(stacked - signed) <= NOTICEABLE * max(abs(signed), stacked):
        return signed
    united = unite(mesh) if len(mesh.faces) <= EXACT_FACES else None
    return stacked if united is None else float(face_volumes(united).sum())
