"""What one plan sets otherwise than the shelf: slower walls, a wider gap, a longer exposure, for this plan alone."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from .fields import AMOUNTS, FormField, form_of, words_of
from .presets import load_material, load_printer
from .printer import MachineError

Table = Literal["printers", "materials"]
Own = Mapping[Table, Mapping[str, float]]
"""By table (`printers`, `materials`) and field: the number that stands in place of the shelf's."""
TABLES: tuple[Table, ...] = ("printers", "materials")


def settable(process: str) -> dict[tuple[Table, str], FormField]:
    """What a plan may set otherwise: single numbers of how a machine prints, not what it is, costs or is known to vary.

    >>> found = settable("filament")
    >>> ("printers", "wall_mm_s") in found, ("printers", "build_mm") in found, ("materials", "cost") in found
    (True, False, False)
    """
    return {
        (table, field.name): field
        for table in TABLES
        for field in form_of(table, process)
        if field.many == 1 and field.group in AMOUNTS
    }


def set_otherwise(spec: Mapping[str, Any], table: Table, own: Own) -> Mapping[str, Any]:
    """A printer or material from the shelf as a plan has it; as it stands where nothing of it is set otherwise.

    >>> set_otherwise({"name": "k", "wall_mm_s": 45.0}, "printers", {"printers": {"wall_mm_s": 30.0}})["wall_mm_s"]
    30.0
    """
    mine = own.get(table)
    return {**spec, **mine} if mine else spec


def checked(own: Own, printer: Mapping[str, Any], material: Mapping[str, Any]) -> Own:
    """Settings as a machine that can print so keeps them.

    Raises:
        MachineError: `not-settable`: no number that a plan may set; `bad-field`: outside its range.
    """
    offered = settable(str(printer["process"]))
    for table, values in own.items():
        for name in values:
            if (table, name) not in offered:
                what = f"'{name[:40]}' is no setting that a plan of {printer['name']} has of its own."
                raise MachineError("not-settable", what, remedy="Change it on the shelf, or set another.")
    machine = load_printer(dict(set_otherwise(printer, "printers", own)))
    stuff = load_material(dict(set_otherwise(material, "materials", own)), machine)
    kept: dict[Table, dict[str, Any]] = {
        "printers": machine.model_dump(mode="json"),
        "materials": stuff.model_dump(mode="json"),
    }
    return {table: {name: kept[table][name] for name in values} for table, values in own.items() if values}


def told(own: Own, process: str) -> list[tuple[str, float, str]]:
    """What is set otherwise in words: (title, value, unit).

    >>> told({"printers": {"wall_mm_s": 30.0}}, "filament")
    [('Speed of walls', 30.0, 'mm/s')]
    """
    offered = settable(process)
    return [
        (words_of(name), value, offered[table, name].unit)
        for table in TABLES
        for name, value in own.get(table, {}).items()
        if (table, name) in offered
    ]
