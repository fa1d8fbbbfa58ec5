"""One layout of what pulls on a figure's components and what holds each, for all that walk it: the load path, necks,
margins and trial prints.

Terms. *Hold*: what keeps a component back from the film: a tip under it that stands on the plate or the figure, or the
plate itself under the first layer.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..layers import Proof
from ..machines import Context
from .touch import touched

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
PLATE_KPA = 60.0
"""Prior: adhesion of green resin to the plate."""


class Layout(NamedTuple):
    """Of every component (n,), in the order of layers: its layer, area in mm², middle (n, 2) and the pull on it in N;
    from `link_start` (n + 1,) the links (l, 2) to those below it; from `hold_start` (n + 1,) its holds (h, 3): x, y and
    strength in N, and which tip each is (h,), -1 for the plate.
    """

    layer: I4
    area: F8
    centre: F8
    pull: F8
    link_start: I8
    links: I4
    hold_start: I8
    holds: F8
    tip: I4


class Plate(NamedTuple):
    """What the plate holds (h, 3): x, y, strength in N; and of which component each (h,)."""

    holds: F8
    of: I4


class Tips(NamedTuple):
    """Tips: the component that each pushes against (t,), -1 for none, their contacts (t, 3), and strengths (t,), N."""

    on: I4
    at: F8
    strength: F8


def _begins(of: I4 | NDArray[np.intp], n: int) -> I8:
    """Where the rows of each of n things begin (n + 1,), in the order of what they are of (r,). O(r + n)."""
    return np.concatenate([[0], np.cumsum(np.bincount(of, minlength=n))]).astype(np.int64)


def layout(layer: I4, area: F8, centre: F8, *, links: I4, pull: F8, plate: Plate, tips: Tips) -> Layout:
    """Components of a stack (see `layers.Components`) with what holds each. O((components + holds) log)."""
    n, there = len(layer), np.flatnonzero(tips.on >= 0)
    whole = np.concatenate([plate.holds, np.column_stack([tips.at[:, :2], tips.strength])[there]])
    of = np.concatenate([plate.of, tips.on[there]])
    named = np.concatenate([np.full(len(plate.of), -1), there]).astype(np.int32)
    order = np.argsort(of, kind="stable")
    start, link_start = _begins(of, n), _begins(links[:, 0], n)
    return Layout(
        layer, area, centre, pull, link_start, links, start, np.ascontiguousarray(whole[order], float), named[order]
    )


def layout_of(proof: Proof, points: F8, diameters: F8, context: Context) -> Layout:
    """The same of a figure's own proof, with tips by contacts (t, 3) in mm and diameters (t,)."""
    parts, points = proof.components, np.asarray(points, float).reshape(-1, 3)
    tips = Tips(touched(proof, points), points, np.asarray(tip_hold(context, diameters), float).reshape(-1))
    return layout(
        parts.layer,
        parts.area,
        parts.centre,
        links=parts.links,
        pull=pulls_of(proof, context),
        plate=plate_of(proof),
        tips=tips,
    )


def plate_of(proof: Proof) -> Plate:
    """How the plate holds a first layer: told as five points that have a rectangle's area and moments, a sixth of a
    half in each corner, the rest in its middle.
    """
    parts = proof.components
    flat = np.flatnonzero(parts.layer == 0)
    corners = np.array([[0, 0], [1, 1], [1, -1], [-1, 1], [-1, -1]]) / 2
    spots = parts.centre[flat][:, None] + corners * parts.width[flat][:, None]
    strength = (parts.area[flat] * PLATE_KPA * 1e-3)[:, None] * np.array([2 / 3, *[1 / 12] * 4])
    holds = np.concatenate([spots, strength[:, :, None]], axis=2).reshape(-1, 3)
    return Plate(holds, np.repeat(flat, 5).astype(np.int32))


def tip_hold(context: Context, diameter: Any) -> Any:
    """Newtons that a tip holds before it tears: green strength over its section.

    >>> from ..machines import load_printer, load_material
    >>> p = load_printer("heron"); c = Context.of(p, load_material(None, p))
    >>> round(tip_hold(c, 0.4) / tip_hold(c, 0.2), 6)
    4.0
    """
    return context.material.green_strength_mpa * math.pi * diameter**2 / 4


def pulls_of(proof: Proof, context: Context) -> F8:
    """Newtons (n,) with which the film pulls on each component as it is cured: peel over its area, and suction on the
    largest of a layer that seals.
    """
    parts, printer = proof.components, context.printer
    pull = np.asarray(parts.area * context.peel_kpa * 1e-3)
    sealed = proof.voids.sealed_area
    layers = np.flatnonzero(sealed > 0)
    begins, ends = np.searchsorted(parts.layer, layers), np.searchsorted(parts.layer, layers + 1)
    for layer, first, last in zip(layers.tolist(), begins.tolist(), ends.tolist(), strict=True):
        if last > first:
            biggest = first + int(np.argmax(parts.area[first:last]))
            pull[biggest] += getattr(printer, "suction_kpa", 0.0) * sealed[layer] * 1e-3
    return pull
