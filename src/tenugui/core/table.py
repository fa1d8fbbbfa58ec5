"""Tables and lists that people bring in, as CSV or JSON: taken whole, or refused by line and column."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Collection, Sequence
from typing import Any, TypeVar

import orjson
from pydantic import BaseModel, ValidationError

from .errors import CoreError

MOST_ROWS, MOST_BYTES = 20_000, 8 * 2**20
MOST_LIST_BYTES = 8 * MOST_BYTES
"""Of JSON, which holds what a run froze."""
M = TypeVar("M", bound=BaseModel)
Refuse = Callable[[str, str], CoreError]
"""A refusal in the reader's own words, of what is wrong and what would be right."""
Lines = list[tuple[int, dict[str, str]]]


def at_column(line: int, column: str, what: str) -> str:
    """Where it is, and what.

    >>> at_column(3, "gap mm", "'x' is no number")
    "Line 3, column 'gap mm': 'x' is no number."
    """
    return f"Line {line}, column '{column[:40]}': {what}."


def read_table(
    data: bytes, wanted: Sequence[str], may: Collection[str], refuse: Refuse, most: int = MOST_ROWS
) -> Lines:
    """The rows of a CSV in UTF-8, commas or semicolons between, by column, each with its line: every column of `wanted`
    once, of `may` at most once, and no other.

    Raises:
        CoreError: what `refuse` makes of a table that is too large, no text, empty, ragged, or has other columns.
    """
    if len(data) > MOST_BYTES:
        raise refuse(f"The table is larger than {MOST_BYTES >> 20} MB.", "")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as reason:
        raise refuse(f"The table is no text: byte {reason.start}.", "Save it as CSV in UTF-8.") from reason
    first = text.partition("\n")[0]
    reader = csv.reader(io.StringIO(text), delimiter=";" if first.count(";") > first.count(",") else ",")
    try:
        table = [(reader.line_num, [cell.strip() for cell in row]) for row in reader if any(c.strip() for c in row)]
    except csv.Error as reason:
        raise refuse(f"Line {reader.line_num} cannot be read: {reason}.", "") from reason
    if not table:
        raise refuse("The table is empty.", "Give a line of names and one of each.")
    line, header = table[0]
    give = f"Give {', '.join(wanted)}."
    for name in wanted:
        if header.count(name) != 1:
            what = "there twice" if name in header else "missing"
            raise refuse(at_column(line, name, f"the column is {what}"), give)
    for name in header:
        if name not in wanted and name not in may:
            raise refuse(at_column(line, name or "(no name)", "nothing that is asked for"), give)
        if header.count(name) > 1:
            raise refuse(at_column(line, name, "the column is there twice"), give)
    if len(table) - 1 > most:
        raise refuse(f"{len(table) - 1:,} rows; {most:,} are read at most.", "Bring it in parts.")
    for line, row in table[1:]:
        if len(row) != len(header):
            last = header[min(len(row), len(header)) - 1]
            raise refuse(at_column(line, last, f"{len(row)} cells for {len(header)} columns"), "")
    return [(line, dict(zip(header, row, strict=True))) for line, row in table[1:]]


def read_records(data: bytes, model: type[M], refuse: Refuse, passed_over: Collection[str] = ()) -> list[M]:
    """Entries of a CSV or of a JSON list, each as a model; empty cells are not said. `passed_over`: columns that may be
    there and are not read.

    Raises:
        CoreError: what `refuse` makes of anything that is not as the model says, by line (or entry) and column.
    """
    fields = model.model_fields
    must = [name for name, field in fields.items() if field.is_required()]
    entries: list[tuple[str, dict[str, Any]]]
    if data.lstrip()[:1] in (b"[", b"{"):
        entries = _listed(data, fields, passed_over, refuse)
    else:
        may = [*fields, *passed_over]
        rows = read_table(data, must, may, refuse)
        entries = [(f"Line {line}", {k: v for k, v in row.items() if v and k in fields}) for line, row in rows]
    read = []
    for where, entry in entries:
        try:
            read.append(model.model_validate({name: _unquoted(value) for name, value in entry.items()}))
        except ValidationError as reason:
            first = reason.errors()[0]
            column = str(first["loc"][0]) if first["loc"] else must[0]
            said = str(first["msg"]).removeprefix("Value error, ")
            given = str(entry.get(column, ""))[:20]
            what = f"'{given}': {said}" if given else said
            raise refuse(f"{where}, column '{column[:40]}': {what}.", f"It has {', '.join(fields)}.") from reason
    return read


def _unquoted(value: Any) -> Any:
    """What was written as text for a table calculator, without its mark."""
    return value[1:] if isinstance(value, str) and value[:1] == "'" and value[1:2] in tuple("=+-@") else value


def _listed(
    data: bytes, fields: Collection[str], passed_over: Collection[str], refuse: Refuse
) -> list[tuple[str, dict[str, Any]]]:
    if len(data) > MOST_LIST_BYTES:
        raise refuse(f"The list is larger than {MOST_LIST_BYTES >> 20} MB.", "Bring it in parts.")
    try:
        listed: Any = orjson.loads(data)
    except orjson.JSONDecodeError as reason:
        raise refuse(f"The list cannot be read: {reason}.", "Give a JSON list of entries.") from reason
    if not isinstance(listed, list) or not all(isinstance(entry, dict) for entry in listed):
        raise refuse("It is no list of entries.", "Give a JSON list of entries.")
    if not listed:
        raise refuse("The list is empty.", "Give one entry of each.")
    if len(listed) > MOST_ROWS:
        raise refuse(f"{len(listed):,} entries; {MOST_ROWS:,} are read at most.", "Bring it in parts.")
    for k, entry in enumerate(listed):
        for name in entry:
            if name not in fields and name not in passed_over:
                what = f"Entry {k + 1}, '{str(name)[:40]}': nothing that is asked for."
                raise refuse(what, f"It has {', '.join(fields)}.")
    return [
        (f"Entry {k + 1}", {name: v for name, v in entry.items() if name in fields and v is not None})
        for k, entry in enumerate(listed)
    ]
