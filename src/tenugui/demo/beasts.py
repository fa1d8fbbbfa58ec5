"""The beasts, giants and stones of the Lantern Marsh, sculpted in clay. z up, facing -y, in mm."""

from __future__ import annotations

import numpy as np

from ..core.mesh import Mesh
from .clay import F4, Clay, frame
from .pieces import bark, face, ground


def heron_courier(cell: float = 0.25) -> Mesh:
    """A heron that carries letters, wings raised, one leg drawn up; every feather laid on. About 70 mm."""
    clay = Clay((-55, -27, 0), (55, 27, 84), cell)
    ground(clay, 16)
    body = np.array([0.0, 3.0, 38.0])
    clay.ball(tuple(body), (8.4, 13.0, 8.2), 1, turn=frame((1, 0, 0), (0, -0.35, 1)))
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
            clay.ball(
                p,
                (2.6, 1.25, 0.5),
                0.15,
                turn=frame((0.12 * np.cos(a), 1, -0.35 + 0.12 * np.sin(a)), (np.cos(a), -0.2, np.sin(a))),
            )
    for k in range(9):  # neck plumes
        t = k / 8
        clay.limb(
            [
                (rng.uniform(-1.4, 1.4), -12.8 + 2 * t, 47 - 3.4 * t),
                (rng.uniform(-2.4, 2.4), -13.8 + 2 * t, 41 - 4.4 * t),
            ],
            [0.7, 0.25],
            0.3,
        )
    for side in (-1, 1):
        shoulder, wrist, tip = (
            np.array([side * 6, -2, 43.0]),
            np.array([side * 17, -6, 61.0]),
            np.array([side * 33, -1, 68.0]),
        )
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
                clay.ball(tuple(middle), (reach * 0.53, wide, thick), 0.12, turn=frame(fan, (0.1 * side, -1, 0.25)))
                clay.limb([root + [0, lift, 0], root + fan * reach * 0.98 + [0, lift - 0.2, 0]], [0.42, 0.22], 0.12)
    for k in range(7):  # tail
        a = (k - 3) * 0.16
        way = np.array([np.sin(a), 0.86, -0.5])
        clay.ball(tuple(np.array([0, 14, 33.5]) + way * 6.5), (7.5, 1.5, 0.5), 0.15, turn=frame(way, (0, 0.4, 1)))
    clay.limb([(2.4, 4, 31), (2.8, 2, 20), (2.6, 5, 17.6), (2.4, 2.6, 4.4)], [2.6, 1.0, 1.15, 0.9], 0.5, 4)
    clay.limb([(-2.6, 3, 31), (-3.4, -5.5, 25), (-3.2, -4.2, 21.8), (-3.2, -8, 13.8)], [2.6, 1.0, 1.1, 0.8], 0.5, 4)
    for a in (-2.2, -1.57, -0.95, 1.57):
        clay.limb(
            [
                (2.4, 2.4, 4.2),
                (2.4 + 2.6 * np.cos(a), 2.4 + 2.6 * np.sin(a), 4.2),
                (2.4 + 6.2 * np.cos(a), 2.4 + 6.2 * np.sin(a), 3.2),
            ],
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
        lambda x, y, z: (
            np.maximum(np.maximum(np.abs(x - 9.6) - 2.2, np.abs(y - 6) - 4.2), np.abs(z - 29) - 3.4) - 0.5
        ).astype(np.float32),
        (6, 0, 24),
        (13, 12, 34),
        0.3,
    )
    clay.add(
        lambda x, y, z: (
            np.maximum(np.maximum(np.abs(x - 10.2) - 2.5, np.abs(y - 6) - 4.4), np.abs(z - 31.2) - 1.5) - 0.3
        ).astype(np.float32),
        (6, 0, 28),
        (14, 12, 34),
        0.1,
    )
    clay.ball((12.9, 6, 29.4), 0.9, 0.1)
    return clay.mesh()


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
                [
                    (side * (22.3 - 1.25 * k), -17.2, 18.4),
                    (side * (22.6 - 1.4 * k), -18.8, 14.6),
                    (side * (22.2 - 1.4 * k), -17.2, 11.6),
                ],
                [1.0, 0.85, 0.65],
                0.3,
                3,
            )
        clay.limb([(side * 18.6, -16, 17.2), (side * 16.8, -18.4, 14.4)], [1.05, 0.75], 0.3)
    bark(clay, (-36, -24, 2), (36, 24, 45))
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
    face(clay, (0, -5, 54.6), 7.9)
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
    for side in (-1, 1):  # flat collars that mate with the stilts, and their sockets
        clay.drum((side * 6.6, 0, 0.2), 5.0, 7, rounding=0.4, blend=0.8)
    for side in (-1, 1):
        clay.drum((side * 6.6, 0, -1), 3.1, 9.2, rounding=0.2, carve=True)
    clay.carve(lambda x, y, z: (z - 1.2 + 0 * x + 0 * y).astype(np.float32), (-36, -24, 0), (36, 24, 1.2))
    return clay.mesh()


