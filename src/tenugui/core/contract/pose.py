"""`tenugui/pose@1`, and the board and map of poses."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from ..machines import Context
from ..pose import AIMS, NAMES, Candidate, Search, Wish
from ..worth import Worth
from .base import Document, Matrix, Numbers, Place, Sha
from .proof import IslandDoc
from .strip import StripDoc
from .worth import RatesDoc, WorthDoc, worth_of


class PoseMetrics(Document):
    """The aims of a direction, what it is worth, and a plinth's side where one would make it stand."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    support_area_mm2: float
    scar_area_mm2: float
    support_volume_mm3: float
    height_mm: float
    minima: int
    peak_section_mm2: float
    step_cost: float
    cups: int
    foot_mm2: float
    lean: float
    slender: float
    weak_mm: float
    blur_mm2: float
    shown_mm2: float
    contact_mm2: float
    worth: WorthDoc
    stable: bool
    plinth_mm: float | None = None


class CandidateDoc(Document):
    """A pose: `down` is the unit vector of the file's frame that will point at the plate."""

    down: Place
    quaternion: tuple[float, float, float, float]
    metrics: PoseMetrics
    why: str
    best_at: list[str]


class PoseDoc(Document):
    """A few poses that no other beats."""

    schema_: Literal["tenugui/pose@1"] = Field("tenugui/pose@1", alias="schema")
    evaluated: int
    candidates: list[CandidateDoc]
    recommended: int


class WishDoc(Document):
    """Rates and hard wishes."""

    rates: RatesDoc
    hours: float | None
    clean: bool
    free: bool


class PoseMap(Document):
    """All weighed directions with their aims and merit in coins, those that no other beats, and the wish that ranks
    them. `limit`: what faces down by more than this share needs a support.
    """

    down: list[Place]
    aims: dict[str, list[float]]
    front: list[int]
    merit: list[float]
    wish: WishDoc
    limit: float
    names: dict[str, str]


class PoseRow(Document):
    """A pose with every layer read, unheld."""

    pose: CandidateDoc
    matrix: Matrix
    islands: list[IslandDoc]
    sealed_mm3: float
    overhang_mm2: float
    peak_area_mm2: float
    strip: StripDoc
    numbers: Numbers
    picture_sha: Sha


class PoseBoard(Document):
    """The fold Pose: rows, the recommended one's index, how many directions were weighed, and the map of all."""

    candidates: list[PoseRow]
    recommended: int
    evaluated: int
    unmet: list[str]
    map: PoseMap


def candidate_of(c: Candidate, worth: Worth, said: str = "") -> CandidateDoc:
    """A candidate at a worth; `said`: what it costs beside another."""
    return CandidateDoc(
        down=c.down,
        quaternion=c.quaternion,
        metrics=PoseMetrics(**c.metrics, worth=worth_of(worth), stable=c.stable),
        why=c.why + said,
        best_at=list(c.best_at),
    )


def pose_document(board: PoseBoard) -> PoseDoc:
    """The headless document: a board's rows without what the page draws."""
    return PoseDoc(
        evaluated=board.evaluated, candidates=[row.pose for row in board.candidates], recommended=board.recommended
    )


def map_document(search: Search, context: Context, on_front: NDArray[np.bool_], wish: Wish) -> PoseMap:
    """The map."""
    table = search.table
    return PoseMap(
        down=[(x, y, z) for x, y, z in table.down.round(4).tolist()],
        aims={aim: [float(f"{v:.4g}") for v in table.column(aim)] for aim in AIMS},
        front=np.flatnonzero(on_front).tolist(),
        merit=search.merit(context, wish).round(4).tolist(),
        wish=WishDoc.model_validate(wish.as_dict()),
        limit=math.sin(search.limit_angle),
        names=NAMES,
    )
