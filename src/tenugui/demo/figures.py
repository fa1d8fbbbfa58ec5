"""The demo's files: sculpted once, kept in a folder, among them three that are wrong on purpose."""

from __future__ import annotations

import hashlib
import inspect
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from ..core.compiled import CORES
from ..core.formats import load, write_stl
from ..core.machines import Context, load_material, load_printer
from ..core.mesh import Mesh, decimate
from ..core.supports import make_supports
from . import beasts, clay, people, pieces, sculpts


def broken(warden: Mesh) -> Mesh:
    """Holes, faces turned inside out, a doubled face and specks."""
    rng = np.random.default_rng(5)
    mesh = decimate(warden, 220_000)
    centre = mesh.middles()
    keep = np.ones(len(mesh.faces), bool)
    for spot in centre[rng.integers(0, len(centre), 6)]:
        keep &= np.linalg.norm(centre - spot, axis=1) > 1.1
    faces = mesh.faces[keep]
    turned = np.linalg.norm(centre[keep] - centre[keep][len(faces) // 3], axis=1) < 2.5
    faces = np.where(turned[:, None], faces[:, ::-1], faces)
    speck = np.array([[0, 0, 0], [0.02, 0, 0], [0, 0.02, 0], [0, 0, 0.02]]) + [12, 12, 40]
    shape = np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]]) + len(mesh.vertices)
    return Mesh(np.vstack([mesh.vertices, speck]), np.ascontiguousarray(np.vstack([faces, faces[:3], shape]), np.int32))


def presupported(bust: Mesh) -> Mesh:
    """The bust, smaller, on supports and raft of its sculptor's own."""
    printer = load_printer("heron")
    small = decimate(bust, 240_000).scaled(0.6).dropped()
    hung = Mesh(small.vertices + np.array([0, 0, 5.0]), small.faces)
    return make_supports(hung, Context.of(printer, load_material(None, printer), 0.08), risk=0.2).whole


DERIVED: dict[str, tuple[str, Callable[[Mesh], Mesh]]] = {
    "reed-warden-broken": ("reed-warden", broken),
    "toad-abbot-inches": ("toad-abbot", lambda mesh: mesh.scaled(1 / 25.4)),
    "ferry-keeper-presupported": ("ferry-keeper", presupported),
}
NAMES = [*sculpts.SCULPTS, *DERIVED]


def _stamp() -> str:
    """Changes with the sculptors' code, so that figures are sculpted anew."""
    return hashlib.sha256("".join(inspect.getsource(m) for m in (beasts, clay, people, pieces)).encode()).hexdigest()[
        :12
    ]


def _sculpt(name: str, path: str) -> None:
    mesh = sculpts.SCULPTS[name]()
    partial = Path(path + ".part")
    with open(partial, "wb") as handle:
        write_stl(mesh, handle, f"{name} of the Lantern Marsh")
    partial.rename(path)


def demo_files(folder: Path, names: list[str] | None = None) -> dict[str, Path]:
    """Paths of the demo's STL files, sculpted where they are missing (a minute in all)."""
    here = folder / _stamp()
    here.mkdir(parents=True, exist_ok=True)
    wanted = NAMES if names is None else names
    bases = [n for n in sculpts.SCULPTS if n in wanted or any(DERIVED[d][0] == n for d in wanted if d in DERIVED)]
    missing = [(n, str(here / f"{n}.stl")) for n in bases if not (here / f"{n}.stl").exists()]
    if len(missing) == 1:
        _sculpt(*missing[0])
    elif missing:
        with ProcessPoolExecutor(min(CORES, len(missing))) as pool:
            list(pool.map(_sculpt, *zip(*missing, strict=True)))
    for name in (n for n in wanted if n in DERIVED and not (here / f"{n}.stl").exists()):
        base, change = DERIVED[name]
        with open(here / f"{base}.stl", "rb") as source:
            mesh = change(load(source))
        with open(here / f"{name}.stl.part", "wb") as target:
            write_stl(mesh, target, f"{name} of the Lantern Marsh")
        (here / f"{name}.stl.part").rename(here / f"{name}.stl")
    return {n: here / f"{n}.stl" for n in wanted}