def stilt_giant_stilts(cell: float = 0.3) -> Mesh:
    """The stilt giant's legs: two long roots on a rock, with pegs that fit the sockets. About 85 mm."""
    clay = Clay((-24, -22, 0), (24, 22, 92), cell)
    ground(clay, 20, 3.6)
    clay.ball((0, 2, 3.5), (12, 10, 5), 2)
    for side in (-1, 1):
        clay.limb(
            [(side * 9, 0, 4), (side * 11.4, -1.5, 28), (side * 10.2, 1.5, 43), (side * 7, 0, 76)],
            [2.9, 2.5, 3.5, 4.6],
            1.2,
            8,
        )
        for k in range(5):
            a = -np.pi / 2 + side * 0.2 + (k - 2) * 0.75
            clay.limb(
                [
                    (side * 9, 0, 10),
                    (side * 9 + 5 * np.cos(a), 5 * np.sin(a), 5.2),
                    (side * 9 + 8.6 * np.cos(a), 8.6 * np.sin(a), 3),
                ],
                [1.9, 1.4, 0.7],
                1,
                4,
            )
        for k in range(11):  # rope around the knee
            turns = np.linspace(0, 2 * np.pi, 15)
            r = 3.7 - 0.02 * (k - 5) ** 2
            clay.limb(
                [(side * 10.3 + r * np.cos(q), 1.2 + r * np.sin(q), 37 + k * 0.95 + 0.15 * q) for q in turns],
                [0.5] * 15,
                0.12,
            )
    bark(clay, (-24, -22, 8), (24, 22, 36), 0.3)
    bark(clay, (-24, -22, 49), (24, 22, 75), 0.3)
    for side in (-1, 1):
        clay.drum((side * 6.6, 0, 75), 5, 4, rounding=0.4, blend=0.8)
        clay.drum((side * 6.6, 0, 78.6), 2.9, 8, rounding=0.4)
    return clay.mesh()


def shrine_lantern(cell: float = 0.26) -> Mesh:
    """Stone lantern of the ferry shrine, hollow from below up into its light chamber: upright on the plate it seals.
    About 62 mm.
    """
    clay = Clay((-23, -23, 0), (23, 23, 68), cell)
    clay.drum((0, 0, 0), 15, 5, rounding=0.5, top_radius=13.5, sides=6)
    for k in range(12):  # lotus petals on the foot
        a = 2 * np.pi * k / 12
        clay.ball(
            (11.6 * np.cos(a), 11.6 * np.sin(a), 6.2),
            (3.4, 2.6, 1.5),
            0.2,
            turn=frame((np.cos(a), np.sin(a), -0.7), (np.cos(a), np.sin(a), 1)),
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
        clay.ball(tuple(face + [0, 0, 29.5]), (2.6, 2.6, 0.8), 0.1, turn=frame(side, n))

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
            [
                (5 * np.cos(a), 5 * np.sin(a), 47.6),
                (14 * np.cos(a), 14 * np.sin(a), 41.6),
                (21.2 * np.cos(a), 21.2 * np.sin(a), 41.6),
            ],
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
