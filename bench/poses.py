"""Poses: every aim of a direction, beside a straightforward numpy evaluation of the same ones."""

from __future__ import annotations

from typing import Any

import numpy as np

LIMIT = 0.8
FEW, MANY = 20, 1000


def stone(faces: int) -> Any:
    """A knobbly stone of about `faces` triangles."""
    import trimesh

    from tenugui.core.mesh import Mesh, decimate

    fine = trimesh.creation.icosphere(7 if faces <= 327_680 else 8, 28.0)
    v = fine.vertices
    bumps = 1.2 * np.sin(v[:, [1, 2, 0]] * 0.9) + 0.25 * np.sin(v[:, [2, 0, 1]] * 5.1)
    return decimate(Mesh((v + bumps) * [0.8, 0.8, 1.05], np.asarray(fine.faces, np.int32)), faces)


def ours_poses(mesh: Any) -> str:
    from tenugui.core.pose import AIMS, spread_directions, weigh

    table = weigh(mesh, spread_directions(MANY), LIMIT)
    return f"{MANY} directions, {len(AIMS)} aims, mean support {table.column('support_area_mm2').mean():.1f} mm²"


def numpy_poses(mesh: Any) -> str:
    """The same aims but the foot's, whole arrays at a time, a direction after the other; FEW directions, counted as
    MANY.
    """
    from tenugui.core.pose import spread_directions
    from tenugui.core.pose.sweep import CONTACT_MM, SECTIONS

    normal, area = mesh.normals_and_areas()
    edges = np.unique(np.sort(mesh.faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1), axis=0)
    support, kept = [], []
    for down in spread_directions(MANY)[:: MANY // FEW]:
        level = -(mesh.vertices @ down)
        level -= level.min()
        n = normal @ down
        corners = level[mesh.faces]
        middle = corners.mean(axis=1)
        over = (n > np.sin(LIMIT)) & (middle > CONTACT_MM)
        support.append(area[over].sum())
        volume = (area * n * middle)[over].sum()
        steps = (area * np.abs(n))[np.abs(n) < 0.9999].sum() / area.sum()
        cuts = np.linspace(0, level.max(), SECTIONS + 1)[1:-1]
        # Sections by the middle of each face, which is coarser than the exact share.
        sections = np.cumsum(np.histogram(middle, np.r_[0, cuts, level.max()], weights=-n * area)[0][::-1])
        lowest = np.full(len(level), np.inf)
        np.minimum.at(lowest, edges[:, 0], level[edges[:, 1]])
        np.minimum.at(lowest, edges[:, 1], level[edges[:, 0]])
        minima = int(((level < lowest) & (level > CONTACT_MM)).sum())
        kept.append((volume, steps, minima, sections[-1]))
    return f"{len(kept)} directions, mean support {np.mean(support):.1f} mm²"


def ours_half(mesh: Any) -> str:
    return ours_poses(mesh)


def tables() -> list[tuple[str, Any, Any, Any]]:
    """Title, what each row is given, the row that counts as 1, the rows; the second tells how the time grows."""
    return [
        (
            f"Poses: 300,000 triangles, {MANY} directions (numpy: {FEW}, a {MANY // FEW}th of the work)",
            stone(300_000),
            ours_poses,
            ((ours_poses, "Tenugui"), (numpy_poses, "numpy, whole arrays a direction")),
        ),
        ("Poses: 150,000 triangles, as many directions", stone(150_000), ours_half, ((ours_half, "Tenugui"),)),
    ]
