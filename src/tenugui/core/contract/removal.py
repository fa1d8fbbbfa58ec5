"""How supports are taken off again."""

from __future__ import annotations

from typing import Literal

from ..removal.cutter import Removal
from .base import Document, Place


class RemovalGroup(Document):
    """Tips (by their number in the row's `spots`) in the order in which they are cut, reached from one side of the
    figure; `towards` in the build.
    """

    side: Literal["front", "right", "back", "left", "below"]
    towards: Place
    tips: list[int]
    delicate: bool
    minutes: float


class RemovalDoc(Document):
    """Groups in their order; tips that no cutter reaches, which are broken off; those whose piece finds no way out; and
    when to do it.
    """

    groups: list[RemovalGroup]
    unreached: list[int]
    locked: list[int]
    when: str


WHEN = {
    "resin": "After washing and before curing, while supports are soft: warm water "
    "helps. Gloves and glasses: chips fly, and uncured resin irritates.",
    "filament": "When it has cooled. Glasses: chips fly.",
}


def removal_document(found: Removal, numbers: list[int], process: str) -> RemovalDoc:
    """A removal whose tips are those of `numbers` in the row."""
    return RemovalDoc(
        groups=[
            RemovalGroup(
                side=g.side,
                towards=g.towards,
                tips=[numbers[k] for k in g.tips],
                delicate=g.delicate,
                minutes=g.minutes,
            )
            for g in found.groups
        ],
        unreached=[numbers[k] for k in found.unreached],
        locked=[numbers[k] for k in found.locked],
        when=WHEN[process],
    )
