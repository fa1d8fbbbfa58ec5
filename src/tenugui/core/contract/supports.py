"""`tenugui/supports@1`, the board of supports, and the supported figure that later folds share."""

from __future__ import annotations

import itertools
import math
from bisect import bisect_right
from dataclasses import asdict
from typing import Literal

from pydantic import Field

from ..supports import LEAST_DENSITY, MAX_TIPS, MOST_DENSITY, RAFT_MARGIN_MM, Brace, HandOp, SupportSet, Tip
from .base import Document, Finding, Matrix, Numbers, Place, Sha
from .proof import HazardDoc, ProofDoc
from .strip import StripDoc
from .worth import GiftDoc, WorthDoc


class TipDoc(Document):
    """One support: its contact, its way from foot to contact, and the diameters at all joints but the last; `foot_mm`:
    no foot on the plate is wider, null for no bound, and none narrower than `foot_least_mm` where there is room. It
    stops `gap_mm` short of the figure, 0 where it grips, in an interface `cap_mm` wide and `pad_mm` thick, 0 for none;
    `cradle_mm`: radius of the prongs around a sharp point, 0 for none; `plinth`: it stands on the figure's plinth. An
    area has `cells`: middle, underside and top of each of its squares of `cell_mm`. `density` of its lines as a share
    of solid, null for the machine's own.
    """

    x_mm: float
    y_mm: float
    z_mm: float
    diameter_mm: float
    pillar_mm: float
    reason: Literal["island", "hold", "overhang", "load", "hand"]
    on: Literal["plate", "model"]
    joints: list[Place]
    widths_mm: list[float]
    branch: bool
    square: bool
    foot_mm: float | None = None
    foot_least_mm: float = 0.0
    gap_mm: float = 0.0
    cap_mm: float = 0.0
    pad_mm: float = 0.0
    flare: float = 1.0
    plinth: bool = False
    cradle_mm: float = 0.0
    cells: list[tuple[float, float, float, float]] = Field(default_factory=list)
    cell_mm: float = 0.0
    density: float | None = None


class BraceDoc(Document):
    """A strut between two pillars."""

    start: Place
    end: Place
    diameter_mm: float


class FirmDoc(Document):
    """The support that sways farthest under a push at its top, in mm, with its longest length without a brace;
    `beyond`: how many sway too far.
    """

    sway_mm: float
    length_mm: float
    diameter_mm: float
    at: Place
    beyond: int


class RegionDoc(Document):
    """What the figure's layers leave over air at a place, mm², its height, and how it is held: left to itself, carried
    by an area, by branches of other supports, or by pins.
    """

    area_mm2: float
    z_mm: float
    held: Literal["left", "area", "branch", "pin"]


class SupportsDoc(Document):
    """A support set."""

    schema_: Literal["tenugui/supports@1"] = Field("tenugui/supports@1", alias="schema")
    tips: list[TipDoc]
    raft: bool
    raft_margin_mm: float = RAFT_MARGIN_MM
    lift_mm: float
    volume_ml: float
    islands_before: int
    islands_after: int
    overhang_before_mm2: float
    overhang_after_mm2: float
    findings: list[Finding]
    braces: list[BraceDoc] = Field(default_factory=list)
    firm: FirmDoc | None = None
    regions: list[RegionDoc] = Field(default_factory=list)


class TipAskedDoc(TipDoc):
    """A support with what its worst layer asks of it and what it holds, in N; whether a body would be held too
    weakly without it at the accepted risk, by the load path alone; and the share of sides from which a cutter
    reaches it.
    """

    load_n: float
    capacity_n: float
    needed: bool
    reach: float


class SupportsAskedDoc(SupportsDoc):
    """The contract's `supports`: a set, the minutes to take it off, and the chance of losing the print with it."""

    tips: list[TipAskedDoc]  # type: ignore[assignment]
    removal_min: float
    risk: float


class SettingsDoc(Document):
    """How a plan's file came about, kept in it: `matrix` from the figure's own file to the build, and all of its
    supports, from which they can be made again exactly.
    """

    schema_: Literal["tenugui/settings@1"] = Field("tenugui/settings@1", alias="schema")
    printer: str
    material: str
    layer_height_mm: float
    risk: float
    style: str
    matrix: Matrix
    supports: SupportsDoc


class EditDoc(Document):
    """A change by hand: a tip put or taken away, or its foot moved to the plate below `to`, or what all stand on
    (`raft`), or a region left, carried on one body, ended `gap_layers` short, or drawn at a `density`, at places of the
    figure at its size, in its file's frame.
    """

    op: HandOp
    at: Place = (0.0, 0.0, 0.0)
    to: Place | None = None
    raft: Literal["full", "feet", "none"] | None = None
    gap_layers: int | None = None
    density: float | None = None


