"""Names that people give to machines, materials and figures: what they may hold, and how they are written where a line
break would be a command.
"""

from __future__ import annotations

import re
from typing import Annotated

from pydantic import AfterValidator, Field

UNPRINTED = "\x00-\x1f\x7f-\x9f\u2028\u2029\u200e\u200f\u202a-\u202e\u2066-\u2069"
"""Controls, breaks of lines and paragraphs, and marks that turn the way of writing: nobody sees them, and files obey
them.
"""
_UNPRINTED = re.compile(f"[{UNPRINTED}]+")
MOST_LETTERS = 120


def plain(text: str) -> str:
    """A text on one line, for comments of files and the like.

    >>> plain("kestrel\\nM104 S300")
    'kestrel M104 S300'
    """
    return _UNPRINTED.sub(" ", text).strip()


def _on_one_line(name: str) -> str:
    sign = _UNPRINTED.search(name)
    if sign:
        raise ValueError(f"a name is one line without control characters; letter {sign.start() + 1} is {sign[0][:1]!r}")
    if not name.strip():
        raise ValueError("a name is more than blanks")
    return name


Name = Annotated[
    str,
    Field(
        min_length=1,
        max_length=MOST_LETTERS,
        json_schema_extra={"pattern": rf"^[^{UNPRINTED}]*[^{UNPRINTED}\s][^{UNPRINTED}]*$"},
    ),
    AfterValidator(_on_one_line),
]
