"""Drills that are made of a figure: its pose, its layers, its supports, and the engine's own answers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..layers import Island, Proof
from ..layers.stack import alone_mm, is_slight
from ..mesh import Mesh
from ..supports import Tip, support_mesh, touched
from .question import Drill, Key, Question
from .shown import LETTERS, in_sight, lettered

F8 = NDArray[np.float64]
FROM_BELOW, FROM_ABOVE = -22.0, 12.0
APART_MM, FAR_MM = 3.0, 6.0
MOST = 6
DOWN, LEVEL = -0.35, -0.93
"""A face that looks down so far, and no farther, is an overhang that somebody might take for a start."""


@dataclass(frozen=True)
class Loss:
    """Something that may be lost: where, how often, in words."""

    at: tuple[float, float, float]
    chance: float
    said: str


@dataclass(frozen=True)
class PoseShown:
    """A pose of the board: its picture (PNG), coins, and its numbers in words."""

    picture: bytes
    coins: float
    said: str


@dataclass(frozen=True)
class HeightShown:
    """A layer height of the board: mm, hours."""

    height_mm: float
    hours: float


@dataclass(frozen=True)
class Scene:
    """A figure where it is printed: the proof of itself alone, its supports with what a scar costs at each and whether
    each is needed, what may be lost of it, and the boards that led here.
    """

    name: str
    figure: Mesh
    proof: Proof
    tips: Sequence[Tip] = ()
    costs: Sequence[float] = ()
    needed: Sequence[bool] = ()
    first_side: str = ""
    sides: dict[str, int] = field(default_factory=dict)
    losses: Sequence[Loss] = ()
    poses: Sequence[PoseShown] = ()
    heights: Sequence[HeightShown] = ()


def _starts(scene: Scene) -> list[Island]:
    height = scene.proof.stack.grid.height
    return [i for i in scene.proof.islands if not is_slight(i, height)]


def _in_sight(scene: Scene, points: F8) -> NDArray[np.bool_]:
    """Which points (n, 3) are seen from any side, from below."""
    return np.asarray(in_sight(scene.figure, points, FROM_BELOW).any(axis=1), np.bool_)


def _overhangs(scene: Scene, rng: np.random.Generator) -> F8:
    """Places (n, 3) on sloping undersides that grow out of what is below them, and out of nothing that starts in mid
    air.
    """
    figure, proof = scene.figure, scene.proof
    normal, area = figure.normals_and_areas()
    middles = figure.middles()
    fit = np.flatnonzero((normal[:, 2] < DOWN) & (normal[:, 2] > LEVEL) & (middles[:, 2] > figure.lower[2] + 1.0))
    if not len(fit):
        return np.empty((0, 3))
    some = rng.choice(fit, min(len(fit), 400), replace=False, p=area[fit] / area[fit].sum())
    at = middles[some]
    on = touched(proof, at)
    starting = {i.component for i in proof.islands}
    at = at[[c >= 0 and int(c) not in starting for c in on]]
    starts = np.array([(i.x, i.y, i.z) for i in proof.islands]).reshape(-1, 3)
    if len(starts) and len(at):
        near = np.linalg.norm(at[:, None] - starts[None], axis=2).min(axis=1)
        at = at[near > APART_MM]
    return np.asarray(at)


def spaced(points: F8, many: int, taken: F8) -> F8:
    """At most `many` of them, far from each other and from what is taken."""
    chosen = list(taken)
    for p in points:
        if len(chosen) - len(taken) >= many:
            break
        if all(np.linalg.norm(p - q) > APART_MM for q in chosen):
            chosen.append(p)
    return np.array(chosen[len(taken) :]).reshape(-1, 3)


def _shuffled(rng: np.random.Generator, right: F8, wrong: F8, why: Sequence[str], why_not: str) -> tuple[F8, Key]:
    """Both kinds of places in any order, and which are right."""
    points = np.concatenate([right, wrong])
    order = rng.permutation(len(points))
    reasons = [*why, *[why_not] * len(wrong)]
    return points[order], Key(
        right=[k for k, i in enumerate(order) if i < len(right)], reasons=[reasons[int(i)] for i in order]
    )


def letters(many: int) -> list[str]:
    """So many places as options."""
    return [f"at {LETTERS[k]}" for k in range(many)]


def islands_drill(scene: Scene, rng: np.random.Generator) -> Drill | None:
    """Which of these places start in mid air?"""
    height = scene.proof.stack.grid.height
    starts = _starts(scene)
    places = np.array([(i.x, i.y, i.z) for i in starts]).reshape(-1, 3)
    seen = _in_sight(scene, places)
    shown = [k for k in rng.permutation(len(starts)) if seen[k]]
    right = spaced(places[shown], 3, np.empty((0, 3)))
    others = _overhangs(scene, rng)
    others = others[_in_sight(scene, others)]
    wrong = spaced(others, MOST - len(right), right)
    if not len(right) or len(wrong) < 2:
        return None
    of = {tuple(places[k]): starts[k] for k in range(len(starts))}
    why = [
        f"Starts at {p[2]:.1f} mm with nothing under it, {of[tuple(p)].area:.2g} mm², and stays alone for "
        f"{alone_mm(of[tuple(p)], height):.1f} mm."
        for p in right
    ]
    points, key = _shuffled(rng, right, wrong, why, "It grows out of the layer below: an overhang, no start.")
    told = (
        "Go up layer by layer: what has nothing below it in the layer before starts in mid air, however small, "
        "and wants a support; a slope that grows outwards wants one only where it grows too fast."
    )
    question = Question(
        f"{scene.name}, in its pose and without supports. Which of these places start in mid air?",
        lettered(scene.figure, points, FROM_BELOW),
        letters(len(points)),
        many=True,
    )
    return Drill("islands", question, Key(right=key.right, reasons=key.reasons, told=told))


def missing_drill(scene: Scene, rng: np.random.Generator) -> Drill | None:
    """One support was taken away: where?"""
    alone = [
        k
        for k, tip in enumerate(scene.tips)
        if tip.reason == "island" and tip.on == "plate" and not tip.branch and not tip.cells
        and not any(other.branch and _near(other, tip) for other in scene.tips)
    ]  # fmt: skip
    at = np.array([(scene.tips[k].x, scene.tips[k].y, scene.tips[k].z) for k in alone]).reshape(-1, 3)
    seen = _in_sight(scene, at)
    able = [alone[k] for k in range(len(alone)) if seen[k]]
    others = _overhangs(scene, rng)
    if not able or len(others) < 3:
        return None
    gone = int(rng.choice(able))
    tip = scene.tips[gone]
    right = np.array([[tip.x, tip.y, tip.z]])
    others = others[_in_sight(scene, others)]
    held = np.array([(t.x, t.y, t.z) for k, t in enumerate(scene.tips) if k != gone]).reshape(-1, 3)
    if len(held):
        others = others[np.linalg.norm(others[:, None] - held[None], axis=2).min(axis=1) > APART_MM / 2]
    wrong = spaced(others, 3, right)
    if len(wrong) < 2:
        return None
    solid = support_mesh([t for k, t in enumerate(scene.tips) if k != gone], False)
    both = scene.figure if solid is None else Mesh.joined([scene.figure, solid])
    groups = np.zeros(len(both.faces))
    groups[len(scene.figure.faces) :] = 1
    why = [f"A part starts here at {tip.z:.1f} mm, and nothing holds it any more."]
    points, key = _shuffled(rng, right, wrong, why, "It grows out of what is below, and holds itself.")
    question = Question(
        f"{scene.name}: one support that was needed is gone. Where is it missing?",
        lettered(both, points, FROM_BELOW, groups=groups, seen=in_sight(scene.figure, points, FROM_BELOW)),
        letters(len(points)),
    )
    told = "Before a print is started: every lowest point of the figure is met by a support, or by the plate."
    return Drill("missing", question, Key(right=key.right, reasons=key.reasons, told=told))


def _near(branch: Tip, trunk: Tip) -> bool:
    x, y, _ = branch.joints[0]
    return any(np.hypot(x - p[0], y - p[1]) < trunk.pillar for p in trunk.joints)


def _of_tips(scene: Scene, rng: np.random.Generator, values: Sequence[float]) -> tuple[list[int], F8] | None:
    """Some tips that are seen, far from each other, the ones of the largest and the least value among them."""
    at = np.array([(t.x, t.y, t.z) for t in scene.tips]).reshape(-1, 3)
    if len(at) < 4 or len(values) != len(at):
        return None
    seen = np.flatnonzero(in_sight(scene.figure, at, FROM_BELOW).any(axis=1))
    if len(seen) < 4:
        return None
    worth = np.asarray(values, float)
    order = seen[np.argsort(-worth[seen], kind="stable")]
    queue = [int(order[0]), int(order[-1]), *(int(k) for k in rng.permutation(seen))]
    chosen: list[int] = []
    for k in queue:
        if len(chosen) < 5 and all(np.linalg.norm(at[k] - at[c]) > APART_MM for c in chosen):
            chosen.append(k)
    rng.shuffle(chosen)
    return (chosen, at[chosen]) if len(chosen) >= 3 else None


def scars_drill(scene: Scene, rng: np.random.Generator) -> Drill | None:
    """Which contact costs most to clean?"""
    some = _of_tips(scene, rng, scene.costs)
    if some is None:
        return None
    chosen, points = some
    costs = np.array([scene.costs[k] for k in chosen])
    if costs.max() < 1.5 * np.median(costs) or (costs == costs.max()).sum() > 1:
        return None
    credit = ((costs - costs.min()) / np.ptp(costs)).round(3).tolist()
    least = max(float(costs.min()), 1e-9)
    question = Question(
        f"{scene.name}: a support touches it at each of these places. Which scar costs most to make good?",
        lettered(scene.figure, points, FROM_BELOW),
        letters(len(chosen)),
    )
    reasons = [
        f"{c / least:.1f} times the cheapest of these." if c > least else "The cheapest of these." for c in costs
    ]
    told = (
        "A scar costs by what people look at: on a face or a marked place most, on an underside or a back little. "
        "A pose that moves it saves more than a finer tip."
    )
    return Drill("scars", question, Key([int(np.argmax(costs))], credit=credit, reasons=reasons, told=told))


def spare_drill(scene: Scene, rng: np.random.Generator) -> Drill | None:
    """Which of these tips may go?"""
    some = _of_tips(scene, rng, [float(n) for n in scene.needed])
    if some is None:
        return None
    chosen, points = some
    right = [k for k, tip in enumerate(chosen) if not scene.needed[tip]]
    if not right or len(right) == len(chosen):
        return None
    question = Question(
        f"{scene.name}: a tip at each of these places. Each taken away alone, which would nobody miss?",
        lettered(scene.figure, points, FROM_BELOW),
        letters(len(chosen)),
        many=True,
    )
    reasons = [
        "Comfort: without it every part still starts on something, and is held as the accepted risk asks."
        if k in right
        else "Needed: without it a part starts in mid air, or is held by less than is asked."
        for k in range(len(chosen))
    ]
    told = "What starts in mid air always needs its tip; of many under one slope one may go, and then look again."
    return Drill("spare", question, Key(right, reasons=reasons, told=told))


def breaks_drill(scene: Scene, rng: np.random.Generator) -> Drill | None:
    """What is lost first?"""
    worst = sorted((loss for loss in scene.losses if loss.chance > 0.01), key=lambda loss: -loss.chance)
    if not worst:
        return None
    at = np.array([worst[0].at])
    if not in_sight(scene.figure, at, FROM_ABOVE).any():
        return None
    middles = scene.figure.middles()
    known = np.array([loss.at for loss in scene.losses])
    far = np.linalg.norm(middles[:, None] - known[None], axis=2).min(axis=1) > FAR_MM
    others = middles[rng.permutation(np.flatnonzero(far))[:200]]
    others = others[in_sight(scene.figure, others, FROM_ABOVE).any(axis=1)] if len(others) else others
    wrong = spaced(others, 4, at)
    if len(wrong) < 2:
        return None
    points, key = _shuffled(rng, at, wrong, [worst[0].said], "Nothing is known against this place.")
    question = Question(
        f"{scene.name}: what is likeliest to break, in the print or in the hand?",
        lettered(scene.figure, points, FROM_ABOVE),
        letters(len(points)),
    )
    told = "Thin and long breaks before thin and short; hold the figure by its bulk, and free what is thin last."
    return Drill("breaks", question, Key(right=key.right, reasons=key.reasons, told=told))


def first_drill(scene: Scene, rng: np.random.Generator) -> Drill | None:
    """From which side are its supports cut first?"""
    sides = sorted(scene.sides)
    if len(sides) < 2 or scene.first_side not in sides:
        return None
    first = sides.index(scene.first_side)
    at = np.array([(t.x, t.y, t.z) for t in scene.tips])
    solid = support_mesh(list(scene.tips), False)
    both = scene.figure if solid is None or not len(at) else Mesh.joined([scene.figure, solid])
    groups = np.zeros(len(both.faces))
    groups[len(scene.figure.faces) :] = 1
    question = Question(
        f"{scene.name}, seen from its left front and from behind: from which side do you begin to cut?",
        lettered(both, np.empty((0, 3)), FROM_ABOVE, groups=groups),
        [f"from {'below' if side == 'below' else f'its {side}'}" for side in sides],
    )
    reasons = [f"{_tips(scene.sides[side])} reached best from there." for side in sides]
    told = "Outermost first, from the side that frees most; what is delicate comes last, when nothing pulls at it."
    return Drill("first", question, Key([first], reasons=reasons, told=told))


def _tips(many: int) -> str:
    return "One tip is" if many == 1 else f"{many} tips are"


def pose_drill(scene: Scene, rng: np.random.Generator) -> Drill | None:
    """Which pose takes least?"""
    if len(scene.poses) < 3:
        return None
    order = [int(k) for k in rng.permutation(len(scene.poses))]
    rows = [scene.poses[k] for k in order]
    coins = np.array([row.coins for row in rows])
    if np.ptp(coins) < 0.05 * coins.min():
        return None
    credit = np.clip(1 - (coins - coins.min()) / np.maximum(0.5 * coins.min(), 1e-9), 0, 1).round(3).tolist()
    question = Question(
        f"{scene.name}: which of these poses takes least of you, the machine, the material and luck together?",
        [row.picture for row in rows],
        [f"pose {LETTERS[k]}" for k in range(len(rows))],
        a_picture_each=True,
    )
    told = "Counted in coins: minutes by hand, hours, material, and what is lost on average (priors)."
    return Drill(
        "pose", question, Key([int(np.argmin(coins))], credit=credit, reasons=[r.said for r in rows], told=told)
    )


def slot_drill(scene: Scene, rng: np.random.Generator) -> Drill | None:
    """Which is the finest height that is done in time?"""
    rows = sorted(scene.heights, key=lambda row: row.height_mm)
    if len(rows) < 3:
        return None
    aim = int(rng.integers(0, len(rows) - 1))
    hours = rows[aim].hours * 1.06
    fits = [row.hours <= hours for row in rows]
    right = fits.index(True)
    credit = [0.0 if not fit else max(0.0, 1.0 - 0.5 * (k - right)) for k, fit in enumerate(fits)]
    middle = rows[len(rows) // 2]
    question = Question(
        f"{scene.name} takes {middle.hours:.1f} hours in layers of {middle.height_mm:g} mm. The machine is yours for "
        f"{hours:.1f} hours. Which is the finest height that is done in time?",
        options=[f"{row.height_mm:g} mm" for row in rows],
    )
    reasons = [f"{row.hours:.1f} hours{'' if fit else ': too long'}." for row, fit in zip(rows, fits, strict=True)]
    told = "Half the height is nearly twice the hours: what every layer waits does not shrink with it."
    return Drill("slot", question, Key([right], credit=credit, reasons=reasons, told=told))
