"""What leaves one bench and comes into another: runs with their outcomes, what was seen of machines, and series."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from ..names import Name
from ..series import Spec
from ..series.spec import Level
from .frozen import FrozenLine, ToldHazard

Result = Literal["good", "scarred", "part lost", "print lost"]
MOST_S, MOST_G = 60 * 86400.0, 100_000.0


def _local(at: datetime) -> datetime:
    if at.tzinfo is not None:
        raise ValueError("a time without zone, as the bench's clock told it")
    return at


At = Annotated[datetime, AfterValidator(_local)]


class _Line(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class RunLine(_Line):
    """A run as it is brought in: its machine and material by the names they have on the shelf; seconds, grams; what it
    froze and what its proof told where that is known; `result` None where nothing is known of it yet.
    """

    figure_name: Name
    printer_name: Name
    material_name: Name
    started_at: At
    planned_s: float = Field(ge=0, le=MOST_S)
    planned_risk: float = Field(ge=0, le=1)
    planned_g: float = Field(0.0, ge=0, le=MOST_G)
    plan_number: int = Field(1, ge=0, le=10_000)
    simulated: bool = False
    result: Result | None = None
    real_s: float | None = Field(None, ge=0, le=MOST_S)
    real_g: float | None = Field(None, ge=0, le=MOST_G)
    failed_layer: int | None = Field(None, ge=0, le=100_000)
    cause: str | None = Field(None, max_length=24)
    removal: int | None = Field(None, ge=1, le=5)
    note: str = Field("", max_length=2000)
    frozen: list[FrozenLine] = Field(default_factory=list, max_length=400)
    told: list[ToldHazard] = Field(default_factory=list, max_length=4000)


class SeenLine(_Line):
    """Something seen of what a machine can do in a material: at a level it came out, or did not."""

    printer_name: Name
    material_name: Name
    ability: str = Field(max_length=16)
    level: float = Field(ge=0, le=10_000)
    came_out: bool
    source: Literal["run", "series", "word"]
    noted_at: At
    note: str = Field("", max_length=200)


class SpecimenLine(_Line):
    """A specimen of a series: its levels by factor, and what was found of it by response, as typed."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    levels: dict[str, Level]
    found: dict[str, str] = Field(default_factory=dict, max_length=20)


class SeriesFile(_Line):
    """A series with its specimens."""

    name: Name
    spec: Spec
    figure_name: str | None = Field(None, max_length=120)
    specimens: list[SpecimenLine] = Field(min_length=1, max_length=2000)

    def levels_of(self, k: int) -> dict[str, Any]:
        """The levels of a specimen as the series writes them.

        Raises:
            ValueError: of a factor that is missing, strange, or has no such level.
        """
        one = self.specimens[k].levels
        if set(one) != set(self.spec.factors):
            raise ValueError(f"it names {sorted(one)}, the series {sorted(self.spec.factors)}")
        return {name: self.spec.factors[name][self.spec.index(name, level)] for name, level in one.items()}
