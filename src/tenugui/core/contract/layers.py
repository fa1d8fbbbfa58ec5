"""`tenugui/layers@1`, and the boards of Layers and Proof."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..layers.profile import WINDOW_MM, Profile
from ..paths.level import Level
from ..process import Basis
from ..process.heights import HeightChoice, Heights
from .base import Document, Sha
from .proof import ProofDoc
from .removal import RemovalDoc
from .supports import SupportsRow
from .walk import StopDoc


class CuspDoc(Document):
    """Heights of steps in mm on the figure's slopes, by area."""

    median: float
    p95: float
    max: float


class HeightDoc(Document):
    """One layer height."""

    layer_height_mm: float
    layers: int
    time_s: float
    material_g: float
    material_ml: float
    cost: float
    cusp_mm: CuspDoc
    step_kind: Literal["full", "half", "micro", "none"]
    rounding_mm: float
    risk: float
    blemishes: float
    time_is: Basis
    lost_share: float | None = None
    blur_mm: float = 0.0


class LayersDoc(Document):
    """Layer heights side by side, finest first."""

    schema_: Literal["tenugui/layers@1"] = Field("tenugui/layers@1", alias="schema")
    choices: list[HeightDoc]
    recommended: int
    why: str


class BandsDoc(Document):
    """Layers of more than one height: of each band its height and its number of layers, from the plate up, such that
    steps keep `limit_mm`.
    """

    limit_mm: float
    runs: list[tuple[float, int]]
    layers: int
    time_s: float


class LayersRow(Document):
    """A height, and the figure held and proved at it; or `bands` of several heights, held and proved at the finest."""

    height: HeightDoc
    held: SupportsRow
    bands: BandsDoc | None = None


class PurposeDoc(Document):
    """What somebody with this use in mind would take: the number of a choice, and why."""

    name: Literal["terrain", "tabletop", "display"]
    option: int
    said: str


class LevelDoc(Document):
    """What steps worst: mm² of seen shoulders that rise less than a few degrees, and of level places that face up; what
    ironing these takes (None where nothing is drawn in lines), and the small tilt that lessens the shoulders most.
    """

    shoulders_mm2: float
    level_mm2: float
    iron_s: float | None
    tilted_to: str
    tilted_mm2: float
    said: list[str]


class BatchDoc(Document):
    """Hours of several at once: what a machine shares is shared. `plates`: so many it takes, where they do not fit on
    one.
    """

    count: int
    plates: int
    time_s: float


class SeenDoc(Document):
    """A place worth a close look."""

    at: tuple[float, float, float]
    called: str


class LayersBoard(Document):
    """The fold Layers. `thick_sha`: how thick the solid is across its layer at every corner of the figure's preview;
    `draws_mm`: the narrowest that is drawn; `batches`: for each choice; `places`: where to look closely, in the
    figure's frame at its size.
    """

    choices: list[LayersRow]
    recommended: int
    why: str
    thick_sha: Sha
    draws_mm: float
    batches: list[list[BatchDoc]]
    places: list[SeenDoc]
    purposes: list[PurposeDoc]
    level: LevelDoc


class StairDoc(Document):
    """What layers of a height make of an outline: rows of z0, z1, from, to in mm about the place. `run_mm` is null on a
    level place.
    """

    layer_height_mm: float
    rows: list[tuple[float, float, float, float]]
    cusp_mm: float
    run_mm: float | None


class ProfileDoc(Document):
    """A figure's outline at a place, in pieces of u0, z0, u1, z1 in mm about it, and the stairs that layers make of it;
    all within `window_mm`.
    """

    at: tuple[float, float, float]
    lean_deg: float
    window_mm: float
    draws_mm: float
    round: bool
    outline: list[tuple[float, float, float, float]]
    stairs: list[StairDoc]


class OtherDoc(Document):
    """The figure as it stands, without supports, by another nozzle or machine: `place` names it; the same nozzle too,
    as what to compare with.
    """

    place: str
    process: str
    nozzle_mm: float | None
    layer_height_mm: float
    time_s: float
    material_g: float
    cost: float
    cusp_mm: CuspDoc
    lost_share: float
    blemishes: float
    fits: bool


class OthersDoc(Document):
    """By other nozzles and machines, and what is to be said of the most telling of them."""

    rows: list[OtherDoc]
    said: list[str]


class FilesDoc(Document):
    """What can be taken away, and the picture of the run sheet."""

    stl: Sha
    package: Sha
    sheet_sha: Sha


class ProofBoard(Document):
    """The fold Proof: the plan as it stands, proved, with its files, and the layers that are worth a look."""

    proof: ProofDoc
    held: SupportsRow
    files: FilesDoc
    removal: RemovalDoc
    stops: list[StopDoc]


def height_of(c: HeightChoice) -> HeightDoc:
    """A height."""
    return HeightDoc(
        layer_height_mm=c.height,
        layers=c.layers,
        time_s=c.time_s,
        material_g=c.mass_g,
        material_ml=c.volume_ml,
        cost=c.cost,
        cusp_mm=CuspDoc(median=c.cusp[0], p95=c.cusp[1], max=c.cusp[2]),
        step_kind=c.step_kind,  # type: ignore[arg-type]
        rounding_mm=c.rounding,
        risk=c.risk,
        blemishes=c.blemishes,
        time_is=c.basis,
        lost_share=c.lost,
        blur_mm=c.blur,
    )


def layers_document(heights: Heights) -> LayersDoc:
    """The headless document."""
    return LayersDoc(choices=[height_of(c) for c in heights.choices], recommended=heights.recommended, why=heights.why)


def level_document(level: Level) -> LevelDoc:
    """What steps worst."""
    return LevelDoc(
        shoulders_mm2=level.shoulders_mm2,
        level_mm2=level.level_mm2,
        iron_s=level.iron_s,
        tilted_to=level.to,
        tilted_mm2=level.tilted_mm2,
        said=level.said,
    )


def profile_document(profile: Profile) -> ProfileDoc:
    """A profile, to a tenth of a micrometre."""

    def rows(table: NDArray[np.float64]) -> list[tuple[float, float, float, float]]:
        return [(a, b, c, d) for a, b, c, d in np.round(table, 4).tolist()]

    return ProfileDoc(
        at=profile.at,
        lean_deg=profile.lean_deg,
        window_mm=WINDOW_MM,
        draws_mm=profile.draws_mm,
        round=profile.round,
        outline=rows(profile.outline),
        stairs=[
            StairDoc(
                layer_height_mm=s.height,
                rows=rows(s.rows),
                cusp_mm=s.cusp,
                run_mm=s.run if np.isfinite(s.run) else None,
            )
            for s in profile.stairs
        ],
    )
