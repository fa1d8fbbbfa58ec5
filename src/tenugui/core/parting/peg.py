"""A keyed peg within a section: as wide as the section bears, as long as both sides have room for."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

F8 = NDArray[np.float64]
WALL_MM, WALL_SHARE = 0.8, 0.25
"""Priors: so much stays around a peg, or this share of what the section bears."""
WIDEST_MM = 8.0
"""Prior: a wider peg holds no better."""
WIDE, LONG = (1.0, 0.8, 0.6, 0.45), (2.0, 1.5, 1.0)
"""What is tried: shares of the width that the section bears, and for each lengths in widths."""
TAPER = 0.92
"""A peg ends in this share of its width, so that it finds its socket."""
FOOT_MM = 0.3
"""A peg begins so deep in its own side."""
OUTSIDE = 0.002
"""Of a socket with its wall, so much may lie outside the figure: the grain of the surface."""
CORNERS, FLAT, FLAT_REACH = (135.0, 225.0, 315.0), (5.0, 85.0), 0.71
"""A square whose fourth corner is cut off: it goes in one way alone."""


@dataclass(frozen=True)
class Fit:
    """How a machine makes a peg fit: `clearance` all around, and the smallest peg `least` that comes out, mm."""

    clearance: float = 0.15
    least: float = 1.2


@dataclass(frozen=True)
class Peg:
    """`middle` (2,) in the section's plane, `width` across, `length` and `clearance` of its socket, mm."""

    middle: tuple[float, float]
    width: float
    length: float
    clearance: float

    def prism(self, grown: float, deep: float, taper: float = 1.0) -> manifold3d.Manifold:
        """Its body upwards from the plane, `grown` all around and so `deep`; it begins FOOT_MM below."""
        shape = shapely.Polygon(outline(self.width / 2)).buffer(grown, join_style="mitre")
        ring = np.asarray(shapely.orient_polygons(shape).exterior.coords)[:-1]
        base = manifold3d.CrossSection([ring.tolist()])
        body = base.extrude(deep + FOOT_MM, scale_top=(taper, taper))
        return body.translate([self.middle[0], self.middle[1], -FOOT_MM])


def outline(radius: float) -> F8:
    """(5, 2): the keyed outline about the origin, its corners `radius` from it."""
    angles = np.radians([*FLAT, *CORNERS])
    reach = np.array([FLAT_REACH, FLAT_REACH, 1.0, 1.0, 1.0]) * radius
    return np.column_stack([np.cos(angles), np.sin(angles)]) * reach[:, None]


def peg_in(section: shapely.Polygon, host: manifold3d.Manifold, fit: Fit) -> Peg | None:
    """The peg that a region bears whose socket goes upwards into `host`; None where it is too narrow, or there is no
    depth behind it.
    """
    circle = shapely.maximum_inscribed_circle(section)
    (x, y), (ex, ey) = circle.coords[0], circle.coords[-1]
    room = math.hypot(ex - x, ey - y)
    most = 2 * min(room - max(WALL_MM, WALL_SHARE * room) - fit.clearance, WIDEST_MM / 2)
    for share, times in itertools.product(WIDE, LONG):
        width = share * most
        if width < fit.least:
            return None
        peg = Peg((x, y), width, round(times * width, 2), fit.clearance)
        socket = peg.prism(fit.clearance + WALL_MM / 2, peg.length + fit.clearance + WALL_MM)
        above = socket.trim_by_plane([0.0, 0.0, 1.0], 1e-4)
        whole = above.volume()
        if whole > 0 and (above - host).volume() <= OUTSIDE * whole:
            return peg
    return None
