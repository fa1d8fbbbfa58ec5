"""Two support sets of one pose beside each other: as pictures from the same side, what only one of them has dyed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..contract import HeldDoc, tips_from, unpack_mesh
from ..mesh import Mesh, picture
from ..supports import Tip, raft_solid, support_mesh
from .figure import coarse_of
from .given import PosedGiven
from .inputs import PosedInputs
from .shelf import Shelf

SAME_MM = 0.3
"""Supports whose contacts lie so near are the same one, moved by a layer or a hair."""
SIDE_PX = (420, 420)
FIGURE, SHARED, OWN = 0.0, 1.0, 2.0


@dataclass(frozen=True)
class SetsBeside:
    """PNG of both, how many supports only the first has and only the second, and how many both have."""

    pictures: tuple[bytes, bytes]
    only: tuple[int, int]
    both: int


def sets_beside(shelf: Shelf, given: PosedGiven, sets: tuple[HeldDoc, HeldDoc]) -> SetsBeside:
    """Of two sets of these inputs. A shape of the one that stands where one of the other does, but thicker, counts as
    its own.
    """
    inputs = PosedInputs(shelf, given)
    figure = inputs.placed.place.apply(coarse_of(shelf, inputs.given.sha).scaled(inputs.factor))
    one, other = (tips_from(doc.supports.tips) for doc in sets)
    own = (alone(one, other), alone(other, one))
    solids = [_solids(tips, mine, doc.supports.raft) for tips, mine, doc in zip((one, other), own, sets, strict=True)]
    frame = np.concatenate([figure.vertices, *(mesh.vertices for parts in solids for mesh, _ in parts)])
    first, second = (_drawn(figure, parts, frame) for parts in solids)
    only = (sum(own[0]), sum(own[1]))
    return SetsBeside((first, second), only, len(one) - only[0])


def side_of(shelf: Shelf, given: PosedGiven, held: HeldDoc) -> bytes:
    """A held figure as a picture (PNG) as large as one of two."""
    whole = np.array(held.row.matrix).reshape(4, 4).T
    figure = coarse_of(shelf, given.sha).transformed(whole[:3, :3], whole[:3, 3])
    plinth = PosedInputs(shelf, given).placed.plinth if given.plinth else None
    if plinth is not None:
        figure = Mesh.joined([figure, plinth])
    if held.row.supports_sha is None:
        return picture(figure, SIDE_PX)
    both = Mesh.joined([figure, unpack_mesh(shelf.get(held.row.supports_sha))])
    groups = np.full(len(both.faces), SHARED)
    groups[: len(figure.faces)] = FIGURE
    return picture(both, SIDE_PX, groups=groups)


def alone(tips: list[Tip], others: list[Tip]) -> list[bool]:
    """Which of some supports (n,) have no twin among others: one of their kind, as wide, with its contact within
    SAME_MM.
    """
    if not tips or not others:
        return [True] * len(tips)
    tree = cKDTree(np.array([[t.x, t.y, t.z] for t in others]))
    near = tree.query_ball_point(np.array([[t.x, t.y, t.z] for t in tips]), SAME_MM)
    return [not any(_alike(tip, others[k]) for k in mine) for tip, mine in zip(tips, near.tolist(), strict=True)]


def _alike(one: Tip, other: Tip) -> bool:
    return bool(one.cells) == bool(other.cells) and abs(one.diameter - other.diameter) < 0.1 * one.diameter


def _solids(tips: list[Tip], own: list[bool], raft: bool) -> list[tuple[Mesh, float]]:
    """The solids of a set: what the other has too, and what is its own."""
    parts = []
    for group in (SHARED, OWN):
        mine = [tip for tip, lone in zip(tips, own, strict=True) if lone == (group == OWN)]
        mesh = support_mesh(mine, False)
        if mesh is not None:
            parts.append((mesh, group))
    if raft and any(tip.stands for tip in tips):
        parts.append((raft_solid(tips), SHARED))
    return parts


def _drawn(figure: Mesh, parts: list[tuple[Mesh, float]], frame: NDArray[np.float64]) -> bytes:
    meshes = [figure, *(mesh for mesh, _ in parts)]
    groups = np.repeat([FIGURE, *(group for _, group in parts)], [len(mesh.faces) for mesh in meshes])
    return picture(Mesh.joined(meshes), size=SIDE_PX, groups=groups, frame=frame)
