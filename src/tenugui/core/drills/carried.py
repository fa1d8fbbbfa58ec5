"""What one body under an area carries better than a field of single tips."""

from __future__ import annotations

import numpy as np

from .of_figure import FROM_BELOW, Scene, letters, spaced
from .question import Drill, Key, Question
from .shown import in_sight, lettered

MOST_AREAS, MOST_PINS = 3, 4


def area_drill(scene: Scene, rng: np.random.Generator) -> Drill | None:
    """Which of these undersides wants an area?"""
    at = np.array([(t.x, t.y, t.z) for t in scene.tips]).reshape(-1, 3)
    mm2 = np.array([len(t.cells) * t.cell**2 for t in scene.tips])
    if not (mm2 > 0).any():
        return None
    seen = np.asarray(in_sight(scene.figure, at, FROM_BELOW).any(axis=1))
    broad = np.flatnonzero(seen & (mm2 > 0))
    right = spaced(at[broad[np.argsort(-mm2[broad])]], MOST_AREAS, np.empty((0, 3)))
    single = np.flatnonzero(seen & (mm2 == 0))
    wrong = spaced(at[rng.permutation(single)], MOST_PINS, right)
    if not len(right) or len(wrong) < 2:
        return None
    size = {tuple(p): float(a) for p, a in zip(at, mm2, strict=True)}
    points = np.concatenate([right, wrong])
    order = rng.permutation(len(points))
    shown = points[order]
    areas = [size[tuple(p)] for p in shown]
    return Drill(
        "area",
        Question(
            f"{scene.name}, held at each of these places. Where does one body under an area take the place of a field "
            "of single tips?",
            lettered(scene.figure, shown, FROM_BELOW),
            letters(len(shown)),
            many=True,
        ),
        Key(
            right=[k for k, area in enumerate(areas) if area > 0],
            reasons=[
                f"{area:.2g} mm² lie flat over air: lines under all of it, an interface on top."
                if area > 0
                else "Too little hangs here for a body of its own: one tip meets it."
                for area in areas
            ],
            told="A flat underside droops between tips and shows each of them: it wants a body below all of it. What "
            "ends in a point wants one tip, and what is held by its neighbours wants none.",
        ),
    )
