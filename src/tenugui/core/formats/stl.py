"""STL, binary and ASCII, read and written.

Binary: 80 bytes of header, a uint32 count, then 50 bytes a triangle (normal, three corners as little-endian float32,
    two attribute bytes). The count and the file's length must agree. A header that begins with `solid` proves nothing:
    a file is ASCII only when its length does not fit the binary count.
"""

from __future__ import annotations

import struct
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..mesh import Mesh, require_figure, weld
from .problems import AGAIN, DEFAULT_LIMITS, FormatError, Limits, check_size, check_triangles
from .text import number

RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", 9), ("attribute", "<u2")])


def check_header(head: bytes, size: int, limits: Limits = DEFAULT_LIMITS) -> int | None:
    """Judge an STL by its first 84 or more bytes and its length: the binary triangle count, or None for ASCII. Refuses
    the rest.

    Raises:
        FormatError: `no-triangles`, `not-stl`, `truncated`, `header-lies`.
    """
    if size > limits.file_bytes and (len(head) < 84 or struct.unpack("<I", head[80:84])[0] == 0):
        raise FormatError(
            "no-triangles",
            f"The file is {size / 2**20:.0f} MB long, yet its header announces no triangles.",
            "byte 80",
            AGAIN,
        )
    check_size(size, limits)
    start = head.lstrip()[:16].lower()
    text = start.startswith((b"solid", b"facet")) and b"\0" not in head
    if size >= 84 and len(head) >= 84:
        count = int(struct.unpack("<I", head[80:84])[0])
        if size == 84 + 50 * count:
            if count == 0:
                raise FormatError("no-triangles", "The file's header announces no triangles.", "byte 80", AGAIN)
            check_triangles(count, limits)
            return count
        if not text:
            room = (size - 84) // 50
            if b"\0" not in head and head.isascii():
                raise FormatError(
                    "not-stl",
                    "This is a text file, not an STL: it does not begin with 'solid'.",
                    "byte 0",
                    "Choose the figure's mesh file.",
                )
            if 84 + 50 * count > size:
                raise FormatError(
                    "truncated",
                    f"The header announces {count:,} triangles, the file has "
                    f"room for {room:,}: it is cut off, or its header lies.",
                    f"byte {size}",
                    AGAIN,
                )
            raise FormatError(
                "header-lies",
                f"The header announces {count:,} triangles, yet the file has room for {room:,}.",
                "byte 80",
                AGAIN,
            )
    if not text:
        raise FormatError(
            "not-stl",
            f"This is not an STL file: {size} bytes that neither begin with 'solid' nor fit a binary header.",
            "byte 0",
            "Choose the figure's mesh file.",
        )
    return None


@njit()
def _ascii(text: NDArray[np.uint8], out: NDArray[np.float32]) -> tuple[int, int]:
    """Corners read, and the byte of the first fault or -1. `vertex` is the only word that carries numbers we use."""
    n = len(text)
    count = 0
    at = 0
    while at < n - 6:
        c = text[at] | 32
        fits = (
            c == 118
            and (text[at + 1] | 32) == 101
            and (text[at + 2] | 32) == 114
            and (text[at + 3] | 32) == 116
            and (text[at + 4] | 32) == 101
            and (text[at + 5] | 32) == 120
        )
        if fits and text[at + 6] <= 32 and (at == 0 or text[at - 1] <= 32):
            here = at
            at += 6
            if count >= len(out):
                return count, here
            for axis in range(3):
                value, at = number(text, at)
                if at < 0:
                    return count, here
                out[count, axis] = value
            count += 1
        elif text[at] <= 32 or (at > 0 and text[at - 1] > 32):
            at += 1
        else:
            # Skip the rest of a line that carries no corner: a solid's name may hold any word.
            while at < n and text[at] != 10 and text[at] != 13:
                at += 1
    return count, -1


def read_stl(handle: BinaryIO, size: int, limits: Limits = DEFAULT_LIMITS) -> Mesh:
    """Read and weld an STL of `size` bytes. Memory is bounded by the file's size. Raises `FormatError` or
    `MeshError`.
    """
    head = handle.read(min(size, 1024))
    count = check_header(head, size, limits)
    body = head + handle.read(size - len(head))
    if len(body) != size:
        raise FormatError(
            "truncated", f"The file ends after {len(body):,} of {size:,} bytes.", f"byte {len(body)}", AGAIN
        )
    if count is not None:
        corners = np.ascontiguousarray(np.frombuffer(body, RECORD, count, 84)["corners"]).reshape(-1, 3)
    else:
        corners = _read_ascii(body, limits)
    finite = np.isfinite(corners).all(axis=1)
    if not finite.all():
        where = int(np.argmin(finite))
        raise FormatError(
            "not-finite",
            f"Coordinates that are not numbers: {int((~finite).sum()):,} corners.",
            f"triangle {where // 3 + 1}",
            AGAIN,
        )
    mesh = weld(corners)
    require_figure(mesh)
    return mesh


def _read_ascii(body: bytes, limits: Limits) -> NDArray[np.float32]:
    corners = body.lower().count(b"vertex")
    if corners == 0:
        raise FormatError("no-triangles", "The file begins like an ASCII STL but holds no triangles.", remedy=AGAIN)
    check_triangles(-(-corners // 3), limits)
    out = np.empty((corners, 3), np.float32)
    count, fault = _ascii(np.frombuffer(body, np.uint8), out)
    if fault >= 0:
        line = body.count(b"\n", 0, fault) + 1
        raise FormatError("bad-number", "A corner does not have three plain numbers.", f"line {line}", AGAIN)
    if (
        count % 3
        or count == 0
        or (b"endsolid" not in body[-4096:].lower() and not body.lstrip()[:5].lower() == b"facet")
    ):
        raise FormatError(
            "truncated",
            f"The text ends within a triangle or without 'endsolid', after {count // 3:,} whole triangles.",
            f"line {body.count(bytes([10])) + 1}",
            AGAIN,
        )
    return out[:count]


def write_stl(mesh: Mesh, handle: BinaryIO, name: str = "tenugui") -> None:
    """Write a binary STL, normals computed."""
    record = np.zeros(len(mesh.faces), RECORD)
    record["normal"] = mesh.normals_and_areas()[0]
    record["corners"] = mesh.corners().reshape(-1, 9)
    handle.write(name.encode("ascii", "replace")[:79].ljust(80, b" ").replace(b"solid", b"shape"))
    handle.write(struct.pack("<I", len(record)))
    handle.write(record.tobytes())
