"""The nature of a simulated machine: how it differs from what everybody believes of its kind. It is drawn once from the
machine's own definition, stays in this process, and nothing that plans ever reads it: what it does can only be seen in
what comes off its plate, as with a real one.

A threat is what a plan says may go wrong, with the chance that the plan believes. Here it comes true with odds of the
machine's own: how well it holds parts and the plate, how hard its film pulls, how steady it is, how it wears.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

Trait = Literal["hold", "film", "plate", "steady", "clean"]
TRAITS: dict[str, Trait] = {
    "pull": "hold", "island": "hold", "overhang": "hold", "bond": "hold", "falls": "hold", "fused": "hold",
    "topples": "hold",
    "sealed": "film", "trapped": "film",
    "mishap": "plate", "unstable": "plate", "outside-build": "plate",
    "sway": "steady", "knock": "steady", "thin": "steady", "handled": "steady",
}  # fmt: skip
"""Which trait of a machine a hazard asks; what is not listed asks how clean it works."""
ALL: tuple[Trait, ...] = ("hold", "film", "plate", "steady", "clean")
SPREAD, HOURS_SPREAD, DAY_SPREAD = 0.7, 0.07, 0.02
"""Made up. Of machines of one kind: of the logarithm of a trait's odds, and of hours beside what is planned; and of one
print's hours beside the machine's own.
"""
WEARS_AFTER, WEARS = (30, 90), (0.01, 0.04)
"""Made up. Prints after which a film or a nozzle begins to wear, and by how much its odds grow with each from then."""


@dataclass(frozen=True)
class Threat:
    """What may become of a print, by its plan: from which layer on, what is lost, with which chance, and why."""

    code: str
    chance: float
    layer: int
    loss: str
    why: str


@dataclass(frozen=True)
class Fate:
    """What becomes of a print: what is lost from which layer on, and why. The machine does not notice; who looks at the
    plate does.
    """

    layer: int
    loss: str
    why: str


@dataclass(frozen=True)
class Nature:
    """`odds` of each trait and `hours`, both beside what is believed of machines of its kind; `wears_after` so many
    prints, and `wears` with each from then on.
    """

    seed: int
    odds: dict[Trait, float]
    hours: float
    wears_after: int
    wears: float

    @staticmethod
    def of(definition: str) -> Nature:
        """Of the machine that is so defined: the same whenever it is started.

        >>> Nature.of("heron") == Nature.of("heron"), Nature.of("heron") == Nature.of("kestrel")
        (True, False)
        """
        seed = int.from_bytes(hashlib.sha256(definition.encode()).digest()[:8])
        rng = np.random.default_rng(seed)
        return Nature(
            seed,
            {trait: float(np.exp(SPREAD * rng.standard_normal())) for trait in ALL},
            float(np.exp(HOURS_SPREAD * rng.standard_normal())),
            int(rng.integers(*WEARS_AFTER)),
            float(rng.uniform(*WEARS)),
        )

    def chance(self, threat: Threat, before: int) -> float:
        """How often a threat truly comes true, on this machine after so many prints."""
        believed = min(max(threat.chance, 0.0), 0.999)
        worn = 1 + self.wears * max(0, before - self.wears_after)
        odds = believed / (1 - believed) * self.odds[TRAITS.get(threat.code, "clean")] * worn
        return odds / (1 + odds)

    def fate(self, threats: Sequence[Threat], before: int) -> Fate | None:
        """What becomes of the print after so many: the first that comes true in the order of layers; None: nothing."""
        rng = np.random.default_rng([self.seed, before])
        for threat in sorted(threats, key=lambda t: (t.layer, t.code)):
            if rng.random() < self.chance(threat, before):
                return Fate(threat.layer, threat.loss, threat.why)
        return None

    def takes(self, before: int) -> float:
        """Hours of the print after so many, beside what its file says."""
        rng = np.random.default_rng([self.seed, before, 1])
        return self.hours * float(np.exp(DAY_SPREAD * rng.standard_normal()))
