"""Proposals: what is seen from around a table, where the relief is, what was cut and what must fit."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh, decimate, fits, flat_faces, rays_of
from ..mesh.edges import neighbours
from .strokes import nearest_faces

F8 = NDArray[np.float64]
B1 = NDArray[np.bool_]

PROPOSALS = {"seen": "show", "unseen": "hidden", "cuts": "hidden", "fits": "fit"}
"""Each proposal and the kind of mark that it proposes."""
COARSE = 60_000
ELEVATIONS_DEG = (10.0, 30.0, 50.0)
AZIMUTHS = 12
SEEN_SHARE = 0.35
"""Prior: a face seen from this share of the places around the table, with relief, is one that people look at."""
UNSEEN_SHARE = 0.03
RELIEF_QUANTILE = 0.5
"""Prior: of what is seen, the rougher half."""


@dataclass(frozen=True)
class Proposal:
    """`faces` (n,) bool of the mesh by proposal; `seen` (n,) share of places from which each face is seen; `relief`
    (n,) 0 for flat.
    """

    faces: dict[str, B1]
    seen: F8
    relief: F8


def views(up: tuple[float, float, float] = (0.0, 0.0, 1.0)) -> F8:
    """Unit vectors from the figure to the eyes around a table on which it stands with `up` upwards, (36, 3)."""
    turn = np.arange(AZIMUTHS) * 2 * np.pi / AZIMUTHS
    rows = []
    for elevation in np.radians(ELEVATIONS_DEG):
        rows.append(
            np.stack(
                [
                    np.cos(elevation) * np.cos(turn),
                    np.cos(elevation) * np.sin(turn),
                    np.full(AZIMUTHS, np.sin(elevation)),
                ],
                1,
            )
        )
    return np.concatenate(rows) @ _frame(np.array(up, float))


def _frame(up: F8) -> F8:
    """Rows: two directions across `up`, and `up` itself; the file's axes where z is up."""
    side = np.array([1.0, 0, 0]) if abs(up[0]) < 0.9 else np.array([0, 1.0, 0])
    side = side - up * float(side @ up)
    side /= np.linalg.norm(side)
    return np.stack([side, np.cross(up, side), up])


def visibility(
    mesh: Mesh,
    progress: Callable[[float], None] = lambda share: None,
    up: tuple[float, float, float] = (0.0, 0.0, 1.0),
) -> F8:
    """Share (faces,) of the views from which each face is seen, by one ray a view from just above its middle."""
    normals, _ = mesh.normals_and_areas()
    middles = mesh.middles() + normals * (1e-4 * float(mesh.size.max()))
    rays = rays_of(mesh)
    ways = views(up)
    seen = np.zeros(len(mesh.faces))
    for k, way in enumerate(ways):
        turned = np.flatnonzero(normals @ way > 0.05)
        _, hit = rays.first(middles[turned], way)
        seen[turned[hit < 0]] += 1
        progress((k + 1) / len(ways))
    return seen / len(ways)


def relief(mesh: Mesh, rounds: int = 4) -> F8:
    """How far normals vary around each face (n,): 1 minus the length of their mean over some rings of neighbours,
    weighted by area.
    """
    normals, area = mesh.normals_and_areas()
    across, _ = neighbours(mesh.faces)
    there = across >= 0
    safe = np.where(there, across, 0)
    held, weight = normals * area[:, None], area.copy()
    for _ in range(rounds):
        held = held + (held[safe] * there[:, :, None]).sum(axis=1)
        weight = weight + (weight[safe] * there).sum(axis=1)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(np.nan_to_num(1 - np.linalg.norm(held, axis=1) / weight).clip(0, 1))


def _cuts_and_fits(mesh: Mesh) -> tuple[B1, B1]:
    """Faces (n,) that were cut flat, and those that meet another part."""
    cut = np.zeros(len(mesh.faces), np.bool_)
    meets = np.zeros(len(mesh.faces), np.bool_)
    for flat in flat_faces(mesh):
        found = fits(mesh, flat)
        (meets if found else cut)[flat.faces] = True
        for one in found:
            meets[one.faces] = True
    return cut, meets


def propose(
    mesh: Mesh,
    progress: Callable[[float], None] = lambda share: None,
    coarse: Mesh | None = None,
    up: tuple[float, float, float] = (0.0, 0.0, 1.0),
    near: NDArray[np.int64] | None = None,
) -> Proposal:
    """All proposals for a figure that stands with `up` of its frame upwards. Sight and relief are read on a coarse
    copy, cuts and fits on the mesh itself.

    `near`: the copy's face nearest to each of the mesh's, where it is at hand.
    """
    coarse = decimate(mesh, COARSE) if coarse is None else coarse
    # Cuts are found on one core while sight is read on the other.
    with ThreadPoolExecutor(1) as pool:
        found = pool.submit(_cuts_and_fits, mesh)
        shares = visibility(coarse, progress, up)
        rough = relief(coarse)
        if coarse is not mesh:
            near = nearest_faces(coarse, mesh) if near is None else near
            shares, rough = shares[near], rough[near]
        cut, meets = found.result()
    looked = shares >= SEEN_SHARE
    limit = np.quantile(rough[looked], RELIEF_QUANTILE) if looked.any() else 0.0
    taken = cut | meets
    return Proposal(
        {
            "seen": looked & (rough >= limit) & (rough > 1e-6) & ~taken,
            "unseen": (shares <= UNSEEN_SHARE) & ~taken,
            "cuts": cut & (shares <= SEEN_SHARE),
            "fits": meets,
        },
        shares,
        rough,
    )
