"""Grey PNG images of a screen, written from the band that is lit: the dark rows above and below are compressed once for
all layers.

A deflate stream may be put together from pieces that end on a byte (RFC 1951, an empty stored block), and the checksum
of a whole follows from those of its parts (RFC 1950's Adler-32), so a layer costs what its band costs.
"""

from __future__ import annotations

import struct
import zlib

import numpy as np
from isal import isal_zlib
from numpy.typing import NDArray

U1 = NDArray[np.uint8]
MAGIC = b"\x89PNG\r\n\x1a\n"
PRIME = 65521
"""Adler-32's modulus."""
LEVEL = 1


def _chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def _deflated(data: bytes) -> bytes:
    """Raw deflate blocks that end on a byte and are not the last."""
    packer = isal_zlib.compressobj(LEVEL, isal_zlib.DEFLATED, -15)
    return bytes(packer.compress(data) + packer.flush(isal_zlib.Z_SYNC_FLUSH))


def joined_adler(first: int, second: int, length: int) -> int:
    """Adler-32 of two pieces in a row from those of both and the length of the second.

    >>> joined_adler(zlib.adler32(b"reed "), zlib.adler32(b"warden"), 6) == zlib.adler32(b"reed warden")
    True
    """
    a1, b1, a2, b2 = first & 0xFFFF, first >> 16, second & 0xFFFF, second >> 16
    a = (a1 + a2 - 1) % PRIME
    b = (b1 + b2 + length * (a1 - 1)) % PRIME
    return b << 16 | a


def _dark_adler(length: int) -> int:
    """Adler-32 of so many zeros: a stays 1, b counts them."""
    return (length % PRIME) << 16 | 1


class PngWriter:
    """Images of one size whose light lies in one band of rows."""

    def __init__(self, columns: int, rows: int, first: int, band: int) -> None:
        self.columns, self.rows = columns, rows
        above, below = first * (columns + 1), (rows - first - band) * (columns + 1)
        self._above, self._below = _deflated(bytes(above)), _deflated(bytes(below))
        self._lengths = (above, band * (columns + 1), below)
        self._lines = np.zeros((band, columns + 1), np.uint8)
        head = struct.pack(">IIBBBBB", columns, rows, 8, 0, 0, 0, 0)
        self._head = MAGIC + _chunk(b"IHDR", head)

    def image(self, grey: U1) -> bytes:
        """The PNG of a band (rows, columns)."""
        # Each row begins with its filter, 0 for none; isa-l's first level packs the plain bytes.
        self._lines[:, 1:] = grey
        lit = self._lines.tobytes()
        above, band, below = self._lengths
        check = joined_adler(_dark_adler(above), isal_zlib.adler32(lit), band)
        check = joined_adler(check, _dark_adler(below), below)
        # The last block is an empty one that says so.
        body = b"\x78\x01" + self._above + _deflated(lit) + self._below + b"\x03\x00" + struct.pack(">I", check)
        return self._head + _chunk(b"IDAT", body) + _chunk(b"IEND", b"")
