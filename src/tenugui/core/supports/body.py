"""The closed solids of a support set: as they are proved, reaching into the figure, and as they are printed."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh
from ..paths import Props
from .solids import columns_of, hull_of, raft, tube
from .tip import Brace, Tip

F8 = NDArray[np.float64]
PENETRATION_MM = 0.12
"""Prior: how far a tip reaches into the figure so that it holds."""
END_MM = 0.02
"""Length of a tip's even end where it stays short of the figure."""
RAFT_MM = 0.6
RAFT_MARGIN_MM = 2.5
"""Prior: how far a raft reaches past the outermost foot."""
NECK_SHARE = 0.8
"""Prior: radius of the narrowest place below an interface over the diameter of a plain tip."""
PRONGS, PRONG_MM = 4, 0.3
"""Priors: prongs of a cradle and their diameter; with gaps between, so that it holds no suction."""
PRONG_UP_MM, PRONG_FROM_MM = 0.8, 0.5
"""Priors: how far prongs rise past the contact, and how far below it they stand upright."""


def support_mesh(
    tips: Sequence[Tip],
    with_raft: bool,
    braces: Sequence[Brace] = (),
    *,
    short_mm: float | None = None,
    margin: float = RAFT_MARGIN_MM,
) -> Mesh | None:
    """The closed solids of a support set in one mesh as they are printed, or None for no tips. With `short_mm` they all
    stop so far short of the figure, wherever its surface leans.
    """
    parts = support_parts(tips, with_raft, braces, short_mm=short_mm, margin=margin)
    return Mesh.joined(list(parts.values())) if parts else None


def support_parts(
    tips: Sequence[Tip],
    with_raft: bool,
    braces: Sequence[Brace] = (),
    *,
    short_mm: float | None = None,
    margin: float = RAFT_MARGIN_MM,
) -> Props:
    """The same, apart by the density of their lines; braces and raft are of the machine's own."""
    parts: dict[float | None, list[Mesh]] = {}
    for tip in tips:
        parts.setdefault(tip.density, []).append(printed(tip, with_raft, short_mm))
    if tips and (braces or with_raft):
        usual = parts.setdefault(None, [])
        usual += [brace_solid(b) for b in braces]
        if with_raft:
            usual.append(raft_solid(tips, margin))
    return {density: Mesh.joined(solids) for density, solids in parts.items()}


def beams_of(tips: Sequence[Tip], braces: Sequence[Brace]) -> tuple[F8, NDArray[np.int64], F8]:
    """Tips and braces as struts: points (n, 3), pairs of them (b, 2), and radii at both ends (b, 2). Feet, interfaces,
    areas and rafts are no struts.
    """
    points: list[F8] = []
    pairs: list[tuple[int, int]] = []
    radii: list[tuple[float, float]] = []
    for tip in tips:
        if tip.cells:
            continue
        way = np.array(tip.joints[-1]) - np.array(tip.joints[-2])
        reach = PENETRATION_MM if not tip.gap else -tip.gap
        ends = [*(np.array(j) for j in tip.joints[:-1]), np.array(tip.joints[-1]) + way / np.linalg.norm(way) * reach]
        wide = [w / 2 for w in (*tip.widths, tip.diameter)]
        first = len(points)
        points += ends
        pairs += [(first + k, first + k + 1) for k in range(len(ends) - 1)]
        radii += list(itertools.pairwise(wide))
    for brace in braces:
        pairs.append((len(points), len(points) + 1))
        points += [np.array(brace.start), np.array(brace.end)]
        radii.append((brace.diameter / 2, brace.diameter / 2))
    return np.array(points).reshape(-1, 3), np.array(pairs, np.int64).reshape(-1, 2), np.array(radii).reshape(-1, 2)


def raft_solid(tips: Sequence[Tip], margin: float = RAFT_MARGIN_MM) -> Mesh:
    """The raft under all feet, reaching `margin` mm past them."""
    return raft(np.array([foot for tip in tips if tip.stands for foot in tip.feet]), margin, RAFT_MM)


def raft_margin(tips: Sequence[Tip], area: float, room: float) -> float:
    """How far a raft reaches past the feet (mm) so that it covers `area` mm²: RAFT_MARGIN_MM at least, `room` at most.

    The hull of all feet, grown by m, covers A + P m + π m² (Steiner), A its area and P its girth.
    """
    feet = np.array([foot for tip in tips if tip.stands for foot in tip.feet])
    base, girth = hull_of(feet)
    margin = (-girth + math.sqrt(max(girth**2 - 4 * math.pi * (base - area), 0.0))) / (2 * math.pi)
    return min(max(margin, RAFT_MARGIN_MM), max(room, RAFT_MARGIN_MM))


def brace_solid(brace: Brace) -> Mesh:
    """A brace's solid."""
    return tube(np.array([brace.start, brace.end]), np.full(2, brace.diameter / 2))


def proved(tip: Tip, with_raft: bool) -> Mesh:
    """A tip's solid with what bears across its gap: the stack that is proved has it reach into the figure."""
    if tip.cells:
        return columns_of(np.array(tip.cells) + [0.0, 0.0, 0.0, tip.gap + PENETRATION_MM], tip.cell)
    return _solid(tip, with_raft, [PENETRATION_MM], 0.0)


