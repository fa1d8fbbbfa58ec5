"""What a support set is made of: tips with their ways, and braces between them."""

from __future__ import annotations

import math
from dataclasses import dataclass

Point = tuple[float, float, float]
Cell = tuple[float, float, float, float]
"""A square of an area in plan: its middle, where it begins (0 on the plate), and where it ends, mm."""


@dataclass(frozen=True)
class Tip:
    """One support. (`x`, `y`, `z`) is its contact; `joints` run from the foot to the contact; `widths` are the
    diameters at all but the last.

    A `branch` starts at another support's pillar; a `square` one is a column of a block, its diameters those of the
    corners. On the plate it widens to a foot of `foot` mm at most, where the figure leaves it so much room, and of
    `foot_least` at least, where it does. `gap`: printed so far short of the figure, 0 where it grips. `cap` and `pad`:
    diameter and thickness of the interface that it ends in, 0 for a plain end, to which it widens by `flare` mm a mm.
    `cradle`: radius of the prongs around a sharp point, 0 for none. `plinth`: it stands on what the figure was given to
    stand on, which a scar does not hurt. `cells` of `cell` mm: an area, one body that widens from the plate up to
    them; it holds all that is over them, and its contact is one of many. `gap_layers`: how many layers short somebody
    wants it, None for as many as its machine has. `density`: of its lines as a share of solid, where somebody chose it.
    """

    x: float
    y: float
    z: float
    diameter: float
    widths: tuple[float, ...]
    reason: str
    on: str
    joints: tuple[Point, ...]
    branch: bool = False
    square: bool = False
    foot: float = math.inf
    foot_least: float = 0.0
    gap: float = 0.0
    cap: float = 0.0
    pad: float = 0.0
    flare: float = 1.0
    cradle: float = 0.0
    plinth: bool = False
    cells: tuple[Cell, ...] = ()
    cell: float = 0.0
    gap_layers: int | None = None
    density: float | None = None

    @property
    def foot_radius(self) -> float:
        """Of its foot on a bare plate, mm: as wide as it is to be, as far as the figure beside it leaves room."""
        wide = self.pillar / 2
        least = max(2.2 * wide, wide + 0.6, self.foot_least / 2)
        return max(wide, min(least, self.foot / 2))

    @property
    def pillar(self) -> float:
        """Diameter in mm where it starts."""
        return self.widths[0]

    @property
    def contacts(self) -> list[Point]:
        """Where it meets the figure: a tip once, an area over each of its cells."""
        return [(x, y, top + self.gap) for x, y, _, top in self.cells] or [(self.x, self.y, self.z)]

    @property
    def feet(self) -> list[tuple[float, float]]:
        """Where it stands on the plate."""
        return [(x, y) for x, y, begins, _ in self.cells if begins <= 0] or [self.joints[0][:2]]

    @property
    def stands(self) -> bool:
        """Whether it has a foot of its own on the plate."""
        return self.on == "plate" and not self.branch

    @property
    def scars_twice(self) -> bool:
        """Whether it stands on the figure itself."""
        return self.on == "model" and not self.plinth


@dataclass(frozen=True)
class Brace:
    """A strut between two pillars, from `start` to `end`, of one diameter."""

    start: Point
    end: Point
    diameter: float
