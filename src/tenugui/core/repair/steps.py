"""The chain of repairs, each step reported with what it changed. The original is never touched."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..errors import CoreError
from ..mesh import Mesh, edges_of, shell_labels, surface_distance
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
    """One step that changed something: faces added and removed, change of volume in mm³ (None where the surface was open, before or after), largest deviation of the surface in mm."""

    code: str
    message: str
    added: int
    removed: int
    volume_mm3: float | None
    deviation_mm: float


@dataclass(frozen=True)
class Repair:
    """The mended mesh, what was done, which of its faces are new, and what is still wrong (open edges)."""

    mesh: Mesh
    steps: list[Step]
    new: NDArray[np.bool_]
    open_left: int


def _gained(after: Mesh, before: Mesh) -> float | None:
    """Change of volume; an open surface has none."""
    if any(edges_of(mesh).unbalanced.any() for mesh in (after, before)):
        return None
    return float(face_volumes(after).sum() - face_volumes(before).sum())


def _weld_open(mesh: Mesh) -> tuple[Mesh, int, float]:
    """Join corners of open edges that lie within SNAP of each other; the number joined and how far the farthest moved."""
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
    far = float(np.linalg.norm(mesh.vertices[moved] - mesh.vertices[target[moved]], axis=1).max()) if len(moved) else 0.0
    return Mesh(mesh.vertices, np.ascontiguousarray(target[mesh.faces])), len(moved), far


def _drop(mesh: Mesh) -> tuple[Mesh, NDArray[np.bool_]]:
    """Without faces that name a corner twice, copies that crowd their edges, and pairs that lie back to back.

    Faces are counted whichever way they run, since some may still be inside out; a copy that the surface needs stays.
    """
    f = mesh.faces
    keep = (f[:, 0] != f[:, 1]) & (f[:, 1] != f[:, 2]) & (f[:, 0] != f[:, 2])
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
                # Back to back, as two walls or a fin without volume: both go. A copy where more than two faces meet: one goes.
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
    return float(surface_distance(made.vertices[:: max(1, len(made.vertices) // 40_000)], before).max())


def repair(mesh: Mesh, join_shells: bool = False, last_resort: bool = False) -> Repair:
    """Weld, drop, fill and turn; unite overlapping shells where asked; remesh where asked and the surface is still not closed.

    Raises `RepairError` where nothing is left. A mesh that needs nothing comes back as it is, the same object.
    """
    steps: list[Step] = []
    new = np.zeros(len(mesh.faces), np.bool_)
    start = mesh

    welded, joined, far = _weld_open(mesh)
    if joined:
        steps.append(
            Step("weld", f"{joined:,} corners of open edges joined with the corner beside them.", 0, 0, _gained(welded, mesh), far)
        )
        mesh = welded
    # Where every edge is balanced, coinciding walls enclose what they enclose: nothing is to be taken out.
    dropped, kept = _drop(mesh) if edges_of(mesh).unbalanced.any() else (mesh, np.ones(len(mesh.faces), np.bool_))
    if not kept.all():
        gone = int((~kept).sum())
        steps.append(Step("drop", f"{gone:,} faces without area or repeated removed.", 0, gone, _gained(dropped, mesh), 0.0))
        mesh, new = dropped, new[kept]
    if not len(mesh.faces):
        raise RepairError("nothing-left", "No face is left after the repair.", remedy="Export the figure again.")
    mesh, new = _turned(mesh, new, steps, "turn")
    filled, added, holes = fill(mesh) if edges_of(mesh).boundary.any() else (mesh, mesh.faces[:0], 0)
    if holes:
        middles = filled.vertices[added].mean(axis=1)
        steps.append(
            Step(
                "fill",
                f"{holes:,} hole(s) closed.",
                len(added),
                0,
                _gained(filled, mesh),
                float(surface_distance(middles, mesh).max()),
            )
        )
        mesh, new = filled, np.concatenate([new, np.ones(len(added), np.bool_)])
        # Only now has the volume a sign: a shell that was open may turn out to face inwards.
        mesh, new = _turned(mesh, new, steps, "turn-closed")
    if join_shells:
        mesh, new = _united(mesh, new, steps)
    left = int(edges_of(mesh).unbalanced.sum())
    if left and last_resort:
        made, pitch = remesh(mesh)
        steps.append(
            Step("remesh", f"A new surface around the inside, with cells of {pitch:.3f} mm: finer detail is lost.", len(made.faces),
                 len(mesh.faces), _gained(made, mesh), _new_surface(made, start))
        )  # fmt: skip
        mesh, new, left = made, np.ones(len(made.faces), np.bool_), int(edges_of(made).unbalanced.sum())
    return Repair(mesh, steps, new, left)


def _turned(mesh: Mesh, new: NDArray[np.bool_], steps: list[Step], code: str) -> tuple[Mesh, NDArray[np.bool_]]:
    turned, flipped = turn(mesh)
    if flipped.any():
        steps.append(Step(code, f"{int(flipped.sum()):,} faces turned to face outwards.", 0, 0, _gained(turned, mesh), 0.0))
    return turned, new | flipped


def _united(mesh: Mesh, new: NDArray[np.bool_], steps: list[Step]) -> tuple[Mesh, NDArray[np.bool_]]:
    if shell_labels(mesh.faces, len(mesh.vertices))[1] < 2:
        return mesh, new
    made = unite(mesh)
    if made is None or not len(made.faces):
        steps.append(
            Step(
                "unite-refused",
                "The shells cannot be united: one is open, or is a cavity. Overlaps are counted once all the same.",
                0,
                0,
                0.0,
                0.0,
            )
        )
        return mesh, new
    steps.append(
        Step(
            "unite",
            "Overlapping shells made one surface.",
            len(made.faces),
            len(mesh.faces),
            _gained(made, mesh),
            _new_surface(made, mesh),
        )
    )
    return made, np.zeros(len(made.faces), np.bool_)
