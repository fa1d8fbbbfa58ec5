"""PLY, ascii and both binary orders: the vertices' x, y, z and the faces' vertex lists. Other elements and properties
are passed over.

The format has no unit. (Turk, The PLY polygon file format, 1994.)
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..mesh import Mesh, require_figure, weld
from .polygons import MOST_CORNERS, triangulate
from .problems import AGAIN, DEFAULT_LIMITS, FormatError, Limits, check_size, check_triangles
from .text import Text, line_of, next_line, number

TYPES = {
    "char": "i1",
    "int8": "i1",
    "uchar": "u1",
    "uint8": "u1",
    "short": "i2",
    "int16": "i2",
    "ushort": "u2",
    "uint16": "u2",
    "int": "i4",
    "int32": "i4",
    "uint": "u4",
    "uint32": "u4",
    "float": "f4",
    "float32": "f4",
    "double": "f8",
    "float64": "f8",
}
INTEGERS = {"i1": 1, "u1": 1, "i2": 2, "u2": 2, "i4": 4, "u4": 4}
LISTS = ("vertex_indices", "vertex_index")


@dataclass
class Element:
    """An element of the header: its count, and its properties as (name, type) or (name, count type, item type)."""

    name: str
    count: int
    properties: list[tuple[str, ...]] = field(default_factory=list)

    @property
    def scalar(self) -> bool:
        """Whether no property is a list, so that rows have one size."""
        return all(len(p) == 2 for p in self.properties)


def _refuse(what: str, where: str = "header") -> FormatError:
    return FormatError("bad-ply", what, where, AGAIN)


def read_header(body: bytes) -> tuple[str, list[Element], int]:
    """Format (`ascii`, `<` or `>`), elements, and where the data begin.

    Raises:
        ValueError: it is none.
    """
    end = body.find(b"end_header", 0, 65536)
    if not body.startswith(b"ply") or end < 0:
        raise _refuse("The file does not have a PLY header that ends.")
    order, elements = "", []
    for line in body[:end].decode("ascii", "replace").splitlines()[1:]:
        words = line.split()
        if not words or words[0] in ("comment", "obj_info"):
            continue
        try:
            if words[0] == "format":
                order = {"ascii": "ascii", "binary_little_endian": "<", "binary_big_endian": ">"}[words[1]]
            elif words[0] == "element":
                elements.append(Element(words[1], int(words[2])))
                if elements[-1].count < 0:
                    raise ValueError
            elif words[0] == "property" and words[1] == "list":
                elements[-1].properties.append((words[4], TYPES[words[2]], TYPES[words[3]]))
            elif words[0] == "property":
                elements[-1].properties.append((words[2], TYPES[words[1]]))
            else:
                raise ValueError
        except (KeyError, IndexError, ValueError) as reason:
            raise _refuse(f"A line of the header cannot be understood: '{line[:60]}'.") from reason
    if not order:
        raise _refuse("The header does not say whether the file is ascii or binary.")
    return order, elements, body.index(b"\n", end) + 1 if b"\n" in body[end : end + 16] else len(body)


@njit()
def _ascii_rows(text: Text, at: int, rows: int, want: NDArray[np.int64], out: NDArray[np.float32]) -> tuple[int, bool]:
    """Columns `want` of `rows` rows of numbers, one row a line."""
    last = want.max()
    for r in range(rows):
        start = at
        for column in range(last + 1):
            value, after = number(text, at)
            if after < 0:
                return start, False
            at = after
            for axis in range(len(want)):
                if want[axis] == column:
                    out[r, axis] = value
        at = next_line(text, at)
    return at, True


@njit()
def _ascii_lists(
    text: Text, at: int, rows: int, before: int, starts: NDArray[np.int64], corners: NDArray[np.int64]
) -> tuple[int, bool]:
    """The list that follows `before` numbers in each of `rows` lines."""
    k = 0
    for r in range(rows):
        start = at
        for _ in range(before):
            _, at = number(text, at)
            if at < 0:
                return start, False
        size, at = number(text, at)
        if at < 0 or size < 3 or k + size > len(corners):
            return start, False
        for _ in range(int(size)):
            value, at = number(text, at)
            if at < 0:
                return start, False
            corners[k] = np.int64(value)
            k += 1
        starts[r + 1] = k
        at = next_line(text, at)
    return at, True


@njit()
def _integer(body: Text, at: int, size: int, signed: bool, big: bool) -> int:
    value = np.int64(0)
    for i in range(size):
        value |= np.int64(body[at + (size - 1 - i if big else i)]) << (8 * i)
    if signed and value >= np.int64(1) << np.int64(8 * size - 1):
        value -= np.int64(1) << np.int64(8 * size)
    return int(value)


@njit()
def _binary_lists(
    body: Text,
    at: int,
    rows: int,
    plan: NDArray[np.int64],
    big: bool,
    starts: NDArray[np.int64],
    corners: NDArray[np.int64],
) -> tuple[int, bool]:
    """Rows of scalars and lists; `plan` rows: is a list, count size, count signed, item size, item signed, is the
    wanted one.
    """
    k, n = 0, len(body)
    for r in range(rows):
        start = at
        for p in range(len(plan)):
            if not plan[p, 0]:
                at += plan[p, 3]
                continue
            if at + plan[p, 1] > n:
                return start, False
            size = _integer(body, at, plan[p, 1], plan[p, 2] == 1, big)
            at += plan[p, 1]
            if size < 0 or at + size * plan[p, 3] > n:
                return start, False
            if plan[p, 5]:
                if size < 3 or k + size > len(corners):
                    return start, False
                for i in range(size):
                    corners[k] = _integer(body, at + i * plan[p, 3], plan[p, 3], plan[p, 4] == 1, big)
                    k += 1
                starts[r + 1] = k
            at += size * plan[p, 3]
        if at > n:
            return start, False
    return at, True


def _axes(element: Element) -> NDArray[np.int64]:
    names = [p[0] for p in element.properties]
    if not element.scalar or not {"x", "y", "z"} <= set(names):
        raise _refuse("The vertices do not have plain x, y and z.")
    return np.array([names.index(axis) for axis in "xyz"])


def _which(element: Element) -> int:
    for index, p in enumerate(element.properties):
        if len(p) == 3 and p[0] in LISTS and p[1] in INTEGERS and p[2] in INTEGERS:
            return index
    raise _refuse("The faces do not have a list of vertex indices.")


def _room(element: Element, left: int, order: str) -> None:
    """Refuse a count that the rest of the file cannot hold, before anything is laid out for it."""
    least = sum(2 if order == "ascii" else np.dtype(p[1]).itemsize for p in element.properties) or 1
    if element.count * least > left:
        raise FormatError(
            "truncated",
            f"The header announces {element.count:,} of '{element.name}', the file "
            f"has room for {left // least:,}: it is cut off, or its header lies.",
            "header",
            AGAIN,
        )


def _read_vertices(body: bytes, at: int, element: Element, order: str) -> tuple[NDArray[np.float32], int]:
    axes = _axes(element)
    if order == "ascii":
        points = np.empty((element.count, 3), np.float32)
        after, sound = _ascii_rows(np.frombuffer(body, np.uint8), at, element.count, axes, points)
        if not sound:
            raise FormatError("bad-number", "A vertex does not have plain numbers.", line_of(body, after), AGAIN)
        return points, after
    row = np.dtype([(f"p{i}", order + p[1]) for i, p in enumerate(element.properties)])
    table = np.frombuffer(body, row, element.count, at)
    with np.errstate(over="ignore"):
        points = np.stack([table[f"p{i}"] for i in axes], axis=1).astype(np.float32)
    return points, at + row.itemsize * element.count


def _read_faces(body: bytes, at: int, element: Element, order: str) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    chosen = _which(element)
    text = np.frombuffer(body, np.uint8)
    starts = np.zeros(element.count + 1, np.int64)
    if order == "ascii":
        if not all(len(p) == 2 for p in element.properties[:chosen]):
            raise _refuse("A list stands before the faces' vertex indices.")
        corners = np.empty((len(body) - at) // 2 + 1, np.int64)
        after, sound = _ascii_lists(text, at, element.count, chosen, starts, corners)
    else:
        quick = _all_triangles(body, at, element, order, chosen)
        if quick is not None:
            return np.arange(element.count + 1) * 3, quick
        plan = np.array(
            [
                [
                    len(p) == 3,
                    INTEGERS.get(p[1], 0) if len(p) == 3 else 0,
                    p[1][0] == "i",
                    np.dtype(p[-1]).itemsize,
                    p[-1][0] == "i",
                    i == chosen,
                ]
                for i, p in enumerate(element.properties)
            ],
            np.int64,
        )
        corners = np.empty((len(body) - at) // INTEGERS[element.properties[chosen][2]], np.int64)
        after, sound = _binary_lists(text, at, element.count, plan, order == ">", starts, corners)
    if not sound:
        raise FormatError(
            "truncated", "A face's list ends early or has fewer than three corners.", f"byte {after:,}", AGAIN
        )
    return starts, corners[: starts[-1]]


def _all_triangles(body: bytes, at: int, element: Element, order: str, chosen: int) -> NDArray[np.int64] | None:
    """The corners where every row turns out to be one triangle, read in one stroke; else None."""
    if sum(len(p) == 3 for p in element.properties) != 1:
        return None
    row: list[tuple[str, str] | tuple[str, str, int]] = []
    for i, p in enumerate(element.properties):
        row += [(f"n{i}", order + p[1]), (f"p{i}", order + p[2], 3)] if len(p) == 3 else [(f"p{i}", order + p[1])]
    dtype = np.dtype(row)
    if at + dtype.itemsize * element.count > len(body):
        return None
    table = np.frombuffer(body, dtype, element.count, at)
    return table[f"p{chosen}"].astype(np.int64).ravel() if (table[f"n{chosen}"] == 3).all() else None


def read_ply(handle: BinaryIO, size: int, limits: Limits = DEFAULT_LIMITS) -> Mesh:
    """Read and weld a PLY of `size` bytes, in the file's numbers.

    Raises:
        FormatError: what the header, a list or a limit refuses; ValueError is told as one.
        MeshError: it cannot be a figure.
    """
    check_size(size, limits)
    body = handle.read(size)
    order, elements, at = read_header(body)
    points = None
    for element in elements:
        _room(element, len(body) - at, order)
        if element.name == "vertex":
            points, at = _read_vertices(body, at, element, order)
        elif element.name == "face" and points is not None:
            check_triangles(element.count, limits)
            return _mesh(points, *_read_faces(body, at, element, order), limits)
        elif order == "ascii":
            text = np.frombuffer(body, np.uint8)
            for _ in range(element.count):
                at = next_line(text, at)
        elif element.scalar:
            at += element.count * sum(np.dtype(p[1]).itemsize for p in element.properties)
        else:
            raise _refuse(f"Lists of '{element.name}' stand before the faces.")
    check_triangles(0, limits)
    raise AssertionError("unreachable")


def _mesh(points: NDArray[np.float32], starts: NDArray[np.int64], corners: NDArray[np.int64], limits: Limits) -> Mesh:
    wrong = (corners < 0) | (corners >= len(points))
    if wrong.any():
        where = int(np.argmax(wrong))
        raise FormatError(
            "bad-index",
            f"A face names vertex {int(corners[where]):,}; the file has 0 to {len(points) - 1:,}.",
            f"face {int(np.searchsorted(starts, where, 'right')):,}",
            AGAIN,
        )
    finite = np.isfinite(points).all(axis=1)
    if not finite.all():
        raise FormatError(
            "not-finite",
            f"{int((~finite).sum()):,} vertices have coordinates that are not numbers.",
            f"vertex {int(np.argmin(finite)):,}",
            AGAIN,
        )
    most = int(np.diff(starts).max())
    if most > MOST_CORNERS:
        raise FormatError(
            "huge-polygon",
            f"A face has {most:,} corners; the limit is {MOST_CORNERS:,}.",
            remedy="Triangulate the figure first.",
        )
    faces, _ = triangulate(points, starts, corners)
    check_triangles(len(faces), limits)
    mesh = weld(points[faces].reshape(-1, 3))
    require_figure(mesh)
    return mesh


def write_ply(mesh: Mesh, handle: BinaryIO, order: str = "<") -> None:
    """Write a binary PLY of 32-bit floats in the given byte order."""
    name = {"<": "binary_little_endian", ">": "binary_big_endian"}[order]
    handle.write(
        f"ply\nformat {name} 1.0\nelement vertex {len(mesh.vertices)}\nproperty "
        "float x\nproperty float y\nproperty float z\n"
        f"element face {len(mesh.faces)}\nproperty list uchar int vertex_indices\nend_header\n".encode()
    )
    handle.write(mesh.vertices.astype(order + "f4").tobytes())
    rows = np.empty(len(mesh.faces), np.dtype([("n", "u1"), ("i", order + "i4", 3)]))
    rows["n"], rows["i"] = 3, mesh.faces
    handle.write(rows.tobytes())
