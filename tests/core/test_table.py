"""Tables that are brought in: what is right reads, what is wrong is told by its line and column."""

from __future__ import annotations

import csv
import io
import json
from typing import Annotated

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel, Field

from tenugui.core.errors import CoreError
from tenugui.core.table import MOST_BYTES, read_records, read_table


class Stone(BaseModel):
    name: str
    weight: Annotated[float, Field(gt=0)]
    wet: bool = False
    note: str = ""


def refuse(what: str, remedy: str) -> CoreError:
    return CoreError("bad-stones", what, "stones", remedy)


def test_a_table_and_a_list_say_the_same() -> None:
    table = b"\xef\xbb\xbfname;weight;wet;note\nriver;2.5;yes;'=1+1\n\nmarsh;1;;\n"
    listed = json.dumps(
        [{"name": "river", "weight": 2.5, "wet": True, "note": "=1+1"}, {"name": "marsh", "weight": 1, "note": None}]
    ).encode()
    stones = read_records(table, Stone, refuse)
    assert stones == read_records(listed, Stone, refuse)
    assert stones[0] == Stone(name="river", weight=2.5, wet=True, note="=1+1")


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "The table is empty"),
        (b"\xff\xfe", "no text: byte 0"),
        (b"name\nriver\n", "Line 1, column 'weight': the column is missing"),
        (b"name,weight,weight\n", "Line 1, column 'weight': the column is there twice"),
        (b"name,weight,note,note\n", "Line 1, column 'note': the column is there twice"),
        (b"name,weight,mood\n", "Line 1, column 'mood': nothing that is asked for"),
        (b"name,weight\nriver\n", "Line 2, column 'name': 1 cells for 2 columns"),
        (b"name,weight\nriver,2\nmarsh,heavy\n", "Line 3, column 'weight': 'heavy'"),
        (b"name,weight\nriver,-2\n", "Line 2, column 'weight': '-2'"),
        (b"name,weight,wet\nriver,2,perhaps\n", "Line 2, column 'wet': 'perhaps'"),
        (b"name,weight\n,2\n", "Line 2, column 'name': Field required"),
        (b'[{"name": "river"}]', "Entry 1, column 'weight'"),
        (b'[{"name": "river", "weight": 1, "mood": 2}]', "Entry 1, 'mood': nothing that is asked for"),
        (b'[{"name": "river", "weight": "x"}]', "Entry 1, column 'weight': 'x'"),
        (b"[1]", "no list of entries"),
        (b"{}", "no list of entries"),
        (b"[]", "The list is empty"),
        (b"[{", "cannot be read"),
        (b"x" * (MOST_BYTES + 1), "larger than 8 MB"),
        (b"name,weight\n" + b"a,1\n" * 20_001, "20,001 rows; 20,000 are read at most"),
    ],
)
def test_what_is_wrong_is_told_by_its_place(data: bytes, said: str) -> None:
    with pytest.raises(CoreError) as refused:
        read_records(data, Stone, refuse)
    assert said in refused.value.what and refused.value.code == "bad-stones"


def test_what_is_passed_over_is_not_read() -> None:
    assert read_records(b"id,name,weight\n7,river,2\n", Stone, refuse, ("id",)) == [Stone(name="river", weight=2)]
    assert len(read_records(b'[{"id": {}, "name": "river", "weight": 2}]', Stone, refuse, ("id",))) == 1


CELLS = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Zs", "Zl", "Zp")), min_size=1)


@given(st.lists(st.tuples(CELLS, CELLS), min_size=1, max_size=8))
def test_what_a_table_writer_writes_reads_the_same(rows: list[tuple[str, str]]) -> None:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows([("one", "other"), *rows])
    read = read_table(out.getvalue().encode(), ["one", "other"], [], refuse)
    assert [(row["one"], row["other"]) for _, row in read] == [(a.strip(), b.strip()) for a, b in rows]
