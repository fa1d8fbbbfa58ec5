"""What each part of a worth rests on, by the board that reckons it: its law in words, and the priors in that with the
values that the engine uses.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..machines import Printer, kind_of
from ..pose.price import CUPS_LOST, CUPS_MIN, FINISH_MIN, PLINTH_MIN, SUPPORT_FILL
from ..pose.words import NAMES
from ..risk import MISHAP_CHANCE
from ..supports.minutes import CUT_MIN, PIECE_MIN, SAND_MIN, SCAR_MIN
from ..worth import HANDS_UNSURE, RISK_UNSURE
from ..worth.price import CLEAN_MIN, PART_SHARE
from .hollow_alternative import FLUSH_MIN, HOLE_MIN, INSIDE_LOST, LEAKS, STRUTS_MIN
from .walls import FILL_MIN

Prior = tuple[str, float, str]


@dataclass(frozen=True)
class Law:
    """In words, and its priors: what each is, its value, its unit."""

    text: str
    priors: tuple[Prior, ...] = ()

    def more(self, *priors: Prior) -> Law:
        """The same with more priors."""
        return Law(self.text, (*self.priors, *priors))


@dataclass(frozen=True)
class Laws:
    """Of each part of a worth."""

    hands: Law
    machine: Law
    material: Law
    risk: Law


STEPS: Prior = ("to smooth a figure stepped all over", FINISH_MIN, "min")
MISHAP: Prior = ("what nobody foresees costs the print", 100 * MISHAP_CHANCE, "%")
UNHELD = "Its supports are not placed yet."


def _hours(printer: Printer, held: bool) -> Law:
    layers = "Each layer waits its exposure, lift and rest, however much of it is solid: hours go with height."
    path = "The path of lines at the machine's speeds and accelerations, of some layers for all."
    text = layers if printer.hangs else path
    if held:
        return Law(text)
    fill: Prior = ("pillars fill of the space under what is supported", 100 * SUPPORT_FILL, "%")
    return Law(f"{text} {UNHELD}", (fill,))


def _pose(printer: Printer) -> Laws:
    kind = kind_of(printer.process)
    aims = tuple((f"for one unit of {NAMES[aim]}", price, "min") for aim, price in kind.hands_min.items())
    hands = Law(
        f"An estimate by the direction alone: what would be supported, by how much people look at it, and steps on "
        f"slopes. {UNHELD}",
        (*aims, STEPS),
    )
    cups: Prior = ("a figure of many hollows that fill is lost", 100 * CUPS_LOST, "%")
    own = (cups, ("to rinse such a figure", CUPS_MIN, "min")) if printer.hangs else ()
    plinth = () if printer.hangs else (("to cut a plinth off", PLINTH_MIN, "min"),)
    return Laws(
        hands.more(*plinth),
        _hours(printer, False),
        Law(f"The figure, and an estimate of what holds it. {UNHELD}"),
        Law("What the layers of the bare figure threaten even where its supports hold.", (*own, MISHAP)),
    )


def _hollow(printer: Printer) -> Laws:
    return Laws(
        Law(
            "Steps on slopes, tips that hold what pulls, and of a hollow: holes drilled, plugged and filled, each "
            "cavity flushed, dried and cured inside, and a share of the time that it drips.",
            (
                STEPS,
                ("for a hole", HOLE_MIN, "min"),
                ("for a cavity", FLUSH_MIN, "min"),
                ("more where struts stand in it", STRUTS_MIN, "min"),
            ),
        ),
        _hours(printer, True),
        Law("What is solid of it, at the price of the material that was chosen; supports come later."),
        Law(
            "What the layers of the bare figure threaten, and of a hollow what its inside does later.",
            (
                ("a cavity that was not clean cracks its figure", 100 * LEAKS, "%"),
                ("what starts inside a cavity is lost", 100 * INSIDE_LOST, "%"),
                MISHAP,
            ),
        ),
    )


def _walls(printer: Printer) -> Laws:
    return Laws(
        Law(
            "Steps on slopes, and surface that stays open or sags, filled by how much people look at it.",
            (STEPS, ("to fill a mm² on an unmarked face", FILL_MIN, "min")),
        ),
        _hours(printer, True),
        Law("What these walls, roofs and this infill use; supports come later."),
        Law("Walls change nothing that is counted here: what nobody foresees.", (MISHAP,)),
    )


def _held(printer: Printer) -> Laws:
    thousand = (
        "What is lost in a thousand prints of this set: what holds against what pulls, each drawn with its spread."
    )
    ledger = "Every hazard that was found with its own chance: what sways, falls, fuses, sags or is knocked."
    return Laws(
        Law(
            "Every support is cut off and its scar sanded, by how much people look at the place; steps on slopes are "
            "smoothed where primer does not hide them; what may be marked counts by its chance.",
            (
                ("to cut a tip of the usual width", CUT_MIN, "min"),
                ("to sand its scar on an unmarked face", SAND_MIN, "min"),
                ("to take a piece out", PIECE_MIN, "min"),
                ("to mend a scar that comes true", SCAR_MIN, "min"),
                STEPS,
            ),
        ),
        _hours(printer, True),
        Law("What the figure, its supports and its raft use, at the price of the material that was chosen."),
        Law(thousand if printer.hangs else ledger, (MISHAP,)),
    )


BY_FOLD: dict[str, Callable[[Printer], Laws]] = {
    "pose": _pose,
    "hollow": _hollow,
    "walls": _walls,
    "supports": _held,
    "layers": _held,
}


def laws_of(fold: str, printer: Printer) -> Laws:
    """The laws of a fold's board, with what is alike for all: what every print takes, and what a loss costs."""
    laws = BY_FOLD[fold](printer)
    fixed = kind_of(printer.process).fixed_min
    return Laws(
        laws.hands.more(
            ("to set a print up, and what follows every one", fixed, "min"),
            ("how far minutes of hands may be off", 100 * HANDS_UNSURE, "%"),
        ),
        laws.machine,
        laws.material,
        Law(
            f"{laws.risk.text} A lost print is cleared away and made again; a lost part costs its share.",
            laws.risk.priors,
        ).more(
            ("to clear a lost print away", CLEAN_MIN, "min"),
            ("a lost part, of a print", 100 * PART_SHARE, "%"),
            ("how far a chance may be off", 100 * RISK_UNSURE, "%"),
        ),
    )
