"""Drills that need no figure: reading an angle both ways, steps on a slope bare and primed, trials in which more than
one thing moved, and undersides as supports leave them.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Collection

import numpy as np

from ..mesh import Mesh, picture
from ..process.heights import PRIMED_MM, VISIBLE_MM
from .question import Drill, Key, Question
from .underside import underside_drill

SIDE = (360, 300)
ANGLE_SLACK = 6.0
"""Prior, degrees: nearer nobody reads a slope by eye."""
FOOT_MM, TALL_MM, DEEP_MM = 8.0, 14.0, 6.0
SETTINGS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("layer height", ("0.03 mm", "0.05 mm", "0.08 mm", "0.1 mm")),
    ("exposure", ("1.8 s", "2.0 s", "2.3 s", "2.6 s")),
    ("lift speed", ("40 mm/min", "60 mm/min", "90 mm/min")),
    ("tip diameter", ("0.25 mm", "0.35 mm", "0.45 mm")),
    ("pose", ("upright", "leaning 25°", "leaning 40°")),
    ("bottle of resin", ("opened in May", "opened in October")),
    ("room", ("17 °C", "21 °C", "25 °C")),
    ("film", ("new", "40 prints old", "180 prints old")),
)


def plain_drills(seed: int, many: int = 4, without: Collection[str] = ()) -> list[Drill]:
    """So many of each kind but for those that are there; each kind is drawn by itself, so that another one changes
    nothing of it.
    """
    made = []
    for kind, make in PLAIN.items():
        rng = np.random.default_rng([seed, *kind.encode()])
        made.append([make(rng) for _ in range(many)] if kind not in without else [])
    return [drill for turn in itertools.zip_longest(*made) for drill in turn if drill is not None]


def leaning(degrees: float) -> Mesh:
    """A wall whose right side overhangs by so much from the vertical."""
    shift = TALL_MM * math.tan(math.radians(degrees))
    low = np.array([[0, 0, 0], [FOOT_MM, 0, 0], [FOOT_MM, DEEP_MM, 0], [0, DEEP_MM, 0]], float)
    top = low + [0, 0, TALL_MM]
    top[1:3, 0] += shift
    faces = [
        (0, 2, 1), (0, 3, 2), (4, 5, 6), (4, 6, 7), (0, 1, 5), (0, 5, 4),
        (1, 2, 6), (1, 6, 5), (2, 3, 7), (2, 7, 6), (3, 0, 4), (3, 4, 7),
    ]  # fmt: skip
    return Mesh(np.concatenate([low, top]), np.array(faces, np.int32))


def angle_drill(rng: np.random.Generator) -> Drill:
    """How steep is it, from the vertical or from the level?"""
    upright = float(rng.integers(4, 15) * 5)
    from_vertical = bool(rng.integers(2))
    where = "vertical: 0° is a wall, 90° a ceiling" if from_vertical else "level: 90° is a wall, 0° a ceiling"
    said = upright if from_vertical else 90 - upright
    return Drill(
        "angle",
        Question(
            f"How far does the right side overhang, counted from the {where}?",
            [picture(leaning(upright), SIDE, azimuth=-90.0, elevation=0.0)],
            unit="°",
        ),
        Key(
            number=said,
            slack=ANGLE_SLACK,
            told=f"It leans {upright:.0f}° from the vertical, which others call {90 - upright:.0f}° from the level. "
            "Ask which is meant before a limit is typed in: 30° the wrong way round is 60°.",
        ),
    )


def steps_drill(rng: np.random.Generator) -> Drill:
    """How deep is a step? The part of a layer's height that stands off the slope."""
    height = float(rng.choice([0.03, 0.05, 0.08, 0.12, 0.2]))
    rise = float(rng.choice([5, 10, 20, 35, 50, 70]))
    deep = 1000 * height * math.cos(math.radians(rise))
    return Drill(
        "steps",
        Question(
            f"Layers of {height:g} mm on a slope that rises {rise:.0f}° from the level: how far do the steps' edges "
            "stand off the surface that was meant?",
            unit="µm",
        ),
        Key(
            number=round(deep, 1),
            slack=max(3.0, 0.12 * deep),
            told=f"Height times the cosine of the rise: {height:g} mm x cos {rise:.0f}° = {deep:.0f} µm. Steps are "
            "deepest where it is nearly level, and vanish on a wall; primer hides some 50 µm, bare resin 30 (priors).",
        ),
    )


