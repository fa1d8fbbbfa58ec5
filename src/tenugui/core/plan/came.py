"""Supports that a figure came with in a plan's own file: the very tips, where it stands as it stood there."""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass

import numpy as np

from ..contract import SettingsDoc, braces_from, tips_from
from ..supports import Brace, Tip
from .inputs import PosedInputs
from .shelf import Shelf

CAME = "came"
"""The style of supports that are taken as they came."""
AS_IT_WAS = 1e-4
"""How far a foot may stand from the plate, and a size from its own, for supports to fit."""


@dataclass(frozen=True)
class Came:
    """Supports in build coordinates, and the accepted risk that they were made at."""

    tips: list[Tip]
    braces: list[Brace]
    raft: bool
    risk: float


def came_with(shelf: Shelf, inputs: PosedInputs, sha: str | None) -> Came | None:
    """What the figure came with by the settings `sha`, placed with it; None where it came with nothing, or stands or is
    sized otherwise than in its file.
    """
    if not sha:
        return None
    settings = SettingsDoc.loaded(shelf.get(sha))
    turn, shift = inputs.placed.place.turn, inputs.placed.place.shift
    if abs(inputs.factor - 1) > AS_IT_WAS or turn[2, 2] < 1 - AS_IT_WAS or not settings.supports.tips:
        return None

    def placed(at: tuple[float, float, float]) -> tuple[float, float, float]:
        x, y, z = (float(v) for v in turn @ np.array(at) + shift)
        return x, y, z

    tips = []
    for tip in tips_from(settings.supports.tips):
        x, y, z = placed((tip.x, tip.y, tip.z))
        joints = tuple(placed(joint) for joint in tip.joints)
        cells = tuple((*placed((x, y, 0.0))[:2], begins, ends) for x, y, begins, ends in tip.cells)
        tips.append(dataclasses.replace(tip, x=x, y=y, z=z, joints=joints, cells=cells))
    if any(abs(tip.joints[0][2]) > AS_IT_WAS for tip in tips if tip.stands):
        return None
    braces = [
        dataclasses.replace(b, start=placed(b.start), end=placed(b.end)) for b in braces_from(settings.supports.braces)
    ]
    return Came(tips, braces, settings.supports.raft, settings.risk)
