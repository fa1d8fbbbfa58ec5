"""`tenugui/printfile@1`: the file that a machine takes, and what it says when it is read back."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from .base import Document, Sha


class LayerPathDoc(Document):
    """One layer as the machine will draw it: moves through `points` (n + 1) on the plate in mm, the kind of each by its number in `kinds`, and its seconds."""

    layer: int
    layers: int
    z_mm: float
    points: list[tuple[float, float]]
    kind: list[int]
    seconds: list[float]
    kinds: list[str]


class PrintFileDoc(Document):
    """A written file: `size` in bytes, what it was written for, and by its own content how many layers it has, how much it takes, and for how long;
    `differs`: layers whose content says another thing than was meant; `lost_mm3`: what is thinner than a line.
    """

    schema_: Literal["tenugui/printfile@1"] = Field("tenugui/printfile@1", alias="schema")
    kind: Literal["layers", "gcode"]
    sha: Sha
    size: int
    printer: str
    layer_height_mm: float
    layers: int
    volume_ml: float
    time_s: float
    differs: int
    lost_mm3: float = 0.0
