"""Printers and materials as plain data. Every default is a prior: made up for the shipped presets, the user's to replace."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any, TypeVar

from ..errors import CoreError

T = TypeVar("T")


class MachineError(CoreError):
    """A printer or material that is not known or does not make sense."""


@dataclass(frozen=True)
class ResinPrinter:
    """A masked-ultraviolet printer. mm, mm/s, s; (width, depth, height) of the build space; `pixels` across it."""

    name: str
    build_mm: tuple[float, float, float]
    pixels: tuple[int, int]
    process: str = "resin"
    bottom_layers: int = 5
    transition_layers: int = 5
    bottom_wait_s: float = 1.0
    wait_before_s: float = 0.8
    wait_after_lift_s: float = 0.2
    lift_mm: tuple[float, float] = (2.5, 3.5)
    lift_mm_s: tuple[float, float] = (1.0, 3.0)
    return_mm: tuple[float, float] = (4.5, 1.5)
    return_mm_s: tuple[float, float] = (3.0, 1.0)
    start_s: float = 45.0
    end_s: float = 30.0
    peel_kpa: float = 8.0
    suction_kpa: float = 20.0
    step_mm: float = 0.01
    watts: float = 60.0

    @property
    def pixel_mm(self) -> float:
        """Width of a pixel."""
        return self.build_mm[0] / self.pixels[0]


@dataclass(frozen=True)
class FilamentPrinter:
    """A hot-nozzle printer. mm, mm/s, mm³/s; `lead_mm` and `steps` of the motor that moves z."""

    name: str
    build_mm: tuple[float, float, float]
    nozzle_mm: float = 0.4
    process: str = "filament"
    line_mm: float = 0.42
    lead_mm: float = 8.0
    steps: int = 200
    microsteps: int = 16
    wall_mm_s: float = 45.0
    fill_mm_s: float = 80.0
    travel_mm_s: float = 150.0
    flow_mm3_s: float = 11.0
    least_layer_s: float = 8.0
    layer_change_s: float = 0.6
    perimeters: int = 3
    infill: float = 0.15
    roof_mm: float = 0.8
    start_s: float = 240.0
    watts: float = 120.0


Printer = ResinPrinter | FilamentPrinter


@dataclass(frozen=True)
class Material:
    """A resin or a filament. Exposures apply to resin; density in g/ml; cost per litre of resin, per kg of filament."""

    name: str
    process: str
    density_g_ml: float
    cost: float
    waste: float = 0.1
    exposure_s: float = 2.4
    bottom_exposure_s: float = 28.0
    exposure_base_mm: float = 0.05
    green_modulus_mpa: float = 500.0
    green_strength_mpa: float = 10.0
    poisson: float = 0.35


def from_dict(kind: type[T], data: dict[str, Any], what: str) -> T:
    """Build a printer or material from JSON; unknown or missing fields and wrong kinds of value are refused by name."""
    known = {f.name: f for f in fields(kind)}  # type: ignore[arg-type]
    for key, value in data.items():
        if key not in known:
            raise MachineError(
                "unknown-field", f"The {what} has a field '{key}' that is not known.", remedy="Fields are: " + ", ".join(known) + "."
            )
        numbers = value if isinstance(value, list) else [value]
        text = key in ("name", "process")
        if text != isinstance(value, str) or (
            not text and not all(isinstance(n, (int, float)) and not isinstance(n, bool) and 0 <= n < 1e6 for n in numbers)
        ):
            raise MachineError(
                "bad-field",
                f"The {what}'s field '{key}' is {value!r}.",
                remedy="Give a plain number that is not negative, or for pairs a list of them.",
            )
    ready = {key: tuple(value) if isinstance(value, list) else value for key, value in data.items()}
    try:
        made = kind(**ready)
    except TypeError as reason:
        raise MachineError("missing-field", f"The {what} is not complete: {reason}.") from reason
    size = ready.get("build_mm")
    if size is not None and (len(size) != 3 or min(size) <= 0):
        raise MachineError("bad-field", f"The {what}'s build_mm is {size}.", remedy="Give three lengths above zero.")
    return made
