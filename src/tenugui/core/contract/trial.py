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
    """Of `prints`, with one seed: how many came off whole (of these `marked`), lost a part, lost all; `error`:
    standard error of whole; `hands_min`, `contact_mm2`: minutes of work on a whole one, and what supports touched
    of it. `ribbon`: first failures by height; `kept_sha`: in how many of a hundred what lies at each corner of the
    figure's preview stays on. `scatter`: how much this machine's prints differ, times as much as usual;
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
    hands_min: float
    contact_mm2: float
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


def said_of(trial: Trial, hands_min: float, contact_mm2: float) -> str:
    """The answer: what became of them, and the work that is left on a whole one. `hands_min`: to clean and smooth it;
    `contact_mm2`: where supports touched it.
    """
    parts = [f"{trial.whole:,} of {trial.prints:,} came off whole (give or take {max(1, round(trial.error))})"]
    for count, what in ((trial.part, "lost a part"), (trial.all, "were lost")):
        if count:
            parts.append(f"{count:,} {what}")
    over = f", over {contact_mm2:.0f} mm² that supports touched" if contact_mm2 >= 0.5 else ""
    return "; ".join(parts) + f". A whole one leaves {max(1, round(hands_min))} minutes by hand{over}."
