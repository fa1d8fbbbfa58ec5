"""Resin: a layer at a time, cured on a film and peeled off it."""

from __future__ import annotations

import math

import numpy as np
from scipy.special import ndtr

from ..hazards import CAP, Arises, Hazard, Kind, Loss, Sight, source
from ..layers import LayerStack, Proof
from ..machines import CURES_ON_MM, Context, Material, ResinPrinter, as_resin, by_depth, peels
from ..mesh import Mesh
from ..paths import Props
from ..supports import Neck, ResinManner, body_loads, necks
from ..supports.holds import PLATE_KPA
from ..vat import film_wear, layer_exposure, layer_pull, print_through_mm, resin_use
from .protocol import COUNTS, F8, MOST_OF_IT, Use

SUCTION_HARM_N = 10.0
"""Prior: suction at which a figure's wall or its hold gives way half of the time."""
TOLD_CUP_N = 0.1
"""Prior: what sucks less is a dimple of the surface, and nobody drills a hole for it."""
TOLD_MARGIN = 5.0
"""Prior: a body that is held so many times over fails in less than one of a thousand prints and is not spoken of."""
MOST_BODIES = 8
MOST_NECKS = 4
TRAPPED_CHANCE = 0.5
"""Prior: much resin closed in for good leaks or bursts the figure in every second case."""
HARMLESS_MM3 = 50.0
"""Prior: a pocket of so much does so half as often; a smaller one hardly ever."""
TOLD_LEVER_MM = 1.5
BONDS_FROM_MM = 0.02
"""Prior: how little of what a layer cures into the one below (CURES_ON_MM) still holds."""
LAMP_SPREAD, CURVE_GUESSED, CURVE_KNOWN = 0.1, 0.25, 0.05
"""Priors: how far the dose may be off from day to day, and a resin's D_p where it is guessed and where two exposures or
a data sheet tell it; shares, one standard deviation.
"""
TOLD_BOND = 1e-3
DROP_MM3 = 2.0
"""Prior: less is a drop between supports, or the grain of the cut, and is not spoken of."""


class Resin:
    """See `Process`."""

    ledge_mm2 = ResinManner.ledge_mm2
    closes = 20.0
    pulls = True

    def __init__(self, printer: ResinPrinter) -> None:
        self.printer = printer

    def use(self, stack: LayerStack, areas: F8, context: Context) -> Use:
        """By the formula; exact. The film that it wears is in the cost."""
        r = resin_use(
            self.printer, context.material, stack.grid.layers, stack.grid.height, float(areas.sum() * stack.grid.height)
        )
        film = film_wear(self.printer, areas)
        cost = r.cost + film * self.printer.film_cost
        # A screen lights as many as lie on the plate together.
        together = (r.time_s,) * len(COUNTS)
        return Use(r.time_s, r.clock_s, r.volume_ml, r.mass_g, cost, "formula", film, together)

    def use_of(self, figure: Mesh, props: Props, proof: Proof, context: Context) -> Use:
        """The same: a screen takes as long whatever is on it."""
        return self.use(proof.stack, proof.areas, context)

    def pull(self, proof: Proof, context: Context) -> F8:
        """Peel and suction of each layer."""
        return layer_pull(
            self.printer, proof.areas, proof.voids.sealed_area, by_depth(context.material, context.height)
        )

    def blur_mm(self, context: Context) -> float:
        """By the light that passes the layers above."""
        return print_through_mm(context.material, context.height)

    def blemishes(self, height: float) -> float:
        """None: a layer is lit at once."""
        return 0.0

    def sheet(self, context: Context) -> list[tuple[str, str]]:
        """Exposure and lift."""
        p, m = self.printer, context.material
        bottom = f"first {p.bottom_layers} layers {m.bottom_exposure_s:g} s, {p.transition_layers} transition layers"
        lift = " then ".join(f"{d:g} mm at {v:g} mm/s" for d, v in zip(p.lift_mm, p.lift_mm_s, strict=True))
        rests = (
            f" (by a prior of D_p {m.light_mm:g} mm from {m.exposure_s:g} s at {m.exposure_base_mm:g} mm: test it)"
            if m.guesses_light(context.height)
            else ""
        )
        return [("Exposure", f"{layer_exposure(m, context.height):.2f} s{rests}; {bottom}"), ("Lift", lift)]


