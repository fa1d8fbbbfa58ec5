"""Beside the board of the fold Layers: an outline drawn to scale wherever somebody points, and the same figure by other
nozzles and machines.
"""

from __future__ import annotations

from fastapi import APIRouter, Query, Request, Response

from ..core.contract import OthersDoc, ProfileDoc
from ..core.plan import Memory, profile_of
from ..core.plan.given import LayersGiven, OtherMachine, OthersGiven
from ..core.plan.inputs import PosedInputs
from ..store import machines
from ..store.db import Store
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from .models import Computation, ProfileAsk
from .state import computation, store_of

router = APIRouter(prefix="/api/plans", tags=["heights"])
_figures = Memory(2)
MOST_MACHINES = 4


@router.post("/{number}/layers/profile")
def profile(request: Request, number: int, asked: ProfileAsk) -> ProfileDoc:
    """The figure's outline at a place in its own frame at its size, and what layers of each height make of it."""
    store = store_of(request)
    given = Standing.of(store, number).given("layers").to(LayersGiven)
    inputs = PosedInputs(StoreShelf(store, _figures), given)
    return profile_of(inputs, asked.at, asked.heights)


def _others(store: Store, number: int, height: float) -> tuple[Standing, OthersGiven]:
    """Inputs of the task, with the machines in use but for the plan's own."""
    standing = Standing.of(store, number)
    given = standing.given("layers").to(LayersGiven)
    printers, materials = ([row["spec"] for row in machines.every(store, table)] for table in ("printers", "materials"))
    offered = []
    for printer in printers:
        material = next((m for m in materials if m["process"] == printer["process"]), None)
        if material is not None and printer["name"] != given.printer["name"]:
            offered.append(OtherMachine(printer=printer, material=material))
    # Those of the other process first: they tell more.
    offered.sort(key=lambda m: m.printer["process"] == given.printer["process"])
    return standing, given.to(OthersGiven, height=height, machines=tuple(offered[:MOST_MACHINES]))


@router.get("/{number}/layers/others", response_model=Computation[OthersDoc])
def look_at_others(request: Request, number: int, height: float = Query(gt=0, le=2)) -> Response:
    """The figure by other nozzles and machines beside this height, where it has been computed."""
    store = store_of(request)
    return computation(store, "others", _others(store, number, height)[1])


@router.post("/{number}/layers/others", response_model=Computation[OthersDoc])
def start_others(request: Request, number: int, height: float = Query(gt=0, le=2)) -> Response:
    """Start computing it."""
    store = store_of(request)
    standing, given = _others(store, number, height)
    title, figure = f"Other machines for {standing.plan['figure_name']}", standing.plan["figure_id"]
    return computation(store, "others", given, start=True, title=title, figure_id=figure)
