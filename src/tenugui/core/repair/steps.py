"""The chain of repairs, each step reported with what it changed. The original is never touched."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..errors import CoreError
from ..mesh import Mesh, Nearest, compact, edges_of, repeating, shell_labels
from ..mesh.edges import face_volumes, repeats
from .fill import fill, open_edges
from .remesh import remesh, unite
from .turn import turn

SNAP = 1e-5
"""Prior: open corners closer than this share of the figure's extent are one corner."""


class RepairError(CoreError):
    """A repair that cannot be made."""


@dataclass(frozen=True)
class Step:
    """One step that changed something: faces added and removed, change of volume in mm³ (None where the surface was
    open, before or after), largest deviation of the surface in mm.
    """

    code: str
    message: str
    added: int
    removed: int
    volume_mm3: float | None
    deviation_mm: float


@dataclass(frozen=True)
class Repair:
    """The mended mesh, what was done, which of its faces are new or turned, the face (m,) of the original that each was
    (-1 for none), and what is still wrong (open edges).
    """

    mesh: Mesh
    steps: list[Step]
    new: NDArray[np.bool_]
    faces: NDArray[np.int64]
    open_left: int


def _gained(after: Mesh, before: Mesh) -> float | None:
    """Change of volume; an open surface has none."""
    if any(edges_of(mesh).unbalanced.any() for mesh in (after, before)):
        return None
    return float(face_volumes(after).sum() - face_volumes(before).sum())


def _weld_open(mesh: Mesh) -> tuple[Mesh, int, float]:
    """Join corners of open edges that lie within SNAP of each other; the number joined and how far the farthest
    moved.
    """
    if not edges_of(mesh).boundary.any():
        return mesh, 0, 0.0
    corners = np.unique(open_edges(mesh))
    pairs = cKDTree(mesh.vertices[corners]).query_pairs(SNAP * float(mesh.size.max()), output_type="ndarray")
    if not len(pairs):
        return mesh, 0, 0.0
    target = np.arange(len(mesh.vertices), dtype=np.int32)
    for a, b in np.sort(corners[pairs], axis=1)[np.argsort(corners[pairs].min(axis=1))]:
        target[b] = min(target[b], target[a])
    moved = np.flatnonzero(target != np.arange(len(target)))
    far = (
        float(np.linalg.norm(mesh.vertices[moved] - mesh.vertices[target[moved]], axis=1).max()) if len(moved) else 0.0
    )
    return Mesh(mesh.vertices, np.ascontiguousarray(target[mesh.faces])), len(moved), far


def _drop(mesh: Mesh) -> tuple[Mesh, NDArray[np.bool_]]:
    """Without faces that name a corner twice, copies that crowd their edges, and pairs that lie back to back.

    Faces are counted whichever way they run, since some may still be inside out; a copy that the surface needs stays.
    """
    f = mesh.faces
    keep = ~repeating(f)
    group, sizes = repeats(f)
    many = np.flatnonzero((sizes[group] > 1) & keep)
    if len(many):
        lowest = np.argmin(f[many], axis=1)
        rows = np.arange(len(many))
        # Which way round: whether the corner that follows the lowest one is the smaller of the other two.
        way = f[many][rows, (lowest + 1) % 3] < f[many][rows, (lowest + 2) % 3]
        crowd = _crowd(mesh, many)
        members: dict[int, tuple[list[int], list[int]]] = {}
        for k, forward in zip(many.tolist(), way.tolist(), strict=True):
            members.setdefault(int(group[k]), ([], []))[int(forward)].append(k)
        for one, other in members.values():
            while len(one) + len(other) > 1:
                at = [crowd[edge] for edge in _around(f[(one or other)[0]])]
                # Back to back, as two walls or a fin without volume: both go. A copy where more than two faces meet:
                # one goes.
                pair = bool(one and other) and (min(at) >= 4 or max(at) == 2)
                gone = [one.pop(), other.pop()] if pair else [max(one, other, key=len).pop()] if min(at) > 2 else []
                if not gone:
                    break
                for k in gone:
                    keep[k] = False
                    for edge in _around(f[k]):
                        crowd[edge] -= 1
    return Mesh(mesh.vertices, np.ascontiguousarray(f[keep])), keep


def _around(face: NDArray[np.int32]) -> list[tuple[int, int]]:
    a, b, c = sorted(int(v) for v in face)
    return [(a, b), (b, c), (a, c)]


def _crowd(mesh: Mesh, faces: NDArray[np.int64]) -> dict[tuple[int, int], int]:
    """How many faces meet at each edge of `faces`."""
    corners = np.zeros(len(mesh.vertices), np.bool_)
    corners[mesh.faces[faces]] = True
    crowd: dict[tuple[int, int], int] = {}
    for face in mesh.faces[corners[mesh.faces].sum(axis=1) >= 2]:
        for edge in _around(face):
            crowd[edge] = crowd.get(edge, 0) + 1
    return crowd


