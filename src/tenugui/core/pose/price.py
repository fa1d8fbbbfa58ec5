"""What a direction takes of a person, a machine and its luck: the aims of a pose as minutes, hours, coins and chances.

Prices are priors. They tell poses from each other before any support is placed; what the chosen one takes is read from
its layers.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from ..machines import LAYER_MPA, SPREAD, Context, as_filament, as_resin, kind_of
from ..vat import layer_seconds
from ..worth import Gift

F8 = NDArray[np.float64]
ADHESION_MPA = 0.1
"""Prior: how a first layer of filament holds to the plate."""
KNOCK_N = 1.5
"""Prior: what a nozzle that runs over a curled edge pushes with, at the top."""
ACCELERATION, GRAVITY = 3.0, 9.81
"""m/s² of a plate that moves, a prior, and of the earth."""
SHELL_SHARE = 0.5
"""Prior: share of a figure of a few centimetres that is walls and roofs; the rest is sparse."""
CUPS_LOST, MANY_CUPS = 0.3, 1.5
"""Priors: a figure of many hollows that open upwards and seal costs the print, or is never clean inside, so often; so
many are many.
"""
CUPS_MIN = 9.0
"""Prior: minutes to empty and rinse a figure of many hollows; they are rinsed together, and the first takes half of it.
"""
SUPPORT_FILL = 0.08
"""Prior: share of the space under what is supported that pillars take."""
FINISH_MIN = 18.0
"""Prior: smoothing a figure whose every surface is stepped as deep as a layer of its process's `finish_at_mm`."""
SURE_MARGIN = 2.5
"""Prior: a plinth holds so many times what pushes."""
FALLS = 0.1
"""Prior: what falls more often than this is not called stable, and is given a plinth where one helps."""
PLINTH_MM, PLINTH_SINK_MM, PLINTH_MIN = 1.2, 0.2, 4.0
"""Priors: how thick a plinth is, how far the foot reaches into it, and minutes to cut and sand it off."""
WEAK_LOST = 0.006
"""Prior: chance that a mm of thin rod that gives way, printed standing in lines, breaks in the print or in the hand."""


@dataclass(frozen=True)
class Pace:
    """What a machine and a material ask: hours for a mm of height and for a mm³ of plastic, coins and kg for a mm³,
    whether parts hang, and the share of a figure that is filled.
    """

    process: str
    hours_mm: float
    hours_mm3: float
    coins_mm3: float
    kg_mm3: float
    hangs: bool
    filled: float
    peel_kpa: float
    hands_times: float = 1.0

    @staticmethod
    def of(context: Context) -> Pace:
        """At the context's layer height."""
        return PACES[context.printer.process](context)


def _resin_pace(context: Context) -> Pace:
    printer, material, h = as_resin(context.printer), context.material, context.height
    many = printer.bottom_layers + printer.transition_layers + 1
    layer = float(layer_seconds(printer, material, many, h)[-1])
    coins = material.cost * 1e-6 * (1 + material.waste)
    return Pace(
        "resin",
        layer / 3600 / h,
        0.0,
        coins,
        material.density_g_ml * 1e-6,
        True,
        1.0,
        context.peel_kpa,
        printer.hands_times,
    )


def _filament_pace(context: Context) -> Pace:
    printer, material, h = as_filament(context.printer), context.material, context.height
    kg = material.density_g_ml * 1e-6
    flow = min(printer.flow_mm3_s, printer.line_mm * h * printer.wall_mm_s)
    filled = SHELL_SHARE + (1 - SHELL_SHARE) * printer.infill
    coins = material.cost * kg * (1 + material.waste)
    change = printer.layer_change_s / 3600 / h
    return Pace("filament", change, 1 / (flow * 3600), coins, kg, False, filled, 0.0, printer.hands_times)


@dataclass(frozen=True)
class Stuff:
    """ml, g and coins of a volume as it is printed, waste counted."""

    ml: float
    grams: float
    coins: float


