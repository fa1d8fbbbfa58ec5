"""The plan as outlines of every layer, for whoever plans paths elsewhere: a 3MF by its published slice extension."""

from __future__ import annotations

import io

import numpy as np

from ..contract import SlicesDoc
from ..formats import write_slices
from ..paths import heights_of
from ..sections import loops_of, outlines_at
from .bands import bands_as_taken
from .given import BandedGiven
from .inputs import PosedInputs
from .parts import parts_of
from .printfile import on_plate
from .shelf import Shelf
from .supports import held_as_taken
from .tasks import Progress, task

FINE_MM = 0.002
"""Corners of an outline that change it by less are left out: finer than any machine draws."""


@task("slices", BandedGiven, SlicesDoc, rests_on=("held",))
def slices(shelf: Shelf, given: BandedGiven, progress: Progress) -> SlicesDoc:
    """Figure, plinth and supports, each cut at the middle of every layer."""
    inputs = PosedInputs(shelf, given)
    parts = on_plate(parts_of(inputs, held_as_taken(shelf, given)))
    bands = bands_as_taken(inputs, given)
    each = heights_of(list(parts.values()), given.height if bands is None else bands.heights)
    tops = np.cumsum(each)
    cut = {}
    for k, (name, part) in enumerate(parts.items()):
        progress(0.1 + 0.6 * k / len(parts), f"cutting {name}")
        cut[name] = (part, [loops_of(section.simplify(FINE_MM)) for section in outlines_at(part, tops)])
    progress(0.7, "writing outlines")
    out = io.BytesIO()
    write_slices(cut, tops, out)
    data = out.getvalue()
    many = sum(len(loops) for _, layers in cut.values() for loops in layers)
    return SlicesDoc(sha=shelf.put(data), size=len(data), layers=len(tops), outlines=many)
