"""A whole mesh as two arrays: how parts and repaired copies are kept. Exact for the 32-bit floats that every format's
reader gives.
"""

from __future__ import annotations

import struct

import numpy as np

from ..mesh import Mesh
from .problems import AGAIN, FormatError

MAGIC = b"TNM1"


def pack_whole(mesh: Mesh) -> bytes:
    """Magic, vertex and face counts (uint32), vertices (n, 3) float32, faces (m, 3) int32; little-endian."""
    head = MAGIC + struct.pack("<II", len(mesh.vertices), len(mesh.faces))
    return head + mesh.vertices.astype("<f4").tobytes() + mesh.faces.astype("<i4").tobytes()


def read_whole(body: bytes) -> Mesh:
    """The inverse of `pack_whole`. Raises `FormatError`."""
    if len(body) < 12 or body[:4] != MAGIC:
        raise FormatError("bad-packed", "This is not a packed mesh.", "byte 0", AGAIN)
    vertices, faces = struct.unpack_from("<II", body, 4)
    if len(body) != 12 + 12 * (vertices + faces):
        raise FormatError(
            "truncated",
            f"The mesh announces {12 + 12 * (vertices + faces):,} bytes; there are {len(body):,}.",
            remedy=AGAIN,
        )
    points = np.frombuffer(body, "<f4", 3 * vertices, 12).reshape(-1, 3).astype(np.float64)
    corners = np.frombuffer(body, "<i4", 3 * faces, 12 + 12 * vertices).reshape(-1, 3).astype(np.int32)
    if not faces or corners.min() < 0 or corners.max() >= vertices or not np.isfinite(points).all():
        raise FormatError("bad-packed", "The packed mesh does not hold together.", remedy=AGAIN)
    return Mesh(points, corners)
