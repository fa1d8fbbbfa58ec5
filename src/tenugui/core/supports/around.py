"""The figure as routers ask of it: rays find most of what stands in a way, nearest points prove that the rest keeps
off.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh, Nearest, RayMesh, nearest_of, rays_of

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
B1 = NDArray[np.bool_]


@dataclass(frozen=True)
class Around:
    """A figure with its rays and nearest points."""

    figure: Mesh
    rays: RayMesh
    near: Nearest

    @classmethod
    def of(cls, figure: Mesh) -> Around:
        """Of a figure, prepared on first use and kept with it."""
        return cls(figure, rays_of(figure), nearest_of(figure))

    @cached_property
    def normals(self) -> F8:
        """Unit normal of each face (m, 3)."""
        return self.figure.normals_and_areas()[0]

    def first(self, origins: F8, directions: F8) -> tuple[F8, I4]:
        """See `RayMesh.first`."""
        return self.rays.first(origins, directions)

    def free(self, starts: F8, ends: F8, first: F8 | float, last: F8 | float) -> B1:
        """Whether rods from starts to ends (n, 3), of the radii `first` and `last` with what is to be kept clear, meet
        nothing. Blind to what lies wholly inside.
        """
        radii = np.column_stack([np.broadcast_to(np.asarray(r, float), len(starts)) for r in (first, last)])
        return self.near.keeps_off(starts, ends, radii, 0.0)
