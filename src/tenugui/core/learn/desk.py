"""The desk of defects: from what is seen to what it may come from, and the cheapest test that tells.

Each cue has its causes with a prior weight, most usual first (craft). What the run's own proof told of a cause's
hazards, and how often they come true on this machine, weighs them: odds times the ratio of chances, as by Bayes with
the usual plan as the comparison.
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from importlib import resources

USUAL = 0.02
"""Prior: a usual plan tells a hazard of a kind so often."""
LEAST, MOST = 0.2, 12.0
"""Priors: one proof alone makes a cause no less and no more likely by such a factor."""
MISSED = 0.04
"""Prior: where the proof shows no start in mid air, that something was never held is so much less likely: the proof
would have to miss it, or the print to differ from its plan.
"""
NEAR_LAYERS = 25
"""Prior: what strikes within so many layers of where something was seen may have to do with it."""


@dataclass(frozen=True)
class Suspect:
    """A cause in words with its prior weight, hazards that tell of it, and the next test: its minutes at the machine,
    and the shipped series that it makes, where there is one. `held`: it is that nothing held it.
    """

    code: str
    words: str
    weight: float
    test: str
    minutes: float
    hazards: tuple[str, ...] = ()
    series: str | None = None
    held: bool = False


@dataclass(frozen=True)
class Cue:
    """What is seen, and what it may come from; on which processes."""

    code: str
    words: str
    process: tuple[str, ...]
    suspects: tuple[Suspect, ...]


def _cues() -> tuple[Cue, ...]:
    table = tomllib.loads(resources.files(__package__).joinpath("defects.toml").read_text())
    return tuple(
        Cue(
            row["code"],
            row["words"],
            tuple(row["process"]),
            tuple(Suspect(**{**one, "hazards": tuple(one.get("hazards", ()))}) for one in row["suspects"]),
        )
        for row in table["cue"]
    )


CUES = _cues()
"""Priors: what a practitioner suspects first, and with which weight (`defects.toml`)."""
BY_CUE = {cue.code: cue for cue in CUES}


@dataclass(frozen=True)
class Near:
    """A hazard that the run's proof told of: its kind, layer and chance."""

    code: str
    layer: int
    chance: float


@dataclass(frozen=True)
class Suspected:
    """A cause with its chance; `told`: what this run's proof said of its hazards there; `times` as often as told they
    come true on this machine.
    """

    suspect: Suspect
    chance: float
    told: float
    times: float


@dataclass(frozen=True)
class Desk:
    """Causes by chance, the first first. `held`: whether something held what was seen, by the run's own proof, where it
    says; `next`: which test to make, for what it takes, minutes a chance.
    """

    suspected: list[Suspected]
    held: bool | None
    next: int


def suspects_of(
    cue: Cue, hazards: Sequence[Near], layer: int | None, learnt: Mapping[str, float], *, proved: bool
) -> Desk:
    """What a cue may come from in a run whose proof told these hazards; `layer`: where it was seen; `learnt`: how many
    times as often as told each kind comes true on the machine; `proved`: the run has a proof to read.

    >>> desk = suspects_of(BY_CUE["hanging"], [Near("island", 100, 0.3)], 104, {}, proved=True)
    >>> desk.suspected[0].suspect.code, desk.held
    ('never-held', False)
    """
    near = [h for h in hazards if layer is None or abs(h.layer - layer) <= NEAR_LAYERS]
    weighed = []
    for suspect in cue.suspects:
        told, times = 0.0, 1.0
        for code in suspect.hazards:
            there = max((h.chance for h in near if h.code == code), default=0.0)
            told = 1 - (1 - told) * (1 - there)
            times = max(times, learnt.get(code, 1.0)) if there else times
        factor = 1.0
        if proved and suspect.hazards:
            factor = min(max(times * told / USUAL, MISSED if suspect.held else LEAST), MOST)
        weighed.append((suspect, suspect.weight * factor, told, times))
    whole = sum(weight for _, weight, *_ in weighed)
    ranked = sorted(
        (Suspected(s, weight / whole, told, times) for s, weight, told, times in weighed), key=lambda s: -s.chance
    )
    held = None
    if proved and any(s.held for s in cue.suspects):
        held = not any(h.code == "island" for h in near)
    # What is learned of a test is its chance to be the cause; what it costs, its minutes and some to look.
    best = max(range(len(ranked)), key=lambda k: ranked[k].chance / (ranked[k].suspect.minutes + LOOK_MIN))
    return Desk(ranked, held, best)


LOOK_MIN = 5.0
"""Prior: minutes to look at a test, whatever it is."""
