"""The walk through a proved plan, layer by layer, before any file is written."""

from __future__ import annotations

from ..hazards import Stop
from .base import Document

Loops = list[list[tuple[float, float]]]
"""Closed outlines on the plate in mm: outer ones counter-clockwise, holes clockwise."""


class StopDoc(Document):
    """A layer, from 1, in which something happens that is worth a look: what starts in mid air (held or not), reaches
    out too far, pulls hard, strings, or another hazard.
    """

    kind: Stop
    layer: int
    x_mm: float
    y_mm: float
    z_mm: float
    said: str


class LayerDoc(Document):
    """A layer, from 1, cut at its middle: outlines of figure and supports, and of the layer `below`; `air`: what of it
    lies farther out than a layer carries itself. `box`: what all layers cover of the plate, mm; `z_mm` its top.
    """

    layer: int
    layers: int
    z_mm: float
    height_mm: float
    box: tuple[float, float, float, float]
    figure: Loops
    supports: Loops
    below: Loops
    air: Loops
    area_mm2: float
    air_mm2: float
