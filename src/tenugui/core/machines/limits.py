"""What a machine and a material allow: the step a layer may reach out, its angle, and the motor's grain."""

from __future__ import annotations

import math

from .printer import FilamentPrinter, Material, Printer

REST_SHARE = 0.5
"""Prior: the share of a filament line that must rest on the line below."""
WEDGE_MM = 10.0
"""Prior: the longest unsupported slope a resin figure is expected to have."""
SAG_MM = 0.02
"""Prior: the sag accepted at the end of that slope."""


def allowed_step(printer: Printer, material: Material, height: float) -> float:
    """Millimetres a layer may reach beyond the one below.

    Filament: share of the line width, s = f w. Resin: a slope of angle θ above the horizontal is a wedge cantilever under the peel
    pressure p; integrating its curvature 6 p (1-ν²) / (E tan³θ x) over its length L gives an end sag of 6 p (1-ν²) L / (E tan³θ)
    (Euler-Bernoulli, plate modulus); the step is h / tan θ at the accepted sag.
    """
    if isinstance(printer, FilamentPrinter):
        return REST_SHARE * printer.line_mm
    cubed = 6 * printer.peel_kpa * 1e-3 * (1 - material.poisson**2) * WEDGE_MM / (material.green_modulus_mpa * SAG_MM)
    return height / math.pow(cubed, 1 / 3)


def limit_angle(printer: Printer, material: Material, height: float) -> float:
    """Steepest free overhang, in radians from the vertical: atan(step / height)."""
    return math.atan(allowed_step(printer, material, height) / height)


def motor_step(printer: Printer, height: float) -> tuple[str, float]:
    """('full' | 'half' | 'micro' | 'none', rounding in mm) of a layer height on the motor's grain; 'none' where it does not apply.

    >>> from .presets import load_printer
    >>> [motor_step(load_printer("kestrel"), h)[0] for h in (0.12, 0.10, 0.105)]
    ['full', 'half', 'micro']
    """
    if not isinstance(printer, FilamentPrinter):
        return "none", 0.0
    full = printer.lead_mm / printer.steps
    for kind, grain in (("full", full), ("half", full / 2)):
        residue = abs(height - round(height / grain) * grain)
        if residue < 1e-6 and round(height / grain) >= 1:
            return kind, 0.0
    fine = full / printer.microsteps
    return "micro", abs(height - round(height / fine) * fine)


def printer_heights(printer: Printer) -> list[float]:
    """Four customary layer heights to compare: resin 0.03 to 0.1 mm; filament 20 to 60 % of the nozzle, on the motor's full steps."""
    if not isinstance(printer, FilamentPrinter):
        return [0.03, 0.04, 0.05, 0.08]
    full = printer.lead_mm / printer.steps
    heights = sorted({round(max(1, round(printer.nozzle_mm * share / full)) * full, 6) for share in (0.2, 0.3, 0.4, 0.5)})
    while len(heights) < 4:  # a coarse motor: fill up with half steps
        heights.append(round(heights[-1] + full / 2, 6))
    return heights


def default_height(printer: Printer) -> float:
    """The customary height to start from: 0.05 mm of resin, about 40 % of a nozzle."""
    return 0.05 if not isinstance(printer, FilamentPrinter) else printer_heights(printer)[2]
