"""The people and beasts of the Lantern Marsh, each a function that sculpts it in clay. z up, facing -y, in mm."""

from __future__ import annotations

import numpy as np

from ..core.mesh import Mesh
from .clay import F4, Clay, frame


def _ground(clay: Clay, radius: float, height: float = 3.0) -> None:
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


def _face(clay: Clay, c: tuple[float, float, float], s: float) -> None:
    """Brow, nose, cheeks, lips and eyes on the front (-y) of a head of radius about s."""
    x, y, z = c
    clay.limb(
        [(x - 0.55 * s, y - 0.8 * s, z + 0.28 * s), (x, y - 0.93 * s, z + 0.2 * s), (x + 0.55 * s, y - 0.8 * s, z + 0.28 * s)],
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
        [(x - 0.27 * s, y - 0.84 * s, z - 0.47 * s), (x, y - 0.98 * s, z - 0.44 * s), (x + 0.27 * s, y - 0.84 * s, z - 0.47 * s)],
        [0.05 * s, 0.09 * s, 0.05 * s],
        0.05 * s,
        4,
    )
    clay.limb(
        [(x - 0.22 * s, y - 0.83 * s, z - 0.6 * s), (x, y - 0.95 * s, z - 0.62 * s), (x + 0.22 * s, y - 0.83 * s, z - 0.6 * s)],
        [0.06 * s, 0.11 * s, 0.06 * s],
        0.06 * s,
        4,
    )
    clay.ball((x, y - 0.72 * s, z - 0.85 * s), (0.3 * s, 0.26 * s, 0.24 * s), 0.18 * s)


def _hand(clay: Clay, at: tuple[float, float, float], s: float, grip: float) -> None:
    """A fist around a vertical shaft: palm, four fingers wrapped, thumb."""
    x, y, z = at
    clay.ball((x, y + 0.3 * s, z), (0.75 * s, 0.6 * s, 0.95 * s), 0.2 * s)
    for i in range(4):
        h = z + (0.75 - 0.5 * i) * s
        angle = np.linspace(0.3, 2 * np.pi - 1.2, 6) + np.pi / 2
        clay.limb([(x + (grip + 0.16 * s) * np.cos(a), y + (grip + 0.16 * s) * np.sin(a), h) for a in angle], [0.25 * s] * 6, 0.05 * s)
    clay.limb([(x - 0.5 * s, y + 0.2 * s, z + 0.8 * s), (x - 0.3 * s, y - grip - 0.25 * s, z + 1.05 * s)], [0.27 * s, 0.22 * s], 0.1 * s)


def _straw(clay: Clay, c: tuple[float, float, float], radius: float, height: float) -> None:
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

    clay.add(cone, (x0 - radius - 1, y0 - radius - 1, z0 - 1.2), (x0 + radius + 1, y0 + radius + 1, z0 + height + 1.2), 0.25)


def _hung_lantern(clay: Clay, c: tuple[float, float, float], s: float) -> None:
    x, y, z = c
    clay.drum((x, y, z - 2.2 * s), 1.25 * s, 0.4 * s, rounding=0.08)
    clay.drum((x, y, z - 1.9 * s), 1.0 * s, 1.9 * s, rounding=0.1, sides=6)
    for i in range(6):
        a = i * np.pi / 3
        clay.limb(
            [(x + 1.15 * s * np.cos(a), y + 1.15 * s * np.sin(a), z - 2 * s), (x + 1.15 * s * np.cos(a), y + 1.15 * s * np.sin(a), z)],
            [0.15 * s, 0.15 * s],
            0.05,
        )
    clay.drum((x, y, z - 0.1 * s), 1.6 * s, 1.0 * s, rounding=0.08, top_radius=0.3 * s)
    clay.limb([(x, y, z + 0.8 * s), (x, y, z + 1.5 * s)], [0.2 * s, 0.16 * s])