class SpotDoc(Document):
    """A tip as the page shows it: its contact in the build, why it is there, whether it stays in a cavity, and whether
    it stands on the figure.

    `hold_n`: what it holds before it tears; `margin`: over what it is asked for at worst, null where nothing is;
        `component`: of the kept load path, -1 for none;
    `breaks`: it stands on what is marked to fit or to be kept free; `area_mm2`: what an area carries, 0 for a tip;
    `gap_mm`: how far short of the figure it ends, 0 where it grips; `region`: the number of those that stand close
    together.
    """

    at: Place
    reason: str
    inside: bool
    breaks: bool = False
    stands_on_figure: bool
    diameter_mm: float
    hold_n: float
    margin: float | None
    component: int
    area_mm2: float = 0.0
    gap_mm: float = 0.0
    region: int = 0


class ChangeDoc(Document):
    """A body that a change leaves with less hold than is wanted: where it pulls at worst, N, its share of the figure,
    and hold over pull before and after; 0 is a part that starts in mid air.
    """

    place: Place
    pull_n: float
    share: float
    before: float
    after: float


class NeededDoc(Document):
    """Which tips of a row are needed: without one something starts in mid air, or is held by less than the accepted
    risk asks.
    """

    needed: list[bool]


class BackOffDoc(Document):
    """The order in which a row's tips may go, by their numbers; `free` of them before anything is held by less than
    the accepted risk asks; `least`: hold over pull of the part that is held least once each is gone, null where nothing
    pulls.
    """

    order: list[int]
    free: int
    least: list[float | None]


class DemandDoc(Document):
    """How many tips a figure asks for at an accepted risk, by reason, before any has a way; more may come where ways
    miss. None while a worker counts.
    """

    risk: float
    tips: int | None
    reasons: dict[str, int]


class DialDoc(Document):
    """What a figure asks for at risks from the least to the most that a hand turns to."""

    stops: list[DemandDoc]

    def at(self, risk: float) -> DemandDoc:
        """At a risk between two stops: as many of each reason as lie between, by the logarithm of the risk."""
        logs = [math.log(stop.risk) for stop in self.stops]
        here = min(max(math.log(risk), logs[0]), logs[-1])
        k = min(max(bisect_right(logs, here) - 1, 0), len(logs) - 2)
        share = (here - logs[k]) / (logs[k + 1] - logs[k])
        low, high = self.stops[k].reasons, self.stops[k + 1].reasons
        every = sorted(low.keys() | high.keys())
        reasons = {name: round((1 - share) * low.get(name, 0) + share * high.get(name, 0)) for name in every}
        return DemandDoc(risk=risk, tips=sum(reasons.values()), reasons=reasons)


class WhatIfDoc(Document):
    """Tips taken away and put, read anew on the kept load path: what is weaker for it, how many times the pull is
    `wanted`, margins of all tips that stay and then of those put, and how many of those find nothing to push against.
    """

    worse: list[ChangeDoc]
    wanted: float
    margins: list[float | None]
    vain: int


class SupportsRow(Document):
    """A supported figure as boards show it; `worth` at the rates of the board, `own` with changes by hand (`edits`).
    `footprint_mm`: width and depth with supports, `several_s`: seconds of COUNTS of it on one plate (see
        `process.Use`). `margins_sha`: hold over pull at every corner of the figure's preview when its layer is peeled,
        null where nothing is; `wanted`: what the accepted risk asks of it. `off_min`: minutes to take the supports off
        and sand their scars.
    """

    risk: float
    style: str
    own: bool = False
    edits: list[EditDoc]
    spots: list[SpotDoc]
    layer_height_mm: float
    tip_count: int
    on_model: int
    wanted: float
    off_min: float
    braces: int
    firm: FirmDoc | None
    contact_mm2: float
    raft: bool
    footprint_mm: tuple[float, float]
    several_s: list[float]
    lift_mm: float
    volume_ml: float
    islands_before: int
    islands_after: int
    overhang_after_mm2: float
    findings: list[Finding]
    hazards: list[HazardDoc]
    strip: StripDoc
    numbers: Numbers
    gift: GiftDoc
    worth: WorthDoc | None = None
    matrix: Matrix
    supports_sha: Sha | None
    picture_sha: Sha
    carrying_sha: Sha
    margins_sha: Sha | None


class HeldDoc(Document):
    """A supported and proved figure, computed once for each choice and read by every later fold."""

    row: SupportsRow
    supports: SupportsDoc
    proof: ProofDoc


class SupportsBoard(Document):
    """The fold Supports."""

    choices: list[SupportsRow]
    recommended: int
    why: str
    layer_height_mm: float


