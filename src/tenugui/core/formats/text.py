"""Numbers out of text, compiled: what the readers of text formats share."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit

Text = NDArray[np.uint8]


@njit()
def number(text: Text, at: int) -> tuple[float, int]:
    """One decimal number from `at`, blanks skipped; the new position, or -1 where there is none."""
    n = len(text)
    while at < n and (text[at] == 32 or text[at] == 9):
        at += 1
    sign = 1.0
    if at < n and (text[at] == 45 or text[at] == 43):
        if text[at] == 45:
            sign = -1.0
        at += 1
    mantissa, exponent, digits = 0.0, 0, 0
    point = False
    while at < n:
        c = text[at]
        if 48 <= c <= 57:
            mantissa = mantissa * 10.0 + (c - 48)
            digits += 1
            if point:
                exponent -= 1
        elif c == 46 and not point:
            point = True
        else:
            break
        at += 1
    if digits == 0:
        return 0.0, -1
    if at < n and (text[at] == 101 or text[at] == 69):
        at += 1
        turn, power, seen = 1, 0, 0
        if at < n and (text[at] == 45 or text[at] == 43):
            turn = -1 if text[at] == 45 else 1
            at += 1
        while at < n and 48 <= text[at] <= 57:
            power = min(power * 10 + (text[at] - 48), 9999)
            seen += 1
            at += 1
        if seen == 0:
            return 0.0, -1
        exponent += turn * power
    if at < n and text[at] > 32:
        return 0.0, -1
    return sign * mantissa * 10.0 ** min(max(exponent, -400), 400), at


@njit()
def whole(text: Text, at: int) -> tuple[int, int]:
    """One whole number from `at`, blanks skipped; the new position, or -1 where there is none. What follows it is not
    looked at.
    """
    n = len(text)
    while at < n and (text[at] == 32 or text[at] == 9):
        at += 1
    sign = 1
    if at < n and (text[at] == 45 or text[at] == 43):
        if text[at] == 45:
            sign = -1
        at += 1
    value, digits = 0, 0
    while at < n and 48 <= text[at] <= 57:
        value = min(value * 10 + (text[at] - 48), 1 << 40)
        digits += 1
        at += 1
    return (sign * value, at) if digits else (0, -1)


@njit()
def blanks(text: Text, at: int) -> int:
    """The first place from `at` that is neither a space nor a tab."""
    while at < len(text) and (text[at] == 32 or text[at] == 9):
        at += 1
    return at


@njit()
def next_line(text: Text, at: int) -> int:
    """The first byte of the next line."""
    n = len(text)
    while at < n and text[at] != 10 and text[at] != 13:
        at += 1
    while at < n and (text[at] == 10 or text[at] == 13):
        at += 1
    return at


def line_of(body: bytes, at: int) -> str:
    """`line N` of a byte, for messages."""
    return f"line {body.count(bytes([10]), 0, at) + 1}"
