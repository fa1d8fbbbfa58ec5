"""How supports are taken off again."""

from __future__ import annotations

from typing import Literal

from ..machines import Printer, kind_of
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


def removal_document(removal: Removal, numbers: list[int], printer: Printer) -> RemovalDoc:
    """A removal whose tips are those of `numbers` in the row, at the pace of the hands that the printer is set to."""
    return RemovalDoc(
        groups=[
            RemovalGroup(
                side=g.side,
                towards=g.towards,
                tips=[numbers[k] for k in g.tips],
                delicate=g.delicate,
                minutes=printer.hands_times * g.minutes,
            )
            for g in removal.groups
        ],
        unreached=[numbers[k] for k in removal.unreached],
        locked=[numbers[k] for k in removal.locked],
        when=kind_of(printer.process).when_off,
    )
