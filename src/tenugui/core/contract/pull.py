"""What pulls at a figure while it is printed, and what would change it."""

from __future__ import annotations

from typing import Literal

from ..layers import Proof
from ..vat import Peak
from .base import Document, Place


class PeakDoc(Document):
    """A layer that pulls hard: where it is in the build, newtons and those of them that are suction, mm², and why."""

    layer: int
    z_mm: float
    place: Place
    pull_n: float
    suction_n: float
    area_mm2: float
    sealed_mm2: float
    cause: Literal["cup", "shelf", "wide", "raft"]


def peak_of(peak: Peak, proof: Proof) -> PeakDoc:
    """A peak of a print that was read."""
    x, y = proof.centroids[peak.layer]
    z = (peak.layer + 0.5) * proof.stack.grid.height
    return PeakDoc(
        layer=peak.layer,
        z_mm=z,
        place=(float(x), float(y), z),
        pull_n=peak.newtons,
        suction_n=peak.suction,
        area_mm2=peak.area,
        sealed_mm2=peak.sealed,
        cause=peak.cause,
    )


class PullRemedy(Document):
    """A change, judged anew: the hardest pull after it, and minutes that it takes longer to print. `down` is the pose
    it means, `option` the row.
    """

    kind: Literal["tilt", "hole", "hollow", "lift"]
    what: str
    pull_n: float
    longer_min: float | None = None
    down: Place | None = None
    option: int | None = None


class PullDoc(Document):
    """The hardest pulls of a bare figure. `tips`: as many of the usual width as hold the hardest at the usual risk;
    `plate_mm2`: what does flat on the plate;
    `film_share`: of a film's usual life that one print takes. All from priors.
    """

    peaks: list[PeakDoc]
    tips: int
    plate_mm2: float
    film_share: float
    remedies: list[PullRemedy]
