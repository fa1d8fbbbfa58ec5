"""The people of the Lantern Marsh, sculpted in clay. z up, facing -y, in mm."""

from __future__ import annotations

import numpy as np

from ..core.mesh import Mesh
from .clay import F4, Clay, frame
from .pieces import face, ground, hand, hung_lantern, straw


def reed_warden(cell: float = 0.22) -> Mesh:
    """A warden of the reeds: straw hat, pleated cloak, spear with a leaf blade, lantern on the belt. About 75 mm."""
    clay = Clay((-21, -21, 0), (23, 21, 80), cell)
    ground(clay, 19)
    for side in (-1, 1):
        clay.limb([(side * 3.4, -0.5, 30), (side * 4.2, -2.6, 17), (side * 4.4, -0.8, 6)], [4.1, 3.0, 1.9], 1.2, 4)
        clay.limb([(side * 4.4, 0, 4.2), (side * 4.9, -5.2, 3.7)], [2.1, 1.6], 0.8)
        for k in range(9):  # puttees wound around the shins
            z = 6.5 + k * 1.15
            ring = np.linspace(0, 2 * np.pi, 13)
            y = np.interp(z, [6, 17], [-0.8, -2.6])
            r = np.interp(z, [6, 17], [1.95, 2.75])
            clay.limb(
                [(side * 4.35 + r * np.cos(a), y + r * np.sin(a), z + 0.5 * np.sin(a)) for a in ring], [0.3] * 13, 0.25
            )
    clay.ball((0, 0, 34), (6.4, 4.6, 6), 1.5)
    clay.ball((0, -0.2, 44), (7.2, 5.0, 8.2), 2.0)
    clay.robe(
        (0, 0),
        23,
        36,
        radius=lambda z: (6.4 + (36 - z) * 0.24).astype(np.float32),
        thick=1.3,
        folds=15,
        depth=0.55,
        squash=0.86,
        most=16,
    )
    clay.limb(
        [(-6.2, -1.2, 36.5), (0, -5.0, 35.8), (6.2, -1.2, 36.5), (0, 4.6, 36.6), (-6.2, -1.2, 36.5)], [0.95] * 5, 0.2, 6
    )
    clay.ball((0.8, -5.7, 36), (1.4, 0.8, 1.4), 0.2)
    clay.robe(
        (0, 1.0),
        8,
        52,
        radius=lambda z: (7.3 + (52 - z) * 0.17).astype(np.float32),
        thick=1.25,
        folds=11,
        depth=1.15,
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
            clay.ball(
                tuple(p + [0, -0.3, -1.1]), (2.3 - 0.8 * t, 0.55, 1.6), 0.4, turn=frame((1, side * 0.4, 0.4), (0, 1, 0))
            )
    clay.limb([(0, -0.3, 52), (0, -0.8, 57)], [2.6, 2.4], 0.8)
    clay.ball((0, -1.0, 60.2), (4.0, 4.1, 4.7), 0.6)
    face(clay, (0, -1.0, 60.2), 4.1)
    for k in range(7):  # a braided beard
        clay.ball((0.35 * (-1) ** k, -4.9 - 0.12 * k, 55.2 - 1.15 * k), (1.15 - 0.09 * k, 0.95, 0.95), 0.25)
    straw(clay, (0, -0.8, 63.1), 10.6, 6.2)
    clay.limb([(-13.2, -9.7, 3), (-13.2, -9.7, 71)], [0.48, 0.44])
    hand(clay, (-13.2, -9.7, 44), 1.55, 0.5)
    clay.ball((-13.2, -9.7, 74), (4.8, 1.35, 0.36), 0.1, turn=frame((0, 0, 1), (0, 1, 0)))
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
    hand(clay, (7.9, -7.4, 34.5), 1.5, 0.45)
    clay.limb([(7.9, -7.4, 36.2), (7.9, -7.4, 31)], [0.4, 0.4])
    hung_lantern(clay, (7.9, -7.4, 29.5), 1.75)
    return clay.mesh()


def ferry_keeper(cell: float = 0.24) -> Mesh:
    """Bust of the old ferry keeper: hood, deep-lined face, plaited beard, scale mantle, on a turned socle.
    About 70 mm.
    """
    clay = Clay((-30, -23, 0), (30, 23, 76), cell)
    clay.drum((0, 0, 0), 14, 3.2, rounding=0.5)
    clay.drum((0, 0, 3), 12, 2.6, rounding=0.9)
    clay.drum((0, 0, 5), 8.2, 9, rounding=0.5, top_radius=7, blend=0.6)
    clay.ball((0, 0, 25), (24.5, 13, 13.5), 2)
    clay.ball((0, 0.8, 33), (17, 10.5, 9), 3)
    clay.carve(
        lambda x, y, z: (z - (13.5 + 0.012 * x * x)).astype(np.float32) + 0 * x + 0 * y,
        (-28, -18, 10.8),
        (28, 18, 22),
        0.4,
    )
    clay.drum((0, 0, 5), 8.2, 11, rounding=0.5, top_radius=9.5, blend=0.8)
    for row in range(8):  # mantle of overlapping scales
        z = 16.5 + row * 2.35
        half = 25.2 * np.sqrt(max(0.02, 1 - ((z - 25) / 15.5) ** 2))
        count = int(52 * half / 25) + 1
        for k in range(count):
            a = 2 * np.pi * (k + 0.5 * (row % 2)) / count
            x, y = half * np.cos(a), half * 0.535 * np.sin(a)
            normal = np.array([np.cos(a), np.sin(a) * 1.6, 0.25 + 0.07 * row])
            clay.ball((x, y, z), (1.95, 1.5, 0.55), 0.08, turn=frame((0.12 * np.cos(a), 0.12 * np.sin(a), -1), normal))
    clay.limb([(0, -0.5, 33), (0, -1.5, 44)], [6.6, 6.0], 1.5)
    clay.ball((0, -2, 53), (9.4, 10.0, 11.4), 1.2)
    face(clay, (0, -2.6, 52.4), 9.4)
    for side in (-1, 1):  # lines of age
        for k in range(3):
            clay.limb(
                [
                    (side * (4.8 + 0.8 * k), -10.6 + 0.7 * k, 51.2 - 0.2 * k),
                    (side * (6.4 + 0.5 * k), -9.0 + 0.9 * k, 49.6 - 1.1 * k),
                ],
                [0.32, 0.2],
                0.25,
            )
        clay.limb(
            [
                (side * 1.4, -13.5, 49.4),
                (side * 4.6, -13.6, 47.8),
                (side * 7.2, -11.4, 45.2),
                (side * 7.9, -10.6, 42.2),
            ],
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
    clay.robe(
        (0, 1),
        33.5,
        42,
        radius=lambda z: (17 - (z - 33.5) * 0.62).astype(np.float32),
        thick=1.8,
        folds=13,
        depth=0.8,
        squash=0.8,
        blend=0.6,
        most=24,
    )
    clay.ball((0, -10.5, 29.2), (2.5, 1.4, 2.5), 0.2)
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
    clay.robe(
        (0, 1),
        3,
        27,
        radius=lambda z: (18.6 - (z - 3) * 0.24).astype(np.float32),
        thick=2.0,
        folds=17,
        depth=0.85,
        squash=0.9,
        blend=0.8,
        most=26,
    )
    clay.robe(
        (0, 0.5),
        19,
        30.5,
        radius=lambda z: (16.4 - (z - 19) * 0.42).astype(np.float32),
        thick=1.5,
        folds=23,
        depth=0.4,
        squash=0.88,
        blend=0.5,
        most=24,
    )
    for side in (-1, 1):
        clay.limb([(side * 14, -2, 25), (side * 17.5, -9, 17), (side * 8.5, -16.5, 15.5)], [4.6, 4.1, 3.2], 1.5, 5)
        for k in range(6):  # cuffs in folds
            t = 0.35 + 0.1 * k
            clay.ball(
                (side * (17.4 - 8 * t), -9.5 - 6 * t, 16.6),
                (1.0, 3.9 - 0.6 * t, 3.7),
                0.5,
                turn=frame((side * 0.8, 0.5, 0), (0, 0, 1)),
            )
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
            clay.limb(
                [(side * 13, -20, 4.1), (side * 13 + 5.2 * np.cos(a), -20 + 5.2 * np.sin(a), 3.6)], [1.3, 0.8], 0.7
            )
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
        clay.limb(
            [(side * 4.6, -11.7, 49.4), (side * 8.2, -13.4, 50), (side * 11.6, -10.6, 49.2)], [0.8, 1.0, 0.8], 0.4, 4
        )
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
        p = np.array(
            [14.2 * np.cos(a) * np.sqrt(1 - h * h), -6 + 11.8 * np.sin(a) * np.sqrt(1 - h * h), 39.5 + 8.6 * h]
        )
        if p[1] > -15:
            clay.ball(tuple(p), rng.uniform(0.45, 1.15), 0.4)
    clay.limb([(0, -4, 47), (0, -3.5, 50)], [4.2, 3.6], 0.5)
    clay.ball((0, -3.5, 52), (5.4, 5.4, 2.1), 0.3)
    for k in range(24):  # prayer beads
        a = np.linspace(np.pi * 1.05, np.pi * 1.95, 24)[k]
        clay.ball((13.2 * np.cos(a), -1.5 + 14.8 * np.sin(a), 27.5 - 6.5 * np.sin(np.pi * k / 23)), 1.15, 0.15)
    return clay.mesh()
