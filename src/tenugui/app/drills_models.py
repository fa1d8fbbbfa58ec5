"""What the page and the API say of drills."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Base64Bytes, BaseModel, Field

from ..core.contract.drills import KeyDoc

MOST_IN_A_SET, MOST_PICTURE = 200, 1_000_000


class DrillShown(BaseModel):
    """A question: how many pictures it has, the text of each lettered option; nothing of its key. `chance`: how often
    somebody who stands as you do gets one so hard right.
    """

    id: int
    kind: str
    skill: str
    text: str
    pictures: int
    options: list[str]
    many: bool
    unit: str | None
    a_picture_each: bool
    source: str
    again: bool
    chance: float


class DrillAnswer(BaseModel):
    """Options that were picked, or a number."""

    picked: list[Annotated[int, Field(ge=0, le=30)]] = Field(default_factory=list, max_length=30)
    number: Annotated[float, Field(ge=-1e6, le=1e6)] | None = None


class SkillRow(BaseModel):
    """How often a drill of middling hardness is right, with 95 % on both sides; how many were answered."""

    skill: str
    answers: int
    share: float
    low: float
    high: float


class DrillGraded(BaseModel):
    """How right an answer was, what is right and why, pictures of it by number, how the skill stands after it, and the
    plan that it was of, where it was of one.
    """

    score: float
    right: list[int]
    number: float | None
    reasons: list[str]
    told: str
    shown: list[int]
    standing: SkillRow
    plan_id: int | None


class SourceRow(BaseModel):
    """Where drills came from, and how many; `own`: the bench makes them itself, and again where they are deleted."""

    source: str
    drills: int
    own: bool


class OfferOfDrills(BaseModel):
    """A proved plan that drills can be made of."""

    plan_id: int
    figure_name: str


class DrillsState(BaseModel):
    """How somebody stands: by skill, what waits, and of what more drills can be made."""

    skills: list[SkillRow]
    drills: int
    due: int
    next_due: datetime | None
    sources: list[SourceRow]
    offers: list[OfferOfDrills]


class DrillsMade(BaseModel):
    """Drills of a plan: how many came, or the job that makes them."""

    job_id: int | None
    drills: int


class DrillInSet(BaseModel):
    """A drill in a file that a club shares."""

    kind: Annotated[str, Field(max_length=40)]
    text: Annotated[str, Field(min_length=1, max_length=2000)]
    options: list[Annotated[str, Field(max_length=200)]] = Field(max_length=12)
    many: bool
    unit: Annotated[str, Field(max_length=10)] | None
    a_picture_each: bool
    pictures: list[Annotated[Base64Bytes, Field(max_length=2 * MOST_PICTURE)]] = Field(max_length=12)
    shown: list[Annotated[Base64Bytes, Field(max_length=2 * MOST_PICTURE)]] = Field(default_factory=list, max_length=12)
    key: KeyDoc
    hard: Annotated[float, Field(ge=-5, le=5)]


class DrillSet(BaseModel):
    """A file of drills. They carry their keys: a set holds what its maker has answered."""

    schema_: Literal["tenugui/drills@1"] = Field("tenugui/drills@1", alias="schema")
    name: Annotated[str, Field(min_length=1, max_length=100)]
    drills: list[DrillInSet] = Field(min_length=1, max_length=MOST_IN_A_SET)
