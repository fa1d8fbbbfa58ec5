"""Rows of numbers as text, by a compiled loop: a file of outlines has millions of them, and Python would write each for
itself.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit

U1 = NDArray[np.uint8]
I8 = NDArray[np.int64]
LONGEST = 22
"""No 64-bit number with its sign and point is longer."""


@njit()
def _number(value: int, decimals: int, out: U1, at: int) -> int:
    """A whole number of 10**-decimals, without what a reader does not need; returns where it ends."""
    if value < 0:
        out[at] = 45  # -
        at += 1
        value = -value
    while decimals > 0 and value % 10 == 0:
        value //= 10
        decimals -= 1
    digits, rest = 1, value // 10
    while rest > 0:
        digits += 1
        rest //= 10
    digits = max(digits, decimals + 1)
    end = at + digits + (decimals > 0)
    for k in range(digits):
        if k == decimals and decimals > 0:
            end -= 1
            out[end] = 46  # .
        end -= 1
        out[end] = 48 + value % 10
        value //= 10
    return at + digits + (decimals > 0)


@njit()
def _rows(values: I8, between: U1, starts: I8, decimals: int, out: U1) -> int:
    """Each row as words and numbers in turn: word k of `between` lies from starts[k] to starts[k + 1]."""
    at = 0
    for i in range(len(values)):
        for k in range(values.shape[1] + 1):
            for b in range(starts[k], starts[k + 1]):
                out[at] = between[b]
                at += 1
            if k < values.shape[1]:
                at = _number(values[i, k], decimals, out, at)
    return at


def rows_of(values: I8, between: Sequence[str], decimals: int = 0) -> bytes:
    """Rows (n, k) of whole numbers of 10**-decimals, with k + 1 words around and between each row's numbers.

    >>> rows_of(np.array([[-12050, 7], [0, 100000]]), ("<", ", ", "> "), 4)
    b'<-1.205, 0.0007> <0, 10> '
    """
    words = [word.encode() for word in between]
    starts = np.cumsum([0, *map(len, words)]).astype(np.int64)
    out = np.empty(len(values) * (int(starts[-1]) + LONGEST * values.shape[1]), np.uint8)
    joined = np.frombuffer(b"".join(words), np.uint8)
    return out[: int(_rows(np.ascontiguousarray(values, np.int64), joined, starts, decimals, out))].tobytes()
