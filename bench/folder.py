"""Judgement of figures that nobody here made: the whole plan of every mesh of a folder, on both machines.

`./tenugui bench judgement FOLDER [--variants]`. Beside the meshes may lie `accepted.json`: by file name
`height_mm`, and for `resin` and `filament` what an experienced person accepts: `up` (3), degrees of lean `least`
and `most`, and `back` (3), the side that turns up then. A sheet of pictures from two sides and a table are written
into the folder's `judged/` (that of the temporary folder where it cannot be written to). With `--variants` each row
is planned again turned by two degrees, thinned by a tenth, and saved as another
format: what flips is told, of pose, tips and risk.
"""

from __future__ import annotations

import io
import os
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from tenugui.core.plan.given import SupportsGiven
from tenugui.core.plan.inputs import PosedInputs

DEFAULT_MM = 75.0
SIDES = (-60.0, 120.0)
SIZE = (300, 360)
FLIPS_DEG, FLIPS_TIPS, FLIPS_SHARE, FLIPS_RISK = 20.0, 8, 1.4, 0.05
HEAD = (
    "| figure | machine | up | pose | lean | met | tips (on what people look at) | supports / figure g | min | h "
    "| risk | s to plan |\n|---|---|---|---|---|---|---|---|---|---|---|---|\n"
)


@dataclass(frozen=True)
class Judged:
    """A row: which way down in the file's frame, whether it is accepted (None: nobody said), how it is told; tips of
    its recommended set, and its risk.
    """

    down: tuple[float, float, float]
    met: bool | None
    cells: list[str]
    pictures: list[Any]
    tips: int = 0
    risk: float = 0.0

    def flips(self, other: Judged) -> list[str]:
        """In what a variant of the same figure differs by more than nobody would notice."""
        apart = float(np.degrees(np.arccos(np.clip(np.dot(self.down, other.down), -1, 1))))
        told = [f"pose by {apart:.0f}°"] if apart > FLIPS_DEG else []
        few, many = sorted((self.tips, other.tips))
        if many - few > FLIPS_TIPS and many > FLIPS_SHARE * max(few, 1):
            told.append(f"tips {self.tips} to {other.tips}")
        if abs(self.risk - other.risk) > FLIPS_RISK:
            told.append(f"risk {self.risk:.1%} to {other.risk:.1%}")
        return told


