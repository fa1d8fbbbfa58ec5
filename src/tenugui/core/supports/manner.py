"""How supports are dimensioned in a process: tips, their pitch, pillars, whether the figure hangs on them."""

from __future__ import annotations

import math
from collections.abc import Callable
from statistics import NormalDist
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ..machines import CURES_ON_MM, SPREAD, USUAL_RISK, Context, FilamentPrinter, ResinPrinter, as_filament, as_resin
from ..machines.kinds import FILAMENT, RESIN

F8 = NDArray[np.float64]
SHEET_SAG_MM = 0.02
"""Prior: sag accepted between tips under a fresh resin sheet."""
BRIDGE_MM = 2.5
"""Prior: the span a filament printer lays between two tips."""
PITCH_LIMITS_MM = (1.0, 5.0)
"""Priors: closer than the first the tips grow together; farther than the second nothing is held locally at the usual
risk; it grows as load and accepted sag both ease.
"""
USUAL_TIP_MM = 0.35
"""Prior: what a cutter takes off without tearing the surface."""
THINNEST_TIP_MM = 0.15
STOUT_TIP_MM, STOUT_COST, BEARS = 0.6, 1.5, 2.4
"""Priors: a tip that only has to hold is as stout as this where a scar costs no more than on an unmarked face and a
half, and what it stands on is so many times as thick: one of twice the width holds what four do, and is one cut.
"""
SLENDER = 48.0
"""Prior: length over diameter at which a resin pillar still holds still."""
LEDGES = 4.0
"""Prior: a ledge so many times as large as one that half of all prints survive curls, tears or falls, and is not sanded
away.
"""
FLAT_FOOT = 0.2
"""Prior: what touches the plate with less than this share of its shadow does not rest flat."""


def safety_factor(risk: float, scatter: float = 1.0) -> float:
    """Margin that leaves the accepted chance of failing: exp(scatter SPREAD z(1 - risk)), `scatter` the machine's own,
    times as much as usual.

    >>> round(safety_factor(0.05), 2)
    2.28
    """
    return math.exp(scatter * SPREAD * NormalDist().inv_cdf(1 - min(max(risk, 1e-4), 0.5)))


def margin_of(context: Context, risk: float) -> float:
    """The margin that an accepted risk asks of a machine that scatters as it does."""
    return safety_factor(risk, context.printer.scatter)


class Manner(Protocol):
    """What the placing of supports asks of a process."""

    hangs: bool
    free_mm: float
    """How far an overhang may reach from what lies below it before it wants a tip."""
    ledge_mm2: float
    """Prior by process: a ledge that half of all prints survive."""
    left_shares: tuple[float, float, float]
    """Prior by process: what starts in mid air is left to itself where it joins within such a share of what counts as
    relief, for who accepts one of `demand.LEFT_RISKS`.
    """

    def tip_mm(self, risk: float) -> float:
        """Diameter of a tip on a feature wide enough."""

    def tips_on(self, widths: F8, tip_mm: float) -> F8:
        """Diameters of tips on features of these widths, so that none is thicker than what it holds."""

    def holds_by_mm(self, cost: F8, thick: F8) -> F8:
        """Diameters (n,) of tips that only have to hold, where a scar costs `cost` (n,) and what they stand on is
        `thick` (n,).
        """

    def pillar_mm(self, tip_mm: float, length: float) -> float:
        """Diameter of a pillar of this length."""

    def pitch_mm(self, slope: float, tip_mm: float, risk: float) -> float:
        """Distance between tips on a surface that rises `slope` radians from the horizontal."""