def reed_warden(cell: float = 0.22) -> Mesh:
    """A warden of the reeds: straw hat, pleated cloak, spear with a leaf blade, lantern on the belt. About 75 mm."""
    clay = Clay((-21, -21, 0), (23, 21, 80), cell)
    _ground(clay, 19)
    for side in (-1, 1):
        clay.limb([(side * 3.4, -0.5, 30), (side * 4.2, -2.6, 17), (side * 4.4, -0.8, 6)], [4.1, 3.0, 1.9], 1.2, 4)
        clay.limb([(side * 4.4, 0, 4.2), (side * 4.9, -5.2, 3.7)], [2.1, 1.6], 0.8)
        for k in range(9):  # puttees wound around the shins
            z = 6.5 + k * 1.15
            ring = np.linspace(0, 2 * np.pi, 13)
            y = np.interp(z, [6, 17], [-0.8, -2.6])
            r = np.interp(z, [6, 17], [1.95, 2.75])
            clay.limb([(side * 4.35 + r * np.cos(a), y + r * np.sin(a), z + 0.5 * np.sin(a)) for a in ring], [0.3] * 13, 0.25)
    clay.ball((0, 0, 34), (6.4, 4.6, 6), 1.5)
    clay.ball((0, -0.2, 44), (7.2, 5.0, 8.2), 2.0)
    clay.robe((0, 0), 23, 36, lambda z: (6.4 + (36 - z) * 0.24).astype(np.float32), 1.3, 15, 0.55, squash=0.86, most=16)
    clay.limb([(-6.2, -1.2, 36.5), (0, -5.0, 35.8), (6.2, -1.2, 36.5), (0, 4.6, 36.6), (-6.2, -1.2, 36.5)], [0.95] * 5, 0.2, 6)
    clay.ball((0.8, -5.7, 36), (1.4, 0.8, 1.4), 0.2)
    clay.robe(
        (0, 1.0),
        8,
        52,
        lambda z: (7.3 + (52 - z) * 0.17).astype(np.float32),
        1.25,
        11,
        1.15,
        opening=(-np.pi / 2 - 0.95, -np.pi / 2 + 0.95),
        squash=0.92,
        swing=2.5,
        most=21,
    )
    clay.ball((0, 0.4, 51.5), (7.7, 5.6, 3.2), 1.4)
    clay.limb([(-7.2, -0.5, 49.5), (-11, -2.4, 41.5), (-12.6, -8.6, 43.8)], [2.9, 2.3, 1.6], 1.0, 4)
    clay.limb([(7.2, -0.5, 49.5), (10.2, 0.5, 40.5), (7.9, -6.6, 35.2)], [2.9, 2.3, 1.5], 1.0, 4)
    for side, line in ((-1, [(-9.6, -1.8, 45), (-12.6, -8.6, 43.8)]), (1, [(9, 0, 44), (7.9, -6.6, 35.2)])):
        for t in np.linspace(0.1, 0.8, 7):  # creases of the sleeves
            p = np.array(line[0]) * (1 - t) + np.array(line[1]) * t
            clay.ball(tuple(p + [0, -0.3, -1.1]), (2.3 - 0.8 * t, 0.55, 1.6), 0.4, frame((1, side * 0.4, 0.4), (0, 1, 0)))
    clay.limb([(0, -0.3, 52), (0, -0.8, 57)], [2.6, 2.4], 0.8)
    clay.ball((0, -1.0, 60.2), (4.0, 4.1, 4.7), 0.6)
    _face(clay, (0, -1.0, 60.2), 4.1)
    for k in range(7):  # a braided beard
        clay.ball((0.35 * (-1) ** k, -4.9 - 0.12 * k, 55.2 - 1.15 * k), (1.15 - 0.09 * k, 0.95, 0.95), 0.25)
    _straw(clay, (0, -0.8, 63.1), 10.6, 6.2)
    clay.limb([(-13.2, -9.7, 3), (-13.2, -9.7, 71)], [0.48, 0.44])
    _hand(clay, (-13.2, -9.7, 44), 1.55, 0.5)
    clay.ball((-13.2, -9.7, 74), (4.8, 1.35, 0.36), 0.1, frame((0, 0, 1), (0, 1, 0)))
    clay.limb([(-13.2, -9.7, 68.6), (-13.2, -9.7, 70.6)], [0.95, 0.75], 0.2)
    for k in range(5):
        a = k * 1.26
        clay.limb(
            [
                (-13.2, -9.7, 68.2),
                (-13.2 + 1.2 * np.cos(a), -9.7 + 1.2 * np.sin(a), 66),
                (-13.2 + 1.5 * np.cos(a + 0.4), -9.7 + 1.5 * np.sin(a + 0.4), 63.6),
            ],
            [0.35, 0.32, 0.26],
            0.1,
            3,
        )
    _hand(clay, (7.9, -7.4, 34.5), 1.5, 0.45)
    clay.limb([(7.9, -7.4, 36.2), (7.9, -7.4, 31)], [0.4, 0.4])
    _hung_lantern(clay, (7.9, -7.4, 29.5), 1.75)
    return clay.mesh()


