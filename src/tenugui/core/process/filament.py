"""Filament: lines of plastic, each on the one below."""

from __future__ import annotations

import math

import numpy as np
from scipy.spatial import ConvexHull, cKDTree

from ..hazards import Arises, Hazard, Kind, Loss, Sight, source
from ..layers import LayerStack, Proof, is_slight
from ..machines import (
    NOZZLE_DRAG_N,
    PLASTIC_MPA,
    Context,
    FilamentPrinter,
    as_filament,
    draws_lines,
    motor_step,
)
from ..mesh import Mesh
from ..paths import FilamentUse, Props, Walls, filament_use, necks_of, sampled_use, weakest
from ..pose import KNOCK_N, foot_hold, overturning
from ..supports import FilamentManner, Footing, footings
from .protocol import COUNTS, F8, NEAR_PLATE_MM, Use
from .sway import Standing, standing, toppled, worst_sways

BLEMISH_AT_QUARTER = 1.0
"""Prior: expected blemishes of a figure at a quarter of the nozzle; they grow with the square of how far below it goes.
"""

KNOCKED, ASIDE_MM, TOLD_KNOCK = 0.1, 0.5, 0.01
"""Priors: one print of ten is knocked where it stands tallest; what gives way by so much is out of the way; and a
chance below the last is not told.
"""
TOLD_SWAY, BLURS = 0.5, 10.0
"""What sways by less than this share of half a line is not told; by more than so many times it the part is lost, by
less it comes out rough.
"""


class Filament:
    """See `Process`."""

    ledge_mm2 = FilamentManner.ledge_mm2
    closes = 1.0
    pulls = False

    def __init__(self, printer: FilamentPrinter) -> None:
        self.printer = printer

    def use(self, stack: LayerStack, areas: F8, context: Context) -> Use:
        """A rough estimate from line lengths."""
        f = filament_use(self.printer, context.material, stack.grid.height, areas, stack.contour_mm)
        return Use(f.time_s, f.clock_s, f.volume_ml, f.mass_g, f.cost, "rough estimate", several_s=self._several(f))

    def _several(self, use: FilamentUse) -> tuple[float, ...]:
        return tuple(use.several_s(self.printer, count) for count in COUNTS)

    def use_of(self, figure: Mesh, props: Props, proof: Proof, context: Context) -> Use:
        """From the true path of some layers."""
        rough = (proof.areas, proof.stack.contour_mm)
        f = sampled_use(
            figure, props, self.printer, material=context.material, height=proof.stack.grid.height, rough=rough
        )
        several = self._several(f)
        return Use(f.time_s, f.clock_s, f.volume_ml, f.mass_g, f.cost, "path", several_s=several, strings=f.strings)

    def pull(self, proof: Proof, context: Context) -> F8:
        """Nothing peels."""
        return np.zeros(proof.stack.grid.layers)

    def blur_mm(self, context: Context) -> float:
        """None: lines are no light."""
        return 0.0

    def blemishes(self, height: float) -> float:
        """Pimples and strings grow below a quarter of the nozzle."""
        return BLEMISH_AT_QUARTER * max(0.25, self.printer.nozzle_mm / 4 / height) ** 2

    def sheet(self, context: Context) -> list[tuple[str, str]]:
        """Lines and the motor's grain."""
        p = self.printer
        lines = f"{p.line_mm:g} mm from a {p.nozzle_mm:g} mm nozzle, {p.perimeters} perimeters, {p.infill:.0%} infill"
        return [("Lines", lines), ("Motor step", motor_step(p, context.height)[0])]


SWAY = Kind(
    "sway",
    "sways",
    "a slender part sways under the nozzle, and its lines miss each other",
    "part lost",
    "hemp",
    bare=True,
)
TOPPLES = Kind(
    "topples", "topples", "a part topples off a foot too small for it before it joins the rest", "part lost", "stripes"
)
FALLS = Kind("falls", "support falls", "the nozzle tears a support off its foot", "part lost", "stripes")
KNOCK = Kind("knock", "knocked", "a slender part that a knock of the nozzle breaks off", "part lost", "hemp")
UNSTABLE = Kind("unstable", "unstable", "a knock or the moving plate tips it off its foot", "print lost", "dots")


