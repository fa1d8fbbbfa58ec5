"""Intake: loading with weld, full health, thickness of every face; beside general libraries."""

from __future__ import annotations

import io
from typing import Any

Rows = tuple[tuple[Any, str], ...]


def ours_load(body: bytes) -> str:
    from tenugui.core.formats import load

    mesh = load(io.BytesIO(body))
    return f"{len(mesh.faces):,} triangles, {len(mesh.vertices):,} vertices"


def _trimesh(body: bytes, kind: str) -> str:
    import trimesh

    shape = trimesh.load(io.BytesIO(body), file_type=kind, force="mesh")
    return f"{len(shape.faces):,} triangles, {len(shape.vertices):,} vertices"


def trimesh_stl(body: bytes) -> str:
    return _trimesh(body, "stl")


def trimesh_obj(body: bytes) -> str:
    return _trimesh(body, "obj")


def trimesh_ply(body: bytes) -> str:
    return _trimesh(body, "ply")


def lib3mf_plain(body: bytes) -> str:
    import lib3mf

    model = lib3mf.get_wrapper().CreateModel()
    model.QueryReader("3mf").ReadFromBuffer(body)
    meshes = model.GetMeshObjects()
    count = 0
    while meshes.MoveNext():
        count += meshes.GetCurrentMeshObject().GetTriangleCount()
    return f"{count:,} triangles, not welded, not in arrays"


def ours_health(mesh: Any) -> str:
    from tenugui.core.mesh import examine

    return f"{len(examine(mesh).findings)} findings"


def ours_thickness(mesh: Any) -> str:
    from tenugui.core.mesh import local_thickness

    found = local_thickness(mesh, most=10**9, beyond=3.0)
    return f"{len(found.faces):,} faces, up to 3 mm, grid of faces included"


def trimesh_thickness(mesh: Any) -> str:
    import trimesh

    shape = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    hit = shape.ray.intersects_first(shape.triangles_center - shape.face_normals * 1e-4, -shape.face_normals)
    return f"{len(hit):,} faces, one ray each, the face hit alone"


RAYS = 400_000


def _rays(mesh: Any) -> tuple[Any, Any]:
    import numpy as np

    rng = np.random.default_rng(0)
    starts = mesh.lower + rng.random((RAYS, 3)) * mesh.size
    return starts.astype(np.float32), rng.normal(size=(RAYS, 3)).astype(np.float32)


def ours_rays(mesh: Any) -> str:
    from tenugui.core.mesh.rays import RayMesh

    _, face = RayMesh(mesh).shot(*_rays(mesh))
    return f"{(face >= 0).sum():,} of {RAYS:,} rays hit"


def embreex_rays(mesh: Any) -> str:
    import numpy as np
    from embreex import rtcore_scene
    from embreex.mesh_construction import TriangleMesh

    scene = rtcore_scene.EmbreeScene()
    held = TriangleMesh(scene, mesh.vertices.astype(np.float32), np.ascontiguousarray(mesh.faces, np.int32))
    face = scene.run(*_rays(mesh), output=1)["primID"]
    return f"{(face >= 0).sum():,} of {RAYS:,} rays hit" if held else ""


def tables(mesh: Any) -> list[tuple[str, Any, Any, Rows]]:
    """Title, what each row is given, the row that counts as 1, the rows."""
    from tenugui.core.formats import write_3mf, write_obj, write_ply, write_stl

    def body(write: Any) -> bytes:
        held = io.BytesIO()
        write(held)
        return held.getvalue()

    stl = body(lambda h: write_stl(mesh, h))
    return [
        ("Loading a binary STL with weld", stl, ours_load, ((ours_load, "Tenugui"), (trimesh_stl, "trimesh"))),
        (
            "Loading an OBJ with weld",
            body(lambda h: write_obj({"figure": mesh}, h)),
            ours_load,
            ((ours_load, "Tenugui"), (trimesh_obj, "trimesh")),
        ),
        (
            "Loading a binary PLY with weld",
            body(lambda h: write_ply(mesh, h)),
            ours_load,
            ((ours_load, "Tenugui"), (trimesh_ply, "trimesh")),
        ),
        (
            "Loading a 3MF with weld",
            body(lambda h: write_3mf({"figure": mesh}, h)),
            ours_load,
            ((ours_load, "Tenugui, through the official library"), (lib3mf_plain, "lib3mf: reading alone")),
        ),
        ("Full health", mesh, ours_health, ((ours_health, "Tenugui"),)),
        (
            f"A mesh prepared for rays, and {RAYS:,} of them shot on one core",
            mesh,
            ours_rays,
            ((ours_rays, "Tenugui: embree's C interface"), (embreex_rays, "embreex, its Python binding")),
        ),
        (
            "Thickness of every face",
            mesh,
            ours_thickness,
            ((ours_thickness, "Tenugui: a grid of faces, both cores"), (trimesh_thickness, "trimesh with embree")),
        ),
    ]


def small(body: bytes, mesh: Any) -> bytes:
    """A small file of the same format, to load compiled code from its cache."""
    from tenugui.core.formats import write_3mf, write_obj, write_ply, write_stl
    from tenugui.core.formats.load import kind_of

    writers = {
        "zip": lambda h: write_3mf({"a": mesh}, h),
        "obj": lambda h: write_obj({"a": mesh}, h),
        "ply": lambda h: write_ply(mesh, h),
        "stl": lambda h: write_stl(mesh, h),
    }
    held = io.BytesIO()
    writers[kind_of(body[:1024])](held)
    return held.getvalue()
