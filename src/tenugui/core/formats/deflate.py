"""Deflate (RFC 1951) for pictures that are nearly all stretches of one value: written run by run, and read back run by
run, so that a layer costs what its edges cost and not what its pixels do.

Written with one code for all layers, in which 258 bytes of a stretch take three bits. Read whatever code a stream
brings: stored, fixed and dynamic blocks. Any other reader reads what is written here, and the tests hold both to one.
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
