"""The protocol of a process, and the shapes it answers in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from ..layers import LayerStack, Proof
from ..machines import Context
from ..mesh import Mesh
from ..paths import Props, Strings

F8 = NDArray[np.float64]


MOST_OF_IT = 0.5
"""Prior: a body of more than this share of the figure takes the print with it."""
NEAR_PLATE_MM = 0.35
"""Prior: what hangs no higher over the plate sags onto it and holds there; an uneven foot stands on all of it."""


Basis = Literal["formula", "path", "rough estimate"]
"""Exact; from the planned path, of some layers where it is long; or from lengths over speeds."""


COUNTS = (1, 2, 3, 5, 10, 20)


@dataclass(frozen=True)
class Use:
    """Seconds in all, seconds after each layer, ml and g with waste, cost in the material's currency; on what they
    rest. `film`: share of a film's usual life, whose cost is in the cost. `several_s`: seconds of COUNTS of it on one
    plate; `strings`: of a nozzle's path.
    """

    time_s: float
    clock_s: F8
    volume_ml: float
    mass_g: float
    cost: float
    basis: Basis
    film: float = 0.0
    several_s: tuple[float, ...] = ()
    strings: Strings | None = None


class Process(Protocol):
    """One way to make a figure."""

    ledge_mm2: float
    """Prior: overhang beyond the limit in one stretch that half of all prints survive without a mark that matters."""
    closes: float
    """Prior: so many times as much of a ceiling that hangs all around, as that of a cavity, is survived as of a ledge.
    """
    pulls: bool
    """Whether layers are peeled, so that there is a pull to draw."""

    def use(self, stack: LayerStack, areas: F8, context: Context) -> Use:
        """What printing a stack takes."""

    def use_of(self, figure: Mesh, props: Props, proof: Proof, context: Context) -> Use:
        """The same for a figure and its supports as they are printed, in build coordinates: from the path where lines
        are drawn.
        """

    def pull(self, proof: Proof, context: Context) -> F8:
        """(layers,) newtons on the supports at each layer."""

    def blur_mm(self, context: Context) -> float:
        """How far a downward face is blurred by what cures behind it; 0 where nothing does."""

    def blemishes(self, height: float) -> float:
        """Expected pimples and strings of a figure at a layer height, a prior."""

    def sheet(self, context: Context) -> list[tuple[str, str]]:
        """Lines of the run sheet: what to set on the machine."""