@source(KNOCK, on=draws_lines)
def knocked(sight: Sight) -> list[Hazard]:
    """What breaks first when the nozzle runs into a part. What is slender bends aside: no knock is harder than what
    moves it out of the way.
    """
    p = as_filament(sight.context.printer)
    weak = weakest(necks_of(sight.own), Walls(p.perimeters, p.roof_mm, p.infill), p.line_mm)
    if weak is None:
        return []
    # A cantilever of round section, moved aside by so much: 3 E I / L³.
    stiff = 3 * PLASTIC_MPA * math.pi * weak.width_mm**4 / 64 / weak.carries_mm**3
    needs = min(KNOCK_N, stiff * ASIDE_MM)
    text = (
        f"Once in {1 / KNOCKED:.0f} prints (prior) the nozzle knocks against "
        f"what stands. What is carried {weak.carries_mm:.1f} mm high by "
        f"{weak.width_mm:.1f} mm at {weak.z:.1f} mm breaks there at {weak.bears_n:.2g} N."
    )
    remedy = "More perimeters, a thicker neck in the model, or lay it down."
    layer, place = int(weak.z / sight.own.stack.grid.height), (weak.x, weak.y, weak.z)
    hazard = KNOCK.at(
        layer, place, weak.bears_n, needs, unit="N", message=text, remedy=remedy, arises=Arises(tried=KNOCKED)
    )
    return [hazard] if hazard.on(p.scatter).chance >= TOLD_KNOCK else []


@source(TOPPLES, SWAY, on=draws_lines)
def stands(sight: Sight) -> list[Hazard]:
    """What stands on the plate by a foot of its own until it joins the rest, and slender parts of the figure under the
    nozzle's drag; supports hold none of these sideways, since they keep a gap.
    """
    printer = as_filament(sight.context.printer)
    how = standing(
        sight.own.components, sight.height, PLASTIC_MPA, NOZZLE_DRAG_N, line=printer.line_mm, brim=printer.brim_mm
    )
    return _toppling(sight, how) + _swaying(sight, how, printer.line_mm / 2)


def _toppling(sight: Sight, how: Standing) -> list[Hazard]:
    hazards = []
    for t in toppled(sight.own, sight.tips, NOZZLE_DRAG_N, how):
        text = (
            f"A part stands on a foot of its own that holds {t.has:.2g} N mm; the nozzle's drag of "
            f"{NOZZLE_DRAG_N:g} N pulls with {t.needs:.2g} before it joins the rest (priors)."
        )
        remedy = "A brim, a plinth, two supports against it, or another pose."
        place = (t.x, t.y, t.layer * sight.height)
        hazards.append(TOPPLES.at(t.layer, place, t.has, t.needs, unit="N mm", message=text, remedy=remedy))
    return hazards


def _swaying(sight: Sight, how: Standing, half: float) -> list[Hazard]:
    hazards = []
    for s in worst_sways(sight.own.components, NOZZLE_DRAG_N, how, half * TOLD_SWAY):
        z = s.layer * sight.height
        text = (
            f"At {z:.1f} mm a part {s.width:.1f} mm wide stands so tall that the "
            f"nozzle's drag of {NOZZLE_DRAG_N:g} N (prior) sways it by {s.mm:.2f} mm; "
            f"half a line is {half:.2f} mm."
        )
        remedy = "Lay it down, thicken it in the model, or print it apart and glue it on."
        loss: Loss = "part lost" if s.mm > BLURS * half else "scar"
        hazards.append(
            SWAY.at(s.layer, (s.x, s.y, z), half, s.mm, unit="mm of sway", message=text, remedy=remedy, loss=loss)
        )
    return hazards


