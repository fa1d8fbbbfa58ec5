"""Whether supports stand firm: braces between tall pillars, what is thickened, feet as wide as their lever asks, and
how far the rest still sways.

A pillar is a cantilever under a push at its top: it sways by F L³ / (3 E I) and its foot turns with F L against
adhesion times its section modulus π d³ / 32 (Euler-Bernoulli). Between braces it is a frame's post, fixed at both ends:
F L³ / (12 E I). Nothing presses it down: resin is pulled, and what a filament's pillar bears weighs next to nothing, so
that it sways long before it would buckle.
"""

from __future__ import annotations

import dataclasses
import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import minimum_spanning_tree
from scipy.spatial import cKDTree

from ..machines import NOZZLE_DRAG_N, PLASTIC_MPA, Context
from .around import Around
from .heads import CLEARANCE_MM, free_down
from .manner import margin_of
from .tip import Brace, Tip

F8 = NDArray[np.float64]
SIDE_SHARE = 0.1
"""Prior: on resin a pillar is pushed aside by this share of the pull on its own section; on filament by the nozzle."""
FOOT_MPA = 2.5
"""Prior: adhesion of a filament to a warm plate."""
FALLS_SHARE = 0.02
"""Prior: a support that falls takes more with it than a tip that lets go: its foot is made for this share of the risk
that is accepted for a tip.
"""
SWAY_MM = 0.25
"""Prior: a pillar that sways farther misses what it is to meet."""
BRACE_FROM_MM = 0.15
"""Prior: pillars that would sway so far alone want a brace."""
BRACED_MM, PANEL_MM = (1.2, 9.0), 14.0
"""Priors: pillars so far apart are braced with each other; the height from one brace to the next at most."""
BRACE_SHARE = 0.6
"""Diameter of a brace over that of the thinner pillar."""
LOW_MM = 2.5
"""Braces begin so high above the plate, so that a scraper gets under the raft."""
THICKEN, TIMES = 1.25, 4
APART_DEG = 60.0
"""A second brace of a pillar goes in another direction by so much, so that it stands firm both ways."""
STRIP_MM = 0.6


@dataclass(frozen=True)
class Post:
    """The upright part of a standing support: its tip's number, middle, top, and diameter."""

    tip: int
    x: float
    y: float
    top: float
    diameter: float


def posts_of(tips: Sequence[Tip]) -> list[Post]:
    """The upright parts of all that stand on the plate."""
    return [
        Post(k, t.joints[0][0], t.joints[0][1], t.joints[1][2], t.widths[0])
        for k, t in enumerate(tips)
        if t.stands and not t.square and len(t.joints) > 2
    ]


def push_n(diameter: float, context: Context) -> float:
    """What pushes the top of a pillar aside, N."""
    if context.printer.hangs:
        return SIDE_SHARE * context.peel_kpa * 1e-3 * math.pi * diameter**2 / 4
    return NOZZLE_DRAG_N


def braces_between(around: Around, tips: Sequence[Tip], context: Context) -> list[Brace]:
    """Struts at 45° between tall pillars that stand near each other, to and fro up the lower of both; none that shuts a
    part of the figure in between itself and the plate.
    """
    posts = [p for p in posts_of(tips) if p.top > 2 * LOW_MM and _sways(p, (), context) > BRACE_FROM_MM]
    if len(posts) < 2:
        return []
    at = np.array([[p.x, p.y] for p in posts])
    near = cKDTree(at).query_pairs(BRACED_MM[1], output_type="ndarray")
    away = np.linalg.norm(at[near[:, 0]] - at[near[:, 1]], axis=1)
    near, away = near[away > BRACED_MM[0]], away[away > BRACED_MM[0]]
    braces: list[Brace] = []
    for a, b in _chosen(at, near, away):
        braces += _zigzag(around, posts[a], posts[b])
    return braces


def _chosen(at: F8, near: NDArray[np.int64], away: F8) -> list[tuple[int, int]]:
    """Of pairs of posts those that join all in the least length, and each post's nearest in another direction."""
    tree = minimum_spanning_tree(coo_matrix((away, (near[:, 0], near[:, 1])), (len(at), len(at)))).tocoo()
    pairs = [(int(a), int(b)) for a, b in zip(tree.row, tree.col, strict=True)]
    ways: list[list[F8]] = [[] for _ in at]

    def leans(a: int, b: int) -> None:
        way = (at[b] - at[a]) / np.linalg.norm(at[b] - at[a])
        ways[a].append(way)
        ways[b].append(-way)

    for a, b in pairs:
        leans(a, b)
    other = math.cos(math.radians(APART_DEG))
    for k in np.argsort(away, kind="stable"):
        a, b = int(near[k, 0]), int(near[k, 1])
        way = (at[b] - at[a]) / away[k]
        if (len(ways[a]) < 2 or len(ways[b]) < 2) and all(abs(float(w @ way)) < other for w in [*ways[a], *ways[b]]):
            pairs.append((a, b))
            leans(a, b)
    return pairs


def _zigzag(around: Around, a: Post, b: Post) -> list[Brace]:
    """Struts between two posts that keep off the figure and shut nothing in."""
    away = math.hypot(a.x - b.x, a.y - b.y)
    diameter = BRACE_SHARE * min(a.diameter, b.diameter)
    top = min(a.top, b.top)
    braces, z, here, there = [], LOW_MM, a, b
    while z + away <= top:
        start, end = np.array([here.x, here.y, z]), np.array([there.x, there.y, z + away])
        wide = diameter / 2 + CLEARANCE_MM
        if not around.free(start[None], end[None], wide, wide)[0] or not _strip_free(around, start, end):
            break  # what is above it would shut the same in
        braces.append(
            Brace(
                (float(start[0]), float(start[1]), float(start[2])),
                (float(end[0]), float(end[1]), float(end[2])),
                diameter,
            )
        )
        here, there = there, here
        z += max(away, PANEL_MM)
    return braces