def toad_abbot(cell: float = 0.24) -> Mesh:
    """An abbot of the toads, seated on a lily pad; long feelers droop from his lip and end in mid air. About 55 mm."""
    clay = Clay((-27, -28, 0), (27, 25, 60), cell)

    def pad(x: F4, y: F4, z: F4) -> F4:
        r, a = np.sqrt(x * x + y * y), np.arctan2(y, x)
        veins = 0.22 * np.maximum(0, np.sin(11 * a)) ** 6
        rim = 24 * (1 + 0.02 * np.sin(7 * a))
        d = np.maximum(np.abs(z - 1.5 - 1.6 * (r / 24) ** 6) - 1.4 - veins, r - rim)
        notch = (0.13 - np.abs((a - np.pi / 3 + np.pi) % (2 * np.pi) - np.pi)) * r
        return np.maximum(d, np.where(r > 6, notch, -9)).astype(np.float32)

    clay.add(pad, (-26, -26, 0), (26, 26, 6))
    clay.ball((0, 2, 15), (16.5, 14.5, 14), 1.5)
    clay.ball((0, -1, 27), (13.2, 11.5, 11), 3.0)
    clay.robe((0, 1), 3, 27, lambda z: (18.6 - (z - 3) * 0.24).astype(np.float32), 2.0, 17, 0.85, squash=0.9, blend=0.8, most=26)
    clay.robe((0, 0.5), 19, 30.5, lambda z: (16.4 - (z - 19) * 0.42).astype(np.float32), 1.5, 23, 0.4, squash=0.88, blend=0.5, most=24)
    for side in (-1, 1):
        clay.limb([(side * 14, -2, 25), (side * 17.5, -9, 17), (side * 8.5, -16.5, 15.5)], [4.6, 4.1, 3.2], 1.5, 5)
        for k in range(6):  # cuffs in folds
            t = 0.35 + 0.1 * k
            clay.ball((side * (17.4 - 8 * t), -9.5 - 6 * t, 16.6), (1.0, 3.9 - 0.6 * t, 3.7), 0.5, frame((side * 0.8, 0.5, 0), (0, 0, 1)))
        for k in range(4):
            clay.limb(
                [
                    (side * 6.8, -17.3, 16.6),
                    (side * (3.8 - 0.3 * k), -18.8 + 0.3 * k, 17.7 - 1.35 * k),
                    (side * 1.2, -19.6 + 0.4 * k, 17.6 - 1.35 * k),
                ],
                [1.0, 0.75, 0.8],
                0.4,
                3,
            )
        clay.limb([(side * 10, -14, 4.2), (side * 13, -20.5, 4.3)], [3.6, 2.6], 1.0)
        for k in range(4):
            a = -np.pi / 2 + side * (0.1 + 0.36 * k)
            clay.limb([(side * 13, -20, 4.1), (side * 13 + 5.2 * np.cos(a), -20 + 5.2 * np.sin(a), 3.6)], [1.3, 0.8], 0.7)
            clay.ball((side * 13 + 5.4 * np.cos(a), -20 + 5.4 * np.sin(a), 3.9), 1.15, 0.4)
    clay.ball((0, -6, 39.5), (14.2, 11.8, 8.6), 2.5)
    clay.ball((0, -11, 36.5), (13.0, 8.4, 4.8), 1.8)
    clay.limb(
        [(-13.2, -9, 37.8), (-8.6, -17.5, 36.5), (0, -20.1, 36.1), (8.6, -17.5, 36.5), (13.2, -9, 37.8)],
        [0.75, 0.95, 1.0, 0.95, 0.75],
        0.35,
        6,
    )
    for side in (-1, 1):
        clay.ball((side * 7.8, -9.2, 46.6), 4.5, 0.9)
        clay.ball((side * 8.3, -11.9, 47.0), (2.7, 2.5, 2.6), 0.1)
        clay.limb([(side * 4.6, -11.7, 49.4), (side * 8.2, -13.4, 50), (side * 11.6, -10.6, 49.2)], [0.8, 1.0, 0.8], 0.4, 4)
        clay.ball((side * 2.2, -18.3, 41.5), 0.7, 0.2, carve=True)
        clay.limb(
            [
                (side * 9.4, -16.6, 37.6),
                (side * 15.5, -20.0, 40.5),
                (side * 19.4, -18.4, 33),
                (side * 18.6, -16.2, 25),
                (side * 20.6, -17.4, 20.4),
            ],
            [1.1, 0.85, 0.66, 0.5, 0.36],
            0.4,
            8,
        )
        clay.limb(
            [
                (side * 4.4, -19.4, 38),
                (side * 6.4, -24.4, 39),
                (side * 6.8, -25.4, 32),
                (side * 5.0, -24.2, 26.5),
                (side * 6.0, -25.4, 23.2),
            ],
            [0.9, 0.75, 0.58, 0.45, 0.34],
            0.4,
            8,
        )
    rng = np.random.default_rng(3)
    for _ in range(90):  # warts on the crown and the back of the head
        a, h = rng.uniform(0, 2 * np.pi), rng.uniform(0.05, 0.95)
        p = np.array([14.2 * np.cos(a) * np.sqrt(1 - h * h), -6 + 11.8 * np.sin(a) * np.sqrt(1 - h * h), 39.5 + 8.6 * h])
        if p[1] > -15:
            clay.ball(tuple(p), rng.uniform(0.45, 1.15), 0.4)
    clay.limb([(0, -4, 47), (0, -3.5, 50)], [4.2, 3.6], 0.5)
    clay.ball((0, -3.5, 52), (5.4, 5.4, 2.1), 0.3)
    for k in range(24):  # prayer beads
        a = np.linspace(np.pi * 1.05, np.pi * 1.95, 24)[k]
        clay.ball((13.2 * np.cos(a), -1.5 + 14.8 * np.sin(a), 27.5 - 6.5 * np.sin(np.pi * k / 23)), 1.15, 0.15)
    return clay.mesh()