def printed(tip: Tip, with_raft: bool, short_mm: float | None = None) -> Mesh:
    """A tip's solid as it is printed: short of the figure by its gap, straight down, or by `short_mm` along its way."""
    if tip.cells:
        return columns_of(np.array(tip.cells), tip.cell)
    if short_mm is not None:
        reach = -short_mm - tip.diameter / 2
        return _solid(tip, with_raft, [reach - END_MM, reach], 0.0)
    if tip.gap:
        return _solid(tip, with_raft, [], tip.gap)
    return _solid(tip, with_raft, [PENETRATION_MM], 0.0)


def _solid(tip: Tip, with_raft: bool, reaches: list[float], gap: float) -> Mesh:
    """`reaches`: how far past the contact along the way the last rings lie; `gap`: mm straight down to where the solid
    ends or its interface does.
    """
    joints, radii = np.array(tip.joints), np.array(tip.widths) / 2
    way = joints[-1] - joints[-2]
    way /= np.linalg.norm(way)
    thin = tip.diameter / 2
    ends, narrow = _ends(tip, joints[-1], way, reaches, gap)
    parts = [*_prongs(tip, joints[-2])]
    if tip.square:
        body = tube(np.array([*joints[:-1], *ends]), np.array([*radii, *narrow]), sides=4, turn=np.pi / 4)
    elif tip.branch:
        body = tube(np.array([*joints[:-1], *ends]), np.array([*radii, *narrow]))
    elif tip.on == "model":
        # Into the figure that it stands on, but not through what is thinner there, and never below the plate; with a
        # gap it stands on it.
        root = -tip.gap if gap else min(PENETRATION_MM, 0.5 * float(joints[0][2]))
        below = joints[0] - np.array([0, 0, root])
        body = tube(np.array([below, *joints[:-1], *ends]), np.array([thin, thin, *radii[1:], *narrow]))
        if gap:
            body = tube(np.array([below, *joints[1:-1], *ends]), np.array([thin, *radii[1:], *narrow]))
    else:
        wide = radii[0]
        foot = wide if with_raft else tip.foot_radius
        base = joints[0]
        step = min(0.8, (joints[1][2] - base[2]) / 3)
        points = [base, base + [0, 0, step * 0.5], base + [0, 0, step], *joints[1:-1], *ends]
        body = tube(np.array(points), np.array([foot, foot, wide, *radii[1:], *narrow]))
    return Mesh.joined([body, *parts]) if parts else body


def _ends(tip: Tip, contact: F8, way: F8, reaches: list[float], gap: float) -> tuple[list[F8], list[float]]:
    """The last rings of a tip: its contact, or the interface below it."""
    thin, up = tip.diameter / 2, np.array([0.0, 0.0, 1.0])
    if tip.cap:
        low, top = contact - up * (tip.gap + tip.pad), contact - up * gap
        neck, narrow = cap_neck(tip)
        ends, radii = [neck, low, top], [narrow, tip.cap / 2, tip.cap / 2]
        if reaches and reaches[-1] > 0:
            ends, radii = [*ends, contact + up * 1e-3, contact + up * reaches[-1]], [*radii, thin, thin]
        return ends, radii
    if gap:
        end = contact - way * (gap / max(way[2], 1e-3))
        return [end - way * END_MM, end], [thin, thin]
    before = [contact] if reaches[-1] > 0 else []
    return [*before, *(contact + way * r for r in reaches)], [thin] * (len(before) + len(reaches))


def cap_neck(tip: Tip) -> tuple[F8, float]:
    """Where on its head a tip begins to widen to its interface, and its radius there."""
    joint, contact = np.array(tip.joints[-2]), np.array(tip.joints[-1])
    narrow = min(tip.widths[-1] / 2, NECK_SHARE * tip.diameter)
    # On a head that leans it widens from beside its middle: run over rise stays `flare` on the far side.
    aside, tall = float(np.hypot(*(contact - joint)[:2])), float(contact[2] - joint[2])
    rise = tip.flare * (tall - tip.gap - tip.pad) - (tip.cap / 2 - narrow) - aside
    share = rise / max(tip.flare * tall - aside, 1e-9)
    return joint + share * (contact - joint), narrow


def _prongs(tip: Tip, joint: F8) -> list[Mesh]:
    """The prongs of a cradle: out from the head, then upright around the point."""
    return [tube(np.array(line), np.full(3, PRONG_MM / 2), sides=6) for line in prong_lines(tip, joint)]


def prong_lines(tip: Tip, joint: F8) -> list[list[F8]]:
    """The lines (3 points each) of the prongs of a tip's cradle, none where it has none."""
    if not tip.cradle:
        return []
    contact = np.array([tip.x, tip.y, tip.z])
    low = contact[2] - PRONG_FROM_MM
    from_z = max(low - tip.cradle, float(joint[2]))
    share = (from_z - joint[2]) / max(contact[2] - joint[2], 1e-9)
    start = joint + share * (contact - joint)
    lines = []
    for turn in np.arange(PRONGS) * 2 * np.pi / PRONGS + np.pi / 4:
        out = contact + tip.cradle * np.array([np.cos(turn), np.sin(turn), 0.0])
        lines.append([start, np.array([*out[:2], low]), np.array([*out[:2], contact[2] + PRONG_UP_MM])])
    return lines
