"""What a run freezes, in words."""

from __future__ import annotations

from typing import Literal

from .base import Document

Where = Literal["plan", "printer", "material", "room"]


class FrozenLine(Document):
    """One thing that was set, by its name: in the plan, on the printer, of the material, or noted of the room."""

    where: Where
    name: str
    value: str


class LineChanged(Document):
    """One thing that is set otherwise than before."""

    where: Where
    name: str
    now: str
    before: str


class ToldHazard(Document):
    """What the proof told of a hazard when the run was started: its code, layer and place, chance and loss;
    `by_margin`: the chance is that of a margin, of that `part` of the load path, where prints differ `scatter` times
    as much as usual.
    """

    code: str
    layer: int
    x_mm: float
    y_mm: float
    z_mm: float
    chance: float
    loss: str
    message: str
    by_margin: bool = False
    part: str = ""
    scatter: float = 1.0
