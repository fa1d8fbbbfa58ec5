"""Layer heights side by side, and the knee: where more minutes buy too little."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..layers.detail import Detail, draws_mm
from ..machines import Context, motor_step
from ..worth import SAME_RISK, Worth, compared, least
from .of import process_of
from .protocol import Basis, Use


@dataclass(frozen=True)
class HeightChoice:
    """One layer height: its layers, seconds, material, cusps (median, p95, max) in mm, motor step, risk and blemishes
    (priors); share of what is seen that is too thin to be drawn, None where it was not measured; how far
    light blurs downward faces, mm.
    """

    height: float
    layers: int
    time_s: float
    volume_ml: float
    mass_g: float
    cost: float
    cusp: tuple[float, float, float]
    step_kind: str
    rounding: float
    risk: float
    blemishes: float
    basis: Basis
    lost: float | None = None
    blur: float = 0.0


@dataclass(frozen=True)
class Heights:
    """The choices, finest first, the recommended one's index, and why."""

    choices: list[HeightChoice]
    recommended: int
    why: str


def height_choice(
    context: Context,
    lean: tuple[float, float, float],
    layers: int,
    *,
    use: Use,
    risk: float,
    detail: Detail | None = None,
) -> HeightChoice:
    """The choice of the context's height from what its cut has shown. `lean`: quantiles of |n_z| over the figure's
    slopes (`cusp_quantiles`).
    """
    h = context.height
    kind, rounding = motor_step(context.printer, h)
    return HeightChoice(
        height=h,
        layers=layers,
        time_s=use.time_s,
        volume_ml=use.volume_ml,
        mass_g=use.mass_g,
        cost=use.cost,
        cusp=(h * lean[0], h * lean[1], h * lean[2]),
        step_kind=kind,
        rounding=rounding,
        risk=risk,
        blemishes=process_of(context.printer).blemishes(h),
        basis=use.basis,
        lost=None if detail is None else detail.lost(draws_mm(context.printer), h),
        blur=process_of(context.printer).blur_mm(context),
    )


def choose_height(choices: list[HeightChoice], worths: list[Worth]) -> Heights:
    """The choices, finest first as they are given, the one of least worth recommended, the one at the knee where they
    are alike; and why.
    """
    best = least(worths, knee(choices))
    return Heights(choices, best, _why(choices, best, worths))


def knee(choices: list[HeightChoice]) -> int:
    """The choice nearest to the ideal corner of (95th percentile cusp, time, expected blemishes, risk), each scaled to
    its range, a risk to no less than what can be told apart.

    With a convex curve of cusp against time this is its knee; blemishes and risk move it where they differ between
    heights.
    """
    table = np.array([[c.cusp[1], c.time_s, c.blemishes, c.risk] for c in choices])
    span = np.maximum(np.ptp(table, axis=0), [0.0, 0.0, 0.0, SAME_RISK])
    scaled = (table - table.min(axis=0)) / np.where(span > 1e-9, span, 1.0)
    scaled[:, 2:] *= 0.5
    return int(np.argmin(np.linalg.norm(scaled, axis=1)))


def _why(choices: list[HeightChoice], best: int, worths: list[Worth]) -> str:
    """What a friend would say of the next finer and the next coarser one."""
    chosen = choices[best]
    parts = [
        f"{chosen.height:g} mm leaves steps of {chosen.cusp[1] * 1000:.0f} µm on "
        f"all but the flattest twentieth of the slopes{_hidden(chosen.cusp[1])}."
    ]
    for other in (best - 1, best + 1):
        if not 0 <= other < len(choices):
            continue
        there = choices[other]
        reason = compared(worths[other], worths[best]) or "nothing that can be told"
        parts.append(
            f"From {chosen.height:g} to {there.height:g} mm: "
            f"{more_or_less(there.time_s - chosen.time_s)}, steps from {chosen.cusp[1]:.3f} to "
            f"{there.cusp[1]:.3f} mm{_hidden(there.cusp[1])}; in all {reason}."
        )
    return " ".join(parts)


VISIBLE_MM, PRIMED_MM = 0.03, 0.05
"""Priors: steps below the first are not seen on a bare surface, below the second not under primer; dry-brushing finds
both.
"""


def _hidden(cusp: float) -> str:
    return ", which nobody sees" if cusp < VISIBLE_MM else ", which primer hides" if cusp < PRIMED_MM else ""


def more_or_less(seconds: float) -> str:
    """A difference of times."""
    minutes = round(abs(seconds) / 60)
    duration = f"{minutes // 60} h {minutes % 60:02d}" if minutes >= 60 else f"{minutes} minutes"
    return "as long" if minutes < 1 else f"{duration} {'more' if seconds > 0 else 'less'}"
