"""An underside as its supports left it, drawn by the laws of gap and droop: which setting was it?"""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from ..risk.meeting import droop_mm
from .question import Drill, Key, Question

F8 = NDArray[np.float64]
WIDE, TALL, PIXELS_A_MM = 420, 190, 42.0
INK, BODY, FAINT, PAPER = (32, 55, 95), (217, 211, 198), (150, 140, 120), (250, 247, 240)
LEVEL = 70
"""Where the underside was meant to be, pixels from the top."""
TALLER = 3.0
"""Heights are drawn so many times as tall as widths, as under a raking light."""
HEIGHT_MM, LINE_MM = 0.2, 0.38
GAPS, SHARES = (1, 4), (0.08, 0.2)
"""Layers of air, and lines of the body as a share of solid, of which one each is asked."""


def profile(gap: int, share: float, x: F8) -> F8:
    """(n,) how far below what was meant an underside lies at places (n,) in mm: its lines came down across the gap to
    the lines of the support, and between those they droop.
    """
    apart = LINE_MM / share
    return np.asarray(gap * HEIGHT_MM + droop_mm(HEIGHT_MM, apart, 0) * np.sin(np.pi * x / apart) ** 2)


def drawn(gap: int, share: float) -> bytes:
    """The underside in section, as PNG: the solid above, what was meant as a line of dashes."""
    image = Image.new("RGB", (WIDE, TALL), PAPER)
    draw = ImageDraw.Draw(image)
    x = np.arange(WIDE)
    y = LEVEL + TALLER * PIXELS_A_MM * profile(gap, share, x / PIXELS_A_MM) / 2
    edge = list(zip(x.tolist(), y.tolist(), strict=True))
    draw.polygon([(0, 0), *edge, (WIDE - 1, 0)], fill=BODY)
    draw.line(edge, fill=INK, width=3)
    for begin in range(0, WIDE, 14):
        draw.line([(begin, LEVEL), (begin + 7, LEVEL)], fill=FAINT, width=1)
    draw.line([(12, TALL - 14), (12 + PIXELS_A_MM, TALL - 14)], fill=INK, width=2)
    draw.text((18 + PIXELS_A_MM, TALL - 21), "1 mm", fill=INK)
    out = io.BytesIO()
    image.save(out, "PNG", optimize=True)
    return out.getvalue()


def underside_drill(rng: np.random.Generator) -> Drill:
    """Which gap and which density left this underside?"""
    settings = [(gap, share) for gap in GAPS for share in SHARES]
    order = [settings[int(k)] for k in rng.permutation(len(settings))]
    right = int(rng.integers(len(order)))
    gap, share = order[right]
    reasons = []
    for g, s in order:
        drop, apart = g * HEIGHT_MM, LINE_MM / s
        droop = droop_mm(HEIGHT_MM, apart, 0)
        reasons.append(f"Comes down by {drop:.1f} mm, and by {droop:.2f} more every {apart:.1f} mm.")
    credit = [(float(g == gap) + float(s == share)) / 2 for g, s in order]
    return Drill(
        "underside",
        Question(
            f"An underside that lay on an area without an interface, in layers of {HEIGHT_MM:g} mm, heights drawn "
            "larger; dashes show what was meant. How did its support end?",
            [drawn(gap, share)],
            [f"{g} layer{'s' * (g != 1)} short, lines at {100 * s:.0f} % of solid" for g, s in order],
        ),
        Key(
            [right],
            credit=credit,
            reasons=reasons,
            told="How far all of it came down tells the gap; how often it waves tells how far apart the lines below "
            "were. A smaller gap lifts it and is harder to part; denser lines, or an interface, take the waves away.",
        ),
    )