def ferry_keeper(cell: float = 0.24) -> Mesh:
    """Bust of the old ferry keeper: hood, deep-lined face, plaited beard, scale mantle, on a turned socle. About 70 mm."""
    clay = Clay((-30, -23, 0), (30, 23, 76), cell)
    clay.drum((0, 0, 0), 14, 3.2, rounding=0.5)
    clay.drum((0, 0, 3), 12, 2.6, rounding=0.9)
    clay.drum((0, 0, 5), 8.2, 9, rounding=0.5, top_radius=7, blend=0.6)
    clay.ball((0, 0, 25), (24.5, 13, 13.5), 2)
    clay.ball((0, 0.8, 33), (17, 10.5, 9), 3)
    clay.carve(lambda x, y, z: (z - (13.5 + 0.012 * x * x)).astype(np.float32) + 0 * x + 0 * y, (-28, -18, 10.8), (28, 18, 22), 0.4)
    clay.drum((0, 0, 5), 8.2, 11, rounding=0.5, top_radius=9.5, blend=0.8)
    for row in range(8):  # mantle of overlapping scales
        z = 16.5 + row * 2.35
        half = 25.2 * np.sqrt(max(0.02, 1 - ((z - 25) / 15.5) ** 2))
        count = int(52 * half / 25) + 1
        for k in range(count):
            a = 2 * np.pi * (k + 0.5 * (row % 2)) / count
            x, y = half * np.cos(a), half * 0.535 * np.sin(a)
            normal = np.array([np.cos(a), np.sin(a) * 1.6, 0.25 + 0.07 * row])
            clay.ball((x, y, z), (1.95, 1.5, 0.55), 0.08, frame((0.12 * np.cos(a), 0.12 * np.sin(a), -1), normal))
    clay.limb([(0, -0.5, 33), (0, -1.5, 44)], [6.6, 6.0], 1.5)
    clay.ball((0, -2, 53), (9.4, 10.0, 11.4), 1.2)
    _face(clay, (0, -2.6, 52.4), 9.4)
    for side in (-1, 1):  # lines of age
        for k in range(3):
            clay.limb(
                [(side * (4.8 + 0.8 * k), -10.6 + 0.7 * k, 51.2 - 0.2 * k), (side * (6.4 + 0.5 * k), -9.0 + 0.9 * k, 49.6 - 1.1 * k)],
                [0.32, 0.2],
                0.25,
            )
        clay.limb(
            [(side * 1.4, -13.5, 49.4), (side * 4.6, -13.6, 47.8), (side * 7.2, -11.4, 45.2), (side * 7.9, -10.6, 42.2)],
            [1.1, 1.2, 0.9, 0.4],
            0.3,
            5,
        )
    for strand in range(11):
        x = (strand - 5) * 1.25
        points = [
            (x * 1.25, -9.6 - 1.6 * np.cos(x / 5), 45.5),
            (x * 1.1 + 0.6 * np.sin(strand * 2.1), -13.0 + 0.05 * x * x, 40),
            (x * 0.8 - 0.5 * np.sin(strand * 1.7), -13.4 + 0.05 * x * x, 34.5),
            (x * 0.5, -13.2, 29.5 + 0.16 * x * x),
        ]
        clay.limb(points, [1.25, 1.2, 1.0, 0.45], 0.22, 6)

    def hood(x: F4, y: F4, z: F4) -> F4:
        q = np.sqrt((x / 12.6) ** 2 + ((y - 1.5) / 12.4) ** 2 + ((z - 54) / 15.2) ** 2)
        a = np.arctan2(z - 52, x)
        fold = 0.5 * np.sin(9 * a + 0.45 * y) * np.clip((y + 9) / 8, 0, 1)
        d = np.abs((q - 1) * 12 - fold) - 0.95
        window = np.sqrt((x / 9.6) ** 2 + ((z - 52.5) / 11.6) ** 2) - 1
        return np.maximum(d, np.maximum(np.where(y < 0, -window * 8, -9), 38 - z)).astype(np.float32)

    clay.add(hood, (-15, -13, 37), (15, 17, 71), 0.5)
    ring = np.linspace(0, 2 * np.pi, 41)
    clay.limb([(9.9 * np.cos(a), -6.4 - 1.7 * np.sin(a), 52.4 + 11.9 * np.sin(a)) for a in ring], [1.05] * 41, 0.3)
    clay.robe((0, 1), 33.5, 42, lambda z: (17 - (z - 33.5) * 0.62).astype(np.float32), 1.8, 13, 0.8, squash=0.8, blend=0.6, most=24)
    clay.ball((0, -10.5, 29.2), (2.5, 1.4, 2.5), 0.2)
    return clay.mesh()


