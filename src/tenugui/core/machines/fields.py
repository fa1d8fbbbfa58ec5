"""Printers and materials as a form: every number with its title, unit, range and default, the ranges those of the
models themselves; choices in words.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any, Literal

from .printer import PENETRATION_MM, FilamentPrinter, Material, ResinPrinter

Kind = Literal["number", "whole", "text"]
Told = tuple[str, str, str]

_BUILD, _LAYERS, _LIFT, _LINES, _HOURS, _COINS, _STUFF, _LUCK = (
    "Build space",
    "Light and layers",
    "Lift and peel",
    "Lines",
    "Start, end, power",
    "Cost and wear",
    "The material",
    "How it varies",
)
AMOUNTS = frozenset({_LAYERS, _LIFT, _LINES, _HOURS})
"""Groups of how a machine prints, and not of what it is or costs."""
_SCATTER: Told = (_LUCK, "Prints differ, times as much as usual (prior 1)", "")
_HANDS: Told = (_LUCK, "Minutes by hand, times what is reckoned (prior 1)", "")
_RESIN: dict[str, Told] = {
    "build_mm": (_BUILD, "Wide, deep, tall", "mm"),
    "pixels": (_BUILD, "Pixels of the screen, wide and deep", ""),
    "step_mm": (_BUILD, "Finest step in height", "mm"),
    "bottom_layers": (_LAYERS, "Bottom layers", ""),
    "transition_layers": (_LAYERS, "Transition layers", ""),
    "bottom_wait_s": (_LAYERS, "More rest before a bottom layer is lit", "s"),
    "wait_before_s": (_LAYERS, "Rest before a layer is lit", "s"),
    "lift_mm": (_LIFT, "Lift, slow then fast", "mm"),
    "lift_mm_s": (_LIFT, "Speed of the lift, slow then fast", "mm/s"),
    "wait_after_lift_s": (_LIFT, "Rest when lifted", "s"),
    "return_mm": (_LIFT, "Return, fast then slow", "mm"),
    "return_mm_s": (_LIFT, "Speed of the return, fast then slow", "mm/s"),
    "peel_kpa": (_LIFT, "Peel of the film (prior 8)", "kPa"),
    "suction_kpa": (_LIFT, "Suction of what seals (prior 20)", "kPa"),
    "start_s": (_HOURS, "Before the first layer", "s"),
    "end_s": (_HOURS, "After the last layer", "s"),
    "watts": (_HOURS, "Power", "W"),
    "scatter": _SCATTER,
    "hands_times": _HANDS,
    "film_layers": (_COINS, "Layers that a film lasts (prior 30,000)", ""),
    "film_cost": (_COINS, "A new film", "coins"),
}
_FILAMENT: dict[str, Told] = {
    "build_mm": (_BUILD, "Wide, deep, tall", "mm"),
    "nozzle_mm": (_LINES, "Nozzle", "mm"),
    "line_mm": (_LINES, "Width of a line", "mm"),
    "perimeters": (_LINES, "Perimeters", ""),
    "roof_mm": (_LINES, "Roofs and floors", "mm"),
    "infill": (_LINES, "Infill, share of solid", ""),
    "infill_form": (_LINES, "Infill in", ""),
    "brim_mm": (_LINES, "Brim around the first layer", "mm"),
    "raft_layers": (_LINES, "Raft under everything, layers", ""),
    "hop_mm": (_LINES, "Rise before the nozzle crosses (prior 0.2)", "mm"),
    "seam_at": (_LINES, "Loops begin", ""),
    "iron": (_LINES, "Level places", ""),
    "bridge_mm": (_LINES, "Longest bridge (prior 20)", "mm"),
    "overhang_test": (_LINES, "Your overhang test: layer, and lean that came out clean", "mm, °"),
    "support_gap_mm": (_LINES, "Gap between supports and figure (prior 0.2)", "mm"),
    "interface_layers": (_LINES, "Layers of the interface that supports end in (prior 2)", ""),
    "interface_form": (_LINES, "The interface in", ""),
    "interface_density": (_LINES, "Lines of the interface, share of solid (prior 1)", ""),
    "support_walls": (_LINES, "Closed lines around supports (prior 1)", ""),
    "support_density": (_LINES, "Lines of supports, share of solid (prior 0.2)", ""),
    "head_mm": (_BUILD, "Room that the head wants around the nozzle", "mm"),
    "rail_mm": (_BUILD, "The rail passes over the nozzle's tip at", "mm"),
    "lead_mm": (_BUILD, "Rise of the screw a turn", "mm"),
    "steps": (_BUILD, "Full steps of the motor a turn", ""),
    "half_steps": (_LAYERS, "Heights lie on", ""),
    "microsteps": (_BUILD, "Microsteps a step", ""),
    "wall_mm_s": (_LINES, "Speed of walls", "mm/s"),
    "fill_mm_s": (_LINES, "Speed of infill", "mm/s"),
    "travel_mm_s": (_LINES, "Speed of travel", "mm/s"),
    "first_layer_mm_s": (_LINES, "Speed of the first layer", "mm/s"),
    "acceleration_mm_s2": (_LINES, "Acceleration (prior 1,500)", "mm/s²"),
    "corner_mm": (_LINES, "A corner may be cut by (prior 0.02)", "mm"),
    "retract_mm": (_LINES, "Retraction (prior 0.8)", "mm"),
    "retract_mm_s": (_LINES, "Speed of retraction", "mm/s"),
    "filament_mm": (_LINES, "Diameter of the filament", "mm"),
    "nozzle_c": (_HOURS, "Nozzle; the filament's maker says which", "°C"),
    "bed_c": (_HOURS, "Bed; the filament's maker says which", "°C"),
    "fan": (_LINES, "Fan from the second layer on, share (prior 1)", ""),
    "flow_mm3_s": (_LINES, "Most that the nozzle melts", "mm³/s"),
    "least_layer_s": (_LAYERS, "Least time of a layer", "s"),
    "layer_change_s": (_LAYERS, "Change of layer", "s"),
    "start_s": (_HOURS, "Heating and levelling", "s"),
    "watts": (_HOURS, "Power", "W"),
    "scatter": _SCATTER,
    "hands_times": _HANDS,
}
_OF_BOTH: dict[str, Told] = {
    "density_g_ml": (_STUFF, "Density", "g/ml"),
    "cost": (_COINS, "Cost of a litre, or of a kilogram of filament", "coins"),
    "waste": (_COINS, "Waste, share of what is printed", ""),
}
_OF_RESIN: dict[str, Told] = {
    "exposure_s": (_LAYERS, "Exposure that is known to work", "s"),
    "exposure_base_mm": (_LAYERS, "at a layer of", "mm"),
    "second_exposure": (_LAYERS, "A second one, if known: layer and time", "mm, s"),
    "penetration_mm": (
        _LAYERS,
        f"or the depth of penetration D_p; {PENETRATION_MM:g} mm (a prior) where neither is known",
        "mm",
    ),
    "bottom_exposure_s": (_LAYERS, "Exposure of bottom layers", "s"),
    "green_modulus_mpa": (_STUFF, "Stiffness before curing (prior 500)", "MPa"),
    "green_strength_mpa": (_STUFF, "Strength before curing (prior 10)", "MPa"),
    "poisson": (_STUFF, "Poisson's ratio (prior 0.35)", ""),
}
_WORDS: dict[str, tuple[str, ...]] = {
    "infill_form": ("lines", "a grid", "waves"),
    "interface_form": ("lines across", "rings"),
    "seam_at": ("at the back", "in a crease", "where nobody looks"),
    "iron": ("left as they are", "ironed"),
    "half_steps": ("full steps of the motor", "half steps too"),
}
UNASKED = {"name", "process", "cause_times"}
"""What is no number of the form: what its own log has taught is taken over, and undone, on its page."""


@dataclass(frozen=True)
class FormField:
    """A field of a printer or material: one number or several (`many`), from `low` to `high` (inclusive unless
    `above`), `default` where it has one; `optional` fields may stay empty. `words`: what each whole number from `low`
    on means, where it is a choice and no amount.
    """

    name: str
    group: str
    title: str
    unit: str
    kind: Kind
    many: int
    low: float
    high: float
    above: bool
    optional: bool
    default: Any
    words: tuple[str, ...] = ()


def _field(name: str, label: Told, schema: dict[str, Any]) -> FormField:
    optional = "anyOf" in schema
    inner = next(s for s in schema["anyOf"] if s.get("type") != "null") if optional else schema
    each = inner["prefixItems"][0] if "prefixItems" in inner else inner
    many = len(inner.get("prefixItems", [0]))
    above = "exclusiveMinimum" in each
    low = each.get("exclusiveMinimum", each.get("minimum", 0.0))
    kind: Kind = "whole" if each["type"] == "integer" else "number"
    high, words = float(each.get("maximum", 1e6)), _WORDS.get(name, ())
    return FormField(name, *label, kind, many, float(low), high, above, optional, schema.get("default"), words)


def form_of(table: Literal["printers", "materials"], process: str) -> list[FormField]:
    """What a printer or a material of a process is described by, in groups.

    >>> [f.name for f in form_of("materials", "filament")]
    ['density_g_ml', 'cost', 'waste']
    """
    model: type[ResinPrinter] | type[FilamentPrinter] | type[Material] = Material
    labels = _OF_BOTH | _OF_RESIN if process == "resin" else _OF_BOTH
    if table == "printers":
        model, labels = (ResinPrinter, _RESIN) if process == "resin" else (FilamentPrinter, _FILAMENT)
    schema = model.model_json_schema()["properties"]
    fields = [_field(name, value, schema[name]) for name, value in labels.items()]
    groups = list(dict.fromkeys(f.group for f in fields))
    return sorted(fields, key=lambda f: groups.index(f.group))


def words_of(field: str) -> str:
    """A number of a printer or a material in words, without the prior that it may have begun as; its own name where it
    has none.

    >>> words_of("scatter"), words_of("no_such")
    ('Prints differ, times as much as usual', 'no such')
    """
    titles = (told[field][1] for told in (_RESIN, _FILAMENT, _OF_BOTH, _OF_RESIN) if field in told)
    return re.sub(r" \(prior[^)]*\)$", "", next(titles, field.replace("_", " ")))