def tip_of(t: Tip) -> TipDoc:
    """A tip."""
    return TipDoc(
        x_mm=t.x,
        y_mm=t.y,
        z_mm=t.z,
        diameter_mm=t.diameter,
        pillar_mm=t.pillar,
        reason=t.reason,  # type: ignore[arg-type]
        on=t.on,  # type: ignore[arg-type]
        joints=list(t.joints),
        widths_mm=list(t.widths),
        branch=t.branch,
        square=t.square,
        foot_mm=t.foot if math.isfinite(t.foot) else None,
        foot_least_mm=t.foot_least,
        gap_mm=t.gap,
        cap_mm=t.cap,
        pad_mm=t.pad,
        flare=t.flare,
        cradle_mm=t.cradle,
        plinth=t.plinth,
        cells=list(t.cells),
        cell_mm=t.cell,
        density=t.density,
    )


def tips_from(rows: list[TipDoc]) -> list[Tip]:
    """The inverse of `tip_of`."""
    return [
        Tip(
            t.x_mm,
            t.y_mm,
            t.z_mm,
            t.diameter_mm,
            tuple(t.widths_mm),
            t.reason,
            t.on,
            tuple(t.joints),
            t.branch,
            t.square,
            math.inf if t.foot_mm is None else t.foot_mm,
            t.foot_least_mm,
            t.gap_mm,
            t.cap_mm,
            t.pad_mm,
            t.flare,
            t.cradle_mm,
            t.plinth,
            tuple(t.cells),
            t.cell_mm,
            density=t.density,
        )
        for t in rows
    ]


def braces_from(rows: list[BraceDoc]) -> list[Brace]:
    """The braces of a document."""
    return [Brace(b.start, b.end, b.diameter_mm) for b in rows]


FARTHEST_MM, WIDEST_MM, MOST_CELLS = 3000.0, 60.0, 200_000
"""No machine builds farther, no support is wider, and no set has more cells of areas."""


def check_came(triangles: SupportsDoc) -> None:
    """Refuse a support set of somebody's file that no support set can be.

    Raises:
        ValueError: what is wrong.
    """
    if len(triangles.tips) > MAX_TIPS or len(triangles.braces) > 20 * MAX_TIPS:
        raise ValueError(f"more than {MAX_TIPS:,} supports")
    if sum(len(tip.cells) for tip in triangles.tips) > MOST_CELLS:
        raise ValueError(f"areas of more than {MOST_CELLS:,} squares")
    for tip in triangles.tips:
        if len(tip.joints) < 2 or len(tip.widths_mm) != len(tip.joints) - 1:
            raise ValueError("a support wants two joints or more, and a width for each but the last")
        wide = [*tip.widths_mm, tip.diameter_mm]
        rest = [tip.cap_mm, tip.pad_mm, tip.gap_mm, tip.cradle_mm, tip.foot_least_mm]
        if not all(0 < v <= WIDEST_MM for v in wide) or not all(0 <= v <= WIDEST_MM for v in rest):
            raise ValueError("a support is wider than any, or has no width")
        if not all(abs(v) <= FARTHEST_MM for joint in tip.joints for v in joint):
            raise ValueError("a support lies farther off than any machine builds")
        if not all(max(abs(x), abs(y)) <= FARTHEST_MM and 0 <= a < b <= FARTHEST_MM for x, y, a, b in tip.cells):
            raise ValueError("an area has a square farther off than any machine builds, or below the plate")
        if tip.density is not None and not LEAST_DENSITY <= tip.density <= MOST_DENSITY:
            raise ValueError(f"a support's lines are a share of solid from {LEAST_DENSITY} to {MOST_DENSITY}")
        if bool(tip.cells) != (0 < tip.cell_mm <= WIDEST_MM):
            raise ValueError("the squares of an area have no width")
        if any(math.dist(a, b) < 1e-6 for a, b in itertools.pairwise(tip.joints)) or not 0 < tip.flare <= 10:
            raise ValueError("a support has no way between two of its joints")
    for brace in triangles.braces:
        if not 0 < brace.diameter_mm <= WIDEST_MM or math.dist(brace.start, brace.end) < 1e-6:
            raise ValueError("a brace has no width, or no length")


def contact_mm2(tips: list[Tip]) -> float:
    """Area of all contacts."""
    return sum(len(t.cells) * t.cell**2 if t.cells else math.pi * t.diameter**2 / 4 for t in tips)


def supports_document(support_set: SupportSet, regions: list[RegionDoc]) -> SupportsDoc:
    """The headless document."""
    return SupportsDoc(
        tips=[tip_of(t) for t in support_set.tips],
        raft=support_set.with_raft,
        raft_margin_mm=support_set.margin,
        lift_mm=float(support_set.figure.lower[2]),
        volume_ml=support_set.volume_mm3 / 1000,
        islands_before=len(support_set.before.islands),
        islands_after=len(support_set.islands),
        overhang_before_mm2=support_set.before.hang.total,
        overhang_after_mm2=support_set.after.hang.total,
        findings=[Finding(**asdict(f)) for f in support_set.findings],
        braces=[BraceDoc(start=b.start, end=b.end, diameter_mm=b.diameter) for b in support_set.braces],
        firm=None if support_set.firm is None else FirmDoc(**asdict(support_set.firm)),
        regions=regions,
    )