def heron_courier(cell: float = 0.25) -> Mesh:
    """A heron that carries letters, wings raised, one leg drawn up; every feather laid on. About 70 mm."""
    clay = Clay((-55, -27, 0), (55, 27, 84), cell)
    _ground(clay, 16)
    body = np.array([0.0, 3.0, 38.0])
    clay.ball(tuple(body), (8.4, 13.0, 8.2), 1, frame((1, 0, 0), (0, -0.35, 1)))
    clay.limb([(0, -6.5, 42), (0, -12.5, 48), (0, -8.8, 56.5), (0, -9.8, 63.6)], [4.6, 2.9, 2.0, 2.1], 1.2, 8)
    clay.ball((0, -11.5, 65), (2.7, 4.2, 2.8), 0.8)
    clay.limb([(0, -14.4, 64.9), (0, -25.4, 61.4)], [1.35, 0.3], 0.4)
    for side in (-1, 1):
        clay.ball((side * 2.25, -12.8, 65.9), 0.78, 0.06)
        clay.limb(
            [(side * 1.5, -13.8, 66.9), (side * 2.1, -10.5, 67.1), (side * 1.2, -5.8, 66.2), (side * 0.7, -0.4, 63.3)],
            [0.5, 0.62, 0.5, 0.3],
            0.2,
            5,
        )
    rng = np.random.default_rng(11)
    for row in range(9):  # breast and belly feathers
        for k in range(16):
            a = 2 * np.pi * (k + 0.5 * (row % 2)) / 16
            y = body[1] - 11 + row * 2.7
            r = 8.3 * np.sqrt(max(0.02, 1 - ((y - body[1]) / 13.4) ** 2))
            p = (r * np.cos(a), y, body[2] - 0.33 * (y - body[1]) + r * 0.98 * np.sin(a))
            clay.ball(p, (2.6, 1.25, 0.5), 0.15, frame((0.12 * np.cos(a), 1, -0.35 + 0.12 * np.sin(a)), (np.cos(a), -0.2, np.sin(a))))
    for k in range(9):  # neck plumes
        t = k / 8
        clay.limb(
            [(rng.uniform(-1.4, 1.4), -12.8 + 2 * t, 47 - 3.4 * t), (rng.uniform(-2.4, 2.4), -13.8 + 2 * t, 41 - 4.4 * t)], [0.7, 0.25], 0.3
        )
    for side in (-1, 1):
        shoulder, wrist, tip = np.array([side * 6, -2, 43.0]), np.array([side * 17, -6, 61.0]), np.array([side * 33, -1, 68.0])
        clay.limb([shoulder, (side * 11, -1, 51), wrist, tip], [3.2, 2.6, 2.1, 0.8], 1.0, 6)
        line = np.vstack([np.linspace(shoulder, wrist, 10), np.linspace(wrist, tip, 9)[1:]])
        for k, root in enumerate(line):
            t = k / (len(line) - 1)
            fan = np.array([side * (0.28 + 1.05 * t**1.6), 0.5 - 0.15 * t, -1.0 + 0.86 * t**2.2])
            fan /= np.linalg.norm(fan)
            for reach, wide, thick, lift in (
                (19 + 3 * np.sin(np.pi * t), 1.75, 0.42, 0.0),
                (11.5, 1.6, 0.42, -0.75),
                (6.2, 1.45, 0.45, -1.4),
            ):
                middle = root + fan * reach * 0.5 + np.array([0, lift, 0])
                clay.ball(tuple(middle), (reach * 0.53, wide, thick), 0.12, frame(fan, (0.1 * side, -1, 0.25)))
                clay.limb([root + [0, lift, 0], root + fan * reach * 0.98 + [0, lift - 0.2, 0]], [0.42, 0.22], 0.12)
    for k in range(7):  # tail
        a = (k - 3) * 0.16
        way = np.array([np.sin(a), 0.86, -0.5])
        clay.ball(tuple(np.array([0, 14, 33.5]) + way * 6.5), (7.5, 1.5, 0.5), 0.15, frame(way, (0, 0.4, 1)))
    clay.limb([(2.4, 4, 31), (2.8, 2, 20), (2.6, 5, 17.6), (2.4, 2.6, 4.4)], [2.6, 1.0, 1.15, 0.9], 0.5, 4)
    clay.limb([(-2.6, 3, 31), (-3.4, -5.5, 25), (-3.2, -4.2, 21.8), (-3.2, -8, 13.8)], [2.6, 1.0, 1.1, 0.8], 0.5, 4)
    for a in (-2.2, -1.57, -0.95, 1.57):
        clay.limb(
            [(2.4, 2.4, 4.2), (2.4 + 2.6 * np.cos(a), 2.4 + 2.6 * np.sin(a), 4.2), (2.4 + 6.2 * np.cos(a), 2.4 + 6.2 * np.sin(a), 3.2)],
            [0.85, 0.75, 0.4],
            0.3,
            3,
        )
        clay.limb(
            [
                (-3.2, -8, 13.8),
                (-3.2 + 1.8 * np.cos(a), -8.4 + 1.4 * np.sin(a), 11.4),
                (-3.2 + 2.3 * np.cos(a), -8.8 + 1.7 * np.sin(a), 8.4),
            ],
            [0.75, 0.6, 0.32],
            0.2,
            3,
        )
    clay.limb([(-6.5, -8, 44), (0, -10.5, 40), (7.6, -1, 33), (8, 6, 31)], [0.7] * 4, 0.2, 6)
    clay.add(
        lambda x, y, z: (np.maximum(np.maximum(np.abs(x - 9.6) - 2.2, np.abs(y - 6) - 4.2), np.abs(z - 29) - 3.4) - 0.5).astype(np.float32),
        (6, 0, 24),
        (13, 12, 34),
        0.3,
    )
    clay.add(
        lambda x, y, z: (np.maximum(np.maximum(np.abs(x - 10.2) - 2.5, np.abs(y - 6) - 4.4), np.abs(z - 31.2) - 1.5) - 0.3).astype(
            np.float32
        ),
        (6, 0, 28),
        (14, 12, 34),
        0.1,
    )
    clay.ball((12.9, 6, 29.4), 0.9, 0.1)
    return clay.mesh()


