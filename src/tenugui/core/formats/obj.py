"""Wavefront OBJ: vertices, polygons, and the objects and groups they belong to. Materials, textures and normals are
passed over.

Indices count from 1, or from the newest vertex backwards where they are negative. The format has no unit.
"""

from __future__ import annotations

from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..mesh import Mesh, require_figure, weld
from .polygons import LARGE_CORNERS, MOST_CORNERS, MOST_LARGE, triangulate
from .problems import AGAIN, DEFAULT_LIMITS, FormatError, Limits, check_size, check_triangles
from .text import Text, blanks, line_of, next_line, number, whole

VERTEX, CORNERS, RANGE = 1, 2, 3


@njit()
def _count(text: Text, totals: NDArray[np.int64]) -> None:
    """Vertices, polygons, corners and named starts, as upper bounds."""
    at, n = 0, len(text)
    while at < n - 1:
        at = blanks(text, at)
        if at >= n - 1:
            break
        c, d = text[at], text[at + 1]
        spaced = d == 32 or d == 9
        if c == 118 and spaced:
            totals[0] += 1
        elif c == 102 and spaced:
            totals[1] += 1
            while at < n and text[at] != 10 and text[at] != 13:
                if text[at] <= 32 and at + 1 < n and text[at + 1] > 32:
                    totals[2] += 1
                at += 1
        elif (c == 111 or c == 103) and d <= 32:
            totals[3] += 1
        at = next_line(text, at)


@njit()
def _read(text: Text, points: NDArray[np.float32], starts: NDArray[np.int64], corners: NDArray[np.int64],
          named: NDArray[np.int64], totals: NDArray[np.int64]) -> tuple[int, int]:  # fmt: skip
    """Fill the arrays; what went wrong (0 for nothing) and at which byte. `named` rows: first polygon, byte of the
    name.
    """
    at, n = 0, len(text)
    v, f, k, g = 0, 0, 0, 0
    while at < n - 1:
        at = blanks(text, at)
        if at >= n - 1:
            break
        here, c, d = at, text[at], text[at + 1]
        spaced = d == 32 or d == 9
        if c == 118 and spaced:
            at += 1
            for axis in range(3):
                value, at = number(text, at)
                if at < 0:
                    return VERTEX, here
                points[v, axis] = value
            v += 1
        elif c == 102 and spaced:
            at += 1
            first = k
            while True:
                at = blanks(text, at)
                if at >= n or text[at] == 10 or text[at] == 13 or text[at] == 35:
                    break
                index, at = whole(text, at)
                if at < 0:
                    return CORNERS, here
                if index < 0:
                    index = v + index
                else:
                    index -= 1
                if index < 0:
                    return RANGE, here
                corners[k] = index
                k += 1
                while at < n and text[at] > 32:  # /texture/normal
                    at += 1
            if k - first < 3:
                return CORNERS, here
            f += 1
            starts[f] = k
        elif (c == 111 or c == 103) and d <= 32:
            named[g, 0], named[g, 1] = f, at + 1
            g += 1
        at = next_line(text, at)
    totals[0], totals[1], totals[2], totals[3] = v, f, k, g
    return 0, 0


def read_obj(handle: BinaryIO, size: int, limits: Limits = DEFAULT_LIMITS) -> dict[str, Mesh]:
    """The file's objects or groups by name, in the file's numbers; one part where it names none. Raises `FormatError`
    or `MeshError`.
    """
    check_size(size, limits)
    body = handle.read(size)
    text = np.frombuffer(body, np.uint8)
    if 0 in text[:4096]:
        raise FormatError(
            "not-obj",
            "This is not an OBJ file: it holds bytes that no text has.",
            "byte 0",
            "Choose the figure's mesh file.",
        )
    totals = np.zeros(4, np.int64)
    _count(text, totals)
    check_triangles(int(totals[1]), limits)
    points, starts, corners = (
        np.empty((totals[0], 3), np.float32),
        np.zeros(totals[1] + 1, np.int64),
        np.empty(totals[2], np.int64),
    )
    named = np.empty((totals[3], 2), np.int64)
    fault, where = _read(text, points, starts, corners, named, totals)
    if fault:
        what = {
            VERTEX: "A vertex does not have three plain numbers.",
            CORNERS: "A face does not have three or more plain indices.",
            RANGE: "A face names a vertex before the first.",
        }[fault]
        raise FormatError("bad-number" if fault != RANGE else "bad-index", what, line_of(body, where), AGAIN)
    count, polygons, used, names = (int(t) for t in totals)
    points, starts, corners = points[:count], starts[: polygons + 1], corners[:used]
    _check(points, starts, corners)
    faces, first = triangulate(points, starts, corners)
    check_triangles(len(faces), limits)
    parts: dict[str, Mesh] = {}
    marks = [(int(p), _name(body, int(b))) for p, b in named[:names]]
    for k, (begin, name) in enumerate([(0, ""), *marks]):
        end = marks[k][0] if k < len(marks) else polygons
        mine = faces[first[begin] : first[end]]
        if len(mine):
            _add(parts, name or "figure", weld(points[mine].reshape(-1, 3)))
    require_figure(Mesh.joined(list(parts.values())))
    return parts


def _check(points: NDArray[np.float32], starts: NDArray[np.int64], corners: NDArray[np.int64]) -> None:
    if corners.max() >= len(points):
        where = int(np.argmax(corners >= len(points)))
        face = int(np.searchsorted(starts, where, "right"))
        raise FormatError(
            "bad-index",
            f"A face names vertex {int(corners[where]) + 1:,}; the file has {len(points):,}.",
            f"face {face:,}",
            AGAIN,
        )
    most = int(np.diff(starts).max())
    if most > MOST_CORNERS:
        raise FormatError(
            "huge-polygon",
            f"A face has {most:,} corners; the limit is {MOST_CORNERS:,}.",
            remedy="Triangulate the figure first.",
        )
    large = np.diff(starts)
    large = large[large > LARGE_CORNERS]
    if int((large**2).sum()) > MOST_LARGE:
        raise FormatError(
            "huge-polygon",
            f"{len(large):,} faces have more than {LARGE_CORNERS} corners each, too many to triangulate here.",
            remedy="Triangulate the figure first.",
        )
    finite = np.isfinite(points).all(axis=1)
    if not finite.all():
        raise FormatError(
            "not-finite",
            f"{int((~finite).sum()):,} vertices have coordinates that are not numbers.",
            f"vertex {int(np.argmin(finite)) + 1:,}",
            AGAIN,
        )


def _name(body: bytes, at: int) -> str:
    line = body[at : at + 200].split(b"\n", 1)[0].split(b"\r", 1)[0]
    return line.decode("utf-8", "replace").strip()[:80]


def _add(parts: dict[str, Mesh], name: str, mesh: Mesh) -> None:
    """A name that comes again goes on with its part."""
    parts[name] = Mesh.joined([parts[name], mesh]) if name in parts else mesh


def write_obj(parts: dict[str, Mesh], handle: BinaryIO) -> None:
    """Write every part as an object; positions with nine digits, so that 32-bit floats come back exactly."""
    base = 1
    for name, mesh in parts.items():
        handle.write(f"o {name}\n".encode())
        np.savetxt(handle, mesh.vertices, "v %.9g %.9g %.9g")
        np.savetxt(handle, mesh.faces + base, "f %d %d %d")
        base += len(mesh.vertices)
