"""Drills as they are kept: questions and their keys apart, since a question is shown before its key."""

from __future__ import annotations

from collections.abc import Callable

from pydantic import Field

from ..drills import KINDS, Drill, Key, Question
from .base import Document, Sha


class QuestionDoc(Document):
    """What is asked; `pictures` of both sides, or one of each option."""

    kind: str
    skill: str
    text: str
    pictures: list[Sha]
    options: list[str]
    many: bool
    unit: str | None
    a_picture_each: bool


class KeyDoc(Document):
    """What is right, and why: see `core.drills.Key`."""

    right: list[int] = Field(default_factory=list)
    number: float | None = None
    slack: float = 0.0
    credit: list[float] = Field(default_factory=list)
    reasons: list[str] = Field(default_factory=list)
    told: str = ""

    def key(self) -> Key:
        """As drills are graded by it."""
        return Key(**self.model_dump())


class DrillDoc(Document):
    """A drill, how hard it is before anybody tried, in logits, and pictures that show its key."""

    question: QuestionDoc
    key: KeyDoc
    hard: float
    shown: list[Sha] = Field(default_factory=list)


class DrillsDoc(Document):
    """All drills of a figure."""

    drills: list[DrillDoc]


def drill_of(drill: Drill, put: Callable[[bytes], str]) -> DrillDoc:
    """A drill whose pictures are kept by `put`, which returns their hash."""
    q: Question = drill.question
    return DrillDoc(
        question=QuestionDoc(
            kind=drill.kind,
            skill=KINDS[drill.kind].skill,
            text=q.text,
            pictures=[put(data) for data in q.pictures],
            options=q.options,
            many=q.many,
            unit=q.unit,
            a_picture_each=q.a_picture_each,
        ),
        key=KeyDoc(**{name: value for name, value in vars(drill.key).items() if name != "pictures"}),
        hard=drill.hard,
        shown=[put(data) for data in drill.key.pictures],
    )