def _bark(clay: Clay, low: tuple[float, float, float], high: tuple[float, float, float], depth: float = 0.28) -> None:
    def grooves(x: F4, y: F4, z: F4) -> F4:
        a = np.arctan2(y, x)
        return (depth * np.sin(26 * a + 1.8 * np.sin(0.32 * z) + 0.5 * x) * (0.6 + 0.4 * np.sin(0.9 * z + 3 * a))).astype(np.float32)

    clay.relief(grooves, low, high)


def stilt_giant_upper(cell: float = 0.3) -> Mesh:
    """The stilt giant from the hips up, with two sockets below for the stilts. About 70 mm."""
    clay = Clay((-36, -24, 0), (36, 24, 74), cell)
    clay.ball((0, 0, 12), (13.5, 9.5, 11.5), 2)
    clay.ball((0, -1, 30), (17, 11.2, 16), 4)
    clay.limb([(-15, 0, 40), (15, 0, 40)], [6.2, 6.2], 3)
    for side in (-1, 1):
        clay.limb([(side * 17, 0, 40), (side * 24.5, -3, 27), (side * 21, -14, 19)], [5.6, 4.4, 3.1], 1.5, 5)
        clay.ball((side * 20.5, -15.4, 17.6), (3.2, 3.0, 3.4), 0.8)
        for k in range(4):
            clay.limb(
                [(side * (22.3 - 1.25 * k), -17.2, 18.4), (side * (22.6 - 1.4 * k), -18.8, 14.6), (side * (22.2 - 1.4 * k), -17.2, 11.6)],
                [1.0, 0.85, 0.65],
                0.3,
                3,
            )
        clay.limb([(side * 18.6, -16, 17.2), (side * 16.8, -18.4, 14.4)], [1.05, 0.75], 0.3)
    _bark(clay, (-36, -24, 2), (36, 24, 45))
    for k in range(14):  # a skirt of reeds
        a = 2 * np.pi * k / 14
        for j in (-0.12, 0.0, 0.12):
            clay.limb(
                [
                    (13.6 * np.cos(a + j), 9.8 * np.sin(a + j), 17),
                    (15.6 * np.cos(a + j), 11.6 * np.sin(a + j), 8.5),
                    (16.4 * np.cos(a + 1.5 * j), 12.4 * np.sin(a + 1.5 * j), 1.4),
                ],
                [0.95, 0.85, 0.4],
                0.25,
                4,
            )
    ring = np.linspace(0, 2 * np.pi, 49)
    clay.limb([(14.2 * np.cos(a), 10.3 * np.sin(a), 17.4 + 0.4 * np.sin(24 * a)) for a in ring], [1.4] * 49, 0.3)
    clay.limb([(0, -2, 44), (0, -4, 50)], [5.6, 5], 2)
    clay.ball((0, -5, 55), (8.2, 8.2, 8.6), 1.5)
    _face(clay, (0, -5, 54.6), 7.9)
    for k in range(17):  # moss beard
        x = (k - 8) * 0.85
        clay.limb(
            [
                (x, -11.6 + 0.04 * x * x, 48.5),
                (x * 1.1, -14 + 0.05 * x * x, 43),
                (x * 0.9 + np.sin(k * 2.3), -13.4 + 0.05 * x * x, 36 + 0.07 * x * x),
            ],
            [0.95, 0.8, 0.35],
            0.25,
            4,
        )
    for side in (-1, 1):  # branches for a crown
        for k, (out, up, back) in enumerate(((9.5, 15.5, 1), (15.5, 10.5, 4), (5.0, 17.0, 6))):
            base = np.array([side * (4.2 + k), -3.0, 61.5 - 0.8 * k])
            end = base + [side * (out - 4), back, up * 0.72]
            mid = (base + end) / 2 + [side * 1.8, 0, -1.2]
            clay.limb([base, mid, end], [1.5, 1.0, 0.42], 0.5, 5)
            clay.limb([mid, mid + [side * 3.6, -1.8, 3.4]], [0.75, 0.35], 0.3)
    for side in (-1, 1):
        clay.drum((side * 6.6, 0, -1), 3.1, 9.2, rounding=0.2, carve=True)
    clay.carve(lambda x, y, z: (z - 1.2 + 0 * x + 0 * y).astype(np.float32), (-36, -24, 0), (36, 24, 1.2))
    return clay.mesh()