def stuff_of(context: Context, volume_mm3: float) -> Stuff:
    """What a volume takes before anything is posed: solid on resin, walls and infill by a prior on filament.

    >>> from ..machines import load_material, load_printer
    >>> heron = load_printer("heron")
    >>> round(stuff_of(Context.of(heron, load_material(None, heron)), 10_000.0).coins, 3)
    0.374
    """
    pace = Pace.of(context)
    volume = volume_mm3 * pace.filled
    waste = 1 + context.material.waste
    return Stuff(volume / 1000 * waste, volume * pace.kg_mm3 * 1000 * waste, volume * pace.coins_mm3)


PACES: dict[str, Callable[[Context], Pace]] = {"resin": _resin_pace, "filament": _filament_pace}


@dataclass(frozen=True)
class Takes:
    """(n,) minutes of hands, machine hours, coins of material, chances of losing the print and of losing a part,
    and side in mm of the plinth it stands on (0 for none), for each direction.
    """

    hands_min: F8
    machine_h: F8
    material: F8
    lost: F8
    part_lost: F8
    plinth: F8

    def gift(self, i: int) -> Gift:
        """What direction `i` takes."""
        taken = (self.hands_min, self.machine_h, self.material, self.lost, self.part_lost)
        return Gift(*(float(values[i]) for values in taken))


def falls(foot_mm2: F8, contact_mm2: F8, height_mm: F8, lean_mm: F8, mass_kg: float) -> F8:
    """Chance (n,) that a print is knocked or shaken off the plate: Φ(-ln(hold / push) / SPREAD).

    Hold: adhesion over what touches, at the arm of the radius of its hull, the foot. Push: a knock at the top, the
        moving plate's acceleration at half the height, and its own weight where the centre of mass lies `lean_mm`
        outside the foot. All in N mm.
    """
    return _gives(foot_hold(foot_mm2, contact_mm2), overturning(height_mm, lean_mm, mass_kg))


def overturning(height_mm: Any, lean_mm: Any, mass_kg: float) -> Any:
    """What pushes a print over, in N mm: see `falls`."""
    return KNOCK_N * height_mm + mass_kg * (ACCELERATION * height_mm / 2 + GRAVITY * lean_mm)


def foot_hold(foot_mm2: Any, contact_mm2: Any, mpa: float = ADHESION_MPA) -> Any:
    """What holds a foot of this hull, of which so much touches, against being tipped over, in N mm."""
    return mpa * contact_mm2 * np.sqrt(np.maximum(foot_mm2, contact_mm2) / math.pi)


def _gives(hold: F8, push: F8) -> F8:
    with np.errstate(divide="ignore"):
        return np.asarray(ndtr(-np.log(np.maximum(hold, 1e-9) / push) / SPREAD))


def foot_that_holds(height_mm: Any, lean_mm: Any, mass_kg: float, margin: float = SURE_MARGIN) -> Any:
    """Area in mm² of a round foot whose hold is `margin` times the push: the overturning law solved for the foot.

    >>> area = foot_that_holds(75, 0, 0.02)
    >>> round(float(falls(np.array([area]), np.array([area]), np.array([75.0]), np.zeros(1), 0.02)[0]), 3)
    0.033
    """
    push = overturning(height_mm, lean_mm, mass_kg)
    return math.pi * (margin * push / (ADHESION_MPA * math.pi)) ** (2 / 3)


