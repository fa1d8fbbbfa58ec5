"""Welding: corners at exactly the same position become one vertex.

An open-addressing hash over the three 32-bit patterns, linear in the corners; positions are compared exactly, so a good
mesh is never changed in shape.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .mesh import Mesh


@njit()
def _weld(
    bits: NDArray[np.uint32], table: NDArray[np.int32], index: NDArray[np.int32], first: NDArray[np.int32]
) -> int:
    mask = np.uint64(len(table) - 1)
    count = 0
    for i in range(bits.shape[0]):
        a, b, c = bits[i, 0], bits[i, 1], bits[i, 2]
        key = (
            np.uint64(a) * np.uint64(0x9E3779B97F4A7C15)
            ^ np.uint64(b) * np.uint64(0xC2B2AE3D27D4EB4F)
            ^ np.uint64(c) * np.uint64(0x165667B19E3779F9)
        )
        key ^= key >> np.uint64(29)
        key *= np.uint64(0xBF58476D1CE4E5B9)
        slot = (key ^ (key >> np.uint64(32))) & mask
        while True:
            known = table[slot]
            if known < 0:
                table[slot] = count
                first[count] = i
                index[i] = count
                count += 1
                break
            j = first[known]
            if bits[j, 0] == a and bits[j, 1] == b and bits[j, 2] == c:
                index[i] = known
                break
            slot = (slot + np.uint64(1)) & mask
    return count


def weld(corners: NDArray[np.float32]) -> Mesh:
    """Corners (3m, 3) float32 in face order -> a `Mesh` with shared vertices, in order of first use. O(m).

    >>> weld(np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 0], [0, 1, 0], [-1, 0, 0]])).faces.tolist()
    [[0, 1, 2], [0, 2, 3]]
    """
    clean = np.ascontiguousarray(corners, np.float32) + np.float32(0)  # makes -0.0 and 0.0 the same bits
    size = 1 << max(4, int(np.ceil(np.log2(max(1, len(clean))))))
    table = np.full(size, -1, np.int32)
    index = np.empty(len(clean), np.int32)
    first = np.empty(len(clean), np.int32)
    count = _weld(clean.view(np.uint32), table, index, first)
    return Mesh(clean[first[:count]].astype(np.float64), index.reshape(-1, 3))
