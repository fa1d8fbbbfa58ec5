"""What goes over the wire about simulated machines and stations."""

from __future__ import annotations

from pydantic import BaseModel, Field


class MachineAsk(BaseModel):
    """How many times as fast as a real machine."""

    speed: float = Field(default=600.0, gt=0, le=1e6)


class PlateSeen(BaseModel):
    """What lies on the plate: what is lost, from which layer, and why."""

    loss: str
    layer: int | None
    why: str


class OnMachine(BaseModel):
    """A simulated machine with a file; `seen` once it has ended."""

    state: str
    layer: int
    layers: int
    done_s: float
    of_s: float
    used: float
    unit: str
    speed: float
    seen: PlateSeen | None


class MachineState(OnMachine):
    """A simulated machine with a plan's file, and the run of the log that it is."""

    run: int


class MachineOfPlan(BaseModel):
    """A plan that is on a simulated machine; no state where that does not answer any more."""

    plan_id: int
    state: MachineState | None


class StationState(BaseModel):
    """A simulated station: `load` is in it, at `step`; a bath has washed `loads` of the `lasts` that it is good for."""

    station: str
    state: str
    load: str
    step: str
    done_s: float
    of_s: float
    loads: int
    lasts: int | None
    speed: float


class StationOffer(BaseModel):
    """What a plan's print goes through in a station: steps and minutes, why; how far this plan's own load is, and
    whether another's is in it.
    """

    station: str
    steps: list[tuple[str, float]]
    said: str
    state: StationState | None
    busy: bool
