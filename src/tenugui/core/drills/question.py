"""What a drill is made of."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..errors import CoreError


class DrillError(CoreError):
    """An answer that fits no question."""


@dataclass(frozen=True)
class Kind:
    """A kind of drill: the skill that it trains, and how hard one is before anybody tried (a prior, in logits)."""

    name: str
    skill: str
    hard: float


KINDS: dict[str, Kind] = {
    kind.name: kind
    for kind in (
        Kind("islands", "seeing what starts in mid air", 0.4),
        Kind("missing", "seeing what starts in mid air", 0.0),
        Kind("scars", "knowing what a scar costs", 0.0),
        Kind("breaks", "knowing what breaks first", 0.2),
        Kind("pose", "choosing a pose", 0.5),
        Kind("spare", "knowing which tips bear", 0.8),
        Kind("first", "taking supports off", 0.3),
        Kind("slot", "choosing a height", 0.0),
        Kind("steps", "choosing a height", 0.2),
        Kind("primed", "choosing a height", -0.1),
        Kind("underside", "reading undersides", 0.2),
        Kind("drain", "draining what is hollow", 0.3),
        Kind("area", "choosing what carries", 0.2),
        Kind("angle", "reading angles", -0.4),
        Kind("factor", "reading trials", -0.2),
        Kind("lost", "naming causes", 0.3),
    )
}
"""Priors: how hard each is."""


@dataclass(frozen=True)
class Question:
    """What is asked: pictures (PNG) of both sides or of every option, a text for each lettered option, empty where the
    letter on a picture says enough; `many`: any number of them may be right; `unit`: a number is asked for instead.
    """

    text: str
    pictures: list[bytes] = field(default_factory=list)
    options: list[str] = field(default_factory=list)
    many: bool = False
    unit: str | None = None
    a_picture_each: bool = False


@dataclass(frozen=True)
class Key:
    """What is right: options by number, or a `number` within `slack`. `credit`: what each option alone is worth, where
    some are nearly right; `reasons` of each option; what there is to learn; and `pictures` (PNG) that show it, of each
    option where there are as many.
    """

    right: list[int] = field(default_factory=list)
    number: float | None = None
    slack: float = 0.0
    credit: list[float] = field(default_factory=list)
    reasons: list[str] = field(default_factory=list)
    told: str = ""
    pictures: list[bytes] = field(default_factory=list)


@dataclass(frozen=True)
class Drill:
    """A question and its key."""

    kind: str
    question: Question
    key: Key

    @property
    def hard(self) -> float:
        """How hard it is before anybody tried: as its kind, and more with every option."""
        return KINDS[self.kind].hard + 0.15 * max(0, len(self.question.options) - 4)
