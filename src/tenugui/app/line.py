"""A plan as a line of decisions: gone back to as another plan, and compared, with any other of any figure."""

from __future__ import annotations

import base64
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field

from ..core.contract import Choice, LineChanged, Numbers, SizeChoice
from ..core.contract.worth import WorthDoc, worth_of
from ..core.machines import Own, settable
from ..core.machines.fields import words_of
from ..core.plan import FOLDS
from ..core.plan.frozen import NOT_SET, changed
from ..core.worth import compared, priced, rates_of
from ..store import jobs, plans
from ..store.db import StoreError
from ..work.folds import Standing, own_of
from ..work.own import own_beside, own_told, process_of
from ..work.side import Line, Side, pictures
from .models import Id
from .state import store_of

router = APIRouter(prefix="/api", tags=["line"])


class DecisionRow(BaseModel):
    """A decision: of which fold, what in words, why, when, whether it is in force, and the running figures after it."""

    id: int
    parent: int | None
    fold: str
    title: str
    said: str
    reason: str
    at: datetime
    in_force: bool
    numbers: Numbers | None


class PlanOfFigure(BaseModel):
    """Another plan of the figure, and how far it has come."""

    id: int
    number: int
    settled: list[str]


class LineOfPlan(BaseModel):
    """All decisions of a plan, in force or taken back, first to last, the figure's other plans, what this one sets
    otherwise than the shelf, and what another may.
    """

    plan_id: int
    number: int
    figure_id: int
    figure_name: str
    decisions: list[DecisionRow]
    plans: list[PlanOfFigure]
    own: list[OwnLine]
    settable: list[SettableRow]


class OwnAsked(BaseModel):
    """Settings of the printer and the material by field."""

    printers: dict[str, float] = Field(default_factory=dict, max_length=40)
    materials: dict[str, float] = Field(default_factory=dict, max_length=40)

    @property
    def as_own(self) -> Own:
        """By table."""
        return {"printers": self.printers, "materials": self.materials}


class OwnLine(BaseModel):
    """A setting in words."""

    title: str
    value: float
    unit: str


class SettableRow(BaseModel):
    """What a plan may set of its own: `now` as it stands in this plan."""

    table: Literal["printers", "materials"]
    name: str
    title: str
    unit: str
    low: float
    high: float
    whole: bool
    now: float | None


class BranchAsk(BaseModel):
    """Another plan that begins after this decision, with none of them where null; `own`: settings that it has of its
    own, by table and field, beside those of this plan.
    """

    decision: Id | None = None
    own: OwnAsked | None = None


class SideShown(BaseModel):
    """One of two: which plan, after which decision, its running figures, and what it takes at the usual rates where its
    supports are placed.
    """

    plan_id: int
    number: int
    figure_name: str
    decision: int | None
    said: str
    numbers: Numbers | None
    worth: WorthDoc | None
    tips: int | None
    removal_min: float | None


class Compared(BaseModel):
    """Two plans beside each other: what is set otherwise (`now` of the second, `before` of the first), how many lines
    are alike; pictures (PNG, base 64) where both have supports, of one pose dyed by what only one has; and in words.
    """

    sides: tuple[SideShown, SideShown]
    changed: list[LineChanged]
    alike: int
    pictures: tuple[str, str] | None
    only: tuple[int, int] | None
    said: str
    same_figure: bool


Number = Annotated[int, Query(ge=1, le=2**32 - 1)]
TITLES = {spec.name: spec for spec in FOLDS}


def _said(fold: str, choices: dict[str, Choice]) -> str:
    choice = choices.get(fold)
    return "" if choice is None else TITLES[fold].worded(choice)


@router.get("/plans/{number}/line")
def line(request: Request, number: Id) -> LineOfPlan:
    """A plan's decisions with their reasons."""
    store = store_of(request)
    standing, whole = Standing.of(store, number), Line.of(store, number)
    in_force = {row["id"] for row in standing.chain}
    rows = []
    for row in whole.decisions.values():
        choices = whole.after(row["id"]).choices
        rows.append(
            DecisionRow(
                id=row["id"],
                parent=row["parent_id"],
                fold=row["fold"],
                title=TITLES[row["fold"]].title,
                said=_said(row["fold"], choices),
                reason=row["reason"],
                at=row["created_at"],
                in_force=row["id"] in in_force,
                numbers=row["evidence"].get("numbers"),
            )
        )
    plan = standing.plan
    others = plans.of_figure(store, plan["figure_id"])
    chains = plans.chains(store, [other["id"] for other in others])
    return LineOfPlan(
        plan_id=number,
        number=plan["number"],
        figure_id=plan["figure_id"],
        figure_name=plan["figure_name"],
        decisions=rows,
        plans=[
            PlanOfFigure(
                id=other["id"],
                number=other["number"],
                settled=list(dict.fromkeys(TITLES[row["fold"]].title for row in chains[other["id"]])),
            )
            for other in others
        ],
        own=[OwnLine(title=title, value=value, unit=unit) for title, value, unit in own_told(standing)],
        settable=_settable(standing),
    )


