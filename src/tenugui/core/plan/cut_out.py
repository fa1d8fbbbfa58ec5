"""What is cut out of a figure, kept for rows and for holes that are moved, and the body that later folds print."""

from __future__ import annotations

from dataclasses import replace

from ..contract import HoleDoc, HollowedDoc, Refusal
from ..errors import CoreError
from ..formats import pack_whole
from ..hollow import (
    Hollowed,
    Lattice,
    came_hollow,
    creases,
    drilled,
    filled,
    hollow,
    pack_hollowed,
    unpack_hollowed,
)
from ..mesh import Mesh
from .figure import MadeDoc, sized
from .given import BodyGiven, Cut, HollowedGiven, SizedGiven
from .holes import sorted_holes
from .shelf import Shelf
from .tasks import Progress, computed, task

STRUT_SHARE, THINNEST_STRUT_MM = 0.15, 0.8
"""Priors: struts are so much of their pitch thick, and no thinner than that."""
AS_IT_CAME, FILLED = 0.0, -1.0
"""Walls that stand for none: what a figure came hollow with, drained through more holes; and the same without its
closed voids.
"""


def lattice_of(pitch: float | None) -> Lattice | None:
    """Struts at a pitch in mm, as thick as they are usually made; None for none."""
    return None if pitch is None else Lattice(pitch, round(max(THINNEST_STRUT_MM, STRUT_SHARE * pitch), 2))


@task("hollowed", HollowedGiven, HollowedDoc)
def hollowed_task(shelf: Shelf, given: HollowedGiven, progress: Progress) -> HollowedDoc:
    """Cut what lies deeper than a wall out of the figure at its size."""
    figure, wall = sized(shelf, given), given.wall
    if wall in (AS_IT_CAME, FILLED):
        hollowed = came_hollow(figure)
        if wall == FILLED and hollowed.cavities:
            hollowed = Hollowed(filled(hollowed), 0.0, (), None, 0, came=True)
        return HollowedDoc(
            sha=shelf.put(pack_hollowed(hollowed)), wall_mm=wall, cavities=len(hollowed.cavities), left_solid=0
        )
    try:
        hollowed = hollow(figure, wall, lattice_of(given.lattice))
        assert hollowed.field is not None
        hollowed = replace(hollowed, creases=tuple(creases(hollowed.field, wall)))
    except CoreError as refused:
        refusal = Refusal(code=refused.code, what=refused.what, where=refused.where, remedy=refused.remedy)
        return HollowedDoc(sha=None, wall_mm=wall, cavities=0, left_solid=0, refused=refusal)
    sha = shelf.put(pack_hollowed(hollowed))
    return HollowedDoc(sha=sha, wall_mm=wall, cavities=len(hollowed.cavities), left_solid=hollowed.left_solid)


def hollowed_of(
    shelf: Shelf, given: SizedGiven, wall: float, lattice: float | None
) -> tuple[HollowedDoc, Hollowed | None]:
    """The figure of these inputs hollowed, made or remembered."""
    asked = HollowedGiven(sha=given.sha, factor=given.factor, wall=wall, lattice=lattice)
    document = computed(shelf, "hollowed", asked, HollowedDoc)
    if document.sha is None:
        return document, None
    sha = document.sha
    return document, shelf.memory.recall(("hollowed", sha), lambda: unpack_hollowed(shelf.get(sha)))


def must_hollow(shelf: Shelf, given: SizedGiven, wall: float, lattice: float | None) -> Hollowed:
    """The same, of a figure that has to be hollowed.

    Raises:
        CoreError: why it cannot be.
    """
    document, hollowed = hollowed_of(shelf, given, wall, lattice)
    if hollowed is None:
        why = document.refused
        assert why is not None
        raise CoreError(why.code, why.what, why.where, why.remedy)
    return hollowed


def outer_of(shelf: Shelf, given: SizedGiven, cut: Cut) -> Mesh:
    """The outside of a figure that later folds print hollow: its shells united."""
    return must_hollow(shelf, given, cut.wall, cut.lattice).outer


@task("body", BodyGiven, MadeDoc, rests_on=("hollowed",))
def body_task(shelf: Shelf, given: BodyGiven, progress: Progress) -> MadeDoc:
    """The hollow figure with its holes, at its size in its file's frame.

    Raises:
        CoreError: why it cannot be hollowed, or `hole-misses`.
    """
    asked = given.hollow
    hollowed = must_hollow(shelf, given, asked.wall, asked.lattice)
    holes, findings = sorted_holes(hollowed, [HoleDoc(**hole.model_dump()) for hole in asked.holes])
    if missed := next((one for one in findings if one.code == "hole-misses"), None):
        raise CoreError(missed.code, missed.message, "the holes of the fold Hollow", "Take the fold Hollow again.")
    new = [hole for some in holes for hole in some]
    whole = drilled(hollowed, new, countersunk=asked.plugs) if new or not hollowed.came else hollowed.outer
    return MadeDoc(sha=shelf.put(pack_whole(whole)))
