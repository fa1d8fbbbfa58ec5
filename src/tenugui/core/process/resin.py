"""Resin: a layer at a time, cured on a film and peeled off it."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..layers import LayerStack, Proof
from ..machines import Context, ResinPrinter
from ..supports import Tip
from ..vat import layer_exposure, layer_pull, resin_use
from .protocol import F8, Threat, Use

SUCTION_HARM_N = 4.0
"""Prior: suction at which a figure's wall or its hold gives way half of the time."""
PLATE_KPA = 60.0
"""Prior: adhesion of green resin to the plate."""
TRAPPED_CHANCE = 0.5
"""Prior: much resin closed in for good leaks or bursts the figure in every second case."""
HARMLESS_MM3 = 50.0
"""Prior: a pocket of so much does so half as often; a smaller one hardly ever."""
DROP_MM3 = 2.0
"""Prior: less is a drop between supports, or the grain of the cut, and is not spoken of."""


class Resin:
    """See `Process`."""

    ledge_mm2 = 12.0
    pulls = True

    def __init__(self, printer: ResinPrinter) -> None:
        self.printer = printer

    def use(self, stack: LayerStack, areas: F8, context: Context) -> Use:
        """By the formula; exact."""
        r = resin_use(
            self.printer, context.material, stack.grid.layers, stack.grid.height, float(areas.sum() * stack.grid.height)
        )
        return Use(r.time_s, r.clock_s, r.volume_ml, r.mass_g, r.cost, False)

    def pull(self, proof: Proof) -> F8:
        """Peel and suction of each layer."""
        return layer_pull(self.printer, proof.areas, proof.voids.sealed_area)

    def blemishes(self, height: float) -> float:
        """None: a layer is lit at once."""
        return 0.0

    def sheet(self, context: Context) -> list[tuple[str, str]]:
        """Exposure and lift."""
        p, m = self.printer, context.material
        bottom = f"first {p.bottom_layers} layers {m.bottom_exposure_s:g} s, {p.transition_layers} transition layers"
        lift = " then ".join(f"{d:g} mm at {v:g} mm/s" for d, v in zip(p.lift_mm, p.lift_mm_s, strict=True))
        return [("Exposure", f"{layer_exposure(m, context.height):.2f} s; {bottom}"), ("Lift", lift)]

    def threats(self, proof: Proof, context: Context, tips: Sequence[Tip], lifted: bool) -> list[Threat]:
        """Cups, trapped liquid, and the strongest pull against what holds."""
        return [*self._cups(proof), *self._trapped(proof), *self._pull(proof, context, tips, lifted)]

    def _cups(self, proof: Proof) -> list[Threat]:
        height = proof.stack.grid.height
        found = []
        for cup in proof.voids.sealed:
            force = self.printer.suction_kpa * cup.peak_area * 1e-3
            top = cup.first_layer + int(np.argmax(cup.area))
            low, high = cup.first_layer * height, (cup.last_layer + 1) * height
            text = f"A cup of {cup.volume:.1f} mm³ seals against the film from {low:.2f} to {high:.2f} mm and sucks with {force:.2f} N."
            remedy = "Vent it with a hole near the plate, or tilt the figure until it drains."
            found.append(
                Threat("sealed", top, (cup.x, cup.y, top * height), SUCTION_HARM_N, force, "N of suction", text, remedy)
            )
        return found

    def _trapped(self, proof: Proof) -> list[Threat]:
        height = proof.stack.grid.height
        found = []
        for space in proof.voids.trapped:
            if space.volume < DROP_MM3:
                continue
            much = f"{space.volume / 1000:.1f} ml" if space.volume >= 100 else f"{space.volume:.0f} mm³"
            text = f"{much} of liquid resin stay inside between {space.z_low:.1f} and {space.z_high:.1f} mm."
            remedy = "Drill two drain holes on hidden surfaces, or fill the hollow."
            place = (space.x, space.y, space.z_low)
            found.append(
                Threat(
                    "trapped",
                    int(space.z_low / height),
                    place,
                    HARMLESS_MM3,
                    space.volume,
                    "mm³",
                    text,
                    remedy,
                    TRAPPED_CHANCE / (1 + (HARMLESS_MM3 / space.volume) ** 2),
                )
            )
        return found

    def _pull(self, proof: Proof, context: Context, tips: Sequence[Tip], lifted: bool) -> list[Threat]:
        pull = self.pull(proof)
        if not len(pull):
            return []
        peak = int(np.argmax(pull))
        x, y = proof.centroids[peak]
        place = (float(x), float(y), peak * proof.stack.grid.height)
        force = float(pull[peak])
        if lifted and tips:
            holds = sum(context.material.green_strength_mpa * math.pi * t.diameter**2 / 4 for t in tips)
            text = f"The peel of layer {peak} pulls with {force:.2f} N; all tips together hold {holds:.1f} N."
            remedy = "Add tips below the widest sections, or tilt the figure to narrow them."
            return [Threat("pull", peak, place, holds, force, "N", text, remedy)]
        foot = float(proof.areas[0] * PLATE_KPA * 1e-3)
        text = f"The peel of layer {peak} pulls with {force:.2f} N; the foot on the plate holds {foot:.2f} N."
        return [Threat("pull", peak, place, foot, force, "N", text, "Give it a raft or a wider foot.")]
