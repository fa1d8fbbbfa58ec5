"""Series that ship: what people ask of their machines, with levels about what a machine is set to now."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from .spec import Kind, Level, Spec


@dataclass(frozen=True)
class Shipped:
    """`asks` the question; `piece` the test piece it is printed as, where it is no figure; `ability` what its yes and
    no tell of a machine at which factor's levels.
    """

    code: str
    title: str
    asks: str
    process: tuple[str, ...]
    spec: Spec
    piece: str | None = None
    ability: tuple[str, str] | None = None


def _around(value: float, shares: tuple[float, ...], step: float) -> list[Level]:
    """Levels about a value on a grain, each once."""
    levels = [round(round(value * share / step) * step, 6) for share in shares]
    return list(dict.fromkeys(max(level, step) for level in levels))


def shipped(
    printer: Mapping[str, Any], material: Mapping[str, Any], heights: Sequence[float] | None = None
) -> list[Shipped]:
    """Those for a machine and a material, as they stand on the shelf; `heights` in mm that it offers, about its usual
    one where they are not known.

    >>> kestrel = {"process": "filament", "nozzle_mm": 0.4, "support_gap_mm": 0.2, "wall_mm_s": 45.0}
    >>> [s.code for s in shipped(kestrel, {})][:3]
    ['heights', 'gap by interface', 'density']
    """
    hangs = printer["process"] == "resin"
    base = float(material.get("exposure_base_mm", 0.05)) if hangs else 0.4 * float(printer.get("nozzle_mm", 0.4))
    looks: dict[str, Kind] = {"grade": "grade", "blemishes": "count", "hours": "time", "preferred": "preference"}
    every = [
        Shipped(
            "heights",
            "Layer height",
            "Which height is worth its hours?",
            ("resin", "filament"),
            _spec(
                {"height mm": list(heights or _around(base, (0.5, 0.75, 1.0, 1.5), 0.01 if hangs else 0.02))}, looks, 3
            ),
        ),
        Shipped(
            "gap by interface",
            "Gap and roof of supports",
            "Which gap lets go and still carries?",
            ("filament",),
            _spec(
                {
                    "gap mm": _around(float(printer.get("support_gap_mm", 0.2)), (0.5, 1.0, 1.5), 0.05),
                    "roof layers": [1, 2, 4],
                },
                {"came off": "yesno", "underside": "grade", "minutes": "time"},
                2,
            ),
            "gap",
            ("gap", "gap mm"),
        ),
        Shipped(
            "density",
            "Fewer supports, downwards",
            "How few still hold?",
            ("resin", "filament"),
            _spec({"risk a tip": [0.01, 0.05, 0.1, 0.2]}, {"held": "yesno", "scars": "count", "minutes": "time"}, 3),
        ),
        Shipped(
            "tip stepwise",
            "Thinner tips, step by step",
            "How thin a tip still holds, and what does it leave?",
            ("resin",),
            _spec({"tip mm": [0.15, 0.2, 0.25, 0.3, 0.4]}, {"held": "yesno", "scars": "count"}, 3),
            None,
            ("tip", "tip mm"),
        ),
        Shipped(
            "speed",
            "Speed of walls",
            "How fast before it shows?",
            ("filament",),
            _spec({"wall mm/s": _around(float(printer.get("wall_mm_s", 45.0)), (0.6, 1.0, 1.5, 2.0), 5.0)}, looks, 2),
            "heights",
        ),
        Shipped(
            "exposure",
            "Exposure",
            "Which time keeps holes open and rods standing?",
            ("resin",),
            _spec(
                {"seconds": _around(float(material.get("exposure_s", 2.4)), (0.7, 0.85, 1.0, 1.2, 1.4), 0.1)},
                {"holes open": "count", "rods standing": "count", "edges": "grade"},
                2,
            ),
            "peg and hole",
        ),
        Shipped(
            "overhang",
            "Clean overhang",
            "How far may it lean from the vertical?",
            ("filament",),
            _spec({"lean °": [30, 40, 45, 50, 55, 60, 65, 70]}, {"clean": "yesno"}, 2),
            "overhang",
            ("overhang", "lean °"),
        ),
        Shipped(
            "bridge",
            "Clean bridge",
            "How long a bridge comes out clean?",
            ("filament",),
            _spec({"span mm": [5, 10, 15, 20, 30, 40]}, {"clean": "yesno"}, 2),
            "bridge",
            ("bridge", "span mm"),
        ),
        Shipped(
            "peg and hole",
            "Smallest peg",
            "Which peg stands, which hole stays open?",
            ("resin", "filament"),
            _spec({"peg mm": [0.4, 0.6, 0.8, 1.0, 1.5, 2.0]}, {"stands": "yesno", "hole open": "yesno"}, 2),
            "peg and hole",
            ("peg", "peg mm"),
        ),
        Shipped(
            "rod and wall",
            "Thinnest rod",
            "How thin a rod survives washing and hands?",
            ("resin", "filament"),
            _spec({"rod mm": [0.3, 0.4, 0.5, 0.6, 0.8, 1.0]}, {"survived": "yesno"}, 3),
            "rod and wall",
            ("rod", "rod mm"),
        ),
    ]
    return [one for one in every if printer["process"] in one.process]


def _spec(factors: Mapping[str, list[Level]], responses: Mapping[str, Kind], repeats: int) -> Spec:
    return Spec(factors=dict(factors), responses=dict(responses), repeats=repeats, rate_per_h=None)
