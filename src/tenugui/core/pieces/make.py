"""Test pieces. Each stands on a base of its own, its levels in a row from left to right, the front (-y) notched at the
first one, so that nobody reads it the wrong way round.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence

import numpy as np
from manifold3d import Manifold as Solid

from ..errors import CoreError
from ..mesh import Mesh

BASE_MM, NOTCH_MM, GAP_MM, DEEP_MM = 2.0, 1.5, 4.0, 12.0
FINE = 48
LEVELS: dict[str, tuple[float, ...]] = {
    "overhang": (20.0, 30.0, 40.0, 45.0, 50.0, 55.0, 60.0, 65.0, 70.0, 75.0),
    "bridge": (5.0, 10.0, 15.0, 20.0, 30.0, 40.0),
    "peg and hole": (0.4, 0.6, 0.8, 1.0, 1.5, 2.0, 3.0),
    "rod and wall": (0.3, 0.4, 0.5, 0.6, 0.8, 1.0, 1.5),
    "gap": (10.0,),
    "heights": (12.0,),
}
"""What each piece asks, from left to right: degrees from the vertical, or mm."""


def _base(wide: float, deep: float) -> Solid:
    block = Solid.cube((wide, deep, BASE_MM))
    return block - Solid.cube((NOTCH_MM, NOTCH_MM, BASE_MM * 3)).translate((0, 0, -BASE_MM))


def _mesh(solid: Solid) -> Mesh:
    made = solid.to_mesh()
    return Mesh(np.asarray(made.vert_properties[:, :3], np.float64), np.asarray(made.tri_verts, np.int32))


def overhangs(levels: Sequence[float] = LEVELS["overhang"], *, long: float = 10.0, thick: float = 2.0) -> Mesh:
    """Tongues that lean from the vertical by so many degrees, towards the back."""
    pitch = 5.0 + GAP_MM / 2
    whole = _base(pitch * len(levels) + GAP_MM, DEEP_MM)
    for k, lean in enumerate(levels):
        tongue = Solid.cube((5.0, thick, long + thick)).translate((0, 0, -thick))
        tongue = tongue.rotate((-lean, 0, 0)).translate((GAP_MM + pitch * k, 3.0, BASE_MM))
        below = Solid.cube((5.0, 4 * long, 4 * long)).translate((GAP_MM + pitch * k, -long, -4 * long + BASE_MM / 2))
        whole += tongue - below
    return _mesh(whole)


def bridges(levels: Sequence[float] = LEVELS["bridge"], *, tall: float = 6.0) -> Mesh:
    """Beams that lie on two posts, so far apart."""
    whole = _base(max(levels) + 2 * GAP_MM, (4.0 + GAP_MM) * len(levels) + GAP_MM)
    for k, span in enumerate(levels):
        y = GAP_MM + (4.0 + GAP_MM) * k
        posts = Solid.cube((2.0, 4.0, tall + BASE_MM)) + Solid.cube((2.0, 4.0, tall + BASE_MM)).translate(
            (span + 2.0, 0, 0)
        )
        beam = Solid.cube((span + 4.0, 4.0, 1.5)).translate((0, 0, tall + BASE_MM))
        whole += (posts + beam).translate((NOTCH_MM, y, 0))
    return _mesh(whole)


def pegs_and_holes(levels: Sequence[float] = LEVELS["peg and hole"], *, tall: float = 5.0) -> Mesh:
    """A row of upright pegs and a row of holes through the base, of the same diameters."""
    pitch = max(levels) + GAP_MM
    whole = _base(pitch * len(levels) + GAP_MM, 2 * pitch + GAP_MM)
    for k, wide in enumerate(levels):
        x = GAP_MM + pitch * k + wide / 2
        whole += Solid.cylinder(tall + BASE_MM / 2, wide / 2, wide / 2, FINE).translate((x, 1.5 * pitch, BASE_MM / 2))
        whole -= Solid.cylinder(3 * BASE_MM, wide / 2, wide / 2, FINE).translate((x, 0.5 * pitch + 1, -BASE_MM))
    return _mesh(whole)


def rods_and_walls(levels: Sequence[float] = LEVELS["rod and wall"], *, tall: float = 12.0) -> Mesh:
    """A row of upright rods and a row of walls 6 mm wide, so thin."""
    pitch = 6.0 + GAP_MM / 2
    whole = _base(pitch * len(levels) + GAP_MM, DEEP_MM)
    for k, thin in enumerate(levels):
        x = GAP_MM + pitch * k
        whole += Solid.cylinder(tall + BASE_MM / 2, thin / 2, thin / 2, FINE).translate((x + 3, 8.0, BASE_MM / 2))
        whole += Solid.cube((6.0, thin, tall + BASE_MM / 2)).translate((x, 3.5, BASE_MM / 2))
    return _mesh(whole)


def gaps(levels: Sequence[float] = LEVELS["gap"], *, side: float = 20.0) -> Mesh:
    """A flat table on one post at its edge, so high above the base: what lets go of its underside is the question."""
    (tall,) = levels
    post = Solid.cube((4.0, side, tall + BASE_MM))
    top = Solid.cube((side, side, 2.0)).translate((0, 0, tall + BASE_MM))
    return _mesh(_base(side, side) + post + top)


def heights(levels: Sequence[float] = LEVELS["heights"]) -> Mesh:
    """A dome beside a slope and a wall with letters' depth: what layers show on."""
    (tall,) = levels
    base = _base(3 * tall + 4 * GAP_MM, tall + 2 * GAP_MM)
    dome = (
        Solid.sphere(tall / 2, 96)
        .trim_by_plane((0, 0, 1), 0)
        .translate((GAP_MM + tall / 2, GAP_MM + tall / 2, BASE_MM))
    )
    slope = Solid.cube((tall, tall, tall)).translate((2 * GAP_MM + tall, GAP_MM, BASE_MM))
    cut = Solid.cube((2 * tall, 2 * tall, 2 * tall)).rotate((0, -math.degrees(math.atan(1 / 4)), 0))
    slope -= cut.translate((2 * GAP_MM + tall, 0, BASE_MM + tall / 2))
    wall = Solid.cube((tall, 3.0, tall)).translate((3 * GAP_MM + 2 * tall, GAP_MM, BASE_MM))
    for k in range(5):
        groove = Solid.cube((0.3 + 0.2 * k, 1.0, tall)).translate(
            (3 * GAP_MM + 2 * tall + 1 + 2 * k, GAP_MM - 0.5, BASE_MM + 1)
        )
        wall -= groove
    return _mesh(base + dome + slope + wall)


PIECES: Mapping[str, Callable[[Sequence[float]], Mesh]] = {
    "overhang": overhangs,
    "bridge": bridges,
    "peg and hole": pegs_and_holes,
    "rod and wall": rods_and_walls,
    "gap": gaps,
    "heights": heights,
}


def piece(name: str, levels: Sequence[float] | None = None) -> Mesh:
    """One by its name, at its usual levels or these.

    Raises:
        CoreError: `no-piece`.
    """
    if name not in PIECES:
        raise CoreError(
            "no-piece", f"There is no test piece called '{name[:40]}'.", remedy=f"Take {', '.join(PIECES)}."
        )
    return PIECES[name](LEVELS[name] if levels is None else levels)
