"""What a machine and a material allow: the step a layer may reach out, its angle, and the motor's grain."""

from __future__ import annotations

import math

from .printer import Material, Printer


def free_reach(printer: Printer, material: Material, height: float) -> float:
    """Millimetres a layer may reach beyond the one below (see each printer's own)."""
    return printer.free_reach(material, height)


def limit_angle(printer: Printer, material: Material, height: float) -> float:
    """Steepest free overhang, in radians from the vertical: atan(step / height)."""
    return math.atan(free_reach(printer, material, height) / height)


def motor_step(printer: Printer, height: float) -> tuple[str, float]:
    """('full' | 'half' | 'micro' | 'none', rounding in mm) of a layer height on the motor's grain; 'none' where it does not apply.

    >>> from .presets import load_printer
    >>> [motor_step(load_printer("kestrel"), h)[0] for h in (0.12, 0.10, 0.105)]
    ['full', 'half', 'micro']
    """
    return printer.motor_step(height)


def printer_heights(printer: Printer, material: Material) -> list[float]:
    """Four layer heights to compare, finest first.

    >>> from .presets import load_material, load_printer
    >>> heron = load_printer("heron")
    >>> printer_heights(heron, load_material(None, heron))
    [0.03, 0.04, 0.05, 0.08]
    """
    return printer.heights(material)


def default_height(printer: Printer) -> float:
    """The customary height to start from."""
    return printer.default_height()