def stilt_giant_stilts(cell: float = 0.3) -> Mesh:
    """The stilt giant's legs: two long roots on a rock, with pegs that fit the sockets. About 85 mm."""
    clay = Clay((-24, -22, 0), (24, 22, 92), cell)
    _ground(clay, 20, 3.6)
    clay.ball((0, 2, 3.5), (12, 10, 5), 2)
    for side in (-1, 1):
        clay.limb([(side * 9, 0, 4), (side * 11.4, -1.5, 28), (side * 10.2, 1.5, 43), (side * 7, 0, 76)], [2.9, 2.5, 3.5, 4.6], 1.2, 8)
        for k in range(5):
            a = -np.pi / 2 + side * 0.2 + (k - 2) * 0.75
            clay.limb(
                [(side * 9, 0, 10), (side * 9 + 5 * np.cos(a), 5 * np.sin(a), 5.2), (side * 9 + 8.6 * np.cos(a), 8.6 * np.sin(a), 3)],
                [1.9, 1.4, 0.7],
                1,
                4,
            )
        for k in range(11):  # rope around the knee
            a = np.linspace(0, 2 * np.pi, 15)
            r = 3.7 - 0.02 * (k - 5) ** 2
            clay.limb([(side * 10.3 + r * np.cos(q), 1.2 + r * np.sin(q), 37 + k * 0.95 + 0.15 * q) for q in a], [0.5] * 15, 0.12)
    _bark(clay, (-24, -22, 8), (24, 22, 36), 0.3)
    _bark(clay, (-24, -22, 49), (24, 22, 75), 0.3)
    for side in (-1, 1):
        clay.drum((side * 6.6, 0, 75), 5, 4, rounding=0.4, blend=0.8)
        clay.drum((side * 6.6, 0, 78.6), 2.9, 8, rounding=0.4)
    return clay.mesh()


