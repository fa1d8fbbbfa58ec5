"""Small figures of the club's world, one of each kind, and what a practitioner would accept of their poses."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import trimesh

from tenugui.core.mesh import Mesh
from tenugui.demo.clay import Clay
from tests.shapes import ball, box, cylinder, mesh_of

Point = tuple[float, float, float]
UP: Point = (0.0, 0.0, 1.0)


def egg(centre: Point, radii: Point, fineness: int = 4) -> Mesh:
    """A ball stretched along the axes."""
    made = trimesh.creation.icosphere(fineness, 1.0)
    return Mesh(np.asarray(made.vertices) * np.array(radii) + np.array(centre), np.asarray(made.faces, np.int32))


def limb(start: Point, end: Point, radius: float) -> Mesh:
    """A round rod from one point to another."""
    return mesh_of(trimesh.creation.cylinder(radius, segment=[start, end], sections=24))


def y_up(mesh: Mesh) -> Mesh:
    """The same in a file whose y is up."""
    return mesh.transformed(np.array([[1.0, 0, 0], [0, 0, 1.0], [0, -1.0, 0]]))


def warden() -> Mesh:
    """A reed warden on a round base, one arm raised."""
    legs = [limb((x, 0, 2), (x * 0.8, 0, 20), 2.6) for x in (-4, 4)]
    arms = [limb((-6, 0, 33), (-10, -4, 22), 1.8), limb((6, 0, 33), (13, -6, 38), 1.8)]
    body = [egg((0, 0, 27), (7, 4.5, 10)), egg((0, -0.5, 41), (4, 4.6, 5)), egg((0, -5, 41), (0.9, 1.2, 1.4), 3)]
    return Mesh.joined([cylinder(11, 2.5), *legs, *body, *arms])


def keeper() -> Mesh:
    """A portrait of the ferry keeper on a round socle."""
    socle = [cylinder(16, 8), limb((0, 0, 7), (0, 0, 16), 7)]
    head = [limb((0, 0, 34), (0, 0, 44), 6), egg((0, -1, 53), (9.5, 11, 13)), egg((0, -11.5, 52), (1.8, 3, 2.5), 3)]
    return Mesh.joined([*socle, egg((0, 0, 26), (18, 9, 13)), *head])


def keeper_with_crumbs() -> Mesh:
    """The same, rough as a scan, with specks below its socle."""
    rng = np.random.default_rng(1)
    whole = keeper()
    crumbs = [ball(0.15, (float(x), float(y), -1.5), fineness=1) for x, y in rng.uniform(-18, 18, (4, 2))]
    return Mesh.joined([Mesh(whole.vertices + rng.normal(0, 0.03, whole.vertices.shape), whole.faces), *crumbs])


def portrait() -> Mesh:
    """A head on its neck, 47 mm tall, that looks towards -y: sockets, brows, nose and lips as a person's."""
    clay = Clay((-16, -20, -8), (16, 18, 44), 0.5)
    clay.ball((0, 1, 24), (11.5, 13.5, 15), 1)
    clay.ball((0, -4, 17), (9, 9, 12), 3)
    clay.ball((0, -9.5, 7.8), (3.6, 3.2, 2.6), 2.5)
    clay.limb([(0, 3, 12), (0, 4, -6)], [7, 8], 2)
    for side in (-1, 1):
        clay.ball((side * 4.9, -13.6, 23.4), (3.7, 2.9, 2.2), 1.2, carve=True)
        clay.ball((side * 4.8, -10.8, 23.2), (2.3, 2.0, 1.5), 0.3)
        brow: list[Point] = [(side * 1.6, -12.8, 26.2), (side * 5, -12.6, 27.1), (side * 8.4, -10, 25.8)]
        clay.limb(brow, [1.0, 1.15, 0.8], 1.2)
        clay.ball((side * 6.2, -9, 17.6), (3.1, 2.8, 2.8), 2.5)
        clay.ball((side * 11.4, 2, 21), (1.2, 2.4, 4), 0.8)
    clay.limb([(0, -12.6, 24.6), (0, -15.6, 18.6)], [1.0, 1.7], 1.0)
    for side in (-1, 1):
        clay.ball((side * 1.6, -13.6, 18.0), (1.2, 1.6, 1.0), 0.7)
    clay.limb([(-3.4, -11.9, 13.6), (0, -13.2, 13.9), (3.4, -11.9, 13.6)], [0.7, 1.0, 0.7], 0.5)
    clay.limb([(-3, -11.7, 12.0), (0, -12.8, 11.6), (3, -11.7, 12.0)], [0.8, 1.15, 0.8], 0.5)
    return clay.mesh()


