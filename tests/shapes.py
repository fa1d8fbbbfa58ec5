"""Shapes whose truth is known by arithmetic. All in mm; made by a general library, not by the code under test."""

from __future__ import annotations

import io

import manifold3d
import numpy as np
import trimesh

from tenugui.core.formats import write_stl
from tenugui.core.mesh import Mesh


def mesh_of(shape: trimesh.Trimesh) -> Mesh:
    return Mesh(np.asarray(shape.vertices, float), np.asarray(shape.faces, np.int32))


def box(centre: tuple[float, float, float], size: tuple[float, float, float]) -> Mesh:
    shape = trimesh.creation.box(size)
    shape.apply_translation(centre)
    return mesh_of(shape)


def ball(
    radius: float, centre: tuple[float, float, float] = (0, 0, 0), fineness: int = 5, inside_out: bool = False
) -> Mesh:
    shape = trimesh.creation.icosphere(fineness, radius)
    shape.apply_translation(centre)
    if inside_out:
        shape.invert()
    return mesh_of(shape)


def cylinder(radius: float, height: float, foot: tuple[float, float, float] = (0, 0, 0)) -> Mesh:
    shape = trimesh.creation.cylinder(radius, height, sections=96)
    shape.apply_translation((foot[0], foot[1], foot[2] + height / 2))
    return mesh_of(shape)


def cone(radius: float, height: float) -> Mesh:
    return mesh_of(trimesh.creation.cone(radius, height, sections=96))


def fork() -> Mesh:
    """A gate: one post on the plate, a beam at 28 to 32 mm, and two tines that hang from it down to 10 and 13 mm."""
    return Mesh.joined(
        [
            box((0, 0, 30), (40, 4, 4)),
            box((-18, 0, 15), (4, 4, 30)),
            box((0, 0, 20), (2, 2, 20)),
            box((8, 0, 22), (2, 2, 18)),
        ]
    )


def cup(inner: float = 4.0, wall: float = 1.0, floor: float = 1.0, height: float = 10.0) -> Mesh:
    """An upright cup: a ring standing on a disc."""
    ring = trimesh.creation.annulus(inner, inner + wall, height, sections=128)
    ring.apply_translation((0, 0, floor + height / 2))
    return Mesh.joined([mesh_of(ring), cylinder(inner + wall, floor)])


def hollow_ball(outer: float = 10.0, inner: float = 8.0, fineness: int = 5) -> Mesh:
    return Mesh.joined([ball(outer, fineness=fineness), ball(inner, fineness=fineness, inside_out=True)]).dropped()


def knobbly(radius: float = 12.0, fineness: int = 5) -> Mesh:
    """A rounded stone with bumps: something like a figure, and quick."""
    stone = ball(radius, fineness=fineness)
    return Mesh(stone.vertices + 0.6 * np.sin(stone.vertices[:, [1, 2, 0]] * 1.1), stone.faces).dropped()


def stl_bytes(mesh: Mesh) -> bytes:
    held = io.BytesIO()
    write_stl(mesh, held)
    return held.getvalue()


def slotted(wide: float, deep: float, size: tuple[float, float, float] = (40.0, 30.0, 40.0)) -> Mesh:
    """A block that stands on z = 0 with a slot along y in the middle of its top, mm."""
    block = manifold3d.Manifold.cube(size, True).translate((0, 0, size[2] / 2))
    slot = manifold3d.Manifold.cube((wide, 2 * size[1], 2 * deep), True).translate((0, 0, size[2]))
    made = (block - slot).to_mesh()
    return Mesh(np.asarray(made.vert_properties[:, :3], float), np.asarray(made.tri_verts, np.int32))
