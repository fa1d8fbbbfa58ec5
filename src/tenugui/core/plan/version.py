"""A better version of a sculpt: how its file lies to the one before, and which of the deeds at places of that still lie
on its surface.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..contract import EditAsk, HoleAsk, StrokeDoc
from ..contract.base import Place
from ..errors import CoreError
from ..mesh import Mesh, surface_samples

F8 = NDArray[np.float64]
SAMPLES, STEPS = 20_000, 12
ALIKE, ON_IT = 0.01, 0.015
"""Of the diagonal: files whose surfaces lie farther apart on the median are no two versions of one figure; a deed that
lies farther from the new surface is none of it.
"""
GROWN = 0.5
"""A version is no more than e to this larger or smaller than the one before, but for its unit."""
UNITS = (1.0, 10.0, 0.1, 25.4, 1 / 25.4, 1000.0, 0.001, 100.0, 0.01)
"""How files of one figure differ by their units."""


@dataclass(frozen=True)
class Lies:
    """From the frame of an old file to that of a new one: `times` its numbers, then `shift` (3,). `off`: the median
    distance between both surfaces then, of the new diagonal.
    """

    times: float
    shift: F8
    off: float

    def moved(self, points: F8) -> F8:
        """Places (n, 3) of the old file in the new one."""
        return np.asarray(points, float) * self.times + self.shift


def lies(old: Mesh, new: Mesh) -> Lies:
    """How a new file lies to the old one: as it did, at another unit or place, or scaled; never turned.

    Raises:
        CoreError: `not-alike`.
    """
    points, _ = surface_samples(old, 1e-9, SAMPLES)
    others, _ = surface_samples(new, 1e-9, SAMPLES)
    diagonal = float(np.linalg.norm(new.size))
    if not len(points) or not len(others) or diagonal <= 0:
        raise CoreError("not-alike", "One of the two files has no surface.", "", "Bring it in again.")
    tree, few = cKDTree(others), points[:: max(1, len(points) // 2000)]
    ratio = float(np.median(new.size / np.maximum(old.size, 1e-12)))
    as_large = diagonal / max(float(np.linalg.norm(old.size)), 1e-12)
    tried = []
    for times in (*(unit for unit in UNITS if abs(np.log(unit / as_large)) < GROWN), ratio):
        centred = (new.lower + new.upper) / 2 - times * (old.lower + old.upper) / 2
        for shift in (np.zeros(3), centred):
            far = tree.query(few * times + shift)[0]
            tried.append((float(np.median(far)), times, shift))
    _, times, shift = min(tried, key=lambda t: t[0])
    for _ in range(STEPS):  # nearest points' mean way, without turns (Besl, McKay 1992)
        far, at = tree.query(few * times + shift)
        close = far <= np.quantile(far, 0.8)
        shift = shift + (others[at] - (few * times + shift))[close].mean(axis=0)
    off = float(np.median(tree.query(points * times + shift)[0])) / diagonal
    if off > ALIKE:
        raise CoreError(
            "not-alike",
            f"The two files are not alike: their surfaces lie {off:.1%} of the figure apart.".replace("%", " %"),
            "",
            "Plan it anew; only another version of the same sculpt, that is not turned, takes over what was decided.",
        )
    return Lies(times, shift, off)


@dataclass(frozen=True)
class Carried:
    """What was done at places of the old figure, where the new one has them: strokes in its file's frame, changes of
    supports and holes at its size; and in words what lies on it no more.
    """

    strokes: list[StrokeDoc]
    edits: list[EditAsk]
    holes: list[HoleAsk]
    lost: dict[str, str]


class _Surface:
    """Where a figure's surface is near."""

    def __init__(self, mesh: Mesh) -> None:
        self.tree = cKDTree(surface_samples(mesh, 1e-9, 4 * SAMPLES)[0])
        self.reach = ON_IT * float(np.linalg.norm(mesh.size))

    def near(self, points: F8, more: float = 0.0) -> NDArray[np.bool_]:
        """Which places (n, 3) lie on it."""
        return np.asarray(self.tree.query(points)[0] <= max(self.reach, more))


def carried(
    way: Lies,
    new: Mesh,
    factor: float,
    *,
    strokes: Sequence[StrokeDoc] = (),
    edits: Sequence[EditAsk] = (),
    holes: Sequence[HoleAsk] = (),
) -> Carried:
    """What was done at places of the old figure, on the new one, which is printed `factor` times its file's numbers."""
    surface = _Surface(new)
    kept = [moved for stroke in strokes if (moved := _stroke(way, surface, stroke)) is not None]
    put = [_edit(edit, way, factor) for edit in edits]
    drilled = [
        hole.model_copy(
            update=dict(zip(("x_mm", "y_mm", "z_mm"), _at(way, factor, (hole.x_mm, hole.y_mm, hole.z_mm)), strict=True))
        )
        for hole in holes
    ]
    stay = _on(surface, [e.at for e in put], factor) | np.array([e.op == "raft" for e in put], np.bool_)
    open_ = _on(surface, [(h.x_mm, h.y_mm, h.z_mm) for h in drilled], factor)
    lost = {
        "marks": _said(len(strokes) - len(kept), "stroke"),
        "supports": _said(int((~stay).sum()), "change"),
        "hollow": _said(int((~open_).sum()), "hole"),
    }
    return Carried(
        kept,
        [e for e, on in zip(put, stay, strict=True) if on],
        [h for h, on in zip(drilled, open_, strict=True) if on],
        {fold: text for fold, text in lost.items() if text},
    )


def _said(many: int, what: str) -> str:
    return "" if many == 0 else f"{many} {what}{'s lie' if many > 1 else ' lies'} on the surface no more, and went"


def _stroke(way: Lies, surface: _Surface, stroke: StrokeDoc) -> StrokeDoc | None:
    """A stroke on the new surface: the places of it that are there; None where none is. Marks of the old file itself
    are none of the new one.
    """
    if stroke.tool == "file":
        return None
    if not stroke.points:
        return stroke
    radius = None if stroke.radius is None else stroke.radius * way.times
    points = way.moved(np.array(stroke.points))
    on = surface.near(points, radius or 0.0)
    if not on.any():
        return None
    told: list[Place] = [(float(x), float(y), float(z)) for x, y, z in points[on]]
    return stroke.model_copy(update={"points": told, "radius": radius})


def _at(way: Lies, factor: float, at: Place) -> Place:
    """A place of the old figure at its size, of the new one at its: both are printed equally large."""
    x, y, z = (round(float(v), 3) for v in np.array(at) + way.shift * factor)
    return x, y, z


def _edit(edit: EditAsk, way: Lies, factor: float) -> EditAsk:
    if edit.op == "raft":
        return edit
    to = None if edit.to is None else _at(way, factor, edit.to)
    return edit.model_copy(update={"at": _at(way, factor, edit.at), "to": to})


def _on(surface: _Surface, places: Sequence[Place], factor: float) -> NDArray[np.bool_]:
    return surface.near(np.array(places, float).reshape(-1, 3) / factor)
