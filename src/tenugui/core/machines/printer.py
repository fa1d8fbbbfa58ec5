"""Printers and materials as validated data. Every default is a prior: made up for the shipped presets, the user's to
replace.

Ranges are those in which the formulas make sense and some machine could exist: a nozzle, a lift speed or a motor of
zero is refused at the door, by name, and not by a division much later.
"""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal, Self, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator
from typing_extensions import TypeIs

from ..errors import CoreError
from ..names import Name

T = TypeVar("T", bound=BaseModel)

Seconds = Annotated[float, Field(ge=0, le=600)]
Length = Annotated[float, Field(gt=0, le=100)]
Speed = Annotated[float, Field(gt=0, le=1000)]
Extent = Annotated[float, Field(ge=5, le=3000)]
Pixels = Annotated[int, Field(ge=64, le=40_000)]
Scatter = Annotated[float, Field(ge=0.4, le=4)]
"""Prior 1: how much one print differs from the next, times as much as usual; the machine's own log corrects it."""
LEAST_TIMES, MOST_TIMES = 0.05, 20.0
CauseTimes = Annotated[
    dict[Annotated[str, Field(pattern=r"^[a-z-]{1,24}$")], Annotated[float, Field(ge=LEAST_TIMES, le=MOST_TIMES)]],
    Field(max_length=40),
]
"""Prior 1 of each kind of hazard: how many times as often as reckoned it comes true here; its own log corrects it."""
HandsTimes = Annotated[float, Field(ge=0.2, le=5)]
"""Prior 1: minutes that hands take beside those that are reckoned; steps that were timed correct it."""

REST_SHARE = 0.5
"""Prior: the share of a filament line that must rest on the line below."""
STEEPEST_DEG = 60.0
"""Prior: lines that lean farther from the vertical curl up before they are cool, however thin their layers; the
machine's own test piece replaces it.
"""
PENETRATION_MM = 0.12
"""Prior: how deep light of a usual resin reaches until it is an e-th (D_p, 0.08 to 0.2 are known), until two measured
exposures replace it.
"""
WEDGE_MM = 10.0
"""Prior: the longest unsupported slope a resin figure is expected to have."""
SAG_MM = 0.02
"""Prior: the sag accepted at the end of that slope."""
RESIN_WALL_MM, RESIN_ROD_MM = 0.3, 0.4
"""Priors: the thinnest resin wall and rod that survive washing and handling."""
LAYS = 0.8
"""A nozzle lays layers of up to this share of its width."""
LINES_IN_A_ROD = 2.0
"""Prior: line widths across a filament rod that must survive; a wall needs one."""


RESIN_SHARES, THICKEST_MM = (0.6, 0.8, 1.0, 1.6), 0.15
"""Priors: resin layers to compare, as shares of the one that the exposure is known for, and the thickest that anybody
prints.
"""
LIFT_MM = 5.0
"""Prior: how far a part that hangs is raised, so that cutters reach under it."""
FOOT_ROOM_MM = 4.0
"""Prior: how far supports and raft reach past the outline of what hangs on them."""


class MachineError(CoreError):
    """A printer or material that is not known or does not make sense."""


