"""Layers as pictures for a screen of 7680 x 4320: rasters and PNG on one core, beside Pillow's encoder on the same
rasters.
"""

from __future__ import annotations

import io
import time
from collections.abc import Callable
from typing import Any

import numpy as np

FACES, TALL_MM, HEIGHT_MM = 500_000, 75.0, 0.05
OURS, THEIRS = 120, 12
"""Layers that are made, and of them those that Pillow packs too."""


def table(make: Callable[[int], Any]) -> None:
    """Print layers a second."""
    from PIL import Image
    from tests.pictures import painted
    from tests.presets import HERON

    from tenugui.core.formats.png import PngWriter
    from tenugui.core.sections import Screen, rasters

    mesh = make(FACES)
    figure = mesh.scaled(TALL_MM / mesh.size[2]).dropped()
    screen, first = Screen.of(HERON), int(TALL_MM / HEIGHT_MM / 3)
    warm = next(rasters(figure, HEIGHT_MM, screen, first=first, last=first + 1))
    writer = PngWriter(screen.columns, screen.rows, warm.first, len(warm.start) - 1)
    made, drawn, packed, plain, sizes = 0, 0.0, 0.0, 0.0, [0, 0]
    began = time.perf_counter()
    for raster in rasters(figure, HEIGHT_MM, screen, first=first, last=first + OURS):
        there = time.perf_counter()
        drawn += there - began
        image = writer.image(raster.start, raster.at, raster.value)
        packed += time.perf_counter() - there
        made += 1
        if made <= THEIRS:
            whole = painted(raster, screen)
            there, out = time.perf_counter(), io.BytesIO()
            Image.fromarray(whole).save(out, "PNG", compress_level=1)
            plain += time.perf_counter() - there
            sizes = [sizes[0] + len(image), sizes[1] + len(out.getvalue())]
            assert np.array_equal(np.asarray(Image.open(io.BytesIO(image))), whole), "the same pixels"
        began = time.perf_counter()
    ours, theirs = packed / made, plain / THEIRS
    print(
        f"\nPictures: {len(figure.faces):,} triangles, {TALL_MM:g} mm tall, "
        f"{screen.columns} x {screen.rows}, one core\n{'':52} {'a second':>9}   wanted"
    )
    for name, seconds, wanted in (
        ("rasters and PNG together", drawn / made + ours, "20"),
        ("rasters alone", drawn / made, ""),
        (f"PNG alone, {sizes[0] / THEIRS / 1024:.0f} kB each", ours, ""),
        (
            f"Pillow's PNG, fastest level, {sizes[1] / THEIRS / 1024:.0f} kB each ({theirs / ours:.0f} times as long)",
            theirs,
            "4",
        ),
    ):
        print(f"{name:52} {1 / seconds:9.1f}   {wanted}")
