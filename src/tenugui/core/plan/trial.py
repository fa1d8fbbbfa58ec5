"""The plan as it stands, printed a thousand times: where the failed ones failed, and what a few more tips would change
with the same draws.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..contract import (
    HeldDoc,
    RemedyDoc,
    SlowerDoc,
    TrialDoc,
    cause_document,
    hazard_from,
    pack_values,
    priced_at,
    said_of,
)
from ..hazards import Hazard
from ..learn import SCATTERS
from ..machines import ResinPrinter, peels
from ..prints import SEED, Cause, Moments, OnTrial, Trial, tried, whole_by_scatter
from ..supports import Carrying, touched
from ..vat import layer_seconds, slower
from ..worth import Rates, rates_of
from .figure import preview_of
from .given import TrialGiven
from .inputs import PosedInputs
from .pull import LIFT_SHARE
from .shelf import Shelf
from .supports import held_as_taken
from .tasks import Progress, task

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
TIPS, REMEDIES, APART_MM = 2, 3, 1.0
"""So many tips are put on trial for each of so many causes, so far from those that there are."""


@task("trial", TrialGiven, TrialDoc, rests_on=("held",))
def trial(shelf: Shelf, given: TrialGiven, progress: Progress) -> TrialDoc:
    """Print it, tally, and try the remedies for what failed most."""
    inputs, supported = PosedInputs(shelf, given), held_as_taken(shelf, given)
    rates = rates_of(given.rates)
    progress(0.1, "printing it a thousand times")
    carrying = Carrying.unpack(shelf.get(supported.row.carrying_sha))
    spots = supported.row.spots
    tips = OnTrial(
        np.array([s.at for s in spots], float).reshape(-1, 3),
        np.array([s.component for s in spots], np.int32),
        np.array([s.hold_n for s in spots], float),
    )
    stand = _Stand(carrying, supported, inputs.printer.scatter)
    tried, moments = stand.tried(tips)
    progress(0.5, "trying remedies with the same draws")
    helped: list[RemedyDoc | None] = []
    place = inputs.placed.place
    for cause in tried.causes:
        remedy = None
        if moments is not None and cause.node >= 0 and sum(h is not None for h in helped) < REMEDIES:
            at, on = _more(carrying, moments, cause, tips)
            if len(at):
                whole = stand.tried(tips.with_more(at, on))[0].whole
                back = (at - place.shift) @ place.turn
                put = [(float(x), float(y), float(z)) for x, y, z in back]
                each = supported.row.off_min / max(1, supported.row.tip_count)
                remedy = RemedyDoc(put=put, whole=whole, hands_min=each * len(put))
        helped.append(remedy)
    progress(0.7, "trying it on machines that differ more and less")
    elsewhere = stand.elsewhere(tips)
    pulled = any(cause.node >= 0 or cause.code == "pull" for cause in tried.causes)
    progress(0.8, "drawing what is lost")
    return TrialDoc(
        prints=tried.prints,
        seed=SEED,
        whole=tried.whole,
        marked=tried.marked,
        part=tried.part,
        all=tried.all,
        error=tried.error,
        hands_min=supported.row.gift.hands_min,
        contact_mm2=supported.row.contact_mm2,
        said=said_of(tried, supported.row.gift.hands_min, supported.row.contact_mm2),
        causes=[
            cause_document(c, h, _cost(supported, c, tried.prints, rates))
            for c, h in zip(tried.causes, helped, strict=True)
        ],
        ribbon=tried.ribbon,
        kept_sha=_kept_sha(shelf, inputs, tried, given),
        scatter=stand.scatter,
        by_scatter=elsewhere,
        slower=stand.slower(tips, inputs) if pulled else None,
    )


@dataclass(frozen=True)
class _Stand:
    """A set on trial, again and again: with more tips, on other machines."""

    carrying: Carrying
    made: HeldDoc
    scatter: float
    eased: float = 1.0

    @cached_property
    def hazards(self) -> list[Hazard]:
        """Of the ledger; what is pulled is pulled so much less."""
        hazards = [hazard_from(h) for h in self.made.row.hazards]
        return [replace(h, needs=h.needs * self.eased) if h.part else h for h in hazards]

    def tried(self, tips: OnTrial) -> tuple[Trial, Moments | None]:
        """On this machine."""
        layers = self.made.proof.layers
        return tried(
            self.carrying, tips, self.hazards, layers=layers.count, height=layers.height_mm, scatter=self.scatter
        )

    def slower(self, tips: OnTrial, inputs: PosedInputs) -> SlowerDoc | None:
        """Peeled more slowly, with the same draws; None where nothing peels."""
        printer, layers = inputs.printer, self.made.proof.layers
        if not peels(printer):
            return None
        eased = slower(printer, LIFT_SHARE)
        ratio = eased.peel_kpa / printer.peel_kpa
        less = replace(
            self,
            carrying=replace(self.carrying, pull=self.carrying.pull * ratio),
            # Of the plate and of necks; bodies are walked.
            eased=ratio,
        )

        def seconds(p: ResinPrinter) -> float:
            return float(layer_seconds(p, inputs.material, layers.count, layers.height_mm).sum())

        longer = (seconds(eased) - seconds(printer)) / 60
        return SlowerDoc(lift_mm_s=eased.lift_mm_s[0], whole=less.tried(tips)[0].whole, longer_min=longer)

    def elsewhere(self, tips: OnTrial) -> list[tuple[float, float]]:
        """On machines whose prints differ by other amounts: by how much, and which share comes off whole."""
        layers = self.made.proof.layers
        whole = whole_by_scatter(self.carrying, tips, self.hazards, layers=layers.count, height=layers.height_mm)
        return list(zip(SCATTERS, whole, strict=True))


def _cost(supported: HeldDoc, cause: Cause, prints: int, rates: Rates) -> float:
    """Coins that a cause costs a print on average, were it the only one."""
    share = cause.count / prints
    chances = {"lost": share, "part_lost": 0.0} if cause.loss == "print lost" else {"lost": 0.0, "part_lost": share}
    return priced_at(supported.row.gift.model_copy(update=chances), rates).loss


def _more(carrying: Carrying, moments: Moments, cause: Cause, tips: OnTrial) -> tuple[F8, I4]:
    """Where a few more tips can push against the body that was lost, nearest to where it is pulled: places (n, 3) and
    their components.
    """
    below = np.zeros(len(moments.parent), np.bool_)
    below[cause.node] = True
    for node in range(cause.node - 1, -1, -1):
        up = int(moments.parent[node])
        below[node] = up >= 0 and below[up]
    may = below[moments.of[carrying.on]] & (carrying.layer[carrying.on] <= cause.layer)
    some = np.flatnonzero(may)
    away = np.hypot(carrying.spots[some, 0] - cause.place[0], carrying.spots[some, 1] - cause.place[1])
    taken, chosen = tips.at, list[int]()
    for i in some[np.argsort(away, kind="stable")].tolist():
        spot = carrying.spots[i]
        if len(taken) and float(np.linalg.norm(taken - spot, axis=1).min()) < APART_MM:
            continue
        chosen.append(i)
        taken = np.concatenate([taken, spot[None]])
        if len(chosen) == TIPS:
            break
    return carrying.spots[chosen], carrying.on[chosen]


def _kept_sha(shelf: Shelf, inputs: PosedInputs, values: Trial, given: TrialGiven) -> str | None:
    """In how many of a hundred prints what lies at each corner of what the page turns stays on, on the shelf."""
    if not len(values.freq):
        return None
    _, preview = preview_of(shelf, inputs.given.sha)
    at = inputs.placed.place.apply(preview.scaled(inputs.factor)).vertices
    on = touched(inputs.before(inputs.placed_context(given.height)), at)
    return shelf.put(pack_values(np.where(on >= 0, 100 * (1 - values.freq[np.maximum(on, 0)]), 100.0)))