def _new_surface(made: Mesh, before: Mesh) -> float:
    """How far the new surface's corners lie from the old one, of at most 40,000 of them."""
    return float(Nearest(before).of(made.vertices[:: max(1, len(made.vertices) // 40_000)])[1].max())


NEEDLE = 1e-7
"""A face flatter than this share of the figure's extent has no area to speak of."""


def _needles(mesh: Mesh) -> NDArray[np.bool_]:
    """Faces (m,) without area whose leaving balances more edges than it unbalances: they close nothing. One at a time,
    so that pairs stay.
    """
    gone = np.zeros(len(mesh.faces), np.bool_)
    _, area = mesh.normals_and_areas()
    corners = mesh.corners()
    longest = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
    thin = np.flatnonzero(2 * area <= NEEDLE * float(mesh.size.max()) * longest)
    if not len(thin):
        return gone
    corner = np.zeros(len(mesh.vertices), np.bool_)
    corner[mesh.faces[thin]] = True
    tally: dict[tuple[int, int], int] = {}
    for a, b, c in mesh.faces[corner[mesh.faces].sum(axis=1) >= 2].tolist():
        for p, q in ((a, b), (b, c), (c, a)):
            tally[min(p, q), max(p, q)] = tally.get((min(p, q), max(p, q)), 0) + (1 if p < q else -1)
    for f in thin.tolist():
        a, b, c = (int(v) for v in mesh.faces[f])
        sides = [((min(p, q), max(p, q)), 1 if p < q else -1) for p, q in ((a, b), (b, c), (c, a))]
        if sum(abs(tally[edge] - way) - abs(tally[edge]) for edge, way in sides) < 0:
            gone[f] = True
            for edge, way in sides:
                tally[edge] -= way
    return gone


class _Chain:
    """A mesh on its way through the steps, with what becomes of its faces."""

    def __init__(self, mesh: Mesh) -> None:
        self.mesh = mesh
        self.steps: list[Step] = []
        self.new = np.zeros(len(mesh.faces), np.bool_)
        self.faces = np.arange(len(mesh.faces))

    def take(self, step: Step, mesh: Mesh, kept: NDArray[np.bool_] | None = None) -> None:
        """A step that leaves the faces of `kept`, or all, in their order and adds others behind them."""
        self.steps.append(step)
        if kept is not None:
            self.new, self.faces = self.new[kept], self.faces[kept]
        more = len(mesh.faces) - len(self.new)
        self.new = np.concatenate([self.new, np.ones(more, np.bool_)])
        self.faces = np.concatenate([self.faces, np.full(more, -1)])
        self.mesh = mesh

    def anew(self, step: Step, mesh: Mesh, new: bool) -> None:
        """A step that makes every face anew."""
        self.steps.append(step)
        self.mesh, self.new, self.faces = mesh, np.full(len(mesh.faces), new), np.full(len(mesh.faces), -1)

    def turned(self, code: str) -> None:
        """Turn what faces inwards."""
        after, flipped = turn(self.mesh)
        if flipped.any():
            text = f"{int(flipped.sum()):,} faces turned to face outwards."
            self.steps.append(Step(code, text, 0, 0, _gained(after, self.mesh), 0.0))
        self.mesh, self.new = after, self.new | flipped


def repair(mesh: Mesh, join_shells: bool = False, last_resort: bool = False) -> Repair:
    """Weld, drop, turn and fill; unite overlapping shells where asked; remesh where asked and the surface is still not
    closed.

    A mesh that needs nothing comes back as it is, the same object.

    Raises:
        RepairError: nothing is left.
    """
    at = _Chain(mesh)
    welded, joined, far = _weld_open(mesh)
    if joined:
        at.take(
            Step(
                "weld",
                f"{joined:,} corners of open edges joined with the corner beside them.",
                0,
                0,
                _gained(welded, mesh),
                far,
            ),
            welded,
        )
    # Where every edge is balanced, coinciding walls enclose what they enclose: nothing is to be taken out.
    if edges_of(at.mesh).unbalanced.any():
        dropped, kept = _drop(at.mesh)
        if len(dropped.faces):
            idle = _needles(dropped)
            kept[np.flatnonzero(kept)[idle]] = False
            dropped = Mesh(at.mesh.vertices, np.ascontiguousarray(at.mesh.faces[kept]))
        if not kept.all():
            gone = int((~kept).sum())
            text = f"{gone:,} faces without area or repeated removed."
            at.take(Step("drop", text, 0, gone, _gained(dropped, at.mesh), 0.0), dropped, kept)
    if not len(at.mesh.faces):
        raise RepairError("nothing-left", "No face is left after the repair.", remedy="Export the figure again.")
    at.turned("turn")
    filled, added, holes = fill(at.mesh) if edges_of(at.mesh).boundary.any() else (at.mesh, at.mesh.faces[:0], 0)
    if holes:
        moved = float(Nearest(at.mesh).of(filled.vertices[added].mean(axis=1))[1].max())
        at.take(
            Step(
                "fill",
                f"{holes:,} hole{'' if holes == 1 else 's'} closed.",
                len(added),
                0,
                _gained(filled, at.mesh),
                moved,
            ),
            filled,
        )
        # Only now has the volume a sign: a shell that was open may turn out to face inwards.
        at.turned("turn-closed")
    if join_shells:
        _unite(at)
    left = int(edges_of(at.mesh).unbalanced.sum())
    if left and last_resort:
        surface, pitch = remesh(at.mesh)
        text = f"A new surface around the inside, with cells of {pitch:.3f} mm: finer detail is lost."
        step = Step(
            "remesh",
            text,
            len(surface.faces),
            len(at.mesh.faces),
            _gained(surface, at.mesh),
            _new_surface(surface, mesh),
        )
        at.anew(step, surface, True)
        left = int(edges_of(surface).unbalanced.sum())
    return Repair(compact(at.mesh), at.steps, at.new, at.faces, left)


def _unite(at: _Chain) -> None:
    if shell_labels(at.mesh.faces, len(at.mesh.vertices))[1] < 2:
        return
    united = unite(at.mesh)
    if united is None or not len(united.faces):
        text = "The shells cannot be united: one is open, or is a cavity. Overlaps are counted once all the same."
        at.steps.append(Step("unite-refused", text, 0, 0, 0.0, 0.0))
        return
    before = at.mesh
    step = Step(
        "unite",
        "Overlapping shells made one surface.",
        len(united.faces),
        len(before.faces),
        _gained(united, before),
        _new_surface(united, before),
    )
    at.anew(step, united, False)
