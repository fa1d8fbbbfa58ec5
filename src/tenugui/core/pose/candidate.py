"""A pose for the board: its aims, what it takes and is worth, whether it stands, and why it is here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..worth import Gift, Worth, compared
from .directions import quaternion_to_plate
from .price import FALLS, Pace, falls, steadied
from .search import AIMS, PoseTable
from .words import FINEST, GOOD, POOR, SPOKEN_MIN, lines, listed


@dataclass(frozen=True)
class Candidate:
    """A pose: unit vector `down` of the mesh's frame, its turn, its aims by name, whether it stands on its foot, what
    it takes and is worth, and why.
    """

    down: tuple[float, float, float]
    quaternion: tuple[float, float, float, float]
    metrics: dict[str, float]
    stable: bool
    gift: Gift
    worth: Worth
    why: str
    best_at: tuple[str, ...]


def candidate(
    exact: PoseTable,
    i: int,
    usual: dict[str, float],
    *,
    gift: Gift,
    worth: Worth,
    pace: Pace,
    volume: float,
    plinth: float,
) -> Candidate:
    """Row `i` of a table as a candidate; `usual`: the median of every aim over all directions, beside which it is good
    or poor;
    `plinth`: side of the one it stands on, 0 for none.
    """
    metrics = {aim: float(value) for aim, value in zip(AIMS, exact.aims[i], strict=True)}
    metrics["minima"], metrics["cups"] = int(metrics["minima"]), int(metrics["cups"])
    told_apart = sorted(lines(metrics, usual, pace, volume))
    good = list(dict.fromkeys(aim for much, aim, _ in told_apart if much < -SPOKEN_MIN and aim in GOOD))[:2]
    poor = list(dict.fromkeys(aim for much, aim, _ in reversed(told_apart) if much > SPOKEN_MIN and aim in POOR))[:2]
    text = listed([GOOD[aim] for aim in good]) if good else "a middle way, bad at little"
    text = text[0].upper() + text[1:]
    if poor:
        text += "; but " + listed([POOR[aim] for aim in poor])
    off = 0.0
    if not pace.hangs:
        foot, contact = steadied(*(np.array([metrics[k]]) for k in ("foot_mm2", "contact_mm2", "support_area_mm2")))
        tall, lean = np.array([metrics["height_mm"]]), np.array([metrics["lean"]])
        off = float(falls(foot, contact, tall, lean, volume * pace.filled * pace.kg_mm3)[0])
        touches = f"{metrics['contact_mm2']:.0f} mm²"
        if plinth:
            metrics["plinth_mm"] = plinth
            text += (
                f"; on its foot of {touches} it is knocked over in {off:.0%} "
                f"of prints, so it stands on a plinth of {plinth:.0f} mm"
            )
            off = 0.0
        elif off > FALLS:
            text += f"; on its foot of {touches} it is knocked over in {off:.0%} of prints"
        if metrics["weak_mm"] > FINEST["weak_mm"]:
            text += f"; {metrics['weak_mm']:.0f} mm of thin rod, by how steeply it stands, breaks easily between layers"
    down = exact.down[i]
    q = quaternion_to_plate(down)
    return Candidate(
        (float(down[0]), float(down[1]), float(down[2])),
        (float(q[0]), float(q[1]), float(q[2]), float(q[3])),
        metrics,
        metrics["foot_mm2"] > 0 and metrics["lean"] == 0 and off <= FALLS,
        gift,
        worth,
        text + ".",
        tuple(good),
    )


def beside(worths: Sequence[Worth], i: int, best: int) -> str:
    """What an alternative costs beside the recommended one, or that beside the next best; empty where nothing is to be
    said.
    """
    others = [k for k in range(len(worths)) if k != i]
    if not others:
        return ""
    other = best if i != best else min(others, key=lambda k: worths[k].total)
    reason = compared(worths[i], worths[other])
    return f" Beside {'the next best' if i == best else 'the recommended'}: {reason}." if reason else ""