def shrine_lantern(cell: float = 0.26) -> Mesh:
    """Stone lantern of the ferry shrine, hollow from below up into its light chamber: upright on the plate it seals. About 62 mm."""
    clay = Clay((-23, -23, 0), (23, 23, 68), cell)
    clay.drum((0, 0, 0), 15, 5, rounding=0.5, top_radius=13.5, sides=6)
    for k in range(12):  # lotus petals on the foot
        a = 2 * np.pi * k / 12
        clay.ball(
            (11.6 * np.cos(a), 11.6 * np.sin(a), 6.2), (3.4, 2.6, 1.5), 0.2, frame((np.cos(a), np.sin(a), -0.7), (np.cos(a), np.sin(a), 1))
        )
    clay.drum((0, 0, 5), 8.6, 15, rounding=0.4, top_radius=7.6, blend=0.8)
    for z in (8.5, 16.5):
        ring = np.linspace(0, 2 * np.pi, 41)
        clay.limb([(8.4 * np.cos(a), 8.4 * np.sin(a), z) for a in ring], [0.9] * 41, 0.3)
    clay.drum((0, 0, 19), 9, 4, rounding=0.4, top_radius=14, sides=6, blend=0.5)
    clay.drum((0, 0, 22.5), 11.8, 14, rounding=0.3, sides=6)
    for k in range(6):  # framed panes with a lattice and a moon
        a = (k + 0.5) * np.pi / 3
        n, side = np.array([np.cos(a), np.sin(a), 0]), np.array([-np.sin(a), np.cos(a), 0])
        face = n * 11.7
        for s in (-5.2, 5.2):
            clay.limb([face + side * s + [0, 0, 23.8], face + side * s + [0, 0, 35.2]], [0.75, 0.75])
        for h in (23.8, 35.2):
            clay.limb([face + side * -5.2 + [0, 0, h], face + side * 5.2 + [0, 0, h]], [0.75, 0.75])
        for s in (-1.75, 1.75):
            clay.limb([face + side * s + [0, 0, 24], face + side * s + [0, 0, 35]], [0.42, 0.42])
        for h in (27.6, 31.4):
            clay.limb([face + side * -5 + [0, 0, h], face + side * 5 + [0, 0, h]], [0.42, 0.42])
        clay.ball(tuple(face + [0, 0, 29.5]), (2.6, 2.6, 0.8), 0.1, frame(side, n))

    def roof(x: F4, y: F4, z: F4) -> F4:
        a = np.arctan2(y, x)
        sector = (a % (np.pi / 3)) - np.pi / 6
        r = np.sqrt(x * x + y * y) * np.cos(sector) ** 0.65
        surface = (
            37
            + 13.5 * np.maximum(0, 1 - r / 20.5) ** 1.55
            + 2.6 * np.clip(r / 20.5, 0, 1.2) ** 6 * np.clip(np.abs(sector) / 0.52, 0, 1) ** 2
        )
        tiles = 0.22 * np.cos(r * 3.2) * (r > 4) + 0.18 * np.cos(90 * a)
        d = np.maximum(z - surface - tiles, surface - 1.9 - 0.055 * np.maximum(20.5 - r, 0) ** 1.6 - z)
        return (np.maximum(d * 0.75, r - 20.5)).astype(np.float32)

    clay.add(roof, (-23, -23, 33), (23, 23, 54), 0.3)
    for k in range(6):
        a = k * np.pi / 3
        clay.limb(
            [(5 * np.cos(a), 5 * np.sin(a), 47.6), (14 * np.cos(a), 14 * np.sin(a), 41.6), (21.2 * np.cos(a), 21.2 * np.sin(a), 41.6)],
            [1.0, 0.95, 0.85],
            0.3,
            5,
        )
        clay.ball((21.4 * np.cos(a), 21.4 * np.sin(a), 42.3), 1.25, 0.4)
    clay.drum((0, 0, 49), 4.2, 2.4, rounding=0.6, blend=0.5)
    clay.ball((0, 0, 55), (3.9, 3.9, 4.2), 0.5)
    clay.limb([(0, 0, 58), (0, 0, 63)], [1.9, 0.35], 1)
    clay.drum((0, 0, -1), 5.2, 24.5, rounding=0.2, carve=True)
    clay.drum((0, 0, 23), 9.2, 12, rounding=0.8, carve=True, sides=6)
    clay.ball((0, 0, 36), (8.2, 8.2, 6), 0.6, carve=True)
    return clay.mesh()


SCULPTS = {
    "reed-warden": reed_warden,
    "toad-abbot": toad_abbot,
    "ferry-keeper": ferry_keeper,
    "heron-courier": heron_courier,
    "stilt-giant-upper": stilt_giant_upper,
    "stilt-giant-stilts": stilt_giant_stilts,
    "shrine-lantern": shrine_lantern,
}
