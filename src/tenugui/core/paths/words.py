"""Words of G-code as numbers, in one compiled pass over the bytes of a file."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit

F8 = NDArray[np.float64]
U1 = NDArray[np.uint8]
I8 = NDArray[np.int64]
GOOD, BAD_NUMBER, NO_SPEED, RELATIVE, UNKNOWN = range(5)
# Of a row: where it goes, how fast in mm/s, and how much filament goes in.
X, Y, Z, SPEED, FED = range(5)
STILL = np.array(
    [ord("G") << 16 | n for n in (28, 21, 90)] + [ord("M") << 16 | n for n in (82, 104, 106, 107, 109, 140, 190)]
)
"""Words that move nothing: a letter and a whole number."""
_ZERO, _NINE, _E, _SPACE, _END, _NOTE = ord("0"), ord("9"), ord("e"), ord(" "), ord("\n"), ord(";")
_PLUS, _MINUS, _POINT, _LOWER = ord("+"), ord("-"), ord("."), 0x20
_TENS = 10.0 ** np.arange(23)
_DIGITS = 15
"""So many digits and so few places are exact as one division (Clinger 1990); of longer numbers the rest is below what
any machine resolves.
"""


@njit()
def _number(data: U1, i: int, end: int) -> tuple[float, bool]:
    """A decimal number in bytes i to end, and whether it is one."""
    sign, whole, digits, places, shift = 1.0, 0.0, 0, 0, 0
    if i < end and (data[i] == _PLUS or data[i] == _MINUS):
        sign = -1.0 if data[i] == _MINUS else 1.0
        i += 1
    seen, point = False, False
    while i < end:
        c = data[i]
        if _ZERO <= c <= _NINE:
            seen = True
            if digits < _DIGITS:
                whole = whole * 10 + (c - _ZERO)
                digits += 1 if whole > 0 else 0
                places += 1 if point else 0
            elif not point:
                shift += 1
        elif c == _POINT and not point:
            point = True
        else:
            break
        i += 1
    if not seen:
        return 0.0, False
    if i < end and (data[i] | _LOWER) == _E:
        i += 1
        down, power, some = False, 0, False
        if i < end and (data[i] == _PLUS or data[i] == _MINUS):
            down = data[i] == _MINUS
            i += 1
        while i < end and _ZERO <= data[i] <= _NINE:
            power, some = min(power * 10 + (data[i] - _ZERO), 9999), True
            i += 1
        if not some:
            return 0.0, False
        shift += -power if down else power
    if i < end:
        return 0.0, False
    shift -= places
    if shift > 0:
        whole = whole * (_TENS[shift] if shift < 23 else np.inf) if whole > 0 else 0.0
    elif shift < 0:
        # In two steps, since the power alone may lie below what a float holds where the number does not.
        whole = whole / _TENS[-shift] if shift > -23 else whole / _TENS[_DIGITS] * 10.0 ** (shift + _DIGITS)
    return sign * whole, bool(np.isfinite(whole))


@njit()
def _space(c: int) -> bool:
    return c == _SPACE or 9 <= c <= 13


@njit()
def moves_of(data: U1, most: int, rows: F8, still: I8) -> tuple[int, int, int, int, int, int]:
    """Read lines of bytes into `rows` (n, 5), and from and to which byte each word that moves nothing is said into
    `still` (m, 2). Returns how many moves, what was wrong (GOOD), in which line, the bytes from and to which it says
    so, and how many words move nothing; more lines than `most` are told by their number alone.
    """
    at, line, i, n, m = np.zeros(3), 0, 0, 0, 0
    fed, pace = 0.0, 0.0
    size = len(data)
    while i < size:
        line += 1
        if line > most:
            return n, GOOD, line, 0, 0, m
        first, word, wb, we, last = True, 0, 0, 0, 0
        x, y, z, e, f = at[0], at[1], at[2], fed, pace * 60
        while i < size and data[i] != _END:
            if data[i] == _NOTE:
                while i < size and data[i] != _END:
                    i += 1
                break
            if _space(data[i]):
                i += 1
                continue
            begin = i
            while i < size and data[i] != _END and data[i] != _NOTE and not _space(data[i]):
                i += 1
            last = i
            if first:
                first, wb, we = False, begin, i
                number, whole = 0, i > begin + 1
                for k in range(begin + 1, i):
                    whole = whole and _ZERO <= data[k] <= _NINE and k - begin < 5
                    number = number * 10 + (data[k] - _ZERO) if whole else 0
                word = (data[begin] << 16 | number) if whole else 0
                continue
            value, good = _number(data, begin + 1, i)
            if not good:
                return n, BAD_NUMBER, line, begin, i, m
            letter = data[begin]
            if letter == ord("X"):
                x = value
            elif letter == ord("Y"):
                y = value
            elif letter == ord("Z"):
                z = value
            elif letter == ord("E"):
                e = value
            elif letter == ord("F"):
                f = value
        i += 1
        if first:
            continue
        if word == ord("G") << 16 or word == (ord("G") << 16 | 1):
            pace = f / 60
            if pace <= 0:
                return n, NO_SPEED, line, wb, we, m
            at[0], at[1], at[2] = x, y, z
            rows[n, X], rows[n, Y], rows[n, Z], rows[n, SPEED], rows[n, FED] = x, y, z, pace, e - fed
            fed += e - fed
            n += 1
            continue
        if word == (ord("G") << 16 | 92):
            fed = e
        elif word == (ord("G") << 16 | 91) or word == (ord("M") << 16 | 83):
            return n, RELATIVE, line, wb, we, m
        else:
            known = False
            for k in range(len(STILL)):
                known |= word == STILL[k]
            if not known:
                return n, UNKNOWN, line, wb, we, m
        still[m, 0], still[m, 1] = wb, last
        m += 1
    return n, GOOD, line, 0, 0, m
