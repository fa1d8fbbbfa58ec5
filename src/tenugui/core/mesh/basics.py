"""A mesh's basics: size, area, volume, shells, whether it is closed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import CoreError
from .edges import edges_of, face_volumes
from .mesh import Mesh
from .shells import shell_labels


class MeshError(CoreError):
    """A mesh that cannot be worked on."""


@dataclass(frozen=True)
class Basics:
    """Counts, size in mm, area in mm², signed volume in mm³."""

    triangles: int
    vertices: int
    watertight: bool
    shells: int
    size_mm: tuple[float, float, float]
    volume_mm3: float
    area_mm2: float


def measure(mesh: Mesh) -> Basics:
    """Measure a welded mesh. Watertight means that along every edge as many faces run one way as the other."""
    size = mesh.size
    _, areas = mesh.normals_and_areas()
    return Basics(
        triangles=len(mesh.faces),
        vertices=len(mesh.vertices),
        watertight=not bool(edges_of(mesh).unbalanced.any()),
        shells=shell_labels(mesh.faces, len(mesh.vertices))[1],
        size_mm=(float(size[0]), float(size[1]), float(size[2])),
        volume_mm3=float(face_volumes(mesh).sum()),
        area_mm2=float(areas.sum()),
    )


FARTHEST = 1e9
"""A figure 100 m tall in micrometres, ten times."""


def require_figure(mesh: Mesh) -> None:
    """Refuse what can not be a figure: no faces, no extent in some direction, coordinates beyond all sense.

    Raises:
        MeshError: `no-triangles`, `not-finite`, `too-far`, `flat`.
    """
    if not len(mesh.faces):
        raise MeshError("no-triangles", "The file holds no triangles.", remedy="Export the figure again as a mesh.")
    if not np.isfinite(mesh.vertices).all():
        raise MeshError("not-finite", "Some coordinates are not numbers.", remedy="Export the figure again.")
    far = float(np.abs(mesh.vertices).max())
    if far > FARTHEST:
        raise MeshError(
            "too-far",
            f"Some coordinates are as large as {far:.2g}, which is no figure in any unit.",
            remedy="Export the figure again; some program has written nonsense.",
        )
    size = mesh.size
    if size.min() <= 1e-9 * max(float(size.max()), 1e-9):
        raise MeshError(
            "flat",
            f"The figure is flat: {size[0]:.3g} x {size[1]:.3g} x {size[2]:.3g}.",
            f"{len(mesh.faces)} triangle(s)",
            "A figure to print needs volume; export the solid, not a single face or an outline.",
        )
