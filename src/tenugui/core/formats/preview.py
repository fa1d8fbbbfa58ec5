"""A mesh in the compact form that the page draws: 16-bit positions in a box, 32-bit indices."""

from __future__ import annotations

import struct

import numpy as np
from numpy.typing import NDArray

from ..mesh import Mesh

MAGIC = b"TNG1"
VALUES = b"TNV1"
LABELS = b"TNL1"
PREVIEW_FACES = 120_000
SIGHT_FACES = 60_000
"""Of the first sight, which is turned until the preview has been made."""


def pack_mesh(mesh: Mesh) -> bytes:
    """Magic, vertex and face counts (uint32), lower corner and extents (6 float32), positions (n, 3) uint16 padded to 4
    bytes, indices (m, 3) uint32.
    """
    lower, size = mesh.lower, np.maximum(mesh.size, 1e-9)
    positions = np.round((mesh.vertices - lower) / size * 65535).astype("<u2").tobytes()
    head = MAGIC + struct.pack("<II6f", len(mesh.vertices), len(mesh.faces), *lower, *size)
    return head + positions + b"\0" * (-len(positions) % 4) + mesh.faces.astype("<u4").tobytes()


def pack_values(values: NDArray[np.float64]) -> bytes:
    """Magic, count (uint32), one float32 a vertex; what is not finite becomes 1e9."""
    return VALUES + struct.pack("<I", len(values)) + np.where(np.isfinite(values), values, 1e9).astype("<f4").tobytes()


def unpack_values(data: bytes) -> NDArray[np.float64]:
    """The inverse of `pack_values`, to 32 bits.

    Raises:
        ValueError: it is none.
    """
    if data[:4] != VALUES:
        raise ValueError("not packed values")
    return np.frombuffer(data, "<f4", struct.unpack_from("<I", data, 4)[0], 8).astype(np.float64)


def pack_labels(labels: NDArray[np.uint8]) -> bytes:
    """Magic, count (uint32), one byte a face."""
    return LABELS + struct.pack("<I", len(labels)) + labels.astype(np.uint8).tobytes()


def unpack_labels(data: bytes) -> NDArray[np.uint8]:
    """The inverse of `pack_labels`.

    Raises:
        ValueError: it is none.
    """
    if data[:4] != LABELS:
        raise ValueError("not packed labels")
    return np.frombuffer(data, np.uint8, struct.unpack_from("<I", data, 4)[0], 8)


def unpack_mesh(data: bytes) -> Mesh:
    """The inverse of `pack_mesh`, exact to 1/65535 of the extents.

    Raises:
        ValueError: it is none.
    """
    if data[:4] != MAGIC:
        raise ValueError("not a packed mesh")
    vertices, faces, *box = struct.unpack_from("<II6f", data, 4)
    start = 36
    q = np.frombuffer(data, "<u2", vertices * 3, start).reshape(-1, 3)
    at = start + vertices * 6 + (-vertices * 6 % 4)
    return Mesh(
        np.array(box[:3]) + q / 65535 * np.array(box[3:]),
        np.frombuffer(data, "<u4", faces * 3, at).reshape(-1, 3).astype(np.int32),
    )