def table(folder: str, variants: bool) -> None:
    """Plan all, print, and write the table and the sheet."""
    import orjson
    from PIL import Image
    from tests.presets import FILAMENT, HERON, KESTREL, RESIN

    home = Path(folder)
    out = (home if os.access(home, os.W_OK) else Path(tempfile.gettempdir())) / "judged"
    out.mkdir(parents=True, exist_ok=True)
    said = home / "accepted.json"
    accepted = orjson.loads(said.read_bytes()) if said.exists() else {}
    lines, tiles = [], []
    for path in sorted(p for p in home.iterdir() if p.suffix.lower() in (".stl", ".obj", ".ply", ".3mf")):
        told = accepted.get(path.name, {})
        data = path.read_bytes()
        for printer, material in ((HERON, RESIN), (KESTREL, FILAMENT)):
            row = _judged(data, printer, material, told)
            lines.append(f"| {path.stem} | {printer.process} | " + " | ".join(row.cells) + " |")
            print(lines[-1], flush=True)
            tiles.append(row.pictures)
            for name, other in _variants(data) if variants else ():
                again = _judged(other, printer, material, {"height_mm": told.get("height_mm", DEFAULT_MM)})
                said_so = "; ".join(row.flips(again)) or f"as it was, {again.tips} tips, {again.risk:.1%}"
                lines.append(f"| {path.stem}, {name} | {printer.process} | {said_so} |")
                print(lines[-1], flush=True)
    sheet = Image.new("RGB", (SIZE[0] * 4, SIZE[1] * -(-len(tiles) // 2)), (244, 240, 230))
    for k, pair in enumerate(tiles):
        for side, tile in enumerate(pair):
            sheet.paste(tile, ((k % 2 * 2 + side) * SIZE[0], k // 2 * SIZE[1]), tile)
    sheet.save(out / "sheet.png")
    (out / "table.md").write_text(HEAD + "\n".join(lines) + "\n")
    print(f"written to {out}")


def _variants(data: bytes) -> list[tuple[str, bytes]]:
    """The same figure turned by two degrees, thinned by a tenth, and as another format."""
    from tenugui.core.formats import read, write_obj, write_stl
    from tenugui.core.mesh import Mesh, decimate

    mesh = read(io.BytesIO(data)).whole
    a = np.radians(2.0)
    turn = np.array([[np.cos(a), 0, np.sin(a)], [0, 1, 0], [-np.sin(a), 0, np.cos(a)]])

    def packed(changed: Mesh, how: Any) -> bytes:
        handle = io.BytesIO()
        how(changed, handle)
        return handle.getvalue()

    return [
        ("turned by 2°", packed(mesh.transformed(turn), write_stl)),
        ("thinned by a tenth", packed(decimate(mesh, int(0.9 * len(mesh.faces))), write_stl)),
        ("as OBJ", packed(mesh, lambda m, handle: write_obj({"figure": m}, handle))),
    ]


def _judged(data: bytes, printer: Any, material: Any, told: dict[str, Any]) -> Judged:
    from tenugui.core.formats import pack_whole, read
    from tenugui.core.plan import MemoryShelf, PlanBase, held_of, run_chain, sized, spec_of, upright_of
    from tenugui.core.plan.look import look_of
    from tenugui.core.plan.parts import parts_of
    from tenugui.core.pose import height_along
    from tenugui.core.repair import make_ready

    began = time.perf_counter()
    shelf = MemoryShelf()
    ready = make_ready(read(io.BytesIO(data)).whole).mesh
    sha = shelf.put(pack_whole(ready))
    base = PlanBase(sha, sha, {1: printer.model_dump(mode="json")}, {1: material.model_dump(mode="json")})
    up = upright_of(shelf, sha).ups[0].up
    tall = float(told.get("height_mm", DEFAULT_MM))
    factor = tall / height_along(ready.vertices, up)
    start = {"size": sized(base, factor=factor, height_mm=tall, printer_id=1, material_id=1, up=up)}
    chain = run_chain(shelf, base, start, until="layers")
    poses: Any = chain.boards["pose"]
    best = poses.candidates[poses.recommended].pose
    wanted = told.get(printer.process)
    lean = float(np.degrees(np.arccos(np.clip(-np.dot(best.down, wanted["up"] if wanted else up), -1, 1))))
    met = None
    if wanted:
        turned = "back" not in wanted or float(np.dot(wanted["back"], best.down)) < 0.0
        met = bool(wanted.get("least", 0) <= lean <= wanted["most"] and turned)
    cells = [_short(up), best.why, f"{lean:.0f}°", "" if met is None else "yes" if met else "**no**"]
    heights: Any = chain.boards["layers"]
    supports = spec_of("supports")
    assert supports is not None
    given = supports.inputs(base, chain.choices).to(SupportsGiven)
    choice: Any = chain.choices["supports"]
    held = held_of(
        shelf,
        given,
        height=heights.choices[heights.recommended].height.layer_height_mm,
        risk=choice.risk,
        style=choice.style,
        edits=choice.edits,
    )
    opened = PosedInputs(shelf, given)
    parts = parts_of(opened, held)
    look = look_of(shelf, given)
    near = _importance_at(shelf, opened, held, look, sha)
    own = parts.get("figure") or next(iter(parts.values()))
    solids = (own, *(p for p in parts.values() if p is not own))
    grams = [abs(_volume(m)) * material.density_g_ml / 1000 for m in solids]
    cells += [
        f"{len(held.supports.tips)} ({int((near > 0.9).sum())} on a face, {int((near > 0.5).sum())})",
        f"{sum(grams[1:]):.1f} / {grams[0]:.1f}",
        f"{held.row.gift.hands_min:.0f}",
        f"{held.row.numbers.time_s / 3600:.1f}",
        f"{held.row.numbers.risk:.1%}",
        f"{time.perf_counter() - began:.0f}",
    ]
    pictures = [_drawn(parts, own, azimuth) for azimuth in SIDES]
    return Judged(best.down, met, cells, pictures, len(held.supports.tips), held.row.numbers.risk)


def _importance_at(shelf: Any, opened: Any, held: Any, look: Any, sha: str) -> Any:
    """Importance under each tip."""
    from scipy.spatial import cKDTree

    from tenugui.core.plan.figure import coarse_of

    coarse = opened.placed.place.apply(coarse_of(shelf, sha).scaled(opened.factor))
    tips = np.array([(t.x_mm, t.y_mm, t.z_mm) for t in held.supports.tips]).reshape(-1, 3)
    return look.importance[cKDTree(coarse.middles()).query(tips)[1]] if len(tips) else np.zeros(0)


def _volume(mesh: Any) -> float:
    from tenugui.core.mesh.edges import face_volumes

    return float(face_volumes(mesh).sum())


def _short(up: Any) -> str:
    return ", ".join(f"{v:.2g}" for v in up)


def _drawn(parts: Any, own: Any, azimuth: float) -> Any:
    from PIL import Image

    from tenugui.core.mesh import Mesh, picture

    joined = Mesh.joined(list(parts.values()))
    groups = np.concatenate([np.full(len(p.faces), 0.0 if p is own else 1.0) for p in parts.values()])
    return Image.open(io.BytesIO(picture(joined, size=SIZE, azimuth=azimuth, groups=groups))).convert("RGBA")
