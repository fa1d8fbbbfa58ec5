"""Resin: the time is a formula and therefore exact; the pull is an estimate from priors."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..machines import CURES_ON_MM, Material, ResinPrinter

F8 = NDArray[np.float64]


@dataclass(frozen=True)
class ResinUse:
    """Seconds in all and after each layer, volume with waste in ml, mass in g, cost."""

    time_s: float
    clock_s: F8
    volume_ml: float
    mass_g: float
    cost: float


def layer_exposure(material: Material, height: float) -> float:
    """Seconds that a normal layer of this height is lit: by the working curve through the known exposure."""
    return material.exposure_s * math.exp((height - material.exposure_base_mm) / material.light_mm)


def print_through_mm(material: Material, height: float) -> float:
    """How far light cures on behind a downward face once many layers lie on it: each adds its dose, fainter by
    exp(-h / D_p) a layer, a geometric row whose sum is 1 / (1 - exp(-h / D_p)) of the first (from the working curve,
    Jacobs 1992). Thin layers blur more.
    """
    through = 1 - math.exp(-height / material.light_mm)
    return CURES_ON_MM - material.light_mm * math.log(through)


def exposures(printer: ResinPrinter, material: Material, layers: int, height: float) -> F8:
    """(layers,) seconds that each layer is lit: the first get the bottom exposure, the transition layers fall linearly
    to the normal one (exclusive of both ends).
    """
    normal = layer_exposure(material, height)
    exposure = np.full(layers, normal)
    bottom = min(printer.bottom_layers, layers)
    exposure[:bottom] = material.bottom_exposure_s
    for i in range(min(printer.transition_layers, layers - bottom)):
        share = (i + 1) / (printer.transition_layers + 1)
        exposure[bottom + i] = material.bottom_exposure_s + share * (normal - material.bottom_exposure_s)
    return exposure


def layer_seconds(printer: ResinPrinter, material: Material, layers: int, height: float) -> F8:
    """(layers,) seconds a layer: wait (longer before bottom layers), exposure, two-speed lift, wait, two-speed
    return.
    """
    exposure, bottom = exposures(printer, material, layers, height), min(printer.bottom_layers, layers)
    wait = np.full(layers, printer.wait_before_s)
    wait[:bottom] += printer.bottom_wait_s
    lift = sum(d / v for d, v in zip(printer.lift_mm, printer.lift_mm_s, strict=True))
    back = sum(d / v for d, v in zip(printer.return_mm, printer.return_mm_s, strict=True))
    return np.asarray(wait + exposure + lift + printer.wait_after_lift_s + back)


def resin_use(printer: ResinPrinter, material: Material, layers: int, height: float, volume_mm3: float) -> ResinUse:
    """Time by the formula; material by the stack's volume plus the material's share of waste."""
    clock = printer.start_s + np.cumsum(layer_seconds(printer, material, layers, height))
    ml = volume_mm3 / 1000 * (1 + material.waste)
    return ResinUse(
        float(clock[-1] + printer.end_s) if layers else 0.0,
        clock,
        ml,
        ml * material.density_g_ml,
        ml / 1000 * material.cost,
    )


def layer_pull(printer: ResinPrinter, areas: F8, sealed: F8, depth: float = 1.0) -> F8:
    """(layers,) newtons on the supports when each layer is peeled: F = p A + Δp A_sealed. Pressures are priors;
    `depth`: how many times as hard a layer of this height clings (`by_depth`).
    """
    return np.asarray((printer.peel_kpa * depth * areas + printer.suction_kpa * sealed) * 1e-3)