def _settable(standing: Standing) -> list[SettableRow]:
    size, process = standing.choice(SizeChoice), process_of(standing)
    if size is None or process is None:
        return []
    printers, materials = standing.workshop.set_otherwise(own_of(standing.plan))
    stands = {"printers": printers[size.printer_id], "materials": materials[size.material_id]}
    return [
        SettableRow(
            table=table,
            name=name,
            title=words_of(name),
            unit=field.unit,
            low=field.low,
            high=field.high,
            whole=field.kind == "whole",
            now=stands[table].get(name, field.default),
        )
        for (table, name), field in settable(process).items()
        if not field.words
    ]


@router.post("/plans/{number}/branch")
def branch(request: Request, number: Id, asked: BranchAsk) -> int:
    """Go back to a decision as another plan; its id. One with settings of its own is decided again as it was, as far as
    they leave it so.
    """
    store = store_of(request)
    if asked.own is None:
        return plans.branch(store, number, asked.decision)
    standing = Standing.of(store, number)
    plan = plans.branch(store, number, asked.decision, own=own_beside(standing, asked.own.as_own))
    title, figure = f"Planning {standing.plan['figure_name']} with settings of its own", standing.plan["figure_id"]
    jobs.want(store, "again", {"plan": plan}, key=f"again {plan}", title=title, figure_id=figure)
    return plan


def _shown(side: Side, decision: int | None) -> SideShown:
    plan, gift = side.standing.plan, side.gift
    last = side.standing.chain[-1] if side.standing.chain else None
    worth = None if gift is None else worth_of(priced(gift, rates_of(None)))
    row = None if side.held is None else side.held.row
    return SideShown(
        plan_id=plan["id"],
        number=plan["number"],
        figure_name=plan["figure_name"],
        decision=decision,
        said="nothing decided" if last is None else f"after {TITLES[last['fold']].title}",
        numbers=None if side.numbers is None else Numbers.model_validate(side.numbers),
        worth=worth,
        tips=None if row is None else row.tip_count,
        removal_min=None if row is None else row.off_min,
    )


@router.get("/compare")
def compare(
    request: Request,
    a: Number,
    b: Number,
    at_a: Number | None = None,
    at_b: Number | None = None,
) -> Compared:
    """Two plans, or two states of one, beside each other; `at_a`, `at_b`: after this decision of theirs."""
    store = store_of(request)
    one, other = Side.of(store, a, at_a), Side.of(store, b, at_b)
    if not one.lines and not other.lines:
        raise StoreError("nothing-decided", "Neither has a size yet.", "Settle the size of one of them.", 409)
    lines = changed(other.lines, one.lines)
    if one.process != other.process:
        # What only one kind of machine has is no difference of two plans.
        lines = [x for x in lines if x.where == "plan" or NOT_SET not in (x.now, x.before)]
    drawn = pictures(store, one, other)
    in_both = {(x.where, x.name): x.value for x in one.lines}
    alike = sum(in_both.get((x.where, x.name)) == x.value for x in other.lines)
    said = ""
    if one.gift is not None and other.gift is not None:
        rates = rates_of(None)
        told = compared(priced(other.gift, rates), priced(one.gift, rates))
        said = f"The second takes {told}." if told else "The two take as much of everything."
    return Compared(
        sides=(_shown(one, at_a), _shown(other, at_b)),
        changed=lines,
        alike=alike,
        pictures=None if drawn is None else (_b64(drawn[0]), _b64(drawn[1])),
        only=None if drawn is None else drawn[2],
        said=said,
        same_figure=one.standing.plan["figure_id"] == other.standing.plan["figure_id"],
    )


def _b64(png: bytes) -> str:
    return base64.b64encode(png).decode()
