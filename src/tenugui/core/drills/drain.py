"""A hollow figure that wants a second hole: where most of the liquid comes out, and what stays elsewhere."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from ..mesh import Mesh
from .question import Drill, Key, Question
from .shown import LETTERS, in_sight, lettered

F8 = NDArray[np.float64]
Loops = Sequence[Sequence[tuple[float, float]]]
SIZE, MARGIN = 220, 12
INK, BODY, AIR, LIQUID = (32, 55, 95), (217, 211, 198), (250, 247, 240), (120, 160, 190)
ABOVE, MOST_PLACES = 12.0, 5
DRY_SHARE, WET_SHARE = 0.01, 0.04
"""Priors: the best place leaves no more than the first of a cavity, the worst more than the second: else there is
nothing to choose.
"""


@dataclass(frozen=True)
class Drained:
    """A place for the second hole: where it is on the figure, ml that pockets keep in the best position to drip,
    seconds until the rest is out (None: air does not come in), and the cut through it as it drips (PNG).
    """

    at: tuple[float, float, float]
    left_ml: float
    seconds: float | None
    picture: bytes


@dataclass(frozen=True)
class Hollowness:
    """A figure's outside as it is printed, ml of its largest cavity, and places for a second hole."""

    outside: Mesh
    volume_ml: float
    places: Sequence[Drained]


def cut(figure: Loops, cavity: Loops, cells: Sequence[tuple[float, float]], cell_mm: float) -> bytes:
    """A cut through a figure in the position that it drips in, as PNG; `cells` of width `cell_mm` stay filled. Lengths
    in mm, y against gravity.
    """
    points = np.array([p for loop in figure for p in loop]).reshape(-1, 2)
    low, high = points.min(axis=0), points.max(axis=0)
    scale = (SIZE - 2 * MARGIN) / max(float((high - low).max()), 1e-9)
    shift = (SIZE - scale * (high - low)) / 2

    def at(p: tuple[float, float]) -> tuple[float, float]:
        x, y = scale * (np.array(p) - low) + shift
        return float(x), float(SIZE - y)

    image = Image.new("RGB", (SIZE, SIZE), AIR)
    draw = ImageDraw.Draw(image)
    for loops, fill in ((figure, BODY), (cavity, AIR)):
        for loop in loops:
            draw.polygon([at(p) for p in loop], fill=fill, outline=INK)
    half = scale * cell_mm / 2
    for cell in cells:
        x, y = at(cell)
        draw.rectangle([x - half, y - half, x + half, y + half], fill=LIQUID)
    out = io.BytesIO()
    image.save(out, "PNG", optimize=True)
    return out.getvalue()


def drain_drill(name: str, hollow: Hollowness) -> Drill | None:
    """Where does the second hole go?"""
    left = np.array([place.left_ml for place in hollow.places])
    if len(left) < 3 or left.min() > DRY_SHARE * hollow.volume_ml or left.max() < WET_SHARE * hollow.volume_ml:
        return None
    points = np.array([place.at for place in hollow.places])
    right = int(np.argmin(left))
    question = Question(
        f"{name}, hollow, with one hole low down where it stood on the plate. Where goes the second, so that least "
        "resin stays however it is turned to drip?",
        lettered(hollow.outside, points, ABOVE, seen=in_sight(hollow.outside, points, ABOVE)),
        [f"at {LETTERS[k]}" for k in range(len(points))],
    )
    reasons = [
        f"{place.left_ml:.2g} ml of {hollow.volume_ml:.2g} stay"
        + (
            ", since no air comes in."
            if place.seconds is None
            else f"; the rest is out in {place.seconds:.0f} s (prior of the resin's flow)."
        )
        for place in hollow.places
    ]
    credit = np.clip(1 - (left - left.min()) / (WET_SHARE * hollow.volume_ml), 0, 1).round(3).tolist()
    told = (
        "One hole lets liquid out, the other lets air in: far apart, one of them at the end of what fills last. What "
        "lies deeper than both, a sleeve or a toe, keeps its resin, which bursts the figure months later."
    )
    return Drill(
        "drain",
        question,
        Key([right], credit=credit, reasons=reasons, told=told, pictures=[place.picture for place in hollow.places]),
    )
