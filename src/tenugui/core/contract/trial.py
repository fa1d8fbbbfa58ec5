"""`tenugui/trial@1`: what a thousand trial prints of a plan came to."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..prints import Cause, Trial
from .base import Document, Sha


class RemedyDoc(Document):
    """Tips put on trial with the same draws: where, in the figure's frame at its size, how many prints come off whole
    with them, and minutes of cutting and sanding that they take, as those that there are.
    """

    put: list[tuple[float, float, float]]
    whole: int
    hands_min: float


class SlowerDoc(Document):
    """A slower lift put on trial with the same draws: its speed where it peels, how many prints come off whole, and how
    much longer it takes.
    """

    lift_mm_s: float
    whole: int
    longer_min: float


class CauseDoc(Document):
    """Why prints failed first, and in how many of them; `share` of the figure is lost on the mean where that was
    walked; `cost`: coins a print on average, at the person's rates.
    """

    code: str
    count: int
    loss: str
    layer: int
    x_mm: float
    y_mm: float
    z_mm: float
    share: float
    message: str
    remedy: str
    helped: RemedyDoc | None
    cost: float


class TrialDoc(Document):
    """Of `prints`, with one seed: how many came off whole (of these `marked`), lost a part, lost all; `error`: standard
    error of whole. `ribbon`: first failures by height; `kept_sha`: in how many of a hundred what lies at each corner of
    the figure's preview stays on. `scatter`: how much this machine's prints differ, times as much as usual;
    `by_scatter`: the share that would come off whole on one that differs by other amounts, of which its log decides;
    `slower`: with a slower lift, where something is pulled off.
    """

    schema_: Literal["tenugui/trial@1"] = Field("tenugui/trial@1", alias="schema")
    prints: int
    seed: int
    whole: int
    marked: int
    part: int
    all: int
    error: float
    said: str
    causes: list[CauseDoc]
    ribbon: list[int]
    kept_sha: Sha | None
    scatter: float
    by_scatter: list[tuple[float, float]]
    slower: SlowerDoc | None


def cause_document(cause: Cause, helped: RemedyDoc | None, cost: float) -> CauseDoc:
    """A cause."""
    x, y, z = cause.place
    return CauseDoc(
        code=cause.code,
        count=cause.count,
        loss=cause.loss,
        layer=cause.layer,
        x_mm=x,
        y_mm=y,
        z_mm=z,
        share=cause.share,
        message=cause.message,
        remedy=cause.remedy,
        helped=helped,
        cost=cost,
    )


def said_of(trial: Trial) -> str:
    """The answer in a sentence."""
    parts = [f"{trial.whole:,} of {trial.prints:,} came off whole (give or take {max(1, round(trial.error))})"]
    if trial.marked:
        of = "all" if trial.marked == trial.whole else f"{trial.marked:,} of them"
        parts[0] += f", {of} with a mark besides those of supports"
    for count, what in ((trial.part, "lost a part"), (trial.all, "were lost")):
        if count:
            parts.append(f"{count:,} {what}")
    return "; ".join(parts) + "."
