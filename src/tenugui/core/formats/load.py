"""One door for every format: by name and by content, never by name alone."""

from __future__ import annotations

import os
from typing import BinaryIO

from ..mesh import Mesh
from .problems import DEFAULT_LIMITS, FormatError, Limits
from .stl import check_header, read_stl
from .threemf import read_3mf


def refuse_early(head: bytes, size: int, limits: Limits = DEFAULT_LIMITS) -> None:
    """Refuse a file by its first bytes and announced size, before the rest is sent."""
    if head[:2] != b"PK":
        check_header(head, size, limits)
    elif size > limits.file_bytes:
        raise FormatError(
            "too-large",
            f"The file is {size / 2**20:.0f} MB; the limit is {limits.file_bytes / 2**20:.0f} MB.",
            remedy="Decimate the figure first.",
        )


def load(handle: BinaryIO, limits: Limits = DEFAULT_LIMITS) -> Mesh:
    """Read STL or 3MF from a seekable handle into one welded mesh in the file's frame, in mm for 3MF, unitless for STL."""
    size = handle.seek(0, os.SEEK_END)
    handle.seek(0)
    magic = handle.read(2)
    handle.seek(0)
    if magic == b"PK":
        return Mesh.joined(list(read_3mf(handle, size, limits).values()))
    return read_stl(handle, size, limits)