class ResinManner:
    """Tips carry the peel; a fresh sheet must not sag between them."""

    hangs = True
    free_mm = RESIN.clings_mm
    ledge_mm2 = 12.0
    left_shares = (0.5, 0.75, 1.0)

    def __init__(self, context: Context, printer: ResinPrinter) -> None:
        self.context, self.printer = context, printer

    def tip_mm(self, risk: float) -> float:
        """USUAL_TIP_MM at every risk: what must be held more surely is held by more tips, which leave no larger scars
        each.
        """
        return USUAL_TIP_MM

    def tips_on(self, widths: F8, tip_mm: float) -> F8:
        """Four fifths of the feature at most."""
        return np.clip(0.8 * widths, THINNEST_TIP_MM, tip_mm)

    def holds_by_mm(self, cost: F8, thick: F8) -> F8:
        """Stout where nobody looks and the figure bears it, as usual elsewhere."""
        stout = np.clip(thick / BEARS, USUAL_TIP_MM, STOUT_TIP_MM)
        return np.where(cost <= STOUT_COST, stout, USUAL_TIP_MM)

    def pillar_mm(self, tip_mm: float, length: float) -> float:
        """By slenderness, since a resin part pulls on its supports and sways them rather than pressing them down."""
        return float(min(max(2 * tip_mm, length / SLENDER), 2.0))

    def pitch_mm(self, slope: float, tip_mm: float, risk: float) -> float:
        """The smaller of two. Load: a tip of strength σ π d²/4 carries the peel pressure over its share of area.
        Stiffness: a flat slab on columns at pitch a sags by 0.00581 p a⁴ / D, D = E t³ / (12 (1 - ν²)) (Timoshenko and
        Woinowsky-Krieger), t being what the first layer cures through. On a slope each layer is a strip h / tan θ wide
        along what is cured already: one that would not sag farther by itself, as a cantilever by p w⁴ / (8 D), wants no
        tip for its stiffness, one as wide as the pitch what a slab wants. The safety factor divides the load, and the
        sag, since who accepts more risk accepts more of it.
        """
        factor, material = margin_of(self.context, risk), self.context.material
        low, high = PITCH_LIMITS_MM
        high *= safety_factor(USUAL_RISK) / factor
        pressure = self.context.peel_kpa * 1e-3
        load = math.sqrt(material.green_strength_mpa * math.pi * tip_mm**2 / 4 / (pressure * factor))
        thick = self.context.height + CURES_ON_MM
        sag = SHEET_SAG_MM * safety_factor(USUAL_RISK) / factor
        bends = sag * material.green_modulus_mpa * thick**3 / (12 * (1 - material.poisson**2) * pressure * factor)
        flat, alone = (bends / 0.00581) ** 0.25, (8 * bends) ** 0.25
        strip = self.context.height / max(math.tan(slope), 1e-9) if slope < math.pi / 2 else 0.0
        slab = float(np.interp(strip, (alone, flat), (max(high, flat), flat)))
        return min(max(min(load, slab), low), high)


class FilamentManner:
    """Lines bridge from tip to tip."""

    hangs = False
    free_mm = FILAMENT.clings_mm
    ledge_mm2 = 6.0
    left_shares = (0.5, 1.0, 1.0)

    def __init__(self, context: Context, printer: FilamentPrinter) -> None:
        self.context, self.printer = context, printer

    def tip_mm(self, risk: float) -> float:
        """A line: the nozzle draws nothing thinner."""
        return self.printer.line_mm

    def tips_on(self, widths: F8, tip_mm: float) -> F8:
        """A line, and no thicker than the feature, but for half a line: what juts out beside it would only be a scar
        more.
        """
        return np.clip(widths, tip_mm / 2, tip_mm)

    def holds_by_mm(self, cost: F8, thick: F8) -> F8:
        """A line everywhere: nothing pulls."""
        return np.full(len(cost), self.printer.line_mm)

    def pillar_mm(self, tip_mm: float, length: float) -> float:
        """Three lines at least."""
        return max(3 * self.printer.line_mm, length / 25)

    def pitch_mm(self, slope: float, tip_mm: float, risk: float) -> float:
        """The bridged span, a prior, divided by the safety factor over the usual one: a strand sags by its load and the
        square of its span, and the factor multiplies the load and divides the sag that is accepted, as on resin. On a
        slope where a line still rests in part on the one below it opens, up to its bound where just so much rests as
        holds.
        """
        low, high = PITCH_LIMITS_MM
        flat = min(max(BRIDGE_MM * safety_factor(USUAL_RISK) / margin_of(self.context, risk), low), high)
        step = self.context.height / max(math.tan(slope), 1e-9) if slope < math.pi / 2 else 0.0
        line, holds = self.printer.line_mm, self.context.reach
        rests = (line - step) / max(line - holds, 1e-9)
        return flat + (high - flat) * min(max(rests, 0.0), 1.0)


MANNERS: dict[str, Callable[[Context], Manner]] = {
    "resin": lambda context: ResinManner(context, as_resin(context.printer)),
    "filament": lambda context: FilamentManner(context, as_filament(context.printer)),
}


def manner_of(context: Context) -> Manner:
    """The manner of the context's printer."""
    return MANNERS[context.printer.process](context)


def usual_tip(context: Context) -> float:
    """Diameter in mm of a tip at the usual risk."""
    return manner_of(context).tip_mm(USUAL_RISK)


def tip_pitch(context: Context, slope: float, tip_mm: float, risk: float) -> float:
    """Distance in mm between tips: see each manner's `pitch_mm`."""
    return manner_of(context).pitch_mm(slope, tip_mm, risk)
