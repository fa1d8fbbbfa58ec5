"""What finds hazards: sources register themselves with the kinds that they find, and are asked of every proved
figure.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field

from ..layers import Proof
from ..machines import Context, Printer
from ..mesh import Mesh, ThinPlace
from ..paths import Strings
from ..supports import Brace, Tip
from .hazard import Hazard, Kind


@dataclass(frozen=True)
class Sight:
    """What sources look at, in build coordinates: the proof of figure and supports together, and `own` of the figure
    alone; its `tips` and `braces`, `off` those that come off again, `locked` of those the ones that find no way out;
    thin places. Where they are known: the figure's mesh, whose faces the context's weights are of, and the strings of
    its path.
    """

    proof: Proof
    context: Context
    own: Proof
    tips: Sequence[Tip] = ()
    off: Sequence[Tip] = ()
    locked: Sequence[Tip] = ()
    thin: Sequence[ThinPlace] = ()
    figure: Mesh | None = field(default=None, repr=False)
    strings: Strings | None = None
    braces: Sequence[Brace] = ()

    @property
    def height(self) -> float:
        """Of a layer, mm."""
        return self.proof.stack.grid.height


Find = Callable[[Sight], Iterable[Hazard]]
Machine = Callable[[Printer], bool]


@dataclass(frozen=True)
class Source:
    """A function that finds hazards of some kinds, on the machines that it is for."""

    kinds: tuple[Kind, ...]
    find: Find
    on: Machine


_SOURCES: dict[str, Source] = {}


def source(*kinds: Kind, on: Machine = lambda printer: True) -> Callable[[Find], Find]:
    """Register a function as the source of these kinds, on machines that can do what `on` asks."""

    def register(find: Find) -> Find:
        _SOURCES[find.__name__] = Source(kinds, find, on)
        return find

    return register


def kinds() -> dict[str, Kind]:
    """Every kind that some source finds, by its code."""
    return {kind.code: kind for source_ in _SOURCES.values() for kind in source_.kinds}


def found_by(sight: Sight, *codes: str) -> list[Hazard]:
    """What all sources find on this machine, or those of the kinds named."""
    printer = sight.context.printer
    hazards = []
    for one in _SOURCES.values():
        if one.on(printer) and (not codes or any(kind.code in codes for kind in one.kinds)):
            mine = [h for h in one.find(sight) if not codes or h.code in codes]
            hazards += [h.on(printer.scatter, printer.cause_times.get(h.code, 1.0)) for h in mine]
    return hazards
