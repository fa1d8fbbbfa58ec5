"""What a series varies and what it asks of each specimen."""

from __future__ import annotations

import math
from typing import Any, Literal, get_args

import orjson
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from ..errors import CoreError

Level = bool | int | float | str
Kind = Literal["count", "yesno", "grade", "time", "amount", "preference"]
KINDS: tuple[Kind, ...] = get_args(Kind)
MORE_IS_BETTER: frozenset[Kind] = frozenset({"yesno", "grade", "preference"})
"""Of the others less is: blemishes, hours, grams."""
MOST_FACTORS, MOST_LEVELS, MOST_CELLS, MOST_REPEATS = 8, 20, 400, 50


class SeriesError(CoreError):
    """A series that cannot be planned or read."""


class Spec(BaseModel):
    """`factors` by name with their levels, `responses` by name with their kinds, `repeats` of each cell; `rate_per_h`:
    what an hour of the machine costs the person, in coins; `coins_each`: what one of a count, a lost feature or a grade
    is worth to them; `cells`: which are printed, all where None.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    factors: dict[str, list[Level]] = Field(min_length=1, max_length=MOST_FACTORS)
    responses: dict[str, Kind] = Field(min_length=1, max_length=20)
    repeats: int = Field(1, ge=1, le=MOST_REPEATS)
    rate_per_h: float | None = Field(None, ge=0, le=1e6)
    coins_each: dict[str, float] = Field(default_factory=dict)
    cells: list[dict[str, Level]] | None = Field(None, min_length=1, max_length=MOST_CELLS)

    @model_validator(mode="after")
    def _sound(self) -> Spec:
        for name, levels in self.factors.items():
            if not name.strip() or len(name) > 60:
                raise ValueError("a factor wants a name of 1 to 60 characters")
            if not 2 <= len(levels) <= MOST_LEVELS:
                raise ValueError(f"the factor '{name}' has {len(levels)} levels; 2 to {MOST_LEVELS} are compared")
            if len({as_told(v) for v in levels}) < len(levels):
                raise ValueError(f"the factor '{name}' has a level twice")
        if both := set(self.factors) & set(self.responses):
            raise ValueError(f"'{min(both)}' is a factor and a response")
        if math.prod(map(len, self.factors.values())) > MOST_CELLS:
            raise ValueError(f"more than {MOST_CELLS} cells")
        if strange := set(self.coins_each) - set(self.responses):
            raise ValueError(f"'{min(strange)}' is priced and no response")
        for cell in self.cells or []:
            if set(cell) != set(self.factors):
                raise ValueError(f"a cell names {sorted(cell)}, the series {sorted(self.factors)}")
            for name, level in cell.items():
                self.index(name, level)
        return self

    def index(self, factor: str, level: Level) -> int:
        """Which level of a factor this is.

        Raises:
            ValueError: it is none.
        """
        for k, known in enumerate(self.factors[factor]):
            if as_told(known) == as_told(level):
                return k
        levels = ", ".join(as_told(v) for v in self.factors[factor])
        raise ValueError(f"'{as_told(level)}' is no level of '{factor}' ({levels})")


def as_told(level: Level) -> str:
    """A level as people write it: numbers without needless digits.

    >>> as_told(0.20), as_told("0.2"), as_told(" grid "), as_told(3), as_told(True)
    ('0.2', '0.2', 'grid', '3', 'yes')
    """
    if isinstance(level, bool):
        return "yes" if level else "no"
    try:
        number = float(level)
    except ValueError:
        return str(level).strip()
    return f"{number:.12g}" if math.isfinite(number) else str(level).strip()


def read_spec(data: bytes, where: str) -> Spec:
    """A series from JSON.

    Raises:
        SeriesError: `bad-series`: in one line what is wrong.
    """
    how = 'Give {"factors": {name: [levels]}, "responses": {name: kind}, "repeats": n, "rate_per_h": coins or null}.'
    try:
        read: Any = orjson.loads(data)
        return Spec.model_validate(read)
    except orjson.JSONDecodeError as reason:
        raise SeriesError("bad-series", f"The series cannot be read: {reason}.", where, how) from reason
    except ValidationError as reason:
        first = reason.errors()[0]
        at = ".".join(str(part) for part in first["loc"])
        said = str(first["msg"]).removeprefix("Value error, ")
        raise SeriesError("bad-series", f"{at + ': ' if at else ''}{said}.", where, how) from reason
