"""Printers and materials: what they are, the shipped presets, and the limits derived from them."""

from .after import Programme
from .context import Context
from .fields import FormField, form_of
from .kinds import KINDS, ProcessKind, cautions, kind_of, programmes
from .limits import (
    NOZZLE_DRAG_N,
    PLASTIC_MPA,
    ROOM_SLACK_MM,
    SPREAD,
    USUAL_RISK,
    default_height,
    fits_in,
    free_reach,
    limit_angle,
    motor_step,
    printer_heights,
)
from .presets import load_material, load_printer, material_presets, printer_presets
from .printer import (
    LAYS,
    LIFT_MM,
    FilamentPrinter,
    MachineError,
    Material,
    Printer,
    ResinPrinter,
    as_filament,
    as_resin,
    draws_lines,
    from_dict,
    peels,
)
from .weak import EDGE, Weak, parts_among, thin_limits, weak_parts

__all__ = [
    "EDGE",
    "KINDS",
    "LAYS",
    "LIFT_MM",
    "NOZZLE_DRAG_N",
    "PLASTIC_MPA",
    "ROOM_SLACK_MM",
    "SPREAD",
    "USUAL_RISK",
    "Context",
    "FilamentPrinter",
    "FormField",
    "MachineError",
    "Material",
    "Printer",
    "ProcessKind",
    "Programme",
    "ResinPrinter",
    "Weak",
    "as_filament",
    "as_resin",
    "cautions",
    "default_height",
    "draws_lines",
    "fits_in",
    "form_of",
    "free_reach",
    "from_dict",
    "kind_of",
    "limit_angle",
    "load_material",
    "load_printer",
    "material_presets",
    "motor_step",
    "parts_among",
    "peels",
    "printer_heights",
    "printer_presets",
    "programmes",
    "thin_limits",
    "weak_parts",
]
