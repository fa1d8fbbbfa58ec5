"""A kind of hazard, one hazard of it with its place and evidence, and how a margin becomes a chance."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from statistics import NormalDist
from typing import Literal

from ..machines import SPREAD

Place = tuple[float, float, float]
Loss = Literal["scar", "part lost", "print lost"]
Severity = Literal["severe", "warning", "notice"]
Strikes = Literal["printing", "handling"]
"""While it is printed, at a layer; or when it is handled, after the last one."""
Pattern = Literal["scales", "waves", "rain", "hemp", "rope", "stripes", "dots"]
Stop = Literal["starts", "hangs", "pulls", "strings", "else", ""]
"""What somebody who walks through the layers would look at: something that starts in mid air, reaches out too far,
pulls, strings, or else; nothing where no layer shows it.
"""
Part = Literal["", "body", "neck", "plate"]
"""Of the load path: a body on its tips, a neck of the figure, the hold on the plate."""
CAP = 0.95


def chance(margin: float, scatter: float = 1.0) -> float:
    """Chance of failing at a margin capacity/demand: Φ(-ln m / (scatter SPREAD)), a half at m = 1, 8 % at m = 2 where
    prints differ as usual.

    >>> round(chance(1.0), 2), round(chance(2.0), 2)
    (0.5, 0.08)
    """
    if margin <= 0:
        return CAP
    return min(CAP, NormalDist().cdf(-math.log(margin) / (scatter * SPREAD)))


def as_often(told: float, times: float) -> float:
    """The chance of what comes true at `times` the rate that a chance tells.

    >>> round(as_often(0.1, 2.0), 3), as_often(0.1, 1.0)
    (0.19, 0.1)
    """
    return told if times == 1.0 else min(CAP, -math.expm1(times * math.log1p(-min(told, CAP))))


@dataclass(frozen=True)
class Arises:
    """How a chance arises. `given`: as it is, whatever the machine. Else from margins: `safety` times what there is
    over what is needed, or any of `margins` where several may fail; `tried`: in this share of prints alone. `shared`:
    it comes true with the print's own strength, pull and plate, as that part of the load path does.
    """

    given: float | None = None
    safety: float = 1.0
    margins: tuple[float, ...] = ()
    tried: float = 1.0
    shared: Part = ""

    def chance(self, has: float, needs: float, scatter: float) -> float:
        """Where prints differ `scatter` times as much as usual."""
        if self.given is not None:
            return self.given
        if not self.margins and needs <= 0:
            return 0.0
        margins = self.margins or (self.safety * has / needs,)
        return self.tried * min(CAP, 1 - math.prod(1 - chance(m, scatter) for m in margins))


MARGIN = Arises()
"""What there is over what is needed, and nothing else."""


@dataclass(frozen=True)
class Kind:
    """What can go wrong: `name` as a legend says it, what it means, what is usually lost, the dyed pattern that marks
    it, when it strikes. `bare`: the layers of a figure tell it before anything holds it; `stop`: as which
    the walk through the layers shows it.
    """

    code: str
    name: str
    meaning: str
    loss: Loss
    pattern: Pattern = "dots"
    strikes: Strikes = "printing"
    bare: bool = False
    stop: Stop = "else"

    def at(
        self,
        layer: int,
        place: Place,
        has: float,
        needs: float,
        *,
        unit: str,
        message: str,
        remedy: str,
        arises: Arises = MARGIN,
        loss: Loss | None = None,
        quiet: bool = False,
    ) -> Hazard:
        """One of this kind; see `Hazard`."""
        return Hazard(self, layer, place, has, needs, unit, message, remedy, loss or self.loss, arises, quiet)


@dataclass(frozen=True)
class Hazard:
    """Place in mm in build coordinates; `has` and `needs` in `unit` are the evidence; `loss` what would be lost;
    `quiet`: a notice, whatever its chance.
    `scatter`: of the machine, how much its prints differ, times as much as usual; `times`: how many times as often as
    reckoned its own log has it come true. Chances are priors.
    """

    kind: Kind
    layer: int
    place: Place
    has: float
    needs: float
    unit: str
    message: str
    remedy: str
    loss: Loss
    arises: Arises = MARGIN
    quiet: bool = False
    scatter: float = 1.0
    times: float = 1.0

    @property
    def code(self) -> str:
        """Of its kind."""
        return self.kind.code

    @property
    def part(self) -> Part:
        """Of the load path, where it is one."""
        return self.arises.shared

    @property
    def chance(self) -> float:
        """How often it comes true on its machine."""
        return as_often(self.arises.chance(self.has, self.needs, self.scatter), self.times)

    @property
    def severity(self) -> Severity:
        """By its chance: from one in two severe, from one in ten a warning."""
        if self.quiet or self.chance < 0.1:
            return "notice"
        return "severe" if self.chance >= 0.5 else "warning"

    def on(self, scatter: float, times: float | None = None) -> Hazard:
        """The same on a machine whose prints differ so much, and on which it comes true so many times as often."""
        return replace(self, scatter=scatter, times=self.times if times is None else times)


def combined(hazards: Iterable[Hazard]) -> float:
    """Chance that at least one comes true, taken as independent, scars left out, capped."""
    survive = math.prod(1 - h.chance for h in hazards if h.loss != "scar")
    return min(CAP, 1 - survive)
