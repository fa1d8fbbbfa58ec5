"""A limb parted from a figure by a plane, pegged, by the robust boolean library: volumes add up."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from ..errors import CoreError
from ..mesh import Mesh
from .peg import FOOT_MM, TAPER, Fit, Peg, peg_in

F8 = NDArray[np.float64]
B1 = NDArray[np.bool_]
U1 = NDArray[np.uint8]
JOIN_MIN, SEAM_MIN_PER_MM = 4.0, 0.12
"""Priors: minutes to fit, glue and hold a joint, and to fill and sand a millimetre of it that everybody sees."""
PIN_MIN = 8.0
"""Prior: a joint that bears no peg is drilled and pinned with wire in so many minutes."""
LEAST_SHARE = 1e-3
"""A limb of less of the figure is none."""
ALIKE = 2e-3
"""By how much volumes may differ from their sum."""
ON_PLANE = 1e-3
SLICE = 1e-3
"""How far beyond the plane a side is looked at, mm."""
OLD, SEAM, FITS = 0, 1, 2
"""Where a face of a part comes from: the figure, the plane, a peg or its socket."""


class PartingError(CoreError):
    """A figure that cannot be parted so."""


@dataclass(frozen=True)
class Plane:
    """Through `point` across the unit vector `normal`, mm in the frame of the figure at its size."""

    point: tuple[float, float, float]
    normal: tuple[float, float, float]

    def frame(self) -> F8:
        """(3, 4): into coordinates in which the plane is z = 0 and `point` the origin."""
        z = np.array(self.normal) / np.linalg.norm(self.normal)
        x = np.cross(z, [1.0, 0, 0] if abs(z[0]) < 0.9 else [0, 1.0, 0])
        x /= np.linalg.norm(x)
        turn = np.array([x, np.cross(z, x), z])
        return np.column_stack([turn, -turn @ np.array(self.point)])


@dataclass(frozen=True)
class Joint:
    """Where two parts meet: area of the section in mm², its outline in mm, the peg in the plane's frame if any."""

    area: float
    seam: float
    peg: Peg | None


def joint_minutes(seam: float, seen: float, *, pinned: bool) -> float:
    """Minutes by hand of a joint: its seam in mm, how much people look at it (0 to 1), and whether it wants a pin.

    >>> joint_minutes(50.0, 0.5, pinned=False), joint_minutes(50.0, 0.0, pinned=True)
    (7.0, 12.0)
    """
    return JOIN_MIN + SEAM_MIN_PER_MM * seam * seen + (PIN_MIN if pinned else 0.0)


@dataclass(frozen=True)
class Parted:
    """The rest and the limb, mm in the figure's frame, for each where its faces come from (f,): OLD, SEAM, FITS; the
    plane whose normal points at the limb; the joint.
    """

    rest: Mesh
    limb: Mesh
    rest_from: U1
    limb_from: U1
    plane: Plane
    joint: Joint


def part(mesh: Mesh, plane: Plane, fit: Fit | None, spared: Sequence[tuple[F8, float]] = ()) -> Parted:
    """Part what hangs on the figure by the region of the section nearest to the plane's point. `fit`: how a peg is
    made, none where None; `spared`: faces (middle, radius) that no seam may cross.

    Raises:
        PartingError: `not-closed`, `misses`, `hangs-together`, `through-a-face`, `too-little`, `not-parted`.
    """
    solid = closed(mesh)
    frame = plane.frame()
    flat = solid.transform(frame)
    chosen = _nearest(_regions(flat, 0.0), plane)
    _not_through(chosen, frame, spared)
    sides = [side.decompose() for side in flat.split_by_plane([0.0, 0.0, 1.0], 0.0)]
    hanging = [
        (piece.volume(), k, n)
        for k, (side, at) in enumerate(zip(sides, (SLICE, -SLICE), strict=True))
        for n, piece in enumerate(side)
        if _hangs(piece, at, chosen)
    ]
    _, above, which = min(hanging, default=(0.0, -1, -1))
    limb = sides[above][which] if hanging else None
    if limb is None or limb.volume() > 0.98 * flat.volume():
        raise PartingError(
            "hangs-together",
            "What is on either side of this region hangs on the figure elsewhere too.",
            _at(plane),
            "Cut where a limb is joined at one place alone.",
        )
    if limb.volume() < LEAST_SHARE * flat.volume():
        raise PartingError("too-little", "Hardly anything would be parted.", _at(plane), "Cut nearer to the body.")
    left = [p for k, side in enumerate(sides) for n, p in enumerate(side) if (k, n) != (above, which)]
    rest = manifold3d.Manifold.batch_boolean(left, manifold3d.OpType.Add)
    if abs(rest.volume() + limb.volume() - flat.volume()) > ALIKE * flat.volume():
        raise PartingError(
            "not-parted",
            "The two parts do not add up to the figure.",
            _at(plane),
            "Repair the figure, or cut elsewhere.",
        )
    if above == 0:  # the limb lies above the plane, and its peg goes down into the rest: both are turned over
        flip = np.array([[1.0, 0, 0, 0], [0, -1.0, 0, 0], [0, 0, -1.0, 0]])
        limb, rest, frame = limb.transform(flip), rest.transform(flip), flip[:, :3] @ frame
        chosen = shapely.Polygon(chosen.exterior.coords, [r.coords for r in chosen.interiors])
        chosen = shapely.transform(chosen, lambda p: p * [1.0, -1.0])
    peg = None if fit is None else peg_in(chosen, rest, fit)
    if peg is not None:
        limb = limb + peg.prism(0.0, peg.length, TAPER)
        rest = rest - peg.prism(peg.clearance, peg.length + peg.clearance)
    joint = Joint(float(chosen.area), float(chosen.length), peg)
    back = np.linalg.inv(np.vstack([frame, [0, 0, 0, 1.0]]))[:3]
    meshes = [_mesh(part_.transform(back)) for part_ in (rest, limb)]
    froms = [_from(part_, frame, chosen, peg) for part_ in meshes]
    towards = (-frame[2, 0], -frame[2, 1], -frame[2, 2])
    return Parted(meshes[0], meshes[1], froms[0], froms[1], Plane(plane.point, towards), joint)