def hound() -> Mesh:
    """A marsh hound on its four legs."""
    legs = [limb((x, y, 12), (x * 1.05, y * 1.2, 0.5), 2.2) for x in (-11, 11) for y in (-4, 4)]
    front = [limb((15, 0, 16), (24, 0, 25), 3.5), egg((27, 0, 27), (6, 3.5, 3.5))]
    return Mesh.joined([egg((0, 0, 14), (18, 7, 7)), *legs, *front, limb((-16, 0, 16), (-30, 0, 8), 1.6)])


def winged() -> Mesh:
    """The hound with wings spread: thin, wide, nearly level."""
    shape = np.array([[0, 3, 19], [8, 34, 36], [-14, 30, 26], [0, 3, 20.2], [8, 34, 37.2], [-14, 30, 27.2]], float)
    faces = np.array([[0, 2, 1], [3, 4, 5], [0, 1, 4], [0, 4, 3], [1, 2, 5], [1, 5, 4], [2, 0, 3], [2, 3, 5]], np.int32)
    wings = [Mesh(shape * [1, s, 1], faces[:, ::s]) for s in (1, -1)]
    return Mesh.joined([hound(), *(Mesh(w.vertices, np.ascontiguousarray(w.faces)) for w in wings)])


def sleeper() -> Mesh:
    """A toad abbot asleep on his back."""
    body = [egg((0, 0, 5), (20, 8, 5)), egg((24, 0, 7), (5, 5, 5)), egg((24, 0, 12), (1.2, 1.0, 0.8), 3)]
    return Mesh.joined([*body, limb((-16, 3, 4), (-34, 5, 2), 2.5), limb((-16, -3, 4), (-34, -5, 2), 2.5)])


def rider() -> Mesh:
    """A heron courier on a hound, on a slab of ground."""
    ground = box((0, 0, 0.9), (50, 22, 1.8))
    mount = hound()
    body = [egg((0, 0, 28), (4, 5, 8)), egg((1, 0, 39), (3.4, 3.2, 4)), limb((2, 0, 30), (12, 0, 24), 1.6)]
    return Mesh.joined([ground, Mesh(mount.vertices + [0, 0, 1.0], mount.faces), *body])


def staff() -> Mesh:
    """A lantern staff, tall and thin on a small disc."""
    return Mesh.joined([cylinder(1.0, 70), cylinder(5, 1.2), egg((0, 0, 72), (3, 3, 4))])


def arm() -> Mesh:
    """An arm of a kit: a peg at the shoulder, a fist."""
    bent = [limb((0, 0, 0), (0, 0, 22), 3), limb((0, 0, 21), (9, 0, 34), 2.5), egg((10, 0, 36), (3.5, 2, 4))]
    return Mesh.joined([*bent, limb((0, 0, -5), (0, 0, 1), 1.5)])


def hand() -> Mesh:
    """A hand with spread fingers on a cut wrist."""
    fingers = [limb((x, 0, 20), (x * 2.1, 0, 34 - abs(x) * 0.5), 1.5) for x in (-5, -1.7, 1.7, 5)]
    return Mesh.joined([cylinder(5, 8), egg((0, 0, 14), (7, 3.5, 9)), *fingers, limb((6, 0, 12), (14, 0, 20), 1.6)])


def plaque() -> Mesh:
    """A flat relief of a ferry shrine, lying on its back."""
    return Mesh.joined([box((0, 0, 1.5), (60, 45, 3)), egg((0, 0, 3), (18, 14, 2.9)), egg((12, 8, 3), (6, 6, 2.9))])


def game_piece() -> Mesh:
    """A turned piece of the marsh game."""
    profile = [[0, 0], [9, 0], [9, 2], [4, 5], [3.2, 20], [5.5, 22], [5.5, 24], [3, 26], [4.5, 31], [2.5, 36], [0, 37]]
    return mesh_of(trimesh.creation.revolve(np.array(profile, float), sections=72))


def lantern() -> Mesh:
    """A hollow lantern, open below, with a knob on its roof."""
    outer = trimesh.creation.cylinder(
        9, 26, sections=48, transform=trimesh.transformations.translation_matrix((0, 0, 13))
    )
    inner = trimesh.creation.cylinder(
        7, 25, sections=48, transform=trimesh.transformations.translation_matrix((0, 0, 11))
    )
    shell = mesh_of(trimesh.boolean.difference([outer, inner]))
    return Mesh.joined([shell, egg((0, 0, 28), (4, 4, 5))])


