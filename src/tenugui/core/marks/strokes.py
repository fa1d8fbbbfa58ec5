"""Strokes, and doing them again on any mesh of the figure."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..compiled import CORES, njit
from ..mesh import Mesh
from ..mesh.edges import neighbours
from .kinds import KINDS, MarkError
from .mirror import Plane

F8 = NDArray[np.float64]
U1 = NDArray[np.uint8]

TOOLS = ("brush", "fill", "flat", "propose", "file", "clear")
FLAT_DEG = 4.0
ALIKE = 0.3
"""Cosine above which two faces look the same way."""
"""How far a face's normal may lean from the clicked one's on a flat face."""
MOST_STROKES, MOST_POINTS = 5_000, 4_000


@dataclass(frozen=True)
class Stroke:
    """One deed. `brush`: faces within `radius` of the `points` (n, 3), as far as they hang together without a crease
    sharper than `crease` degrees.

    `fill`: from the point to the creases. `flat`: the flat face at the point. `propose`: the faces of the proposal
        `what`. `file`: what the figure's file said. `clear`: all faces lose their mark. `kind` is a label's name or
        "none"; `mirror` does it on the other side too.
    """

    tool: str
    kind: str = "none"
    points: F8 | None = None
    radius: float = 0.0
    crease: float = 180.0
    what: str = ""
    mirror: bool = False

    @property
    def code(self) -> int:
        """The label it gives."""
        return 0 if self.kind == "none" else KINDS.index(self.kind) + 1


def _number(row: Mapping[str, Any], name: str, default: float, low: float, high: float) -> float:
    value = row.get(name, default)
    if not isinstance(value, int | float) or not math.isfinite(value) or not low <= value <= high:
        raise MarkError("bad-stroke", f"A stroke's {name} is {value!r}; it lies between {low:g} and {high:g}.")
    return float(value)


def strokes_from(rows: Any) -> list[Stroke]:
    """Strokes from their JSON form. Raises `MarkError` naming the stroke."""
    if not isinstance(rows, list) or len(rows) > MOST_STROKES:
        raise MarkError("bad-stroke", f"Expected a list of at most {MOST_STROKES:,} strokes.")
    return [_stroke(row, index) for index, row in enumerate(rows)]


def _stroke(row: Any, index: int) -> Stroke:
    where = f"stroke {index + 1}"
    if not isinstance(row, dict) or row.get("tool") not in TOOLS:
        raise MarkError("bad-stroke", "There is no such tool.", where, "Tools are " + ", ".join(TOOLS) + ".")
    kind = row.get("kind", "none")
    if kind != "none" and kind not in KINDS:
        raise MarkError("bad-stroke", f"There is no mark '{kind}'.", where, "Marks are " + ", ".join(KINDS) + ", none.")
    points = None
    if row["tool"] in ("brush", "fill", "flat"):
        try:
            points = np.asarray(row.get("points"), float).reshape(-1, 3)
        except (TypeError, ValueError) as reason:
            raise MarkError("bad-stroke", "Its points are not places.", where, "Give [[x, y, z], ...].") from reason
        if not 0 < len(points) <= MOST_POINTS or not np.isfinite(points).all():
            raise MarkError(
                "bad-stroke", "Its points are not places.", where, f"Give 1 to {MOST_POINTS:,} finite [x, y, z]."
            )
    return Stroke(
        row["tool"],
        kind,
        points,
        _number(row, "radius", 0.0, 0.0, 1e6),
        _number(row, "crease", 180.0, 0.0, 180.0),
        str(row.get("what", "")),
        bool(row.get("mirror", False)),
    )


@njit()
def _flood(
    across: NDArray[np.int64],
    normals: F8,
    seeds: NDArray[np.int64],
    allowed: NDArray[np.bool_],
    crease_cos: float,
    flat_cos: float,
    reached: NDArray[np.bool_],
) -> None:
    """Mark what hangs together with the seeds: over edges no sharper than the crease, and with normals as near the
    seed's as `flat_cos` asks.
    """
    stack = np.empty(len(across), np.int64)
    for s in range(len(seeds)):
        seed = seeds[s]
        if reached[seed]:
            continue
        reached[seed] = True
        stack[0] = seed
        top = 1
        while top:
            top -= 1
            f = stack[top]
            for e in range(3):
                g = across[f, e]
                if g < 0 or reached[g] or not allowed[g]:
                    continue
                bend = normals[f, 0] * normals[g, 0] + normals[f, 1] * normals[g, 1] + normals[f, 2] * normals[g, 2]
                if bend < crease_cos:
                    continue
                if flat_cos > -1.0:
                    lean = (
                        normals[seed, 0] * normals[g, 0]
                        + normals[seed, 1] * normals[g, 1]
                        + normals[seed, 2] * normals[g, 2]
                    )
                    if lean < flat_cos:
                        continue
                reached[g] = True
                stack[top] = g
                top += 1


class _Surface:
    """What strokes ask of a mesh, made once."""

    def __init__(self, mesh: Mesh) -> None:
        self.middles = mesh.middles()
        self.tree = cKDTree(self.middles)
        self.across, _ = neighbours(mesh.faces)
        self.normals, _ = mesh.normals_and_areas()

    def touched(self, stroke: Stroke, points: F8) -> NDArray[np.bool_]:
        """Faces (n,) that a brush, fill or flat stroke reaches."""
        count = len(self.middles)
        _, seeds = self.tree.query(points)
        seeds = np.unique(seeds)
        reached = np.zeros(count, np.bool_)
        allowed = np.ones(count, np.bool_)
        if stroke.tool == "brush":
            allowed[:] = False
            for near in self.tree.query_ball_point(points, stroke.radius):
                allowed[near] = True
        crease = -2.0 if stroke.crease >= 180 else math.cos(math.radians(stroke.crease))
        flat = math.cos(math.radians(FLAT_DEG)) if stroke.tool == "flat" else -2.0
        _flood(self.across, self.normals, seeds, allowed, crease, flat, reached)
        return reached


def replay(
    mesh: Mesh,
    strokes: Sequence[Stroke],
    proposals: Mapping[str, NDArray[np.bool_]] | None = None,
    plane: Plane | None = None,
    from_file: U1 | None = None,
) -> U1:
    """Labels (faces,) after all strokes. `proposals` gives each proposal's faces, `plane` the figure's mirror,
    `from_file` the file's own labels.

    A stroke that needs what is not given does nothing: a proposal that found nothing, a mirror that the figure has not.
    """
    labels = np.zeros(len(mesh.faces), np.uint8)
    surface: _Surface | None = None
    for stroke in strokes:
        if stroke.tool == "clear":
            labels[:] = 0
        elif stroke.tool == "file":
            if from_file is not None:
                labels = np.where(from_file > 0, from_file, labels)
        elif stroke.tool == "propose":
            proposal = (proposals or {}).get(stroke.what)
            if proposal is not None:
                labels[proposal & (labels == 0)] = stroke.code  # what the user has marked stands
        else:
            assert stroke.points is not None
            surface = surface or _Surface(mesh)
            labels[surface.touched(stroke, stroke.points)] = stroke.code
            if stroke.mirror and plane is not None:
                labels[surface.touched(stroke, plane.reflected(stroke.points))] = stroke.code
    return labels


def transfer(source: Mesh, values: NDArray[Any], target: Mesh) -> NDArray[Any]:
    """Values of faces (n,) carried to another mesh of the same figure: each face takes them from the nearest that looks
    its way.
    """
    return np.asarray(values[nearest_faces(source, target)])


def gathered(source: Mesh, values: NDArray[Any], near: NDArray[np.int64], target: Mesh) -> NDArray[Any]:
    """Values of a fine mesh's faces (n,) carried to a thinner one: the mean by area over those to which a face is the
    nearest (`near`, by `nearest_faces(target, source)`); one that is nearest to none takes its neighbour's.
    """
    _, area = source.normals_and_areas()
    mass = np.bincount(near, area, len(target.faces))
    sums = np.bincount(near, area * values, len(target.faces))
    known = np.flatnonzero(mass > 0)
    if not len(known):
        return np.ones(len(target.faces))
    means = sums / np.where(mass > 0, mass, 1.0)
    empty = np.flatnonzero(mass <= 0)
    if len(empty):
        middles = target.middles()
        means[empty] = means[known[cKDTree(middles[known]).query(middles[empty])[1]]]
    return np.asarray(means)


def nearest_faces(source: Mesh, target: Mesh) -> NDArray[np.int64]:
    """For each face of `target` (m,) the nearest of `source` that looks its way."""
    middles, normals = source.middles(), source.normals_and_areas()[0]
    wanted, looks = target.middles(), target.normals_and_areas()[0]
    tree = cKDTree(middles)
    near = np.asarray(tree.query(wanted, workers=CORES)[1])
    # Most faces agree with the nearest; only the others (a thin cloak, a crease) look at a few more.
    odd = np.flatnonzero(np.einsum("ij,ij->i", normals[near], looks) <= ALIKE)
    if len(odd) and len(middles) > 1:
        some = np.asarray(tree.query(wanted[odd], k=min(6, len(middles)), workers=CORES)[1])
        agrees = np.einsum("ijk,ik->ij", normals[some], looks[odd]) > ALIKE
        near[odd] = np.where(agrees.any(axis=1), some[np.arange(len(odd)), np.argmax(agrees, axis=1)], near[odd])
    return near