def _at(plane: Plane) -> str:
    return "at {:.1f}, {:.1f}, {:.1f} mm".format(*plane.point)


def closed(mesh: Mesh) -> manifold3d.Manifold:
    """A figure as a solid.

    Raises:
        PartingError: `not-closed`.
    """
    solid = manifold3d.Manifold(
        manifold3d.Mesh(mesh.vertices.astype(np.float32), np.ascontiguousarray(mesh.faces, np.uint32))
    )
    if solid.status() != manifold3d.Error.NoError or solid.is_empty():
        raise PartingError(
            "not-closed", "Only a closed figure can be parted.", "", "Close it in Size first, by a remesh if need be."
        )
    return solid


def _mesh(solid: manifold3d.Manifold) -> Mesh:
    out = solid.to_mesh()
    return Mesh(np.array(out.vert_properties[:, :3], np.float64), np.array(out.tri_verts, np.int32))


def _regions(flat: manifold3d.Manifold, z: float) -> list[shapely.Polygon]:
    """What a plane cuts, as polygons with their holes."""
    rings = [shapely.Polygon(ring) for ring in flat.slice(z).to_polygons() if len(ring) >= 3]
    outer = [shapely.make_valid(r) for r in rings if _turns(r) > 0]
    holes = shapely.union_all([shapely.make_valid(r) for r in rings if _turns(r) <= 0])
    cut = shapely.difference(shapely.union_all(outer), holes)
    return [p for p in shapely.get_parts(cut) if isinstance(p, shapely.Polygon) and p.area > 0]


def _turns(ring: shapely.Polygon) -> float:
    x, y = np.asarray(ring.exterior.coords).T
    return float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum())


def _nearest(regions: Sequence[shapely.Polygon], plane: Plane) -> shapely.Polygon:
    origin = shapely.Point(0.0, 0.0)
    found = min(regions, key=lambda region: float(region.distance(origin)), default=None)
    if found is None:
        raise PartingError("misses", "The plane does not meet the figure.", _at(plane), "Put it on the figure.")
    return found


def _hangs(side: manifold3d.Manifold, at: float, chosen: shapely.Polygon) -> bool:
    """Whether a piece of one side touches the plane in the chosen region, and there alone."""
    touching = [region for region in _regions(side, at) if region.area > ON_PLANE]
    return len(touching) == 1 and touching[0].intersection(chosen).area > 0.5 * touching[0].area


def _not_through(chosen: shapely.Polygon, frame: F8, spared: Sequence[tuple[F8, float]]) -> None:
    for middle, radius in spared:
        x, y, z = frame[:, :3] @ middle + frame[:, 3]
        if abs(z) < radius and chosen.exterior.distance(shapely.Point(x, y)) < np.sqrt(radius**2 - z**2):
            raise PartingError(
                "through-a-face", "The seam would run through a face.", "", "Cut at the neck, or behind the head."
            )


def _from(mesh: Mesh, frame: F8, chosen: shapely.Polygon, peg: Peg | None) -> U1:
    """Where every face comes from."""
    middle = mesh.corners().mean(axis=1) @ frame[:, :3].T + frame[:, 3]
    corners = mesh.vertices @ frame[:, :3].T + frame[:, 3]
    flat = np.abs(corners[mesh.faces][:, :, 2]).max(axis=1) < ON_PLANE
    region = shapely.buffer(chosen, ON_PLANE)
    origin = np.zeros(len(mesh.faces), np.uint8)
    origin[flat & shapely.contains_xy(region, middle[:, 0], middle[:, 1])] = SEAM
    if peg is not None:
        x, y = middle[:, 0] - peg.middle[0], middle[:, 1] - peg.middle[1]
        near = np.hypot(x, y) <= peg.width / 2 + peg.clearance * 1.5 + ON_PLANE
        deep = (middle[:, 2] > ON_PLANE - FOOT_MM) & (middle[:, 2] <= peg.length + peg.clearance + ON_PLANE)
        origin[near & deep & (origin == OLD)] = FITS
    return origin
