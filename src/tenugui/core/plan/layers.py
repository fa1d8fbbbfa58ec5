"""The fold Layers: the supported figure at every customary height of the machine."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..contract import (
    BatchDoc,
    HeldDoc,
    LayersBoard,
    LayersRow,
    ProfileDoc,
    PurposeDoc,
    SeenDoc,
    SupportsRow,
    height_of,
    level_document,
    pack_values,
    priced_at,
    profile_document,
)
from ..layers.bands import Banding
from ..layers.detail import MOST_MM, detail_of, draws_mm
from ..layers.places import Seen, telling_places
from ..layers.profile import profile_at
from ..layers.steps import cusp_quantiles
from ..machines import printer_heights
from ..paths.level import level_of
from ..process import COUNTS, Use
from ..process.heights import choose_height, height_choice
from ..removal.hands import mean_lean
from ..supports import seen_weights
from ..worth import Gift, Rates, rates_of
from .bands import banded_rows, banding_of, bands_or_not, helds_of, may_band
from .figure import preview_of
from .given import LayersGiven
from .inputs import PosedInputs
from .purposes import for_purposes
from .shelf import Shelf
from .supports import at_rates
from .tasks import Progress, task


@task("layers", LayersGiven, LayersBoard, rests_on=("held",))
def layers(shelf: Shelf, given: LayersGiven, progress: Progress) -> LayersBoard:
    """Four layer heights of the supported figure, cut and compared; what the fold Supports has made is taken as
    it is.
    """
    inputs = PosedInputs(shelf, given)
    heights = sorted(printer_heights(inputs.printer, inputs.material))
    whole, seen = inputs.placed.whole, seen_weights(inputs.placed_context().weights)
    lean, detail = cusp_quantiles(whole, seen), detail_of(whole, seen)
    progress(0.02, f"supporting and cutting at {len(heights)} heights")
    supported_rows = helds_of(inputs, given)
    choices = [
        height_choice(
            inputs.context(height), lean, m.proof.layers.count, use=_use_of(m), risk=m.row.numbers.risk, detail=detail
        )
        for height, m in zip(heights, supported_rows, strict=True)
    ]
    rates = rates_of(given.rates)
    rows = [LayersRow(height=height_of(c), held=m.row) for c, m in zip(choices, supported_rows, strict=True)]
    progress(0.9, "in bands of several heights")
    banding = banding_of(inputs, supported_rows) if may_band(inputs) else None
    rows += [] if banding is None else banded_rows(inputs, banding, supported_rows, rows[0].height)
    worths = [priced_at(row.held.gift, rates) for row in rows]
    choice = choose_height(choices, worths[: len(choices)])
    best, why = bands_or_not(rows, worths, choice.recommended, choice.why)
    front = inputs.placed.place.turn @ np.array(inputs.front)
    return LayersBoard(
        choices=[
            row.model_copy(update={"held": at_rates(row.held, worth)}) for row, worth in zip(rows, worths, strict=True)
        ],
        recommended=best,
        why=why,
        thick_sha=_thick_sha(shelf, inputs),
        draws_mm=draws_mm(inputs.printer),
        batches=[_batches(inputs, row.held) for row in rows],
        places=[_seen(inputs, place) for place in telling_places(whole, seen)],
        purposes=_purposes(inputs, banding, rows, rates, best),
        level=level_document(level_of(whole, seen, front, inputs.printer, rows[best].height.layer_height_mm)),
    )


def _purposes(
    inputs: PosedInputs, banding: Banding | None, rows: Sequence[LayersRow], rates: Rates, best: int
) -> list[PurposeDoc]:
    """What somebody else would take, with something else in mind."""
    context = inputs.placed_context()
    lean = mean_lean(inputs.placed.whole, seen_weights(context.weights))

    def above(i: int, hidden_mm: float) -> float:
        bands = rows[i].bands
        if bands and banding:
            return banding.within(bands.limit_mm, hidden_mm).above_hidden_mm
        return lean * max(0.0, rows[i].height.layer_height_mm - hidden_mm)

    gifts = [Gift(**row.held.gift.model_dump()) for row in rows]
    return [
        PurposeDoc(name=purpose.name, option=i, said=purpose.said)  # type: ignore[arg-type]
        for purpose, i in for_purposes(gifts, above, inputs.printer.process, rates, best)
    ]


def _seen(inputs: PosedInputs, place: Seen) -> SeenDoc:
    """A place in the figure's frame at its size."""
    own = inputs.placed.place
    x, y, z = (float(v) for v in own.turn.T @ (np.array(place.at) - own.shift))
    return SeenDoc(at=(x, y, z), called=place.called)


def _thick_sha(shelf: Shelf, inputs: PosedInputs) -> str:
    """How thick the solid is across its layer at each corner of what the page turns, on the shelf: the least of the
    faces about it.
    """
    _, preview = preview_of(shelf, inputs.given.sha)
    turned = inputs.placed.place.apply(preview.scaled(inputs.factor))
    thickness = np.full(len(turned.vertices), MOST_MM)
    np.minimum.at(thickness, turned.faces.ravel(), np.repeat(detail_of(turned).across, 3).astype(float))
    return shelf.put(pack_values(thickness))


GAP_MM = 3.0
"""Prior: room between figures on a plate."""


def _batches(inputs: PosedInputs, row: SupportsRow) -> list[BatchDoc]:
    """Hours of several at once: as many on a plate as stand beside each other, the plates filled evenly."""
    room, size = np.array(inputs.printer.build_mm[:2]), np.array(row.footprint_mm)
    ways = [np.floor((room + GAP_MM) / (side + GAP_MM)) for side in (size, size[::-1])]
    fits = max(1, *(int(way.prod()) for way in ways))
    batches = []
    for count in COUNTS:
        plates = -(-count // fits)
        on_each = [count // plates + (k < count % plates) for k in range(plates)]
        seconds = sum(float(np.interp(n, COUNTS, row.several_s)) for n in on_each)
        batches.append(BatchDoc(count=count, plates=plates, time_s=seconds))
    return batches


def _use_of(supported: HeldDoc) -> Use:
    n = supported.row.numbers
    return Use(
        n.time_s,
        np.array(supported.row.strip.clock_s),
        n.volume_ml,
        n.mass_g,
        n.cost,
        supported.proof.time_is,
        n.film_share,
    )


def profile_of(inputs: PosedInputs, at: Sequence[float], heights: Sequence[float]) -> ProfileDoc:
    """The outline at a place in the figure's frame at its size, and the stairs of heights."""
    place = inputs.placed.place
    there = place.turn @ np.asarray(at, float) + place.shift
    return profile_document(profile_at(inputs.placed.whole, there, inputs.printer, heights))
