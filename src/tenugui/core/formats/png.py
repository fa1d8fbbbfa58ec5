"""Grey PNG images of a screen, from the band that is lit and its rows' spans, packed in one compiled pass."""

from __future__ import annotations

import struct
import zlib

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .deflate import begin, end, more

U1 = NDArray[np.uint8]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
MAGIC = b"\x89PNG\r\n\x1a\n"


def _chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


@njit()
def _packed(start: I8, at: I4, value: U1, columns: int, above: int, below: int, state: I8, out: U1) -> int:
    """A zlib stream of whole rows, each after a filter of 0: `above` and `below` dark ones around those that are told
    (see `PngWriter.image`). Returns its length.
    """
    begin(state, out)
    more(state, out, 0, above * (columns + 1))
    for j in range(len(start) - 1):
        more(state, out, 0, 1)
        since, grey = 0, 0
        for k in range(start[j], start[j + 1]):
            if at[k] > since:
                more(state, out, grey, at[k] - since)
            since, grey = at[k], value[k]
        if columns > since:
            more(state, out, grey, columns - since)
    more(state, out, 0, below * (columns + 1))
    return end(state, out)


class PngWriter:
    """Images of one size whose light lies in one band of rows."""

    def __init__(self, columns: int, rows: int, first: int, band: int) -> None:
        self._columns, self._around = columns, (first, rows - first - band)
        self._state, self._most = np.zeros(7, np.int64), rows * (columns + 1) // 500 + 1024
        self._out = np.empty(0, np.uint8)
        self._head = MAGIC + _chunk(b"IHDR", struct.pack(">IIBBBBB", columns, rows, 8, 0, 0, 0, 0))

    def image(self, start: I8, at: I4, value: U1) -> bytes:
        """The PNG of a band whose row j is dark up to at[start[j]] and from at[k] on value[k]."""
        # A stretch takes its literal, its last copy, two literals more, and three bits for every LONGEST.
        most = self._most + 2 * len(start) * self._columns // 500 + 8 * (int(start[-1]) + 2 * len(start))
        if len(self._out) < most:
            self._out = np.empty(2 * most, np.uint8)
        size = _packed(start, at, value, self._columns, *self._around, self._state, self._out)
        return self._head + _chunk(b"IDAT", self._out[:size].tobytes()) + _chunk(b"IEND", b"")
