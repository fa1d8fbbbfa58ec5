"""Cutting a figure into a kit: where it may be parted, and what comes of it."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from .base import Document, Place, Sha


class PlaneAsk(Document):
    """A plane through a point across a direction, mm in the frame of the figure at its size."""

    point: Place
    normal: Place


class CutAsk(PlaneAsk):
    """Where to part a figure; `peg`: with a peg where the place bears one."""

    peg: bool = True


class ProposedCutDoc(Document):
    """A place where a limb may be parted: its share of the figure, the joint's area and seam in mm² and mm, how much of
    the seam people look at (0 to 1), and the minutes that the joint takes; in words.
    """

    plane: PlaneAsk
    share: float
    area_mm2: float
    seam_mm: float
    seen: float
    minutes: float
    said: str


class FitDoc(Document):
    """How pegs are made for the machine: clearance all around and the smallest peg, mm; `known`: by what it was seen to
    do, else priors.
    """

    clearance_mm: float
    least_mm: float
    known: bool


class CutsDoc(Document):
    """Places where a figure may be parted, the least work for the largest limb first; why there are none."""

    proposals: list[ProposedCutDoc]
    fit: FitDoc
    refused: str | None = None


class PegDoc(Document):
    """A keyed peg: its width across and its length; its socket is `clearance_mm` wider all around, and longer."""

    width_mm: float
    length_mm: float
    clearance_mm: float


class PartDoc(Document):
    """One of two parts: its mesh at its size in the figure's frame, marks of its faces, volume and size in mm, and
    whether it fits the machine as it stands.
    """

    what: Literal["rest", "limb"]
    sha: Sha
    preview_sha: Sha
    marks_sha: Sha
    triangles: int
    volume_mm3: float
    size_mm: Place
    fits: bool


class PartedDoc(Document):
    """A figure in two parts: `away`: the unit vector along which the limb leaves; the joint's area, seam, how much of
    it is looked at and the minutes that it takes; its peg, or why it has none.
    """

    parts: tuple[PartDoc, PartDoc]
    away: Place
    area_mm2: float
    seam_mm: float
    seen: float
    minutes: float
    peg: PegDoc | None
    pegless: str | None = Field(None)
    solid_mm3: float
