"""The plan as it stands, printed a thousand times: where the failed ones failed, and what a few more tips would change with the same draws."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..contract import HeldDoc, RemedyDoc, TrialDoc, cause_document, hazard_from, pack_values, said_of
from ..prints import PRINTS, SEED, Cause, Draws, Moments, Trial, moments_of, printed, tallied
from ..supports import Carrying, touched
from .held import HELD
from .inputs import Inputs, preview_of
from .shelf import Shelf
from .supports import held_as_taken
from .tasks import Given, Progress, task

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
TIPS, REMEDIES, APART_MM = 2, 3, 1.0
"""So many tips are put on trial for each of so many causes, so far from those that there are."""


class _Tips:
    """Where a set's tips push, on which component, and how strong they are."""

    def __init__(self, at: F8, on: I4, strength: F8) -> None:
        self.at, self.on, self.strength = at, on, strength

    def with_more(self, at: F8, on: I4) -> _Tips:
        usual = np.full(len(at), float(np.median(self.strength)) if len(self.strength) else 0.0)
        return _Tips(
            np.concatenate([self.at, at]), np.concatenate([self.on, on]), np.concatenate([self.strength, usual])
        )


@task("trial", 2, HELD, TrialDoc, rests_on=("held",))
def trial(shelf: Shelf, given: Given, progress: Progress) -> TrialDoc:
    """Print it, tally, and try the remedies for what failed most."""
    held, made = Inputs(shelf, given), held_as_taken(shelf, given)
    progress(0.1, "printing it a thousand times")
    carrying = Carrying.unpack(shelf.get(made.row.carrying_sha))
    spots = made.row.spots
    tips = _Tips(
        np.array([s.at for s in spots], float).reshape(-1, 3),
        np.array([s.component for s in spots], np.int32),
        np.array([s.hold_n for s in spots], float),
    )
    tried, moments = _tried(carrying, tips, made)
    progress(0.5, "trying remedies with the same draws")
    helped: list[RemedyDoc | None] = []
    place = held.placed.place
    for cause in tried.causes:
        found = None
        if moments is not None and cause.node >= 0 and sum(h is not None for h in helped) < REMEDIES:
            at, on = _more(carrying, moments, cause, tips)
            if len(at):
                whole = _tried(carrying, tips.with_more(at, on), made)[0].whole
                back = (at - place.shift) @ place.turn
                found = RemedyDoc(put=[(float(x), float(y), float(z)) for x, y, z in back], whole=whole)
        helped.append(found)
    progress(0.8, "drawing what is lost")
    return TrialDoc(
        prints=tried.prints,
        seed=SEED,
        whole=tried.whole,
        marked=tried.marked,
        part=tried.part,
        all=tried.all,
        error=tried.error,
        said=said_of(tried),
        causes=[cause_document(c, h) for c, h in zip(tried.causes, helped, strict=True)],
        ribbon=tried.ribbon,
        kept_sha=_kept_sha(shelf, held, tried, given),
    )


def _tried(carrying: Carrying, tips: _Tips, made: HeldDoc) -> tuple[Trial, Moments | None]:
    draws = Draws.of(len(tips.at), PRINTS)
    layers = made.proof.layers
    moments = moments_of(carrying, tips.on, tips.at, tips.strength) if carrying.peeled else None
    walked = None if moments is None else printed(moments, draws)
    hazards = [hazard_from(h) for h in made.row.hazards]
    return tallied(moments, walked, draws, hazards, layers=layers.count, height=layers.height_mm), moments


def _more(carrying: Carrying, moments: Moments, cause: Cause, tips: _Tips) -> tuple[F8, I4]:
    """Where a few more tips can push against the body that was lost, nearest to where it is pulled: places (n, 3) and their components."""
    below = np.zeros(len(moments.parent), np.bool_)
    below[cause.node] = True
    for node in range(cause.node - 1, -1, -1):
        up = int(moments.parent[node])
        below[node] = up >= 0 and below[up]
    may = below[moments.of[carrying.on]] & (carrying.layer[carrying.on] <= cause.layer)
    some = np.flatnonzero(may)
    away = np.hypot(carrying.spots[some, 0] - cause.place[0], carrying.spots[some, 1] - cause.place[1])
    taken, found = tips.at, list[int]()
    for i in some[np.argsort(away, kind="stable")].tolist():
        spot = carrying.spots[i]
        if len(taken) and float(np.linalg.norm(taken - spot, axis=1).min()) < APART_MM:
            continue
        found.append(i)
        taken = np.concatenate([taken, spot[None]])
        if len(found) == TIPS:
            break
    return carrying.spots[found], carrying.on[found]


def _kept_sha(shelf: Shelf, held: Inputs, tried: Trial, given: Given) -> str | None:
    """In how many of a hundred prints what lies at each corner of what the page turns stays on, on the shelf."""
    if not len(tried.freq):
        return None
    _, preview = preview_of(shelf, held.given["sha"])
    at = held.placed.place.apply(preview.scaled(held.factor)).vertices
    on = touched(held.before(held.placed_context(given["height"])), at)
    return shelf.put(pack_values(np.where(on >= 0, 100 * (1 - tried.freq[np.maximum(on, 0)]), 100.0)))
