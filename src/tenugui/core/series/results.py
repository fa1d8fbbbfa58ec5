"""Results of a series from a table, one row a specimen: taken whole, or refused by line and column."""

from __future__ import annotations

import csv
import io
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .spec import Kind, SeriesError, Spec

I8 = NDArray[np.int64]
F8 = NDArray[np.float64]
MOST_ROWS, MOST_BYTES = 20_000, 8 * 2**20
YES, NO = frozenset({"yes", "y", "true", "1"}), frozenset({"no", "n", "false", "0"})
HIGHEST_GRADE = 10
SPECIMEN = "specimen"
"""The column that may name each."""


@dataclass(frozen=True)
class Results:
    """Of every specimen its name, its level of each factor (n, factors), and what was found of each response (n,), NaN
    where nothing was; preferences as pairs (won, lost) of rows.
    """

    names: list[str]
    levels: I8
    found: dict[str, F8]
    pairs: dict[str, list[tuple[int, int]]]


def read_results(data: bytes, spec: Spec, where: str) -> Results:
    """A table with a column for every factor and every response.

    Raises:
        SeriesError: `bad-results`: which line and column, what is wrong there, and what would be right.
    """
    rows = _rows(data, spec, where)
    names: list[str] = []
    levels = np.zeros((len(rows), len(spec.factors)), np.int64)
    texts: dict[str, list[str]] = {name: [] for name in spec.responses}
    for k, (line, row) in enumerate(rows):
        name = row.get(SPECIMEN, "") or str(k + 1)
        if name in names:
            raise _bad(where, line, SPECIMEN, f"'{name[:40]}' is there twice", "Give each specimen a name of its own.")
        names.append(name)
        for j, factor in enumerate(spec.factors):
            try:
                levels[k, j] = spec.index(factor, row[factor])
            except ValueError as reason:
                raise _bad(where, line, factor, str(reason), "Write the level as the series does, no unit.") from None
        for response in spec.responses:
            texts[response].append(row[response])
    lines = [line for line, _ in rows]
    found, pairs = {}, {}
    for response, kind in spec.responses.items():
        if kind == "preference":
            named = any(SPECIMEN in row for _, row in rows)
            pairs[response] = _pairs(texts[response], names, lines, named=named, where=where, column=response)
        else:
            found[response] = np.array(
                [
                    _value(text, kind, where=where, line=line, column=response)
                    for text, line in zip(texts[response], lines, strict=True)
                ]
            )
    return Results(names, levels, found, pairs)


def _rows(data: bytes, spec: Spec, where: str) -> list[tuple[int, dict[str, str]]]:
    """Rows with their lines, by column."""
    if len(data) > MOST_BYTES:
        raise SeriesError("bad-results", f"The table is larger than {MOST_BYTES >> 20} MB.", where)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as reason:
        raise SeriesError(
            "bad-results", f"The table is no text: byte {reason.start}.", where, "Save it as CSV in UTF-8."
        ) from reason
    first = text.partition("\n")[0]
    reader = csv.reader(io.StringIO(text), delimiter=";" if first.count(";") > first.count(",") else ",")
    try:
        table = [(reader.line_num, [cell.strip() for cell in row]) for row in reader if any(c.strip() for c in row)]
    except csv.Error as reason:
        raise SeriesError("bad-results", f"Line {reader.line_num} cannot be read: {reason}.", where) from reason
    if not table:
        raise SeriesError("bad-results", "The table is empty.", where, "Give a line of names and one a specimen.")
    line, header = table[0]
    wanted = [*spec.factors, *spec.responses]
    for name in wanted:
        if header.count(name) != 1:
            what = "there twice" if name in header else "missing"
            raise _bad(where, line, name, f"the column is {what}", f"Give {', '.join(wanted)}.")
    for name in header:
        if name not in wanted and name != SPECIMEN:
            raise _bad(where, line, name or "(no name)", "no factor and no response", f"Give {', '.join(wanted)}.")
    if len(table) - 1 > MOST_ROWS:
        raise SeriesError("bad-results", f"{len(table) - 1:,} specimens; {MOST_ROWS:,} are read at most.", where)
    for line, row in table[1:]:
        if len(row) != len(header):
            last = header[min(len(row), len(header)) - 1]
            raise _bad(where, line, last, f"{len(row)} cells for {len(header)} columns")
    return [(line, dict(zip(header, row, strict=True))) for line, row in table[1:]]


def _value(text: str, kind: Kind, *, where: str, line: int, column: str) -> float:
    """A number; NaN where nothing was found."""
    if not text:
        return math.nan
    low = text.lower()
    if kind == "yesno":
        if low in YES or low in NO:
            return float(low in YES)
        raise _bad(where, line, column, f"'{text[:20]}' is neither yes nor no", "Write yes or no.")
    try:
        number = float(text.replace(",", "."))
    except ValueError:
        number = math.nan
    if not math.isfinite(number):
        raise _bad(where, line, column, f"'{text[:20]}' is no number", "Write a plain number, no unit.")
    if kind in ("count", "grade") and (number < 0 or number != int(number)):
        raise _bad(where, line, column, f"{text[:20]} is no {kind}", "Write a whole number from 0.")
    if kind == "grade" and number > HIGHEST_GRADE:
        raise _bad(where, line, column, f"{text[:20]} is beyond the scale", f"Grades go from 0 to {HIGHEST_GRADE}.")
    if kind in ("time", "amount") and number <= 0:
        raise _bad(where, line, column, f"{text[:20]} is not above 0", f"Write the {kind} as a number above 0.")
    return number


def _pairs(
    texts: list[str], names: list[str], lines: list[int], *, named: bool, where: str, column: str
) -> list[tuple[int, int]]:
    """Who was preferred to whom, by rows: each names those that it was preferred to, or all have a rank, 1 the best;
    `named`: specimens have names of their own, so that a number may be one.
    """
    given = [(k, text) for k, text in enumerate(texts) if text]
    known = {name: k for k, name in enumerate(names)}
    names_all = named and all(part in known for _, text in given for part in text.replace("|", " ").split())
    if given and not names_all and all(_is_number(text) for _, text in given):
        ranks = [(k, float(text)) for k, text in given]
        return [(a, b) for a, one in ranks for b, other in ranks if one < other]
    pairs = []
    for k, text in given:
        for other in (part.strip() for part in text.replace("|", " ").split()):
            if other not in known or known[other] == k:
                what = f"'{other[:20]}' is no other specimen"
                raise _bad(where, lines[k], column, what, "Name the specimens that it was preferred to, or give ranks.")
            pairs.append((k, known[other]))
    return pairs


def _is_number(text: str) -> bool:
    try:
        return math.isfinite(float(text))
    except ValueError:
        return False


def _bad(where: str, line: int, column: str, what: str, remedy: str = "") -> SeriesError:
    return SeriesError("bad-results", f"Line {line}, column '{column[:40]}': {what}.", where, remedy)