SEALED = Kind(
    "sealed",
    "sealed space",
    "a cup seals against the film and sucks when it is peeled off",
    "part lost",
    "waves",
    bare=True,
    stop="pulls",
)
TRAPPED = Kind(
    "trapped",
    "trapped liquid",
    "liquid resin stays inside with no way out",
    "part lost",
    "waves",
    bare=True,
    stop="pulls",
)
PULL = Kind(
    "pull", "pull", "the peeled layer pulls harder than what holds the figure", "print lost", "rope", stop="pulls"
)


@source(SEALED, on=peels)
def cups(sight: Sight) -> list[Hazard]:
    """Cups that seal against the film."""
    kpa, hazards = as_resin(sight.context.printer).suction_kpa, []
    for cup in sight.proof.voids.sealed:
        force = kpa * cup.peak_area * 1e-3
        if force < TOLD_CUP_N:
            continue
        top = cup.first_layer + int(np.argmax(cup.area))
        low, high = cup.first_layer * sight.height, (cup.last_layer + 1) * sight.height
        text = (
            f"A cup of {cup.volume:.1f} mm³ seals against the film from "
            f"{low:.2f} to {high:.2f} mm and sucks with {force:.2f} N."
        )
        remedy = "Vent it with a hole near the plate, or tilt the figure until it drains."
        place = (cup.x, cup.y, top * sight.height)
        hazards.append(SEALED.at(top, place, SUCTION_HARM_N, force, unit="N of suction", message=text, remedy=remedy))
    return hazards


@source(TRAPPED, on=peels)
def pockets(sight: Sight) -> list[Hazard]:
    """Liquid that stays in the finished print."""
    hazards = []
    for space in sight.proof.voids.trapped:
        if space.volume < DROP_MM3:
            continue
        much = f"{space.volume / 1000:.1f} ml" if space.volume >= 100 else f"{space.volume:.0f} mm³"
        text = f"{much} of liquid resin stay inside between {space.z_low:.1f} and {space.z_high:.1f} mm."
        remedy = "Drill two drain holes on hidden surfaces, or fill the hollow."
        arises = Arises(given=TRAPPED_CHANCE / (1 + (HARMLESS_MM3 / space.volume) ** 2))
        layer, place = int(space.z_low / sight.height), (space.x, space.y, space.z_low)
        hazards.append(
            TRAPPED.at(layer, place, HARMLESS_MM3, space.volume, unit="mm³", message=text, remedy=remedy, arises=arises)
        )
    return hazards


BOND = Kind(
    "bond",
    "layers part",
    "a layer cures too little into the one below it, and they part when it is peeled",
    "print lost",
    "stripes",
    stop="",
)


def overcure_spread(material: Material, height: float) -> float:
    """How far the overcure may be off at a layer height (mm, one standard deviation): by the lamp at any height, and by
    the working curve as far from the height at which its exposure is known.
    """
    curve = CURVE_KNOWN if material.knows_light else CURVE_GUESSED
    away = (height - material.exposure_base_mm) * curve
    return math.hypot(LAMP_SPREAD * material.light_mm, away)


@source(BOND, on=peels)
def bonds(sight: Sight) -> list[Hazard]:
    """A layer that is cured too little into the one below, of a height for which the exposure rests on a curve."""
    context, height = sight.context, sight.height
    spread = overcure_spread(context.material, height) * context.printer.scatter
    chance = float(ndtr((BONDS_FROM_MM - CURES_ON_MM) / spread))
    if chance < TOLD_BOND:
        return []
    material = context.material
    known = "two known exposures" if material.knows_light else "a prior of its D_p"
    text = (
        f"Layers of {height:g} mm are lit by a curve from {material.exposure_base_mm:g} mm and {known}: how deep they "
        f"cure into the one below may be off by {spread:.3f} mm, of {CURES_ON_MM:g} mm (prior)."
    )
    remedy = "Print an exposure test at this height and give the material its second pair, or take a known height."
    layer = int(sight.proof.areas.argmax())
    x, y = (float(v) for v in sight.proof.centroids[layer])
    place, arises = (x, y, layer * height), Arises(given=min(CAP, chance))
    return [BOND.at(layer, place, CURES_ON_MM, BONDS_FROM_MM, unit="mm", message=text, remedy=remedy, arises=arises)]