def stilt() -> Mesh:
    """A giant's stilt of a kit: long, a flat foot, a peg on top."""
    return Mesh.joined(
        [box((0, 0, 1), (8, 12, 2)), limb((0, 0, 1), (2, 0, 70), 2.6), limb((2, 0, 69), (2.1, 0, 75), 1.5)]
    )


@dataclass(frozen=True)
class Accepted:
    """Ways up that a practitioner would take: (up of the file's frame, within degrees), any of them; and why.

    `least`: degrees that it leans at the least; `back`: the side of the file's frame that turns up then, where the
        figure has a face.
    """

    ways: tuple[tuple[Point, float], ...]
    why: str
    least: float = 0.0
    back: Point | None = None

    def holds(self, down: Point) -> bool:
        """Whether a pose is one of them."""
        above = -np.array(down)
        leans = [np.degrees(np.arccos(np.clip(np.dot(up, above), -1, 1))) for up, _ in self.ways]
        turned = self.back is None or float(np.dot(self.back, above)) > 0
        return turned and any(
            self.least <= lean <= degrees + 1e-6 for lean, (_, degrees) in zip(leans, self.ways, strict=True)
        )


@dataclass(frozen=True)
class Case:
    """A figure, its own up, a point on it that must not face the plate closely (its face), and what is accepted on each
    process.
    """

    make: Callable[[], Mesh]
    up: Point
    face: Point | None
    resin: Accepted
    filament: Accepted


STANDS = Accepted(((UP, 12),), "upright on its base: nothing else stands, and nothing needs to")
LEANS = Accepted(((UP, 60),), "upright or leaning, its face off the plate")
BACK = Accepted(((UP, 50),), "leaning back, its face up; never its wide foot flat on the plate", 12, (0.0, -1.0, 0.0))
LEANT = Accepted(((UP, 50),), "leaning; never its wide foot flat on the plate", 12)
EDGES: tuple[tuple[Point, float], ...] = (((1, 0, 0), 25), ((-1, 0, 0), 25), ((0, 1, 0), 25), ((0, -1, 0), 25))
Y: Point = (0.0, 1.0, 0.0)

CASES: dict[str, Case] = {
    "reed warden": Case(warden, UP, (0, -5.8, 41), BACK, STANDS),
    "ferry keeper, a bust": Case(keeper, UP, (0, -14, 52), BACK, STANDS),
    "the bust with crumbs": Case(keeper_with_crumbs, UP, (0, -14, 52), BACK, STANDS),
    "marsh hound, y up": Case(
        lambda: y_up(hound()),
        Y,
        None,
        Accepted(((Y, 75),), "on its feet or leaning, its back up"),
        Accepted(((Y, 20),), "on its feet"),
    ),
    "winged hound": Case(
        winged,
        UP,
        None,
        Accepted(((UP, 75),), "its back up, leaning so that the wings slope"),
        Accepted(((UP, 35),), "on its feet, leaning a little at most"),
    ),
    "sleeping abbot": Case(
        sleeper,
        UP,
        (24, 0, 12.5),
        Accepted(((UP, 75), ((1, 0, 0), 50), ((-1, 0, 0), 50)), "lying, leaning or on end, face off the plate"),
        Accepted(((UP, 30),), "as he lies"),
    ),
    "courier riding": Case(rider, UP, None, LEANT, STANDS),
    "lantern staff": Case(
        staff,
        UP,
        None,
        LEANS,
        Accepted(
            ((UP, 12), ((1, 0, 0), 20), ((-1, 0, 0), 20), (Y, 20), ((0, -1, 0), 20)),
            "upright on a plinth, or laid down",
        ),
    ),
    "arm with its peg": Case(
        arm,
        UP,
        None,
        Accepted(((UP, 75),), "from the peg, where the scar is hidden"),
        Accepted(((UP, 20), *EDGES), "from the peg on a plinth, or laid on its side"),
    ),
    "spread hand": Case(hand, UP, None, LEANS, STANDS),
    "shrine plaque": Case(
        plaque,
        UP,
        (0, 0, 5.8),
        Accepted(((UP, 60), *EDGES), "on its back or on edge, never on its face"),
        Accepted(((UP, 12), *EDGES), "on its back or on edge, never on its face"),
    ),
    "game piece": Case(game_piece, UP, None, LEANS, STANDS),
    "hollow lantern": Case(lantern, UP, None, LEANS, STANDS),
    "giant's stilt": Case(stilt, UP, None, LEANS, Accepted(((UP, 12), *EDGES), "on its foot, or laid down")),
}
