"""Drills of one's own failures: what was seen, and what it came from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..hazards import kinds
from .question import Drill, Key, Question

OPTIONS = 4


@dataclass(frozen=True)
class Failure:
    """A run that lost something, by its own log: of what, on which machine, how much, from which layer of how many,
    what was seen of it in words, the cause that was named, and what its proof told, by code with its chance.
    """

    run: int
    figure: str
    machine: str
    result: str
    layer: int | None
    layers: int | None
    seen: Sequence[str]
    cause: str
    told: dict[str, float]


def lost_drill(failure: Failure) -> Drill | None:
    """What lost it? The cause that was named among others that its plan told, or that there are; None where nothing was
    seen but the loss.
    """
    every = kinds()
    if failure.cause not in every or not (failure.seen or failure.layer):
        return None
    rng = np.random.default_rng(failure.run)
    grave = [code for code, kind in every.items() if kind.loss != "scar" and code != failure.cause]
    told = sorted((code for code in grave if code in failure.told), key=lambda code: -failure.told[code])
    rest = [code for code in grave if code not in failure.told]
    rng.shuffle(rest)
    options = [failure.cause, *(told + rest)[: OPTIONS - 1]]
    rng.shuffle(options)
    at = "" if failure.layer is None else f" from layer {failure.layer:,}"
    at += f" of {failure.layers:,}" if at and failure.layers else ""
    seen = f" Seen: {'; '.join(failure.seen)}." if failure.seen else ""
    question = Question(
        f"Run {failure.run} of your log: {failure.figure} on {failure.machine} came to '{failure.result}'{at}.{seen} "
        "What was it?",
        options=[every[code].meaning for code in options],
    )
    chances = [failure.told.get(code) for code in options]
    reasons = [
        ("This is what you named. " if code == failure.cause else "")
        + ("Its proof told of none." if chance is None else f"Its proof told {chance:.1%} of it.")
        for code, chance in zip(options, chances, strict=True)
    ]
    told_so = (
        "What strikes early hangs on the first layers; what strikes where a section grows, on pull; what breaks in the "
        "hand, on thin parts."
    )
    return Drill("lost", question, Key([options.index(failure.cause)], reasons=reasons, told=told_so))