@source(PULL, on=peels)
def load_path(sight: Sight) -> list[Hazard]:
    """Every body's strongest pull against what holds it, necks, and what holds on the plate."""
    return [*_bodies(sight), *(_plate(sight) if len(sight.tips) else [])]


def _plate(sight: Sight) -> list[Hazard]:
    """The strongest pull of any layer against what the raft or the feet hold on the plate."""
    proof = sight.proof
    pull = Resin(as_resin(sight.context.printer)).pull(proof, sight.context)
    layer = int(pull.argmax())
    holds, asks = float(proof.areas[0]) * PLATE_KPA * 1e-3, float(pull[layer])
    if holds >= TOLD_MARGIN * asks:
        return []
    text = (
        f"Layer {layer} pulls with {asks:.1f} N; what lies on the "
        f"plate, {proof.areas[0]:.0f} mm², holds {holds:.1f} N (prior)."
    )
    remedy = (
        "Take a full raft, or wider feet." if holds < asks else "Clean the plate, and light the first layers longer."
    )
    x, y = (float(v) for v in proof.centroids[0])
    arises = Arises(shared="plate")
    return [
        PULL.at(
            layer, (x, y, 0.0), holds, asks, unit="N", message=text, remedy=remedy, arises=arises, loss="print lost"
        )
    ]


def _bodies(sight: Sight) -> list[Hazard]:
    """Bodies that their holds may not carry, the weakest first; what hangs on nothing is an island and told as one."""
    points = np.array([[t.x, t.y, t.z] for t in sight.tips]).reshape(-1, 3)
    wide = np.array([t.diameter for t in sight.tips])
    loads = body_loads(sight.own, points, wide, sight.context, below=TOLD_MARGIN)
    hazards = [_neck(neck) for neck in necks(sight.own, points, wide, sight.context, TOLD_MARGIN)[:MOST_NECKS]]
    for body in [b for b in loads if b.hold > 0][:MOST_BODIES]:
        carried = (
            f"{body.tips} tip{'s' * (body.tips != 1)} hold{'s' * (body.tips == 1)}"
            if body.tips
            else "the foot on the plate holds"
        )
        what = "the figure" if body.share > MOST_OF_IT else f"a part of {max(body.share, 0.001):.1%} of it"
        aside = f", {body.lever:.0f} mm beside the middle of what holds it" if body.lever >= TOLD_LEVER_MM else ""
        text = f"Layer {body.layer} pulls with {body.pull:.2f} N on {what}{aside}; {carried} {body.hold:.2f} N there."
        remedy = (
            "Accept less risk a tip for more tips below it, or tilt the figure to narrow it."
            if body.tips
            else "Give it a raft or a wider foot."
        )
        place, arises = (body.x, body.y, body.z), Arises(shared="body")
        loss: Loss = "print lost" if body.share > MOST_OF_IT else "part lost"
        hazards.append(
            PULL.at(
                body.layer, place, body.hold, body.pull, unit="N", message=text, remedy=remedy, arises=arises, loss=loss
            )
        )
    return hazards


def _neck(neck: Neck) -> Hazard:
    aside = f" {neck.lever:.0f} mm beside" if neck.lever >= TOLD_LEVER_MM else " above"
    text = (
        f"Layer {neck.by_layer} pulls with {neck.pull:.2f} N{aside} a neck of "
        f"{neck.section_mm2:.1f} mm² at {neck.z:.1f} mm, which bears {neck.hold:.2f} N so."
    )
    remedy = (
        "Hold what hangs out above it with tips of its own, or "
        "turn the figure so that it hangs straight below its neck."
    )
    loss: Loss = "print lost" if neck.share > MOST_OF_IT else "part lost"
    place, arises = (neck.x, neck.y, neck.z), Arises(shared="neck")
    return PULL.at(
        neck.layer, place, neck.hold, neck.pull, unit="N", message=text, remedy=remedy, arises=arises, loss=loss
    )
