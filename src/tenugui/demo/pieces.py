"""Pieces that several sculpts share: ground, faces, hands, hats, lanterns, bark."""

from __future__ import annotations

import numpy as np

from .clay import F4, Clay


def ground(clay: Clay, radius: float, height: float = 3.0) -> None:
    """A round base of trodden mud with puddles and reeds' stubs."""
    clay.drum((0, 0, 0), radius, height, rounding=0.5, top_radius=radius * 0.95)

    def mud(x: F4, y: F4, z: F4) -> F4:
        bump = 0.25 * np.sin(1.1 * x + 0.7 * np.sin(0.9 * y)) * np.sin(1.3 * y + 0.5 * np.sin(1.2 * x)) + 0.12 * np.sin(
            3.1 * x + 1.7 * y
        ) * np.sin(2.7 * y - x)
        return (bump * (z > height * 0.6)).astype(np.float32)

    clay.relief(mud, (-radius, -radius, height - 1), (radius, radius, height + 1.5))
    rng = np.random.default_rng(7)
    for _ in range(9):
        angle, r = rng.uniform(0, 2 * np.pi), rng.uniform(0.68, 0.86) * radius
        x, y = r * np.cos(angle), r * np.sin(angle)
        tall = rng.uniform(1.5, 4.5)
        clay.limb([(x, y, height - 0.5), (x + rng.uniform(-0.5, 0.5), y, height + tall)], [0.55, 0.35], 0.4)


def face(clay: Clay, c: tuple[float, float, float], s: float) -> None:
    """Brow, nose, cheeks, lips and eyes on the front (-y) of a head of radius about s."""
    x, y, z = c
    clay.limb(
        [
            (x - 0.55 * s, y - 0.8 * s, z + 0.28 * s),
            (x, y - 0.93 * s, z + 0.2 * s),
            (x + 0.55 * s, y - 0.8 * s, z + 0.28 * s),
        ],
        [0.13 * s, 0.16 * s, 0.13 * s],
        0.18 * s,
        4,
    )
    clay.limb([(x, y - 0.9 * s, z + 0.22 * s), (x, y - 1.18 * s, z - 0.18 * s)], [0.11 * s, 0.19 * s], 0.14 * s)
    for side in (-1, 1):
        clay.ball((x + side * 0.36 * s, y - 0.83 * s, z + 0.08 * s), 0.19 * s, 0.03 * s, carve=True)
        clay.ball((x + side * 0.36 * s, y - 0.76 * s, z + 0.07 * s), (0.19 * s, 0.15 * s, 0.12 * s), 0.02 * s)
        clay.ball((x + side * 0.48 * s, y - 0.72 * s, z - 0.22 * s), 0.26 * s, 0.2 * s)
        clay.ball((x + side * 0.98 * s, y - 0.02 * s, z), (0.1 * s, 0.2 * s, 0.28 * s), 0.08 * s)
    clay.limb(
        [
            (x - 0.27 * s, y - 0.84 * s, z - 0.47 * s),
            (x, y - 0.98 * s, z - 0.44 * s),
            (x + 0.27 * s, y - 0.84 * s, z - 0.47 * s),
        ],
        [0.05 * s, 0.09 * s, 0.05 * s],
        0.05 * s,
        4,
    )
    clay.limb(
        [
            (x - 0.22 * s, y - 0.83 * s, z - 0.6 * s),
            (x, y - 0.95 * s, z - 0.62 * s),
            (x + 0.22 * s, y - 0.83 * s, z - 0.6 * s),
        ],
        [0.06 * s, 0.11 * s, 0.06 * s],
        0.06 * s,
        4,
    )
    clay.ball((x, y - 0.72 * s, z - 0.85 * s), (0.3 * s, 0.26 * s, 0.24 * s), 0.18 * s)


def hand(clay: Clay, at: tuple[float, float, float], s: float, grip: float) -> None:
    """A fist around a vertical shaft: palm, four fingers wrapped, thumb."""
    x, y, z = at
    clay.ball((x, y + 0.3 * s, z), (0.75 * s, 0.6 * s, 0.95 * s), 0.2 * s)
    for i in range(4):
        h = z + (0.75 - 0.5 * i) * s
        angle = np.linspace(0.3, 2 * np.pi - 1.2, 6) + np.pi / 2
        clay.limb(
            [(x + (grip + 0.16 * s) * np.cos(a), y + (grip + 0.16 * s) * np.sin(a), h) for a in angle],
            [0.25 * s] * 6,
            0.05 * s,
        )
    clay.limb(
        [(x - 0.5 * s, y + 0.2 * s, z + 0.8 * s), (x - 0.3 * s, y - grip - 0.25 * s, z + 1.05 * s)],
        [0.27 * s, 0.22 * s],
        0.1 * s,
    )


def straw(clay: Clay, c: tuple[float, float, float], radius: float, height: float) -> None:
    """A conical reed hat with straw laid in rays and two stitched rings."""
    x0, y0, z0 = c

    def cone(x: F4, y: F4, z: F4) -> F4:
        u, v = x - np.float32(x0), y - np.float32(y0)
        r, a = np.sqrt(u * u + v * v), np.arctan2(v, u)
        surface = z0 + height * np.maximum(0, 1 - r / radius) ** 0.8
        straw = (
            0.13 * np.sin(64 * a) * np.clip(r / radius, 0, 1)
            + 0.22 * np.exp(-((r / radius - 0.5) ** 2) / 0.0006)
            + 0.25 * np.exp(-((r / radius - 0.94) ** 2) / 0.0008)
        )
        d = np.maximum(np.abs(z - surface) * 0.72 - 0.5 - straw, (r - radius * (1 + 0.02 * np.sin(23 * a))) * 0.9)
        return d.astype(np.float32)

    clay.add(
        cone, (x0 - radius - 1, y0 - radius - 1, z0 - 1.2), (x0 + radius + 1, y0 + radius + 1, z0 + height + 1.2), 0.25
    )


def hung_lantern(clay: Clay, c: tuple[float, float, float], s: float) -> None:
    x, y, z = c
    clay.drum((x, y, z - 2.2 * s), 1.25 * s, 0.4 * s, rounding=0.08)
    clay.drum((x, y, z - 1.9 * s), 1.0 * s, 1.9 * s, rounding=0.1, sides=6)
    for i in range(6):
        a = i * np.pi / 3
        clay.limb(
            [
                (x + 1.15 * s * np.cos(a), y + 1.15 * s * np.sin(a), z - 2 * s),
                (x + 1.15 * s * np.cos(a), y + 1.15 * s * np.sin(a), z),
            ],
            [0.15 * s, 0.15 * s],
            0.05,
        )
    clay.drum((x, y, z - 0.1 * s), 1.6 * s, 1.0 * s, rounding=0.08, top_radius=0.3 * s)
    clay.limb([(x, y, z + 0.8 * s), (x, y, z + 1.5 * s)], [0.2 * s, 0.16 * s])


def bark(clay: Clay, low: tuple[float, float, float], high: tuple[float, float, float], depth: float = 0.28) -> None:
    def grooves(x: F4, y: F4, z: F4) -> F4:
        a = np.arctan2(y, x)
        return (
            depth * np.sin(26 * a + 1.8 * np.sin(0.32 * z) + 0.5 * x) * (0.6 + 0.4 * np.sin(0.9 * z + 3 * a))
        ).astype(np.float32)

    clay.relief(grooves, low, high)
