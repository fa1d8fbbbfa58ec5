"""The shipped, made-up presets, and how a preset's name or a JSON document becomes a printer or a material."""

from __future__ import annotations

from typing import Any, cast

from .kinds import KINDS, kind_of
from .printer import FilamentPrinter, MachineError, Material, Printer, ResinPrinter, from_dict

_PRINTERS: dict[str, Printer] = {
    "heron": ResinPrinter(name="heron", build_mm=(207.36, 116.64, 240.0), pixels=(7680, 4320)),
    "kestrel": FilamentPrinter(name="kestrel", build_mm=(236.0, 228.0, 245.0)),
}
_MATERIALS: dict[str, Material] = {
    "lantern grey": Material(name="lantern grey", process="resin", density_g_ml=1.12, cost=34.0),
    "reed tough": Material(
        name="reed tough",
        process="resin",
        density_g_ml=1.14,
        cost=46.0,
        exposure_s=2.8,
        bottom_exposure_s=32.0,
        green_modulus_mpa=350.0,
        green_strength_mpa=13.0,
    ),
    "marsh matte": Material(name="marsh matte", process="filament", density_g_ml=1.24, cost=23.0, waste=0.05),
}


def printer_presets() -> dict[str, Printer]:
    """The shipped printers by name."""
    return dict(_PRINTERS)


def material_presets() -> dict[str, Material]:
    """The shipped materials by name."""
    return dict(_MATERIALS)


def load_printer(given: str | dict[str, Any]) -> Printer:
    """A preset by name, or a printer from a JSON object, whose `process` is `resin` or `filament`.

    Raises:
        MachineError: `unknown-printer`, `bad-field`.
    """
    if isinstance(given, str):
        if given not in _PRINTERS:
            raise MachineError(
                "unknown-printer",
                f"No printer is called '{given}'.",
                remedy="Use " + ", ".join(_PRINTERS) + ", or a JSON file.",
            )
        return _PRINTERS[given]
    process = given.get("process")
    if process not in KINDS:
        raise _unknown("printer", process)
    return cast(Printer, from_dict(KINDS[process].printer, given, "printer"))


def material_from(given: dict[str, Any]) -> Material:
    """A material from a JSON object, of a process that is known.

    Raises:
        MachineError: `bad-field`, or what `from_dict` refuses.
    """
    material = from_dict(Material, given, "material")
    if material.process not in KINDS:
        raise _unknown("material", material.process)
    return material


def _unknown(what: str, process: Any) -> MachineError:
    known = " or ".join(map(repr, KINDS))
    return MachineError("bad-field", f"The {what}'s field 'process' is {process!r}.", remedy=f"Use {known}.")


def load_material(given: str | dict[str, Any] | None, printer: Printer) -> Material:
    """A preset by name, a material from a JSON object, or the first preset for the printer's process.

    Raises:
        MachineError: `unknown-material`, `wrong-process`.
    """
    if given is None:
        return _MATERIALS[kind_of(printer.process).material]
    if isinstance(given, str):
        if given not in _MATERIALS:
            raise MachineError(
                "unknown-material",
                f"No material is called '{given}'.",
                remedy="Use " + ", ".join(_MATERIALS) + ", or a JSON file.",
            )
        material = _MATERIALS[given]
    else:
        material = material_from(given)
    if material.process != printer.process:
        raise MachineError(
            "wrong-process", f"'{material.name}' is for {material.process}, '{printer.name}' prints {printer.process}."
        )
    return material
