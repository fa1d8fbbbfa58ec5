"""`tenugui/night@1`: many figures planned on some machines while nobody looks on."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from .base import Document, Refusal


class NightWay(Document):
    """A figure on one machine, planned to its proof: what it takes and risks, in coins at an evening's rates, and what
    of the limits it breaks; `picture` beside the table.
    """

    printer: str
    material: str
    layer_height_mm: float
    time_s: float
    hands_min: float
    mass_g: float
    risk: float
    tips: int
    coins: float
    lean_deg: float
    beyond: list[str]
    picture: str | None = None
    plan: dict[str, Any]


class NightRow(Document):
    """A figure of the night: its ways, the best within the limits, and what a person's eye is needed for first.
    `key`: of the file, the machines and the engine.
    """

    file: str
    key: str
    size_mm: list[float]
    ways: list[NightWay]
    best: int | None
    look: list[str]
    refused: list[Refusal]
    seconds: float


class NightPlate(Document):
    """Pieces of one machine, material and height that lie together, and how long that prints."""

    printer: str
    material: str
    pieces: list[str]
    time_s: float
    risk: float


class NightDoc(Document):
    """The morning's table."""

    schema_: Literal["tenugui/night@1"] = Field("tenugui/night@1", alias="schema")
    rows: list[NightRow]
    plates: list[NightPlate]
    unplaced: list[str]
    hours: float
    planned: int
    kept: int
    looked_first: int
