"""One door for every format: by content, never by name alone."""

from __future__ import annotations

import io
import os
from dataclasses import dataclass, field
from pathlib import PurePosixPath
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh
from .gltf import read_gltf
from .kit import is_3mf, read_kit
from .obj import read_obj
from .packed import read_whole
from .ply import read_ply
from .problems import DEFAULT_LIMITS, NO_LIMITS, FormatError, Limits, check_parts, check_size, check_triangles, unused
from .stl import check_header, read_stl
from .threemf import read_3mf

FORMATS = "STL, OBJ, PLY, 3MF, glTF, GLB, or a ZIP of these"
OBJ_WORDS = (b"v ", b"vn ", b"vt ", b"f ", b"o ", b"g ", b"mtllib ", b"usemtl ", b"s ", b"#")


@dataclass(frozen=True)
class Held:
    """What a file holds: its parts by name, in mm where `unit` is known, else in the file's own numbers. `placed`:
    whether the parts' places are the file's word. `marks`: labels (faces,) of the parts that the file marks.
    `settings`: how it came about, where it is a plan's own file.
    """

    format: str
    unit: str | None
    parts: dict[str, Mesh]
    placed: bool = True
    marks: dict[str, NDArray[np.uint8]] = field(default_factory=dict)
    settings: str | None = None

    @property
    def whole(self) -> Mesh:
        """All parts in one mesh, in file order."""
        meshes = list(self.parts.values())
        return meshes[0] if len(meshes) == 1 else Mesh.joined(meshes)


def kind_of(head: bytes) -> str:
    """The format that the first kilobyte speaks of; STL where nothing else does."""
    if head[:2] == b"PK":
        return "zip"
    if head[:4] in (b"ply\n", b"ply\r"):
        return "ply"
    if head[:4] == b"TNM1":
        return "whole"
    plain = head.removeprefix(b"\xef\xbb\xbf").lstrip()
    if head[:4] == b"glTF" or (plain[:1] == b"{" and b"\0" not in head):
        return "gltf"
    lines = [line for line in plain.splitlines() if line.strip()]
    if (
        b"\0" not in head
        and lines
        and any(line.lstrip().startswith(OBJ_WORDS[:-1]) for line in lines)
        and lines[0].lstrip().startswith(OBJ_WORDS)
    ):
        return "obj"
    return "stl"


def refuse_early(head: bytes, size: int, limits: Limits = DEFAULT_LIMITS) -> None:
    """Refuse a file by its first bytes and announced size, before the rest is sent.

    Raises:
        FormatError: `not-a-figure`.
    """
    if kind_of(head) == "whole":
        raise FormatError(
            "not-a-figure", "This is Tenugui's own store of a mesh, not a figure's file.", remedy=f"Bring in {FORMATS}."
        )
    if size and kind_of(head) != "stl":
        check_size(size, limits)
    else:
        check_header(head, size, limits)


def read(handle: BinaryIO, limits: Limits = DEFAULT_LIMITS) -> Held:
    """Read a seekable handle of any format. Raises `FormatError` or `MeshError`."""
    size = handle.seek(0, os.SEEK_END)
    handle.seek(0)
    kind = kind_of(handle.read(1024))
    handle.seek(0)
    if kind == "zip":
        if is_3mf(handle):
            marks: dict[str, NDArray[np.uint8]] = {}
            settings: list[str] = []
            parts = read_3mf(handle, size, limits, marks, settings)
            if not settings:
                return Held("3MF", "mm", parts, marks=marks)
            return Held("3MF", "mm", _without_our_own(parts), marks=marks, settings=settings[0])
        return _kit(read_kit(handle, size, limits), limits)
    if kind == "ply":
        return Held("PLY", None, {"figure": read_ply(handle, size, limits)})
    if kind == "gltf":
        return Held("glTF", "mm", read_gltf(handle, size, limits))
    if kind == "obj":
        return Held("OBJ", None, read_obj(handle, size, limits))
    if kind == "whole" and limits is NO_LIMITS:
        return Held("packed", None, {"figure": read_whole(handle.read())})
    if kind == "whole":
        raise FormatError(
            "not-a-figure", "This is Tenugui's own store of a mesh, not a figure's file.", remedy=f"Bring in {FORMATS}."
        )
    return Held("STL", None, {"figure": read_stl(handle, size, limits)})


def _without_our_own(parts: dict[str, Mesh]) -> dict[str, Mesh]:
    """The figure of a plan's file: its supports and plinth are made anew where it goes on."""
    return {"figure": parts["figure"]} if "figure" in parts else parts


def _kit(files: dict[str, bytes], limits: Limits) -> Held:
    """Every file of a kit, its parts named by their file; a fault names the file it is in."""
    parts: dict[str, Mesh] = {}
    units = set()
    total = 0
    times: dict[str, int] = {}
    for name, body in files.items():
        if body[:2] == b"PK" and not is_3mf(io.BytesIO(body)):
            raise FormatError("nested-zip", "An archive lies within the archive.", name, "Unpack the inner one first.")
        try:
            opened = read(io.BytesIO(body), limits)
        except FormatError as fault:
            raise FormatError(
                fault.code, fault.what, ", ".join(w for w in (name, fault.where) if w), fault.remedy
            ) from fault
        units.add(opened.unit)
        total += sum(len(mesh.faces) for mesh in opened.parts.values())
        check_triangles(total, limits)
        stem = str(PurePosixPath(name).with_suffix(""))
        for part, mesh in opened.parts.items():
            title = stem if len(opened.parts) == 1 else f"{stem}: {part}"
            parts[unused(title, parts, times)] = mesh
        check_parts(len(parts), limits)
    return Held("ZIP", units.pop() if len(units) == 1 else None, parts, placed=False)


def load(handle: BinaryIO, limits: Limits = DEFAULT_LIMITS) -> Mesh:
    """Any format into one welded mesh in the file's frame, in mm where the format has a unit; faces in file order."""
    return read(handle, limits).whole