@source(FALLS, on=draws_lines)
def falls(sight: Sight) -> list[Hazard]:
    """Supports that stand on a bare plate under the nozzle's drag at their tops: with each that holds what starts in
    mid air, but for specks, a part is lost; under the others an underside sags.
    """
    feet = footings(sight.tips, sight.braces, sight.context)
    if not feet:
        return []
    at = cKDTree([(foot.x, foot.y) for foot in feet])
    lasting = {(i.x, i.y, i.z) for i in sight.own.islands if not is_slight(i, sight.height)}
    held = [tip for tip in sight.tips if tip.on == "plate" and not tip.cells and (tip.x, tip.y, tip.z) in lasting]
    carry = set(at.query([tip.joints[0][:2] for tip in held])[1].tolist()) if held else set()
    groups: tuple[tuple[Loss, list[Footing]], ...] = (
        ("part lost", [foot for k, foot in enumerate(feet) if k in carry]),
        ("scar", [foot for k, foot in enumerate(feet) if k not in carry]),
    )
    return [_falling(sight, loss, mine) for loss, mine in groups if mine]


def _falling(sight: Sight, loss: Loss, feet: list[Footing]) -> Hazard:
    worst = min(feet, key=lambda foot: foot.margin)
    under = "what starts in mid air" if loss == "part lost" else "undersides"
    many = f"{len(feet)} supports" if len(feet) > 1 else "One support"
    text = (
        f"{many} on the plate under {under}: the foot of the weakest, {worst.lever_mm:.0f} mm tall, "
        f"holds {worst.margin:.1f} times the nozzle's drag of {NOZZLE_DRAG_N:g} N (priors)."
    )
    tip = sight.tips[worst.tip]
    margins = tuple(foot.margin for foot in feet)
    remedy = "A brim, wider feet, trees in place of pillars, or an area under them."
    layer, place = int(tip.z / sight.height), (worst.x, worst.y, tip.z)
    needs = NOZZLE_DRAG_N * worst.lever_mm
    return FALLS.at(
        layer,
        place,
        worst.margin * needs,
        needs,
        unit="N mm",
        message=text,
        remedy=remedy,
        loss=loss,
        arises=Arises(margins=margins),
    )


@source(UNSTABLE, on=draws_lines)
def tips_over(sight: Sight) -> list[Hazard]:
    """The overturning law on the hull of the first layers, plinth and supports included."""
    proof = sight.proof
    low = max(1, round(NEAR_PLATE_MM / sight.height))
    foot = int(np.argmax(proof.areas[:low])) if len(proof.areas) else 0
    runs = proof.stack.layer_runs(foot)
    weight = proof.areas.sum()
    if not len(runs) or weight <= 0:
        return []
    here = (proof.areas[:, None] * proof.centroids).sum(axis=0) / weight
    # Runs are strips as wide as the scan lines lie apart: also a foot of a single line has a hull.
    strips = [runs[:, [end, 0]] + (0, side * proof.stack.grid.pitch / 2) for end in (1, 2) for side in (-1, 1)]
    hull = ConvexHull(np.concatenate(strips))
    outside = float((hull.equations[:, :2] @ here + hull.equations[:, 2]).max())
    tall = proof.stack.grid.layers * sight.height
    # What stands beside the figure on supports of its own steadies it: the hull is of all that touches.
    kilos = float(weight) * sight.height * sight.context.material.density_g_ml * 1e-6
    has, needs = (
        float(foot_hold(hull.volume, proof.areas[foot])),
        float(overturning(tall, max(outside, 0.0), kilos)),
    )
    text = (
        f"A knock at {tall:.0f} mm tips it with {needs:.0f} N mm; its foot, "
        f"{proof.areas[foot]:.0f} mm² in a hull of {hull.volume:.0f}, holds {has:.0f}"
        f", the centre of mass {abs(outside):.1f} mm {'outside' if outside > 0 else 'inside'} its edge."
    )
    place = (float(here[0]), float(here[1]), 0.0)
    remedy = "Give it a plinth, or turn it onto a broader foot."
    return [UNSTABLE.at(0, place, has, max(needs, 1e-3), unit="N mm", message=text, remedy=remedy)]