CLOSE = 0.12
"""Nobody is asked of steps that lie nearer to a border, by its share: the borders are priors."""


def primed_drill(rng: np.random.Generator) -> Drill:
    """Are steps seen on bare plastic, under primer, or not at all?"""
    borders = (VISIBLE_MM, PRIMED_MM)
    deep = 0.0
    while any(abs(deep / border - 1) < CLOSE for border in borders) or not deep:
        height = float(rng.choice([0.02, 0.03, 0.05, 0.08, 0.1, 0.16]))
        rise = float(rng.choice([5, 15, 25, 35, 45, 55, 65, 75]))
        deep = height * math.cos(math.radians(rise))
    right = 0 if deep < VISIBLE_MM else 1 if deep < PRIMED_MM else 2
    said = f"They stand off by {1000 * deep:.0f} µm"
    return Drill(
        "primed",
        Question(
            f"Layers of {height:g} mm on a slope that rises {rise:.0f}° from the level: who sees the steps?",
            options=["nobody, bare or primed", "whoever looks at it bare; primer hides them", "everybody, primed too"],
        ),
        Key(
            right=[right],
            credit=[1.0 - 0.5 * abs(k - right) for k in range(3)],
            reasons=[
                f"{said}: below {1000 * VISIBLE_MM:.0f} µm nobody sees them."
                if right == 0
                else f"{said}, and that is seen.",
                f"{said}, between {1000 * VISIBLE_MM:.0f} and {1000 * PRIMED_MM:.0f} µm."
                if right == 1
                else f"{said}: {'too little' if right == 0 else 'too much'} for that.",
                f"{said}: above {1000 * PRIMED_MM:.0f} µm primer only softens them."
                if right == 2
                else f"{said}, which primer hides.",
            ],
            told="Height times the cosine of the rise, again. A thinner layer everywhere is the dearest cure: a pose "
            "in which the face is steep, or primer and a sanding stick, is often cheaper. Dry-brushing finds all.",
        ),
    )


def factor_drill(rng: np.random.Generator) -> Drill:
    """Two prints that were to differ in one thing."""
    order = rng.permutation(len(SETTINGS))[:6]
    meant, also = int(order[0]), sorted(int(k) for k in order[1 : 1 + int(rng.integers(1, 3))])
    lines = []
    shown = sorted(int(k) for k in order)
    for k in shown:
        name, levels = SETTINGS[k]
        one, other = (levels[int(i)] for i in rng.permutation(len(levels))[:2])
        lines.append(f"{name}: {one}, then {other if k == meant or k in also else one}")
    options = [line.split(":")[0] for line in lines]
    right = [i for i, k in enumerate(shown) if k in also]
    what = SETTINGS[meant][0]
    return Drill(
        "factor",
        Question(
            f"Somebody prints a figure twice to see what another {what} does. The sheets say: {'; '.join(lines)}. "
            "What else moved?",
            options=options,
            many=True,
        ),
        Key(
            right=right,
            reasons=[
                "This was meant to move." if k == meant else "It moved too." if k in also else "It stayed."
                for k in shown
            ],
            told="What is seen on the second print may come from any of them. Change one thing, or print all four "
            "combinations; a series says so before the first print.",
        ),
    )


PLAIN: dict[str, Callable[[np.random.Generator], Drill]] = {
    "angle": angle_drill,
    "factor": factor_drill,
    "steps": steps_drill,
    "primed": primed_drill,
    "underside": underside_drill,
}
"""Kinds that need no figure, in the order in which they are asked."""
