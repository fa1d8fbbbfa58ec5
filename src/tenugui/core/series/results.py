"""Results of a series from a table, one row a specimen: taken whole, or refused by line and column."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..table import at_column, read_table
from .spec import Kind, SeriesError, Spec, as_told

I8 = NDArray[np.int64]
F8 = NDArray[np.float64]
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
    wanted = [*spec.factors, *spec.responses]
    rows = read_table(data, wanted, [SPECIMEN], lambda what, how: SeriesError("bad-results", what, where, how))
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


def table_of(spec: Spec, rows: Sequence[Mapping[str, Any]]) -> bytes:
    """Specimens (`name`, `levels`, `found`) as the table that results are read from."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow([SPECIMEN, *spec.factors, *spec.responses])
    for row in rows:
        levels = [as_told(row["levels"][name]) for name in spec.factors]
        table.writerow([row["name"], *levels, *(row["found"].get(name, "") for name in spec.responses)])
    return out.getvalue().encode()


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
    return SeriesError("bad-results", at_column(line, column, what), where, remedy)
