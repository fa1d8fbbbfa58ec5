"""All kinds of drills that a figure has a question for."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from .carried import area_drill
from .drain import Hollowness, drain_drill
from .of_figure import (
    Scene,
    breaks_drill,
    first_drill,
    islands_drill,
    missing_drill,
    pose_drill,
    scars_drill,
    slot_drill,
    spare_drill,
)
from .question import Drill


def figure_drills(scene: Scene, seed: int, hollow: Hollowness | None = None) -> list[Drill]:
    """One of each; `hollow`: where it was hollowed."""
    rng = np.random.default_rng(seed)
    makers: tuple[Callable[[Scene, np.random.Generator], Drill | None], ...] = (
        islands_drill, missing_drill, scars_drill, breaks_drill, spare_drill, first_drill, pose_drill, slot_drill,
        area_drill,
    )  # fmt: skip
    made = [make(scene, rng) for make in makers]
    if hollow is not None:
        made.append(drain_drill(scene.name, hollow))
    return [drill for drill in made if drill is not None]
