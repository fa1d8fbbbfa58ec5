"""A plate of pieces as a 3MF, each plan's parts once and each piece an instance of them; and its drawing from above."""

from __future__ import annotations

import io
import math
from collections.abc import Mapping, Sequence
from ctypes import c_uint8
from dataclasses import dataclass
from typing import BinaryIO

import lib3mf
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from ..mesh import Mesh
from .threemf import bulk, new_model, set_geometry

Outlines = Sequence[Sequence[tuple[float, float]]]
SIDE_PX, EDGE_PX, FINE = 900, 24, 3
PAPER, INK, FILL, GROUND = (247, 244, 236), (29, 43, 69), (205, 214, 228), (255, 255, 255)


@dataclass(frozen=True)
class Spot:
    """Where a copy of a plan lies: its origin from the plate's front left corner in mm, and its turn in degrees."""

    plan: str
    copy: int
    x_mm: float
    y_mm: float
    turn_deg: float


def write_plate(plans: Mapping[str, Mapping[str, Mesh]], spots: Sequence[Spot], handle: BinaryIO) -> None:
    """Write the parts of each plan as objects of their own, joined as one of components, and a build item for each
    piece.
    """
    model, wrapper = new_model(), lib3mf.get_wrapper()
    whole = {}
    for plan, parts in plans.items():
        whole[plan] = model.AddComponentsObject()
        for name, mesh in parts.items():
            thing = model.AddMeshObject()
            thing.SetName(name)
            set_geometry(thing, mesh)
            whole[plan].AddComponent(thing, wrapper.GetIdentityTransform())
    for spot in spots:
        item = model.AddBuildItem(whole[spot.plan], _transform(spot))
        item.SetPartNumber(f"{spot.plan}-{spot.copy}")
    handle.write(bulk(model.QueryWriter("3mf"), "lib3mf_writer_writetobuffer", c_uint8, np.uint8).tobytes())


def _transform(spot: Spot) -> lib3mf.Transform:
    """Turned counter-clockwise, then moved; rows are where the axes go."""
    a = math.radians(spot.turn_deg)
    rows = (
        (math.cos(a), math.sin(a), 0.0),
        (-math.sin(a), math.cos(a), 0.0),
        (0.0, 0.0, 1.0),
        (spot.x_mm, spot.y_mm, 0.0),
    )
    transform = lib3mf.Transform()
    for i, row in enumerate(rows):
        for j, value in enumerate(row):
            transform.Fields[i][j] = value
    return transform


def plate_picture(pieces: Sequence[Outlines], size_mm: tuple[float, float]) -> bytes:
    """Pieces from above, numbered in their order, the plate's front below: a PNG."""
    scale = SIDE_PX * FINE / max(size_mm)
    wide, deep = (round(side * scale) + 2 * EDGE_PX * FINE for side in size_mm)
    image = Image.new("RGB", (wide, deep), GROUND)
    draw, edge = ImageDraw.Draw(image), EDGE_PX * FINE
    draw.rectangle((edge, edge, wide - edge, deep - edge), fill=PAPER, outline=INK, width=2 * FINE)

    def at(x: float, y: float) -> tuple[float, float]:
        return edge + x * scale, deep - edge - y * scale

    font = ImageFont.load_default(16 * FINE)
    for number, outlines in enumerate(pieces, 1):
        for outline in outlines:
            draw.polygon([at(x, y) for x, y in outline], fill=FILL, outline=INK, width=FINE)
        middle = np.array(outlines[0]).mean(axis=0)
        draw.text(at(*middle), str(number), fill=INK, font=font, anchor="mm")
    out = io.BytesIO()
    image.resize((wide // FINE, deep // FINE), Image.Resampling.LANCZOS).save(out, "PNG")
    return out.getvalue()
