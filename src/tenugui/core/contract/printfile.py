"""`tenugui/printfile@1`: the file that a machine takes, and what it says when it is read back."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..paths import Blemishes
from .base import Document, Sha


class LayerPathDoc(Document):
    """One layer as the machine will draw it: moves through `points` (n + 1) on the plate in mm, the kind of each by its
    number in `kinds`, and its seconds; by their numbers the moves that begin an outermost line (`begins`), and those
    that cross open air with the filament drawn back (`strings`).
    """

    layer: int
    layers: int
    z_mm: float
    points: list[tuple[float, float]]
    kind: list[int]
    seconds: list[float]
    kinds: list[str]
    begins: list[int]
    strings: list[int]


class BlemishDoc(Document):
    """`count` of a kind within two mm of height, most of them in `layer`, from 1."""

    code: Literal["string", "start", "slowed"]
    layer: int
    z_mm: float
    x_mm: float
    y_mm: float
    count: int


class BlemishesDoc(Document):
    """What a path will show: strings across open air and how many of them at what is seen, outermost lines that begin
    where it is seen, layers slowed to cool.
    """

    strings: int
    air_mm: float
    strings_seen: int
    starts: int
    starts_seen: int
    slowed: int
    spots: list[BlemishDoc]


class PrintFileDoc(Document):
    """A written file: `size` in bytes, what it was written for, and by its own content how many layers it has, how much
    it takes, and for how long;
    `differs`: layers whose content says another thing than was meant; `lost_mm3`: what is thinner than a line;
        `thickest_mm`: the thickest layer, where they differ.
    """

    schema_: Literal["tenugui/printfile@1"] = Field("tenugui/printfile@1", alias="schema")
    kind: Literal["layers", "gcode"]
    sha: Sha
    size: int
    printer: str
    layer_height_mm: float
    thickest_mm: float | None = None
    layers: int
    volume_ml: float
    time_s: float
    differs: int
    lost_mm3: float = 0.0
    blemishes: BlemishesDoc | None = None


class SlicesDoc(Document):
    """A written 3MF with the outlines of every layer: its `size` in bytes, layers, and closed outlines in all."""

    sha: Sha
    size: int
    layers: int
    outlines: int


def blemishes_document(blemishes: Blemishes, tops: NDArray[np.float64]) -> BlemishesDoc:
    """Blemishes; `tops` (layers,) mm."""
    return BlemishesDoc(
        strings=blemishes.strings,
        air_mm=blemishes.air_mm,
        strings_seen=blemishes.near,
        starts=blemishes.starts,
        starts_seen=blemishes.shown,
        slowed=blemishes.slowed,
        spots=[
            BlemishDoc(
                code=spot.code,  # type: ignore[arg-type]
                layer=spot.layer + 1,
                z_mm=float(tops[spot.layer]),
                x_mm=spot.x,
                y_mm=spot.y,
                count=spot.count,
            )
            for spot in blemishes.spots
        ],
    )