def _strip_free(around: Around, start: F8, end: F8) -> bool:
    """Whether nothing of the figure lies between a strut and the plate."""
    points = np.linspace(start, end, max(3, int(np.linalg.norm(end - start) / STRIP_MM)))
    return bool(free_down(around, points, CLEARANCE_MM, 0.0).all())


@dataclass(frozen=True)
class Firmness:
    """The support that sways farthest: where its top is, by how much in mm, its length and diameter there, and how many
    sway beyond SWAY_MM.
    """

    sway_mm: float
    length_mm: float
    diameter_mm: float
    at: tuple[float, float, float]
    beyond: int


def modulus(context: Context) -> float:
    """MPa of a support of this context."""
    return context.material.green_modulus_mpa if context.printer.hangs else PLASTIC_MPA


def sway(length: float, diameter: float, push: float, mpa: float, braced: bool = False) -> float:
    """Deflection in mm of a round post under a push at its top.

    >>> round(sway(20.0, 1.0, 0.1, 500.0), 2), round(sway(20.0, 1.0, 0.1, 500.0, braced=True), 2)
    (10.86, 2.72)
    """
    inertia = math.pi * diameter**4 / 64
    return push * length**3 / ((12 if braced else 3) * mpa * inertia)


def panels(post: Post, braces: Sequence[Brace]) -> tuple[float, bool]:
    """The longest length of a post without a brace, and whether it has any; from its foot to its top."""
    lengths = sorted(
        z
        for brace in braces
        for x, y, z in (brace.start, brace.end)
        if math.hypot(x - post.x, y - post.y) < post.diameter
    )
    marks = [0.0, *lengths, post.top]
    return max(b - a for a, b in itertools.pairwise(marks)), bool(lengths)


def _sways(post: Post, braces: Sequence[Brace], context: Context) -> float:
    length, braced = panels(post, braces)
    return sway(length, post.diameter, push_n(post.diameter, context), modulus(context), braced)


def firmness(tips: Sequence[Tip], braces: Sequence[Brace], context: Context) -> Firmness | None:
    """The support that sways farthest, None where none stands."""
    posts = posts_of(tips)
    if not posts:
        return None
    sways = np.array([_sways(p, braces, context) for p in posts])
    worst = posts[int(sways.argmax())]
    return Firmness(
        float(sways.max()),
        panels(worst, braces)[0],
        worst.diameter,
        (worst.x, worst.y, worst.top),
        int((sways > SWAY_MM).sum()),
    )


def thickened(around: Around, tips: list[Tip], braces: Sequence[Brace], context: Context) -> list[Tip]:
    """Tips whose pillars that sway too far with their braces are made thicker, as far as the figure beside them lets
    them.
    """
    thicker = list(tips)
    for post in posts_of(tips):
        tip = thicker[post.tip]
        for _ in range(TIMES):
            mine = dataclasses.replace(post, diameter=tip.widths[0])
            if _sways(mine, braces, context) <= SWAY_MM:
                break
            wide = tip.widths[0] * THICKEN
            room = wide / 2 + CLEARANCE_MM
            if not free_down(around, np.array([tip.joints[1]]), room, 0.0)[0]:
                break
            tip = dataclasses.replace(tip, widths=(wide, *tip.widths[1:]))
        thicker[post.tip] = tip
    return thicker


def footed(tips: list[Tip], braces: Sequence[Brace], context: Context, risk: float) -> list[Tip]:
    """Tips whose feet on a bare plate are as wide as the lever of their push asks at an accepted risk: d³ π / 32 times
    adhesion is what they hold.
    """
    if context.printer.hangs:
        return tips
    with_feet = list(tips)
    for post in posts_of(tips):
        length, _ = panels(post, braces)
        least = foot_mm(context, length, risk)
        with_feet[post.tip] = dataclasses.replace(with_feet[post.tip], foot_least=least)
    return with_feet


def foot_mm(context: Context, length: Any, risk: float) -> Any:
    """How wide a foot holds a pillar of this lever, both in mm, at an accepted risk."""
    margin = margin_of(context, FALLS_SHARE * risk)
    return (32 * margin * NOZZLE_DRAG_N * length / (math.pi * FOOT_MPA)) ** (1 / 3)


@dataclass(frozen=True)
class Footing:
    """A post on the plate: its tip's number, where it stands, how long its lever is, and how many times the nozzle's
    drag on that its foot holds.
    """

    tip: int
    x: float
    y: float
    lever_mm: float
    margin: float


def footings(tips: Sequence[Tip], braces: Sequence[Brace], context: Context) -> list[Footing]:
    """How surely each post stands on a bare plate, with the brim that its machine draws around it."""
    rows, brim = [], float(getattr(context.printer, "brim_mm", 0.0))
    for post in posts_of(tips):
        lever, _ = panels(post, braces)
        holds = FOOT_MPA * math.pi * (2 * (tips[post.tip].foot_radius + brim)) ** 3 / 32
        rows.append(Footing(post.tip, post.x, post.y, lever, holds / (push_n(post.diameter, context) * lever)))
    return rows
