"""The fold Walls as a document: perimeters, roofs and infill of a filament figure."""

from __future__ import annotations

from .base import Document, Matrix, Numbers, Place
from .strip import StripDoc
from .worth import GiftDoc, WorthDoc


class NeckDoc(Document):
    """The part that breaks first in the pose, mm: its middle, its width, and how far what it carries reaches
    above it.
    """

    x_mm: float
    y_mm: float
    z_mm: float
    width_mm: float
    carries_mm: float


class WallsRow(Document):
    """An alternative. `open_mm2`: surface between perimeters and roofs that neither closes, where |n_z| lies within
    `open_lean`; `roofed_mm2`: what roofs close; `roof_opens`: chance that a roof sags through. `bears_n`: the push at
    its end that breaks the `weakest` part, `of_solid` the share of what it would bear solid; null where nothing stands
    on a neck.
    """

    name: str
    perimeters: int
    roof_mm: float
    infill: float
    own: bool
    open_mm2: float
    open_lean: tuple[float, float]
    roofed_mm2: float
    roof_opens: float
    weakest: NeckDoc | None
    bears_n: float | None
    of_solid: float | None
    mass_g: float
    strip: StripDoc
    numbers: Numbers
    gift: GiftDoc
    worth: WorthDoc | None = None


class WallsBoard(Document):
    """The fold Walls, for filament. `cures`: perimeters that close what the machine's own leave open, null where
    nothing is open or none do.
    """

    choices: list[WallsRow]
    recommended: int
    why: str
    cures: int | None
    layer_height_mm: float
    matrix: Matrix
    down: Place
