"""Deflate (RFC 1951) for pictures that are nearly all stretches of one value: written stretch by stretch, so that a
layer costs what its edges cost and not what its pixels do.

One code for all layers, in which 258 bytes of a stretch take three bits. Any reader reads it; `inflate.py` does so by
the same stretches.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit

U1 = NDArray[np.uint8]
I8 = NDArray[np.int64]
PRIME = 65521
"""Adler-32's modulus (RFC 1950)."""
LONGEST, END = 258, 256
BASE = np.array([3, 4, 5, 6, 7, 8, 9, 10, 11, 13, 15, 17, 19, 23, 27, 31, 35, 43, 51, 59, 67, 83, 99, 115, 131, 163,
                 195, 227, 258])  # fmt: skip
EXTRA = np.array([0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3, 4, 4, 4, 4, 5, 5, 5, 5, 0])
FAR = np.array([1, 2, 3, 4, 5, 7, 9, 13, 17, 25, 33, 49, 65, 97, 129, 193, 257, 385, 513, 769, 1025, 1537, 2049, 3073,
                4097, 6145, 8193, 12289, 16385, 24577])  # fmt: skip
FAR_EXTRA = np.array([max(0, (k >> 1) - 1) for k in range(30)])
"""Lengths and distances that symbols stand for, and how many bits say more (RFC 1951, 3.2.5)."""
ORDER = np.array([16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15])
"""In which code lengths are told (RFC 1951, 3.2.7)."""


def canonical(lengths: I8) -> I8:
    """The code words (n,) of these lengths, their bits turned round as a stream bears them (RFC 1951, 3.2.2)."""
    words, word = np.zeros(len(lengths), np.int64), 0
    for size in range(1, int(lengths.max()) + 1):
        for k in np.flatnonzero(lengths == size):
            words[k] = int(f"{word:0{size}b}"[::-1], 2)
            word += 1
        word <<= 1
    return words


def _lengths() -> I8:
    """Bits of each symbol: the longest copy 2, dark and lit 4, other copies 6, greys 10 and 11; a whole code."""
    lengths = np.full(286, 11, np.int64)
    lengths[257:] = 6
    lengths[1:130] = 10
    lengths[[0, 255]] = 4
    lengths[285] = 2
    return lengths


LENGTHS = _lengths()
WORDS = canonical(LENGTHS)


def _copies() -> tuple[I8, I8]:
    """The bits of a copy of every length up to LONGEST from right before, and how many: symbol, what says more of its
    length, and the one bit of the only distance.
    """
    words, bits = np.zeros(LONGEST + 1, np.int64), np.zeros(LONGEST + 1, np.int64)
    for length in range(3, LONGEST + 1):
        k = int(np.searchsorted(BASE, length, side="right")) - 1
        size = int(LENGTHS[257 + k])
        words[length] = WORDS[257 + k] | (length - BASE[k]) << size
        bits[length] = size + EXTRA[k] + 1
    return words, bits


COPY, COPY_BITS = _copies()


def _head() -> tuple[I8, I8]:
    """What a stream begins with, as words and how many bits of each: one last dynamic block, and its code."""
    told = {10: 1, 11: 2, 6: 3, 4: 4, 2: 5, 1: 5}
    sizes = np.zeros(19, np.int64)
    for length, size in told.items():
        sizes[length] = size
    words = canonical(sizes)
    last = max(k for k in range(19) if sizes[ORDER[k]])
    parts = [(1, 1), (2, 2), (len(LENGTHS) - 257, 5), (0, 5), (last - 3, 4)]
    parts += [(int(sizes[k]), 3) for k in ORDER[: last + 1]]
    parts += [(int(words[k]), told[int(k)]) for k in (*LENGTHS, 1)]
    return np.array([w for w, _ in parts]), np.array([n for _, n in parts])


HEAD, HEAD_BITS = _head()
ACC, BITS, AT, VALUE, COUNT, A, B = range(7)
"""Of a stream that is being written: bits that wait and how many, the next byte, the stretch that grows, and the two
sums of Adler-32.
"""


@njit()
def _bits(state: I8, out: U1, word: int, bits: int) -> None:
    state[ACC] |= word << state[BITS]
    state[BITS] += bits
    while state[BITS] >= 8:
        out[state[AT]] = state[ACC] & 255
        state[ACC] >>= 8
        state[BITS] -= 8
        state[AT] += 1


@njit()
def begin(state: I8, out: U1) -> None:
    """Begin a zlib stream."""
    state[:] = 0
    out[0], out[1] = 0x78, 0x01
    state[AT], state[A], state[VALUE] = 2, 1, -1
    for k in range(len(HEAD)):
        _bits(state, out, HEAD[k], HEAD_BITS[k])


@njit()
def _put(state: I8, out: U1) -> None:
    value, count = state[VALUE], state[COUNT]
    if count <= 0:
        return
    # n bytes of v add n v to the first sum, and the first sum after each of them to the second.
    a, b = state[A], state[B]
    many = count % PRIME
    half = (count * (count + 1) // 2) % PRIME
    state[B] = (b + many * a + value * half) % PRIME
    state[A] = (a + many * value) % PRIME
    _bits(state, out, WORDS[value], LENGTHS[value])
    rest = count - 1
    while rest >= 3:
        length = min(rest, LONGEST)
        _bits(state, out, COPY[length], COPY_BITS[length])
        rest -= length
    for _ in range(rest):
        _bits(state, out, WORDS[value], LENGTHS[value])


@njit()
def more(state: I8, out: U1, value: int, count: int) -> None:
    """So many more bytes of a value."""
    if value == state[VALUE]:
        state[COUNT] += count
        return
    _put(state, out)
    state[VALUE], state[COUNT] = value, count


@njit()
def end(state: I8, out: U1) -> int:
    """End the stream; how many bytes it has."""
    _put(state, out)
    _bits(state, out, WORDS[END], LENGTHS[END])
    if state[BITS]:
        _bits(state, out, 0, 8 - state[BITS])
    for part in (state[B] >> 8, state[B] & 255, state[A] >> 8, state[A] & 255):
        out[state[AT]] = part
        state[AT] += 1
    return int(state[AT])
