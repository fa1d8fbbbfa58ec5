"""What all documents share."""

from __future__ import annotations

from typing import Annotated, Any, Self

import orjson
from pydantic import BaseModel, ConfigDict, Field

Place = tuple[float, float, float]
Matrix = Annotated[list[float], Field(min_length=16, max_length=16)]
"""Column-major 4 x 4 from the file's frame to build coordinates, as the page's renderer takes it."""
Sha = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
"""Content on the shelf."""


class Document(BaseModel):
    """A document of the contract: fields are fixed, unknown ones are a fault of ours. mm, mm², mm³, ml, g, s, N,
    degrees.
    """

    # Made ready at their first use: a command or a worker uses a few of some two hundred.
    model_config = ConfigDict(
        defer_build=True, extra="forbid", frozen=True, serialize_by_alias=True, populate_by_name=True
    )

    def dumped(self) -> bytes:
        """As it is stored and sent."""
        return orjson.dumps(self.model_dump(mode="python"), option=orjson.OPT_SERIALIZE_NUMPY)

    @classmethod
    def loaded(cls, data: bytes | dict[str, Any]) -> Self:
        """The inverse, validated."""
        return cls.model_validate(orjson.loads(data) if isinstance(data, bytes) else data)


class Finding(Document):
    """Something the user should know; `code` is stable, `place` a point in the frame of what was examined."""

    code: str
    severity: str
    count: int
    message: str
    place: Place | None = None


class Numbers(Document):
    """The four running figures of an alternative, and what they stand on. `finish_mm`: cusps on all but the flattest
    twentieth of slopes; `film_share`: of a film's usual life.
    """

    finish_mm: float
    risk: float
    time_s: float
    cost: float
    volume_ml: float
    mass_g: float
    unheld: bool = False
    film_share: float = 0.0


class Refusal(Document):
    """Why something cannot be done, and what would mend it."""

    code: str
    what: str
    where: str
    remedy: str
