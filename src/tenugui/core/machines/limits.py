"""What a machine and a material allow: the step a layer may reach out, its angle, and the motor's grain."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from .printer import Material, Printer

NOZZLE_DRAG_N = 0.02
"""Prior: how hard a nozzle drags at what it draws, sideways."""
LAYER_MPA = 15.0
"""Prior: strength of filament between its layers."""
PLASTIC_MPA = 2300.0
"""Prior: the stiffness of printed plastic, of a figure and of its supports alike."""
USUAL_RISK = 0.05
"""Prior: the accepted chance of failing, a tip, where nobody says otherwise; priors of tips and spans are stated at it.
"""
SPREAD = 0.5
"""Prior: the log-normal spread of a margin (capacity over demand) on a machine whose prints differ as usual."""


CURES_ON_MM = 0.1
"""Prior: a layer with nothing above it cures so much deeper than it is high, into the resin behind it."""


def by_depth(material: Material, height: float) -> float:
    """How many times as hard a layer of resin clings to the film as one of the height at which its exposure is known:
    it holds by the logarithm of the dose at the film, and that is the depth of the cure over D_p (Jacobs 1992).

    >>> from .presets import load_material, load_printer
    >>> grey = load_material(None, load_printer("heron"))
    >>> round(by_depth(grey, 0.05), 3), round(by_depth(grey, 0.2), 3)
    (1.0, 2.0)
    """
    return (height + CURES_ON_MM) / (material.exposure_base_mm + CURES_ON_MM)


ROOM_SLACK_MM = 1e-3
"""Sizes are floats turned and shifted: what is larger than a room by no more than this fits it."""


def fits_in(size_mm: ArrayLike, room_mm: ArrayLike, grain_mm: ArrayLike = 0.0) -> bool:
    """Whether a size fits a room along every axis given; `grain_mm`: how far the size may be told too large by what it
    was measured on. The one answer to that question.

    >>> fits_in((10.0, 20.0, 30.0), (10.0, 20.0, 30.0)), fits_in((10.1, 20.0, 30.0), (10.0, 20.0, 30.0))
    (True, False)
    """
    return bool((np.asarray(size_mm, float) <= np.asarray(room_mm, float) + ROOM_SLACK_MM + np.asarray(grain_mm)).all())


def free_reach(printer: Printer, material: Material, height: float) -> float:
    """Millimetres a layer may reach beyond the one below (see each printer's own)."""
    return printer.free_reach(material, height)


def limit_angle(printer: Printer, material: Material, height: float) -> float:
    """Steepest free overhang, in radians from the vertical: atan(step / height)."""
    return math.atan(free_reach(printer, material, height) / height)


def motor_step(printer: Printer, height: float) -> tuple[str, float]:
    """('full' | 'half' | 'micro' | 'none', rounding in mm) of a layer height on the motor's grain; 'none' where it does
    not apply.

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
