"""The fold Pose: directions searched once and ranked often; every layer of the best few read."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from ..compiled import both_cores
from ..contract import (
    CandidateDoc,
    Document,
    Numbers,
    PoseBoard,
    PoseRow,
    Sha,
    WishAsk,
    candidate_of,
    island_of,
    map_document,
    pack_values,
    strip_document,
    unpack_values,
)
from ..contract.base import Place
from ..formats import pack_whole, read_whole
from ..layers import prove
from ..layers.steps import cusp_quantiles
from ..machines import Context, kind_of
from ..mesh import Mesh, picture
from ..pose import (
    Candidate,
    Pace,
    PoseTable,
    Search,
    Wish,
    beside,
    fitting,
    placement,
    rank_poses,
    search_poses,
    wish_of,
)
from ..pose.expected import expected
from ..pose.price import SUPPORT_FILL
from ..process import Use, process_of
from ..risk import MISHAP_CHANCE, ledger
from ..worth import Gift, Worth, least, priced
from .figure import coarse_of
from .given import FigureGiven, PoseGiven
from .inputs import Inputs, matrix_of
from .shelf import Shelf
from .tasks import Progress, computed, task

SMALL = (112, 112)


class SearchDoc(Document):
    """A search for poses, kept: priorities only rank what it found."""

    down: list[Place]
    aims: list[list[float]]
    fits: list[bool]
    coarse_sha: Sha
    weights_sha: Sha | None
    limit_angle: float


@task("search", FigureGiven, SearchDoc, rests_on=("coarse", "proposed"))
def search_task(shelf: Shelf, given: FigureGiven, progress: Progress) -> SearchDoc:
    """Weigh some 1,100 directions."""
    inputs = Inputs(shelf, given)
    coarse = coarse_of(shelf, given.sha).scaled(inputs.factor)
    search = search_poses(inputs.figure, inputs.context(), coarse=coarse, light=inputs.light, up=inputs.up)
    return SearchDoc(
        down=[(x, y, z) for x, y, z in search.table.down.round(9).tolist()],
        aims=search.table.aims.tolist(),
        fits=search.fits.tolist(),
        coarse_sha=shelf.put(pack_whole(search.coarse)),
        weights_sha=None if search.weights is None else shelf.put(pack_values(search.weights)),
        limit_angle=search.limit_angle,
    )


def search_from(shelf: Shelf, document: SearchDoc) -> Search:
    """The search that a document keeps."""
    light = None if document.weights_sha is None else unpack_values(shelf.get(document.weights_sha))
    table = PoseTable(np.array(document.down), np.array(document.aims))
    return Search(
        table,
        np.array(document.fits, np.bool_),
        read_whole(shelf.get(document.coarse_sha)),
        light,
        document.limit_angle,
    )


def searched(shelf: Shelf, given: FigureGiven) -> Search:
    """The search for poses of these inputs."""
    return search_from(shelf, computed(shelf, "search", given, SearchDoc))


def plain_wish(asked: WishAsk | None) -> Wish:
    """What is wished, of what was asked."""
    return wish_of(None if asked is None else asked.model_dump(exclude_defaults=True))


def numbers_of(figure: Mesh, context: Context, use: Use, risk: float, *, unheld: bool = False) -> Numbers:
    """The running figures of a posed figure: one measure of the finish, by the marks, in every fold."""
    return Numbers(
        finish_mm=cusp_quantiles(figure, context.weights)[1] * context.height,
        risk=risk,
        time_s=use.time_s,
        cost=use.cost,
        volume_ml=use.volume_ml,
        mass_g=use.mass_g,
        unheld=unheld,
        film_share=use.film,
    )


@task("pose", PoseGiven, PoseBoard, rests_on=("search", "coarse"))
def pose(shelf: Shelf, given: PoseGiven, progress: Progress) -> PoseBoard:
    """Four poses, or as many as are asked for, and those that the user pinned, each with a full layer stack: islands,
    cups, pull and time, and its ribbon; and the map.
    """
    inputs = Inputs(shelf, given)
    progress(0.05, "reading the marks" if given.strokes else "reading the figure")
    context = inputs.context()
    progress(0.1, "weighing some 1,000 directions")
    wish = plain_wish(given.wish)
    search = searched(shelf, given)
    pinned = list(given.pinned)
    if pinned:
        fits = fitting(inputs.figure, np.array(pinned), inputs.printer.build_mm)
        pinned = [
            down for down, fit in zip(pinned, fits, strict=True) if fit
        ]  # the page does not offer to keep one that does not
    choice = rank_poses(inputs.figure, search, context, count=given.count, wish=wish, pinned=pinned, front=inputs.front)
    preview = coarse_of(shelf, given.sha)
    many = len(choice.candidates)

    def one(index: int, candidate: Candidate) -> tuple[Gift, Row, str]:
        progress(0.4 + 0.6 * index / many, f"reading every layer of pose {index + 1} of {many}")
        return _read(shelf, inputs, context, candidate, preview)

    read = both_cores(one, list(enumerate(choice.candidates)))
    worths = [priced(gift, wish.rates) for gift, _, _ in read]
    ranked = worths[: len(worths) - len(pinned)]
    looked_for = _looked_for(choice.candidates[: len(ranked)], ranked, inputs)
    best = least(ranked, looked_for)
    dearer = ranked[best].total > min(w.total for w in ranked)
    stands = bool(expected(np.array([choice.candidates[best].down]), inputs.up, None, False)[0])
    usual = (UPRIGHT if stands else LEANING) if dearer else ""
    spoils = read[looked_for][2].strip() if looked_for is not None and looked_for != best else ""
    if spoils:
        usual += f" As it is usually placed, {spoils[0].lower()}{spoils[1:]}"
    rows = [
        row(candidate_of(c, worth, beside(worths, i, best) + grave + (usual if i == best else "")), worth.risk)
        for i, (c, worth, (_, row, grave)) in enumerate(zip(choice.candidates, worths, read, strict=True))
    ]
    # The recommended one comes first, the others by what they are worth, what was turned by hand last.
    order = sorted(range(len(ranked)), key=lambda i: (i != best, worths[i].total))
    return PoseBoard(
        candidates=[rows[i] for i in (*order, *range(len(ranked), len(rows)))],
        recommended=0,
        evaluated=choice.evaluated,
        unmet=list(choice.unmet),
        map=map_document(search, context, choice.on_front, wish),
    )


LEANING = " Too close to the cheapest to be told apart: this is how a figure is usually hung."
UPRIGHT = " Too close to the cheapest to be told apart: this is how it stands by itself."


def _looked_for(candidates: list[Candidate], worths: list[Worth], inputs: Inputs) -> int | None:
    """The cheapest of the rows that a person would look for; the upright one where there is none."""
    downs = np.array([c.down for c in candidates])
    such = np.flatnonzero(expected(downs, inputs.up, inputs.front, inputs.printer.hangs))
    if not len(such):
        such = np.flatnonzero(expected(downs, inputs.up, None, False))
    return min((int(i) for i in such), key=lambda i: worths[i].total) if len(such) else None


Row = Callable[[CandidateDoc, float], PoseRow]


GRAVE = 0.25
"""Prior: what is lost so often is said of a pose in words, beside its risk."""


def _read(shelf: Shelf, inputs: Inputs, context: Context, candidate: Candidate, preview: Mesh) -> tuple[Gift, Row, str]:
    """Read every layer of a pose: what it takes, hours and material as its layers say, its row once it has been priced,
    and what threatens it gravely.
    """
    place = placement(inputs.figure, candidate.down, inputs.printer.build_mm, inputs.printer.name)
    figure = place.apply(inputs.figure)
    proof = prove(figure, context.height, context.reach, bridge=context.bridge)
    use = process_of(inputs.printer).use(proof.stack, proof.areas, context)
    hazards = ledger(proof, context)
    grave = [h for h in hazards if h.kind.bare and h.loss != "scar"]
    extra = SUPPORT_FILL * candidate.metrics["support_volume_mm3"]
    pace = Pace.of(context)
    gift = Gift(
        candidate.gift.hands_min + inputs.printer.hands_times * kind_of(inputs.printer.process).fixed_min,
        use.time_s / 3600 + pace.hours_mm3 * extra,
        use.cost + pace.coins_mm3 * extra,
        1 - (1 - (0.0 if pace.hangs else candidate.gift.lost)) * (1 - MISHAP_CHANCE),
        1 - (1 - candidate.gift.part_lost) * math.prod(1 - h.chance for h in grave),
    )
    threats = [h for h in grave if h.chance >= GRAVE]
    gravest = f" {max(threats, key=lambda h: h.chance).message}" if threats else ""
    picture_sha = shelf.put(picture(place.apply(preview.scaled(inputs.factor)), size=SMALL))
    strip = strip_document(proof, use, hazards, [], context)

    def row(told: CandidateDoc, risk: float) -> PoseRow:
        return PoseRow(
            pose=told,
            matrix=matrix_of(place, inputs.factor),
            islands=[island_of(i) for i in proof.islands],
            sealed_mm3=sum(s.volume for s in proof.voids.sealed),
            overhang_mm2=proof.hang.total,
            peak_area_mm2=float(proof.areas.max()),
            strip=strip,
            numbers=numbers_of(figure, context, use, risk, unheld=True),
            picture_sha=picture_sha,
        )

    return gift, row, gravest
