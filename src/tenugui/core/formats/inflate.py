"""Deflate streams (RFC 1951) read by their stretches: checked to the last byte and summed, without a picture in memory.

Whatever code a stream brings is read: stored, fixed and dynamic blocks, copies from near and far.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from .deflate import ACC, AT, BASE, BITS, END, EXTRA, FAR, FAR_EXTRA, LONGEST, ORDER, PRIME, A, B

U1 = NDArray[np.uint8]
I8 = NDArray[np.int64]
GOOD, CUT, BAD, LONG, FILTERED, SHORT, CHECK, WINDOWED = range(8)
"""How reading ends: well; cut off; no deflate; more bytes than there are pixels, or fewer; a row with a filter; another
checksum; or not at all, for want of a window.
"""
WINDOW = 1 << 15
QUICK = 10
"""Code words of so many bits are looked up at once."""


@njit()
def _table(lengths: I8, first: int, many: int, quick: I8, count: I8, symbols: I8) -> bool:
    """Read a code: `quick` (2**QUICK,) tells symbol * 16 + bits of short words; `count` (16,) and `symbols` in
    canonical order serve for longer ones. False for no code.
    """
    count[:] = 0
    for k in range(many):
        count[lengths[first + k]] += 1
    count[0] = 0
    left = 1
    for size in range(1, 16):
        left = 2 * left - count[size]
        if left < 0:
            return False
    place, total = np.zeros(17, np.int64), 0
    for size in range(1, 16):
        place[size + 1] = place[size] + count[size]
        total += count[size]
    if left > 0 and total > 1:
        return False
    quick[:] = 0
    word = np.zeros(17, np.int64)
    for size in range(1, 16):
        word[size + 1] = (word[size] + count[size]) << 1
    for k in range(many):
        size = lengths[first + k]
        if size == 0:
            continue
        symbols[place[size]] = k
        place[size] += 1
        if size <= QUICK:
            turned, rest = 0, word[size]
            for _ in range(size):
                turned, rest = turned << 1 | rest & 1, rest >> 1
            for at in range(turned, 1 << QUICK, 1 << size):
                quick[at] = k * 16 + size
        word[size] += 1
    return True


@njit()
def _need(state: I8, data: U1, bits: int) -> bool:
    while state[BITS] < bits:
        if state[AT] >= len(data):
            return False
        state[ACC] |= int(data[state[AT]]) << state[BITS]
        state[BITS] += 8
        state[AT] += 1
    return True


@njit()
def _take(state: I8, data: U1, bits: int) -> int:
    """The next bits as a number; -1 where the stream ends."""
    if bits == 0:
        return 0
    if not _need(state, data, bits):
        return -1
    value = state[ACC] & ((1 << bits) - 1)
    state[ACC] >>= bits
    state[BITS] -= bits
    return int(value)


@njit()
def _symbol(state: I8, data: U1, quick: I8, count: I8, symbols: I8) -> int:
    """The next symbol; -1 where the stream ends or bears no word of the code."""
    _need(state, data, 15)
    known = quick[state[ACC] & ((1 << QUICK) - 1)]
    if known and (known & 15) <= state[BITS]:
        state[ACC] >>= known & 15
        state[BITS] -= known & 15
        return int(known >> 4)
    word, first, index = 0, 0, 0
    for size in range(1, 16):
        bit = _take(state, data, 1)
        if bit < 0:
            return -1
        word |= bit
        if word - first < count[size]:
            return int(symbols[index + word - first])
        index += count[size]
        first = (first + count[size]) << 1
        word <<= 1
    return -1


@njit()
def _codes(state: I8, data: U1, lengths: I8, quick: I8, count: I8, symbols: I8) -> int:
    """Read the code lengths of a dynamic block into `lengths`; how many are of literals, -1 for no code."""
    many, far, told = _take(state, data, 5), _take(state, data, 5), _take(state, data, 4)
    if many < 0 or far < 0 or told < 0 or many > 29 or far > 29:
        return -1
    many, far = many + 257, far + 1
    lengths[:] = 0
    for k in range(told + 4):
        size = _take(state, data, 3)
        if size < 0:
            return -1
        lengths[ORDER[k]] = size
    if not _table(lengths, 0, 19, quick, count, symbols):
        return -1
    k, before = 0, 0
    all_of = np.zeros(320, np.int64)
    while k < many + far:
        symbol = _symbol(state, data, quick, count, symbols)
        if symbol < 0:
            return -1
        times = 1
        if symbol < 16:
            before = symbol
        elif symbol == 16:
            if k == 0:
                return -1
            times = 3 + _take(state, data, 2)
        elif symbol == 17:
            before, times = 0, 3 + _take(state, data, 3)
        else:
            before, times = 0, 11 + _take(state, data, 7)
        if k + times > many + far or state[BITS] < 0:
            return -1
        for _ in range(times):
            all_of[k] = before
            k += 1
    lengths[:] = 0
    lengths[:many] = all_of[:many]
    lengths[288 : 288 + far] = all_of[many : many + far]
    return many


VALUE_AT, COUNT_AT, LENGTH, SUM = range(7, 11)
"""Of a stream that is read, beside the bits and the two sums: the stretch that goes on, how many bytes came before it,
and what they sum to.
"""


@njit()
def _account(state: I8, wide: int) -> bool:
    """Take the stretch that has ended into both sums; False where it sets a row's filter."""
    value, count, place = state[VALUE_AT], state[COUNT_AT], state[LENGTH] % wide
    if value and count and (place == 0 or place + count > wide):
        return False
    state[SUM] += value * count
    many, half = count % PRIME, (count * (count + 1) // 2) % PRIME
    state[B] = (state[B] + many * state[A] + value * half) % PRIME
    state[A] = (state[A] + many * value) % PRIME
    state[LENGTH] += count
    state[COUNT_AT] = 0
    return True


@njit()
def _block(state: I8, data: U1, room: tuple[I8, I8, I8, I8, I8, I8, I8]) -> tuple[int, int, bool]:
    """Begin a block: how that ended, how many bytes it stores (-1: it is in a code), and whether it is the last."""
    quick, count, symbols, far_quick, far_count, far_symbols, lengths = room
    last, kind = _take(state, data, 1), _take(state, data, 2)
    if last < 0 or kind < 0:
        return CUT, -1, True
    if kind == 3:
        return BAD, -1, True
    if kind == 0:
        _take(state, data, state[BITS] & 7)
        stored, turned = _take(state, data, 16), _take(state, data, 16)
        if stored < 0 or turned < 0:
            return CUT, -1, True
        return (GOOD if stored ^ turned == 0xFFFF else BAD), stored, last == 1
    if kind == 1:
        lengths[:144], lengths[144:256], lengths[256:280], lengths[280:288] = 8, 9, 7, 8
        lengths[288:] = 5
    elif _codes(state, data, lengths, quick, count, symbols) < 0:
        return BAD, -1, True
    whole = _table(lengths, 0, 288, quick, count, symbols) and _table(
        lengths, 288, 32, far_quick, far_count, far_symbols
    )
    return (GOOD if whole else BAD), -1, last == 1


@njit()
def _stretch(quick: I8, far_quick: I8) -> tuple[int, int]:
    """The bits of the longest copy of what was last, and how many; (0, 0) where the code has no short words for it."""
    for k in range(len(quick)):
        if quick[k] and quick[k] >> 4 == 285:
            if far_quick[0] and far_quick[0] >> 4 == 0:
                return k, (quick[k] & 15) + (far_quick[0] & 15)
            return 0, 0
    return 0, 0


@njit()
def _stretches(state: I8, data: U1, word: int, bits: int) -> int:
    """Take all copies of the longest length that follow each other; how many."""
    acc, held, at, many = state[ACC], state[BITS], state[AT], 0
    mask = (np.int64(1) << bits) - 1
    while True:
        while held <= 48 and at < len(data):
            acc |= int(data[at]) << held
            held += 8
            at += 1
        before = many
        while held >= bits and acc & mask == word:
            acc >>= bits
            held -= bits
            many += 1
        if many == before or held >= bits:
            break
    state[ACC], state[BITS], state[AT] = acc, held, at
    return many


@njit()
def _read(data: U1, wide: int, size: int, window: U1) -> tuple[int, int]:
    """See `rows_of`. Without a `window` it can only go on with what was last, which is all that pictures of stretches
    ask: WINDOWED where more is asked.
    """
    state = np.zeros(11, np.int64)
    room = (
        np.zeros(1 << QUICK, np.int64),
        np.zeros(16, np.int64),
        np.zeros(288, np.int64),
        np.zeros(1 << QUICK, np.int64),
        np.zeros(16, np.int64),
        np.zeros(32, np.int64),
        np.zeros(320, np.int64),
    )
    quick, count, symbols, far_quick, far_count, far_symbols, _ = room
    if len(data) < 6 or (data[0] * 256 + data[1]) % 31 or data[0] & 15 != 8 or data[1] & 32:
        return BAD, 0
    state[AT], state[A] = 2, 1
    length, keeps, last = 0, len(window) > 0, False
    while not last:
        ended, stored, last = _block(state, data, room)
        if ended != GOOD:
            return ended, state[SUM]
        word, bits = _stretch(quick, far_quick) if stored < 0 else (0, 0)
        while stored != 0:
            value, copies, back = -1, 1, 0
            if stored > 0:
                stored -= 1
                value = _take(state, data, 8)
                if value < 0:
                    return CUT, state[SUM]
            else:
                if bits and length and not keeps:
                    many = LONGEST * _stretches(state, data, word, bits)
                    state[COUNT_AT] += many
                    length += many
                symbol = _symbol(state, data, quick, count, symbols)
                if symbol == END:
                    break
                if symbol < 0:
                    return (CUT if state[AT] >= len(data) else BAD), state[SUM]
                value = symbol
                if symbol > END:
                    if symbol > 285:
                        return BAD, state[SUM]
                    copies = BASE[symbol - 257] + _take(state, data, EXTRA[symbol - 257])
                    place = _symbol(state, data, far_quick, far_count, far_symbols)
                    if place < 0 or place > 29:
                        return BAD, state[SUM]
                    back = FAR[place] + _take(state, data, FAR_EXTRA[place])
                    if back > length or copies < 3 or back < 1:
                        return BAD, state[SUM]
                    value = state[VALUE_AT] if back == 1 else -1
                    if back > 1 and not keeps:
                        return WINDOWED, 0
            if length + copies > size:
                return LONG, state[SUM]
            times = copies if value < 0 else 1
            for _ in range(times):
                byte, many = value, copies
                if value < 0:
                    byte, many = int(window[(length - back) & (WINDOW - 1)]), 1
                if byte != state[VALUE_AT]:
                    if not _account(state, wide):
                        return FILTERED, state[SUM]
                    state[VALUE_AT] = byte
                state[COUNT_AT] += many
                if keeps:
                    for k in range(many):
                        window[(length + k) & (WINDOW - 1)] = byte
                length += many
    if not _account(state, wide):
        return FILTERED, state[SUM]
    if length != size:
        return (LONG if length > size else SHORT), state[SUM]
    until = state[AT] - state[BITS] // 8
    if until + 4 > len(data):
        return CUT, state[SUM]
    told = 0
    for k in range(4):
        told = told << 8 | int(data[until + k])
    return (GOOD if told == state[B] << 16 | state[A] else CHECK), state[SUM]


def rows_of(data: U1, wide: int, size: int) -> tuple[int, int]:
    """Read a zlib stream of `size` bytes in rows of `wide`, each of which begins with a filter of 0: how it ended (see
    GOOD), and the sum of all bytes up to there. Memory of a window at most, whatever the size.
    """
    ended, total = _read(data, wide, size, np.empty(0, np.uint8))
    if ended == WINDOWED:
        ended, total = _read(data, wide, size, np.zeros(WINDOW, np.uint8))
    return int(ended), int(total)