class _Spec(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Material(_Spec):
    """A resin or a filament. Exposures apply to resin; density in g/ml; cost per litre of resin, per kg of filament.

    `exposure_s` is known to work at `exposure_base_mm`; a second such pair (mm, s), or the depth of penetration D_p in
    mm, gives the working curve.
    """

    name: Name
    process: str = Field(pattern="^[a-z]{2,20}$")
    density_g_ml: float = Field(ge=0.3, le=20)
    cost: float = Field(ge=0, le=100_000)
    waste: float = Field(0.1, ge=0, le=2)
    exposure_s: float = Field(2.4, ge=0.05, le=600)
    bottom_exposure_s: float = Field(28.0, ge=0.05, le=600)
    exposure_base_mm: float = Field(0.05, ge=0.005, le=0.5)
    second_exposure: tuple[float, float] | None = None
    penetration_mm: float | None = Field(None, ge=0.01, le=2)
    green_modulus_mpa: float = Field(500.0, ge=1, le=50_000)
    green_strength_mpa: float = Field(10.0, ge=0.1, le=500)
    poisson: float = Field(0.35, ge=0, le=0.49)

    @property
    def light_mm(self) -> float:
        """The resin's D_p in mm: from its two known pairs, or given, or a prior where neither is known.

        Jacobs' working curve C = D_p ln(E / E_c): what cures two depths with the same overcure lies an exponential
        apart.
        """
        if self.second_exposure is not None:
            height, seconds = self.second_exposure
            return (height - self.exposure_base_mm) / math.log(seconds / self.exposure_s)
        return PENETRATION_MM if self.penetration_mm is None else self.penetration_mm

    def guesses_light(self, height: float) -> bool:
        """Whether the exposure at a height rests on a prior: no curve is known, and it is not the known height."""
        return not self.knows_light and abs(height - self.exposure_base_mm) > 1e-9

    @property
    def knows_light(self) -> bool:
        """Whether its working curve is known: by two pairs or its D_p."""
        return self.second_exposure is not None or self.penetration_mm is not None

    @model_validator(mode="after")
    def _curve(self) -> Self:
        """Two pairs must lie on a working curve: the thicker layer takes longer."""
        if self.second_exposure is not None:
            height, seconds = self.second_exposure
            if not (0.005 <= height <= 0.5 and 0.05 <= seconds <= 600):
                raise ValueError("second_exposure wants a layer of 0.005 to 0.5 mm and 0.05 to 600 s")
            thicker, longer = height - self.exposure_base_mm, seconds - self.exposure_s
            if abs(thicker) < 1e-6 or thicker * longer <= 0:
                raise ValueError(
                    "second_exposure must be of another layer height, and longer where the layer is thicker"
                )
        return self


class ResinPrinter(_Spec):
    """A masked-ultraviolet printer. mm, mm/s, s; (width, depth, height) of the build space; `pixels` across it."""

    name: Name
    build_mm: tuple[Extent, Extent, Extent]
    pixels: tuple[Pixels, Pixels]
    process: Literal["resin"] = "resin"
    bottom_layers: int = Field(5, ge=0, le=200)
    transition_layers: int = Field(5, ge=0, le=200)
    bottom_wait_s: Seconds = 1.0
    wait_before_s: Seconds = 0.8
    wait_after_lift_s: Seconds = 0.2
    lift_mm: tuple[Length, Length] = (2.5, 3.5)
    lift_mm_s: tuple[Speed, Speed] = (1.0, 3.0)
    return_mm: tuple[Length, Length] = (4.5, 1.5)
    return_mm_s: tuple[Speed, Speed] = (3.0, 1.0)
    start_s: Annotated[float, Field(ge=0, le=7200)] = 45.0
    end_s: Annotated[float, Field(ge=0, le=7200)] = 30.0
    peel_kpa: float = Field(8.0, ge=0.1, le=200)
    suction_kpa: float = Field(20.0, ge=0, le=101)
    step_mm: float = Field(0.01, ge=0.0005, le=0.1)
    watts: float = Field(60.0, ge=0, le=5000)
    scatter: Scatter = 1.0
    hands_times: HandsTimes = 1.0
    cause_times: CauseTimes = Field(default_factory=dict)
    film_layers: int = Field(30_000, ge=100, le=10_000_000)
    film_cost: float = Field(15.0, ge=0, le=10_000)
    """Priors: layers that a film lasts, and what a new one costs."""

    bridge_mm: ClassVar[float] = 0.0
    """Nothing is bridged: a sheet is cured at once, and peeled."""
    hangs: ClassVar[bool] = True
    """The part hangs from its supports: what does not rest flat is raised onto supports and a raft."""
    peels: ClassVar[bool] = True
    """Each layer is peeled off a film, which pulls."""
    draws_lines: ClassVar[bool] = False
    """A nozzle draws every layer as lines along a path."""

    @property
    def room_mm(self) -> tuple[float, float, float]:
        """What is left of the build space for a figure that hangs on supports and a raft."""
        x, y, z = self.build_mm
        return max(x - 2 * FOOT_ROOM_MM, 1.0), max(y - 2 * FOOT_ROOM_MM, 1.0), max(z - LIFT_MM, 1.0)

    @property
    def draws_mm(self) -> float:
        """The finest that it draws across a layer: a pixel."""
        return self.pixel_mm

    def raft_mm(self, height: float) -> float:
        """Its rafts are supports, and proved with them."""
        return 0.0

    @property
    def pixel_mm(self) -> float:
        """Width of a pixel."""
        return self.build_mm[0] / self.pixels[0]

    def free_reach(self, material: Material, height: float) -> float:
        """A slope of angle θ above the horizontal is a wedge cantilever under the peel pressure p.

        Integrating its curvature 6 p (1-ν²) / (E tan³θ x) over its length L gives an end sag of 6 p (1-ν²) L / (E
        tan³θ) (Euler-Bernoulli, plate modulus); the step is h / tan θ at the accepted sag.
        """
        cubed = 6 * self.peel_kpa * 1e-3 * (1 - material.poisson**2) * WEDGE_MM / (material.green_modulus_mpa * SAG_MM)
        return height / math.pow(cubed, 1 / 3)

    def motor_step(self, height: float) -> tuple[Literal["full", "half", "micro", "none"], float]:
        """A resin machine's grain is below what anybody compares."""
        return "none", 0.0

    def heights(self, material: Material) -> list[float]:
        """Four layer heights to compare, about the one at which the resin's exposure is known: on the motor's grain, no
        finer than half a pixel, whose own steps are seen then, and no thicker than the resin's light reaches (D_p).
        """
        finest = max(1, math.ceil(self.pixel_mm / 2 / self.step_mm - 1e-9))
        most = material.light_mm
        thickest = max(finest + 3, math.floor(min(most, THICKEST_MM) / self.step_mm + 1e-9))
        grains: list[int] = []
        for share in RESIN_SHARES:
            wanted = min(max(round(material.exposure_base_mm * share / self.step_mm), finest), thickest)
            grains.append(max(wanted, grains[-1] + 1) if grains else wanted)
        last = thickest - len(grains) + 1
        return [round(min(n, last + k) * self.step_mm, 6) for k, n in enumerate(grains)]

    def default_height(self) -> float:
        """The customary height to start from."""
        return 0.05

    def thin_limits(self) -> dict[str, float]:
        """Thinnest `sheet` and `rod` in mm, priors."""
        return {"sheet": RESIN_WALL_MM, "rod": RESIN_ROD_MM}


class FilamentPrinter(_Spec):
    """A hot-nozzle printer. mm, mm/s, mm³/s; `lead_mm` and `steps` of the motor that moves z."""

    name: Name
    build_mm: tuple[Extent, Extent, Extent]
    nozzle_mm: float = Field(0.4, ge=0.08, le=3)
    process: Literal["filament"] = "filament"
    line_mm: float = Field(0.42, ge=0.08, le=5)
    lead_mm: float = Field(8.0, ge=0.2, le=100)
    steps: int = Field(200, ge=4, le=10_000)
    microsteps: int = Field(16, ge=1, le=1024)
    wall_mm_s: Speed = 45.0
    fill_mm_s: Speed = 80.0
    travel_mm_s: Speed = 150.0
    flow_mm3_s: float = Field(11.0, ge=0.05, le=500)
    least_layer_s: Seconds = 8.0
    layer_change_s: Seconds = 0.6
    perimeters: int = Field(3, ge=1, le=50)
    infill: float = Field(0.15, ge=0, le=1)
    roof_mm: float = Field(0.8, ge=0, le=20)
    start_s: Annotated[float, Field(ge=0, le=7200)] = 240.0
    watts: float = Field(120.0, ge=0, le=5000)
    scatter: Scatter = 1.0
    hands_times: HandsTimes = 1.0
    cause_times: CauseTimes = Field(default_factory=dict)
    acceleration_mm_s2: float = Field(1500.0, ge=10, le=50_000)
    corner_mm: float = Field(0.02, ge=0.001, le=1)
    retract_mm: float = Field(0.8, ge=0, le=10)
    retract_mm_s: Speed = 35.0
    first_layer_mm_s: Speed = 20.0
    filament_mm: float = Field(1.75, ge=1, le=5)
    nozzle_c: float = Field(205.0, ge=0, le=500)
    bed_c: float = Field(60.0, ge=0, le=200)
    fan: float = Field(1.0, ge=0, le=1)
    """Priors: acceleration, how far a corner may be cut (junction deviation), retraction, the first layer's speed, the
    filament's diameter, temperatures, and the fan's share from the second layer on.
    """
    bridge_mm: float = Field(20.0, ge=0, le=200)
    """Prior: the longest line that it lays from bank to bank without a support; the user's own bridge test replaces it.
    """
    support_gap_mm: float = Field(0.2, ge=0, le=2)
    interface_layers: int = Field(2, ge=0, le=20)
    """Priors: how far supports stop short of the figure, in whole layers at least so much; layers of the interface that
    they end in under flat places.
    """
    interface_density: float = Field(1.0, ge=0.2, le=1)
    support_density: float = Field(0.2, ge=0.05, le=0.9)
    support_walls: int = Field(1, ge=1, le=10)
    """Priors: lines of that interface, and of the bodies below it, as shares of solid; closed lines around bodies: a
    second one sheathes what is tall.
    """
    interface_form: int = Field(0, ge=0, le=1)
    """The interface in lines across those below (0), or in rings (1)."""
    infill_form: int = Field(0, ge=0, le=2)
    brim_mm: float = Field(0.0, ge=0, le=30)
    hop_mm: float = Field(0.2, ge=0, le=5)
    seam_at: int = Field(2, ge=0, le=2)
    iron: int = Field(0, ge=0, le=1)
    raft_layers: int = Field(0, ge=0, le=20)
    half_steps: int = Field(0, ge=0, le=1)
    """Infill in lines (0), a grid (1) or waves (2: sections of a gyroid); a brim's width; how far the nozzle rises
    before it crosses with the filament drawn back; loops begin at the back (0), in their deepest crease (1), or where
    marks and sight say that nobody looks (2); whether level places are ironed (1); layers of a raft under everything;
    whether heights on half steps of the motor count as good (1), or only full ones (0).
    """
    head_mm: float | None = Field(None, gt=0, le=300)
    rail_mm: float | None = Field(None, gt=0, le=500)
    """How much room the head wants around the nozzle, and how high its rail passes over the nozzle's tip: pieces are
    printed one after the other only where both are known.
    """
    overhang_test: tuple[float, float] | None = None
    """The user's own test piece: a layer height in mm, and the steepest lean from the vertical in degrees that came out
    clean there.
    """

    hangs: ClassVar[bool] = False
    peels: ClassVar[bool] = False
    draws_lines: ClassVar[bool] = True

    @model_validator(mode="after")
    def _line_and_nozzle(self) -> FilamentPrinter:
        if not 0.5 * self.nozzle_mm <= self.line_mm <= 3 * self.nozzle_mm:
            raise ValueError(
                f"a line of {self.line_mm} mm cannot be drawn by a nozzle "
                f"of {self.nozzle_mm} mm; half to three times its width"
            )
        if self.overhang_test is not None:
            height, degrees = self.overhang_test
            if not (0.02 <= height <= 2 and 5 <= degrees <= 85):
                raise ValueError("overhang_test wants a layer of 0.02 to 2 mm and a lean of 5 to 85 degrees")
        return self

    @property
    def room_mm(self) -> tuple[float, float, float]:
        """A figure stands on the plate itself."""
        return self.build_mm

    @property
    def draws_mm(self) -> float:
        """The finest that it draws across a layer: a line."""
        return self.line_mm

    def raft_mm(self, height: float) -> float:
        """How far a raft lifts the figure, in layers of a height: its own, and the gap that comes off, no wider than
        what the nozzle lays its first line across; 0 without one.

        >>> FilamentPrinter(name="k", build_mm=(200, 200, 200), raft_layers=3, support_gap_mm=0.15).raft_mm(0.2)
        0.72
        """
        gap = max(0.0, min(self.support_gap_mm, LAYS * self.nozzle_mm - height))
        return round(self.raft_layers * height + gap, 9) if self.raft_layers else 0.0

    @property
    def full_step_mm(self) -> float:
        """Rise of one full step of the motor."""
        return self.lead_mm / self.steps

    def free_reach(self, material: Material, height: float) -> float:
        """The step from layer to layer that holds: the test piece's h tan(lean) where there is one, else the share of
        the line width that need not rest, f w, and no steeper than lines curl up and cool (STEEPEST_DEG): many thin
        layers in the air are no better than few thick ones.
        """
        if self.overhang_test is not None:
            tested, degrees = self.overhang_test
            return tested * math.tan(math.radians(degrees))
        return min(REST_SHARE * self.line_mm, height * math.tan(math.radians(STEEPEST_DEG)))

    def motor_step(self, height: float) -> tuple[Literal["full", "half", "micro", "none"], float]:
        """Which grain of the motor a height falls on, and the rounding in mm."""
        full = self.full_step_mm
        grains: tuple[tuple[Literal["full", "half"], float], ...] = (("full", full), ("half", full / 2))
        for kind, grain in grains:
            if abs(height - round(height / grain) * grain) < 1e-6 and round(height / grain) >= 1:
                return kind, 0.0
        fine = full / self.microsteps
        return "micro", abs(height - round(height / fine) * fine)

    def heights(self, material: Material | None = None) -> list[float]:
        """Four customary layer heights to compare, whatever the filament: 20 to 50 % of the nozzle, on the motor's full
        steps, with half steps where it is coarse; or on half steps throughout, for the school that holds them to be as
        good.
        """
        full = self.full_step_mm
        grain, shares = (full / 2, (0.2, 0.25, 0.35, 0.5)) if self.half_steps else (full, (0.2, 0.3, 0.4, 0.5))
        heights = sorted({round(max(1, round(self.nozzle_mm * share / grain)) * grain, 6) for share in shares})
        while len(heights) < 4:
            heights.append(round(heights[-1] + full / 2, 6))
        return heights

    def default_height(self) -> float:
        """About 40 % of the nozzle."""
        return self.heights()[2]

    def thin_limits(self) -> dict[str, float]:
        """One line for a wall, about two for a rod that must survive."""
        return {"sheet": self.line_mm, "rod": LINES_IN_A_ROD * self.line_mm}


Printer = ResinPrinter | FilamentPrinter


def draws_lines(printer: Printer) -> TypeIs[FilamentPrinter]:
    """Whether a nozzle draws every layer as lines along a path."""
    return printer.draws_lines


def peels(printer: Printer) -> TypeIs[ResinPrinter]:
    """Whether each layer is lit by a screen and peeled off a film."""
    return printer.peels


def as_resin(printer: Printer) -> ResinPrinter:
    """A printer that cures layers on a film and peels them off.

    Raises:
        MachineError: `wrong-process`.
    """
    if not peels(printer):
        raise MachineError("wrong-process", f"'{printer.name}' peels no layers.", remedy="Name a resin printer.")
    return printer


def as_filament(printer: Printer) -> FilamentPrinter:
    """A printer that draws lines with a nozzle.

    Raises:
        MachineError: `wrong-process`.
    """
    if not draws_lines(printer):
        raise MachineError("wrong-process", f"'{printer.name}' draws no lines.", remedy="Name a filament printer.")
    return printer


def from_dict(kind: type[T], data: dict[str, Any], what: str) -> T:
    """Build a printer or material from JSON.

    Raises:
        MachineError: `unknown-field`, `missing-field` or `bad-field`, with the field's name and what would do.
    """
    try:
        return kind.model_validate(data)
    except ValidationError as reason:
        first = reason.errors()[0]
        name = ".".join(str(part) for part in first["loc"]) or "process"
        if first["type"] == "extra_forbidden":
            known = ", ".join(kind.model_fields)
            raise MachineError(
                "unknown-field", f"The {what} has a field '{name}' that is not known.", remedy=f"Fields are: {known}."
            ) from reason
        if first["type"] == "missing":
            raise MachineError(
                "missing-field", f"The {what} is not complete: '{name}' is missing.", remedy="Add it."
            ) from reason
        given = repr(first["input"])[:60]
        if first["type"] == "value_error":
            said = first["msg"].removeprefix("Value error, ")
            does = f"'s field '{name}' does not do" if first["loc"] else " does not fit together"
            raise MachineError("bad-field", f"The {what}{does}: {said}.") from reason
        raise MachineError(
            "bad-field", f"The {what}'s field '{name}' is {given}.", remedy=f"{first['msg']}."
        ) from reason
