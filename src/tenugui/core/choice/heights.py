"""Layer heights side by side, and the knee: where more minutes buy too little."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..layers import prove
from ..machines import FilamentPrinter, Material, Printer, allowed_step, motor_step
from ..mesh import Mesh, ThinPlace
from ..risk import combined, ledger
from ..supports import make_supports
from .steps import cusp_quantiles
from .use import use_of

F8 = NDArray[np.float64]
BLEMISH_AT_QUARTER = 1.0
"""Prior: expected blemishes of a filament figure at a quarter of the nozzle; they grow with the square of how far below it goes."""


@dataclass(frozen=True)
class HeightChoice:
    """One layer height: its layers, seconds, material, cusps (median, p95, max) in mm, motor step, risk and blemishes (priors)."""

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
    rough: bool


@dataclass(frozen=True)
class Heights:
    """The choices, finest first, the recommended one's index, and why."""

    choices: list[HeightChoice]
    recommended: int
    why: str


def blemishes(printer: Printer, height: float) -> float:
    """Expected pimples and strings of a filament figure, a prior; none for resin."""
    if not isinstance(printer, FilamentPrinter):
        return 0.0
    return BLEMISH_AT_QUARTER * max(0.25, printer.nozzle_mm / 4 / height) ** 2


def compare_heights(
    figure: Mesh,
    printer: Printer,
    material: Material,
    heights: list[float],
    risk: float | None = None,
    thin: list[ThinPlace] | None = None,
    progress: Callable[[int], None] = lambda done: None,
    weights: F8 | None = None,
    hold: NDArray[np.bool_] | None = None,
) -> Heights:
    """Cut a figure in build coordinates at each height and compare, finest first.

    With an accepted `risk` the figure is supported anew at each height, as its plan would be; without one it is taken as it is. Cusps are
    measured on the figure alone, by area and `weights` (faces,), what a scar costs; `hold` (faces,) is
    held in any case. `progress` is told how many heights are done.
    """
    lean = cusp_quantiles(figure, weights)
    choices = []
    for done, h in enumerate(sorted(heights)):
        progress(done)
        if risk is None:
            proof, tips = prove(figure, h, allowed_step(printer, material, h)), []
        else:
            held = make_supports(figure, printer, material, h, risk, weights=weights, hold=hold)
            proof, tips = held.after, held.tips
        use = use_of(proof.stack, proof.areas, printer, material)
        kind, rounding = motor_step(printer, h)
        chance = combined(ledger(proof, printer, material, tips, bool(figure.lower[2] > 0), thin or []))
        cusp = (h * lean[0], h * lean[1], h * lean[2])
        choices.append(
            HeightChoice(
                h,
                proof.stack.grid.layers,
                use.time_s,
                use.volume_ml,
                use.mass_g,
                use.cost,
                cusp,
                kind,
                rounding,
                chance,
                blemishes(printer, h),
                use.rough,
            )
        )
    best = knee(choices)
    return Heights(choices, best, _why(choices, best))


def knee(choices: list[HeightChoice]) -> int:
    """The choice nearest to the ideal corner of (95th percentile cusp, time, expected blemishes, risk), each scaled to its range.

    With a convex curve of cusp against time this is its knee; blemishes and risk move it where they differ between heights.
    """
    table = np.array([[c.cusp[1], c.time_s, c.blemishes, c.risk] for c in choices])
    span = np.ptp(table, axis=0)
    scaled = (table - table.min(axis=0)) / np.where(span > 1e-9, span, 1.0)
    scaled[:, 2:] *= 0.5
    return int(np.argmin(np.linalg.norm(scaled, axis=1)))


def _why(choices: list[HeightChoice], best: int) -> str:
    chosen = choices[best]
    parts = [f"{chosen.height:g} mm leaves steps of {chosen.cusp[1] * 1000:.0f} µm on all but the flattest twentieth of the slopes."]
    if best > 0:
        finer = choices[best - 1]
        minutes, gained = (finer.time_s - chosen.time_s) / 60, (chosen.cusp[1] - finer.cusp[1]) * 1000
        parts.append(
            f"Going to {finer.height:g} mm costs {minutes:.0f} more minutes and takes {gained:.0f} µm off them ({minutes / max(gained, 1e-6):.1f} minutes a µm)."
        )
    if best + 1 < len(choices):
        coarser = choices[best + 1]
        minutes, lost = (chosen.time_s - coarser.time_s) / 60, (coarser.cusp[1] - chosen.cusp[1]) * 1000
        parts.append(f"{coarser.height:g} mm would save {minutes:.0f} minutes and add {lost:.0f} µm.")
    return " ".join(parts)
