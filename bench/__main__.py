"""`./tenugui bench`: tables, or those whose title holds one of the words given. Each row runs in a process of its own,
so that peak memory is its own.
"""

from __future__ import annotations

import multiprocessing
import resource
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from tenugui.core.mesh import Mesh

from . import folder, hollow, intake, judgement, page, paths, pictures, plan, poses, supports, trial, workshop

HEIGHT = 0.05


def figure() -> Mesh:
    """A knobbly stone of about one million triangles, 60 mm tall: closed, with relief, the same every time."""
    import trimesh

    from tenugui.core.mesh import Mesh, weld

    stone = trimesh.creation.icosphere(8, 28.0)
    v = stone.vertices
    bumps = 1.2 * np.sin(v[:, [1, 2, 0]] * 0.9) + 0.25 * np.sin(v[:, [2, 0, 1]] * 5.1)
    scaled = (v + bumps) * [0.8, 0.8, 1.05]
    keep = Mesh(scaled, np.asarray(stone.faces, np.int32)).dropped()
    return weld(np.ascontiguousarray(keep.corners().reshape(-1, 3), np.float32))


def ours_stack(mesh) -> str:  # type: ignore[no-untyped-def]
    from tenugui.core.layers import cut, find_islands, find_voids, grid_for, solid_components

    stack = cut(mesh, grid_for(mesh, HEIGHT, HEIGHT))
    islands = find_islands(stack, solid_components(stack))
    voids = find_voids(stack)
    return f"{stack.grid.layers} layers, {len(stack.x_in):,} runs, {len(islands)} islands, {len(voids.sealed)} sealed"


def ours_cut(mesh) -> str:  # type: ignore[no-untyped-def]
    from tenugui.core.layers import cut, grid_for

    return f"{len(cut(mesh, grid_for(mesh, HEIGHT, HEIGHT)).x_in):,} runs"


def manifold_slices(mesh) -> str:  # type: ignore[no-untyped-def]
    import manifold3d

    solid = manifold3d.Manifold(manifold3d.Mesh(mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32)))
    layers = int(np.ceil(mesh.upper[2] / HEIGHT))
    contours = sum(len(solid.slice((k + 0.5) * HEIGHT).to_polygons()) for k in range(layers))
    return f"{layers} layers, {contours} contours, no islands, no cups"


def trimesh_sections(mesh) -> str:  # type: ignore[no-untyped-def]
    import trimesh

    heights = (np.arange(int(np.ceil(mesh.upper[2] / HEIGHT))) + 0.5) * HEIGHT
    shape = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    lines, _, _ = trimesh.intersections.mesh_multiplane(shape, [0, 0, 0], [0, 0, 1], heights)
    return f"{len(lines)} layers, {sum(len(line) for line in lines):,} segments, not chained"


def _measure(task: Callable[[object], str], given: object, repeats: int, pipe) -> None:  # type: ignore[no-untyped-def]
    def peak() -> float:
        return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024

    if task.__name__.startswith("ours"):
        task(_small(given))  # compiled code is loaded from its cache before the clock starts
    before = peak()
    times = []
    for _ in range(repeats):
        began = time.perf_counter()
        said = task(given)
        times.append(time.perf_counter() - began)
    pipe.send((min(times), max(0.0, peak() - before), said))


def _small(given: object) -> object:
    import trimesh

    from tenugui.core.mesh import Mesh

    ball = trimesh.creation.icosphere(2, 3.0)
    mesh = Mesh(np.asarray(ball.vertices, float), np.asarray(ball.faces, np.int32)).dropped()
    return intake.small(given, mesh) if isinstance(given, bytes) else mesh


def run(task: Callable[..., str], given: object, repeats: int = 3) -> tuple[float, float, str]:
    """Best seconds, peak MB above the start, and what came out."""
    here, there = multiprocessing.Pipe()
    process = multiprocessing.get_context("fork").Process(target=_measure, args=(task, given, repeats, there))
    process.start()
    found: tuple[float, float, str] = here.recv()
    process.join()
    return found


def main() -> None:
    """Print the tables."""
    if sys.argv[1:] == ["trial"]:
        return trial.table()
    if sys.argv[1:] == ["plate"]:
        return workshop.plate_table()
    if sys.argv[1:] == ["week"]:
        return workshop.week_table()
    if sys.argv[1:2] == ["judgement"]:
        folders = [word for word in sys.argv[2:] if Path(word).is_dir()]
        return folder.table(folders[0], "--variants" in sys.argv) if folders else judgement.table()
    mesh = figure()
    print(
        f"\nA figure of {len(mesh.faces):,} triangles, {mesh.size[2]:.1f} mm "
        f"tall, layers and scan lines of {HEIGHT} mm; best of three, two cores.\n"
    )
    tables = (
        (
            "Layers",
            mesh,
            ours_stack,
            (
                (ours_stack, "Tenugui: runs, islands, sealed and trapped space"),
                (ours_cut, "Tenugui: runs alone"),
                (manifold_slices, "manifold3d: slices to polygons alone"),
                (trimesh_sections, "trimesh: multi-plane section alone"),
            ),
        ),
        *intake.tables(mesh),
        *poses.tables(),
        *hollow.tables(mesh),
    )
    wanted = sys.argv[1:]
    for title, given, base, rows in tables:
        if wanted and not any(word.lower() in title.lower() for word in wanted):
            continue
        print(f"{title}\n{'':52} {'seconds':>9} {'ratio':>8} {'peak MB':>9}")
        found = {
            task: run(task, given, 1 if task in (trimesh_sections, hollow.plain_hollow) else 3) for task, _ in rows
        }
        for task, name in rows:
            seconds, memory, said = found[task]
            print(f"{name:52} {seconds:9.2f} {seconds / found[base][0]:7.1f}x {memory:9.0f}   {said}")
        print()
    if not wanted or any(word.lower() in "the page" for word in wanted):
        page.table(poses.stone)
    if not wanted or any(word.lower() in "supports by hand" for word in wanted):
        supports.table(poses.stone)
    if not wanted or any(word.lower() in "pictures of layers" for word in wanted):
        pictures.table(poses.stone)
    if not wanted or any(word.lower() in "paths and trial prints" for word in wanted):
        paths.table(poses.stone)
    if not wanted or any(word.lower() in "a plan from drop to files" for word in wanted):
        plan.table(poses.stone)


if __name__ == "__main__":
    main()