def plinths(foot_mm2: F8, contact_mm2: F8, height_mm: F8, lean_mm: F8, mass_kg: float) -> tuple[F8, F8]:
    """Side in mm (n,) of the square plinth that each stance wants, 0 where it stands by itself or none helps, and its
    chance of falling then.

    A plinth holds to the plate as `foot_that_holds` asks, and reaches under the centre of mass; the foot holds to the
    plinth by its layers, so that what balances on an edge is not helped.
    """
    alone = falls(foot_mm2, contact_mm2, height_mm, lean_mm, mass_kg)
    width = 2 * np.sqrt(np.maximum(foot_mm2, 0) / math.pi)
    side = np.ceil(
        np.maximum(np.sqrt(foot_that_holds(height_mm, 0.0, mass_kg)), width + 2 * lean_mm + PLINTH_MARGIN_MM)
    )
    tall = height_mm + PLINTH_MM
    snaps = _gives(foot_hold(foot_mm2, contact_mm2, LAYER_MPA), overturning(tall, lean_mm, mass_kg))
    on_it = 1 - (1 - falls(side**2, side**2, tall, np.zeros_like(lean_mm), mass_kg)) * (1 - snaps)
    helps = (alone > FALLS) & (on_it < alone - FALLS)
    return np.where(helps, side, 0.0), np.where(helps, on_it, alone)


PLINTH_MARGIN_MM = 4.0
"""Prior: how far a plinth reaches past what must stand on it, both sides together."""


def steadied(foot_mm2: F8, contact_mm2: F8, support_mm2: F8) -> tuple[F8, F8]:
    """Hull and contact (n,) of a foot with the supports that stand around it: they reach as far as what they hold, and
    STEADY of it holds to the plate.
    """
    return np.maximum(foot_mm2, support_mm2), contact_mm2 + STEADY * support_mm2


STEADY = 0.06
"""Prior: share of a supported surface by which its supports hold the figure to the plate."""


def takes(aims: dict[str, F8], pace: Pace, volume_mm3: float, upright: NDArray[np.bool_]) -> Takes:
    """What each direction takes, for a figure of this volume; `aims` by name as `weigh` measures them.

    `upright` (n,): where it stands as it is meant to. Only there is a plinth put under what would fall.
    """
    hollows = 1 - np.exp(-aims["cups"] / MANY_CUPS)
    smooth = FINISH_MIN * aims["step_cost"] + (CUPS_MIN * hollows if pace.hangs else 0.0)
    hands = smooth + sum(price * aims[aim] for aim, price in kind_of(pace.process).hands_min.items())
    plinth, parts = np.zeros_like(aims["height_mm"]), np.zeros_like(aims["height_mm"])
    plastic = volume_mm3 * pace.filled + SUPPORT_FILL * aims["support_volume_mm3"]
    hours = pace.hours_mm * aims["height_mm"] + pace.hours_mm3 * plastic
    if pace.hangs:
        survives = (1 - CUPS_LOST * hollows) * (1 - _torn(aims["peak_section_mm2"], pace))
    else:
        mass = volume_mm3 * pace.filled * pace.kg_mm3
        stance = (aims["height_mm"], aims["lean"], mass)
        foot, contact = steadied(aims["foot_mm2"], aims["contact_mm2"], aims["support_area_mm2"])
        plinth, on_it = plinths(aims["foot_mm2"], aims["contact_mm2"], *stance)
        off = falls(foot, contact, *stance)
        plinth = np.where(upright & (on_it < off - FALLS / 2), plinth, 0.0)
        off = np.where(plinth > 0, on_it, off)
        survives = 1 - off
        parts = 1 - (1 - WEAK_LOST) ** aims["weak_mm"]
        hands = hands + PLINTH_MIN * (plinth > 0)
        hours = hours + pace.hours_mm3 * PLINTH_MM * plinth**2
        plastic = plastic + PLINTH_MM * plinth**2
    coins, lost = np.asarray(plastic * pace.coins_mm3), np.asarray(1 - survives)
    return Takes(np.asarray(pace.hands_times * hands), np.asarray(hours), coins, lost, parts, plinth)


STRONGEST_N = 60.0
"""Prior: what the supports of a figure are good for before they fill its underside."""


def _torn(section_mm2: F8, pace: Pace) -> F8:
    with np.errstate(divide="ignore"):
        return np.asarray(ndtr(-np.log(STRONGEST_N / np.maximum(section_mm2 * pace.peel_kpa * 1e-3, 1e-9)) / SPREAD))
