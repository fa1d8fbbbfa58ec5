"""Plans as a plate takes them: what is proved and counted of each, remembered by the key of its proof."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass, field
from threading import Lock

from ..core.contract import ProofBoard, SizeChoice
from ..core.contract.on_plate import OnPlateDoc
from ..core.contract.plate import PlanOfPlate, ProofOfPlan
from ..core.plan import kept, key_of
from ..core.plan.given import ProofGiven
from ..core.plate import Dear, Threat
from ..store import jobs, results
from ..store.db import Store, StoreError
from ..work.folds import Standing, want
from ..work.shelf import StoreShelf
from .plates_models import Line, PieceState

MOST_KNOWN = 300


@dataclass(frozen=True)
class Counted:
    """A proved plan with its footprint, what a copy costs by itself, and what may go wrong with it."""

    plan: PlanOfPlate
    dear: Dear
    threats: list[Threat]
    apart: str


class Known:
    """What was counted lately, by key."""

    def __init__(self) -> None:
        self._held: OrderedDict[str, Counted] = OrderedDict()
        self._lock = Lock()

    def of(self, store: Store, given: ProofGiven) -> Counted | None:
        """A plan as it stands; None where its footprint is not counted, or it is not proved."""
        key = key_of("proof", given) + key_of("footprint", given)
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key]
        shelf = StoreShelf(store)
        board, on = kept(shelf, "proof", given, ProofBoard), kept(shelf, "footprint", given, OnPlateDoc)
        if board is None or on is None:
            return None
        counted = _counted(given, board, on)
        with self._lock:
            self._held[key] = counted
            while len(self._held) > MOST_KNOWN:
                self._held.popitem(last=False)
        return counted


KNOWN = Known()
"""Of this process."""


def _counted(given: ProofGiven, board: ProofBoard, on: OnPlateDoc) -> Counted:
    proof, numbers = board.proof, board.held.numbers
    film = numbers.film_share * float(given.printer.get("film_cost", 0.0))
    plan = PlanOfPlate(
        layer_height_mm=given.height,
        on_plate=on,
        proof=ProofOfPlan(
            printer=proof.printer,
            material_name=proof.material_name,
            time_s=proof.time_s,
            risk=proof.risk,
            material=proof.material.model_dump(),
            hazards=[{"code": h.code, "chance": h.chance} for h in proof.hazards],
        ),
    )
    threats = [Threat(h.z_mm, h.chance, f"{h.message} {h.remedy}".strip()) for h in proof.hazards if h.loss != "scar"]
    # Bands follow a figure's own slopes: only copies of it can share their layers.
    apart = f" in bands {key_of('footprint', given)}" if given.bands else ""
    return Counted(plan, Dear(max(0.0, proof.material.cost - film), board.held.gift.hands_min, film), threats, apart)


@dataclass
class Standings:
    """Lines of a plate with how their plans stand, and what is counted of those that are ready."""

    printer_id: int
    states: list[PieceState] = field(default_factory=list)
    counted: dict[int, Counted] = field(default_factory=dict)
    given: dict[int, ProofGiven] = field(default_factory=dict)


def standings(store: Store, known: Known, lines: list[Line], printer_id: int, *, start: bool = False) -> Standings:
    """How the plans of a plate stand; with `start` what is not counted is begun."""
    found = Standings(printer_id)
    for line in lines:
        try:
            standing = Standing.of(store, line.plan_id)
        except StoreError as reason:
            if reason.code != "no-plan":
                raise
            gone = "Its figure was deleted: take this line away."
            found.states.append(
                PieceState(
                    plan_id=line.plan_id, copies=line.copies, figure_name="", plan_number=0, state="gone", said=gone
                )
            )
            continue
        found.states.append(_state(store, known, standing, line, found, start=start))
    return found


def _state(store: Store, known: Known, standing: Standing, line: Line, found: Standings, *, start: bool) -> PieceState:
    plan, size = standing.plan, standing.choice(SizeChoice)
    row = PieceState(
        plan_id=line.plan_id,
        copies=line.copies,
        figure_name=plan["figure_name"],
        plan_number=plan["number"],
        state="open",
        said="It is not proved yet: go through its folds to Proof.",
    )
    if size is None:
        return row
    if size.printer_id != found.printer_id:
        other = standing.workshop.printers[size.printer_id]["name"]
        said = f"It is planned for {other}: plan it for this machine, or make a plate for that one."
        return row.model_copy(update={"state": "elsewhere", "said": said})
    proof = standing.fold("proof")
    if proof.given is None or not proof.ready:
        return row
    given = standing.given("proof").to(ProofGiven)
    counted = known.of(store, given)
    if counted is None:
        if not results.has(store, key_of("proof", given)):
            return row
        job = jobs.last_of(store, key_of("footprint", given))
        if start:
            title = f"Footprint of {plan['figure_name']}"
            _, number = want(store, "footprint", given, title, plan["figure_id"])
        else:
            number = job["id"] if job and job["state"] in ("waiting", "running") else None
        said = "Its footprint is being drawn."
        if not number and job and job["state"] == "failed":
            said = f"Its footprint could not be drawn: {job['problem'].get('what', '')}"
        return row.model_copy(update={"state": "counting", "said": said, "job_id": number})
    found.counted[line.plan_id], found.given[line.plan_id] = counted, given
    return row.model_copy(
        update={
            "state": "ready",
            "said": "",
            "accepted": proof.state == "settled",
            "material": counted.plan.proof.material_name,
            "layer_mm": counted.plan.layer_height_mm,
            "footprint": counted.plan.on_plate.footprint,
        }
    )
