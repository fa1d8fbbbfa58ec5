"""Drills for the eye: rounds, answers, how somebody stands, and sets that a club shares. A key leaves with an answer to
its question, and with a set of what was answered; never before.
"""

from __future__ import annotations

import hashlib
import io
from collections.abc import Sequence
from datetime import datetime, timedelta

import orjson
from fastapi import APIRouter, Request, Response
from PIL import Image, UnidentifiedImageError

from ..core.contract import FrozenLine
from ..core.contract.drills import DrillDoc, DrillsDoc, KeyDoc, QuestionDoc, drill_of
from ..core.drills import (
    KINDS,
    NOBODY,
    Answer,
    Answered,
    Failure,
    Rated,
    Tried,
    chance,
    graded,
    lost_drill,
    next_round,
    plain_drills,
    rated,
)
from ..core.drills import rests_until as rests
from ..core.drills.due import RESTS_H, RIGHT
from ..core.learn import BY_CUE
from ..core.plan import kept
from ..core.plan.frozen import layers_in
from ..core.plan.given import ProofGiven
from ..store import blobs, drills, plans, runs, seen
from ..store.db import Row, Store, StoreError
from ..work.folds import Standing, want
from ..work.shelf import StoreShelf
from .drills_models import (
    MOST_IN_A_SET,
    MOST_PICTURE,
    DrillAnswer,
    DrillGraded,
    DrillInSet,
    DrillSet,
    DrillShown,
    DrillsMade,
    DrillsState,
    OfferOfDrills,
    SkillRow,
    SourceRow,
)
from .models import Id
from .state import store_of

router = APIRouter(prefix="/api/drills", tags=["drills"])
LAWS, LOG, LAWS_EACH = "laws", "your log", 8
"""Where drills without a figure come from, and how many of the laws there are of each kind."""
FRESH = timedelta(hours=RESTS_H[0])
"""So long a key is fresh in mind."""
MOST_RATED = 400
"""Ratings are of so many answers, the latest."""


def _with_laws(store: Store) -> list[Row]:
    """All drills, those without a figure made where a kind of them is not there: a newer engine knows more kinds."""
    rows = drills.every(store)
    new = plain_drills(1, LAWS_EACH, without={row["kind"] for row in rows if row["source"] == LAWS})
    if not new:
        return rows
    pictures: dict[str, bytes] = {}

    def put(data: bytes) -> str:
        sha = hashlib.sha256(data).hexdigest()
        pictures[sha] = data
        return sha

    made = [drill_of(drill, put) for drill in new]
    drills.keep(store, [_new(one, [pictures[sha] for sha in one.question.pictures], [], source=LAWS) for one in made])
    return drills.every(store)


MOST_FAILURES = 60


def _failure(store: Store, row: Row) -> Failure:
    pins = [BY_CUE[pin["cue"]].words for pin in seen.of_run(store, row["id"]) if pin["cue"] in BY_CUE]
    return Failure(
        run=row["id"],
        figure=row["figure_name"],
        machine=row["printer_name"],
        result=row["result"],
        layer=row["failed_layer"],
        layers=layers_in([FrozenLine(**line) for line in row["frozen"]]),
        seen=[*pins, *([row["note"]] if row["note"] else [])],
        cause=row["cause"],
        told={h["code"]: h["chance"] for h in row["told"]},
    )


def _with_log(store: Store) -> None:
    """Drills of failures whose cause was named, the latest; one whose outcome was corrected goes with its old key."""
    lost = [
        row
        for row in runs.whole_log(store, 2000)
        if row["result"] in ("part lost", "print lost") and row["cause"] and not row["simulated"]
    ]
    made = [drill for row in lost[-MOST_FAILURES:] if (drill := lost_drill(_failure(store, row))) is not None]
    drills.replace(store, LOG, [_new(drill_of(drill, lambda data: ""), [], [], source=LOG) for drill in made])


def _named(source: str) -> str:
    """A figure's or a set's name as a source: what the bench makes itself has names of its own."""
    return f"'{source}'" if source in (LAWS, LOG) else source


def _new(
    one: DrillDoc, pictures: Sequence[bytes], shown: Sequence[bytes], *, source: str, plan_id: int | None = None
) -> drills.NewDrill:
    """A drill to keep: pictures of its question, then those that show its key."""
    question = one.question.model_dump(exclude={"pictures"}) | {"pictures": len(pictures)}
    code = hashlib.sha256(orjson.dumps([question["text"], question["options"], one.key.model_dump()]))
    for picture in pictures:
        code.update(picture)
    return drills.NewDrill(
        code=code.hexdigest(),
        kind=one.question.kind,
        question=question,
        key=one.key.model_dump(),
        pictures=[*pictures, *shown],
        hard=one.hard,
        source=source,
        plan_id=plan_id,
    )


def _tried(rows: list[Row], answers: list[Row], after: Rated) -> list[Tried]:
    last: dict[int, datetime] = {}
    row_of: dict[int, int] = {}
    for answer in answers:
        number = answer["drill_id"]
        last[number] = answer["answered_at"]
        row_of[number] = row_of.get(number, 0) + 1 if answer["score"] >= RIGHT else 0
    return [
        Tried(
            row["id"],
            row["kind"],
            after.drills[row["id"]].mean if row["id"] in after.drills else row["hard"],
            last.get(row["id"]),
            row_of.get(row["id"], 0),
        )
        for row in rows
    ]


def _rated(rows: list[Row], answers: list[Row]) -> Rated:
    said = [Answered(KINDS[a["kind"]].skill, a["drill_id"], a["score"]) for a in answers[-MOST_RATED:]]
    return rated(said, {row["id"]: row["hard"] for row in rows})


def _skill(skill: str, after: Rated, answers: list[Row]) -> SkillRow:
    rating = after.skills.get(skill, NOBODY)
    share, low, high = rating.share
    many = sum(KINDS[a["kind"]].skill == skill for a in answers)
    return SkillRow(skill=skill, answers=many, share=share, low=low, high=high)


@router.get("")
def state(request: Request) -> DrillsState:
    """How somebody stands, and what waits; drills of the laws and of the log come with the first round."""
    store = store_of(request)
    rows, answers = drills.every(store), drills.answers(store)
    after = _rated(rows, answers)
    rest = [at for tried in _tried(rows, answers, after) if (at := rests(tried)) is not None]
    now = datetime.now()
    made_of = {row["plan_id"] for row in rows}
    sources: dict[str, int] = {}
    for row in rows:
        sources[row["source"]] = sources.get(row["source"], 0) + 1
    skills = list(dict.fromkeys(kind.skill for kind in KINDS.values()))
    return DrillsState(
        skills=[_skill(skill, after, answers) for skill in skills],
        drills=len(rows),
        due=sum(at <= now for at in rest),
        next_due=min((at for at in rest if at > now), default=None),
        sources=[SourceRow(source=source, drills=n, own=source in (LAWS, LOG)) for source, n in sources.items()],
        offers=[
            OfferOfDrills(plan_id=row["id"], figure_name=row["figure_name"])
            for row in plans.proved(store)
            if row["id"] not in made_of
        ],
    )


@router.post("/figures/{number}")
def make(request: Request, number: Id) -> DrillsMade:
    """Make drills of a proved plan; asked again when its job is done, they come."""
    store = store_of(request)
    standing = Standing.of(store, number)
    given = standing.given("proof").to(ProofGiven)
    name = standing.plan["figure_name"]
    _, job = want(store, "drills", given, f"Drills of {name}", standing.plan["figure_id"])
    if job is not None:
        return DrillsMade(job_id=job, drills=0)
    made = kept(StoreShelf(store), "drills", given, DrillsDoc)
    new = [] if made is None else made.drills
    pictured = [
        _new(
            one,
            [blobs.get(store, sha) for sha in one.question.pictures],
            [blobs.get(store, sha) for sha in one.shown],
            source=_named(name),
            plan_id=number,
        )
        for one in new
    ]
    drills.keep(store, pictured)
    return DrillsMade(job_id=None, drills=len(new))


@router.post("/round")
def round_of(request: Request) -> list[DrillShown]:
    """The next five questions: what was missed and has rested, then what is new."""
    store = store_of(request)
    _with_log(store)
    rows, answers = _with_laws(store), drills.answers(store)
    after = _rated(rows, answers)
    tried = _tried(rows, answers, after)
    by_number = {one.drill: one for one in tried}
    return [
        _shown(drills.one(store, number), by_number[number], after)
        for number in next_round(tried, after.skills, datetime.now())
    ]


def _shown(row: Row, tried: Tried, after: Rated) -> DrillShown:
    skill = after.skills.get(KINDS[tried.kind].skill, NOBODY)
    return DrillShown(
        id=row["id"],
        source=row["source"],
        again=tried.last is not None,
        chance=chance(skill, tried.hard),
        **row["question"],
    )


@router.get("/{number}/pictures/{nth}", response_class=Response)
def picture(request: Request, number: Id, nth: int) -> Response:
    """A picture of a question, or, once that was answered, of its key."""
    store = store_of(request)
    asked = drills.one(store, number)["question"]["pictures"]
    if asked <= nth < drills.pictures(store, number) and drills.answered_last(store, number) is None:
        raise StoreError("not-answered", "This picture belongs to the answer.", "Answer the question first.", 409)
    png = drills.picture(store, number, nth)
    return Response(png, media_type="image/png", headers={"Cache-Control": "private, max-age=86400"})


@router.post("/{number}/answer")
def answer(request: Request, number: Id, said: DrillAnswer) -> DrillGraded:
    """Grade an answer, and tell the key; one that is given again while the key is fresh is graded, and not kept."""
    store = store_of(request)
    row = drills.one(store, number)
    key = KeyDoc.model_validate(row["answer_key"])
    score = graded(key.key(), Answer(said.picked, said.number), len(row["question"]["options"]))
    now, last = datetime.now(), drills.answered_last(store, number)
    if last is None or now >= last + FRESH:
        drills.answer(store, number, said.model_dump(), score, now)
    rows, answers = drills.every(store), drills.answers(store)
    return DrillGraded(
        score=score,
        right=key.right,
        number=key.number,
        reasons=key.reasons,
        told=key.told,
        shown=list(range(row["question"]["pictures"], drills.pictures(store, number))),
        standing=_skill(KINDS[row["kind"]].skill, _rated(rows, answers), answers),
        plan_id=row["plan_id"],
    )


@router.get("/set", response_model=DrillSet)
def as_set(request: Request) -> Response:
    """All that was answered, as a file for others."""
    store = store_of(request)
    numbers = list(dict.fromkeys(a["drill_id"] for a in drills.answers(store)))[-MOST_IN_A_SET:]
    if not numbers:
        raise StoreError("nothing-answered", "Nothing was answered yet.", "A set holds what its maker answered.", 409)
    told = []
    for number in numbers:
        row = drills.one(store, number)
        q = row["question"]
        every = [drills.picture(store, number, nth) for nth in range(drills.pictures(store, number))]
        told.append(
            DrillInSet.model_construct(
                **{k: q[k] for k in ("kind", "text", "options", "many", "unit", "a_picture_each")},
                pictures=every[: q["pictures"]],
                shown=every[q["pictures"] :],
                key=KeyDoc.model_validate(row["answer_key"]),
                hard=row["hard"],
            )
        )
    body = DrillSet.model_construct(schema_="tenugui/drills@1", name=f"Drills of {datetime.now():%d %B}", drills=told)
    name = 'attachment; filename="drills.json"'
    return Response(
        body.model_dump_json(by_alias=True), media_type="application/json", headers={"Content-Disposition": name}
    )


@router.post("/set")
def take_set(request: Request, asked: DrillSet) -> int:
    """Take a set of drills in; how many were new. All or none of it."""
    new = []
    for k, one in enumerate(asked.drills, 1):
        _check(k, one)
        question = QuestionDoc(
            kind=one.kind,
            skill=KINDS[one.kind].skill,
            text=one.text,
            pictures=[],
            options=one.options,
            many=one.many,
            unit=one.unit,
            a_picture_each=one.a_picture_each,
        )
        new.append(
            _new(
                DrillDoc(question=question, key=one.key, hard=one.hard),
                one.pictures,
                one.shown,
                source=_named(asked.name),
            )
        )
    return drills.keep(store_of(request), new)


def _check(k: int, one: DrillInSet) -> None:
    """Raises:
    StoreError: `bad-set`: what is wrong with a drill of a set, by its number.
    """
    wrong = ""
    options = len(one.options)
    if one.kind not in KINDS:
        wrong = f"'{one.kind}' is no kind of drill"
    elif (one.key.number is None) != (one.unit is None) or (one.key.number is not None and not one.key.slack > 0):
        wrong = "its key does not answer its question"
    elif one.key.number is None and not (one.key.right and options and all(0 <= r < options for r in one.key.right)):
        wrong = "its key names an option that is not there"
    elif len(one.key.credit) not in (0, options) or len(one.key.reasons) not in (0, options):
        wrong = "its key has not one line for every option"
    elif one.a_picture_each and len(one.pictures) != options:
        wrong = "it has not one picture for every option"
    for png in (*one.pictures, *one.shown):
        try:
            if len(png) > MOST_PICTURE or Image.open(io.BytesIO(png)).format != "PNG":
                wrong = wrong or "a picture of it is no PNG, or too large"
        except (UnidentifiedImageError, OSError, Image.DecompressionBombError):
            wrong = wrong or "a picture of it is none"
    if wrong:
        what = f"Drill {k} of the set: {wrong}. Nothing of it was taken in."
        raise StoreError("bad-set", what, "Ask whoever made the set for another.", 422)


@router.delete("")
def forget(request: Request, source: str) -> int:
    """Delete all drills of one source, with what was answered; how many there were."""
    return drills.forget(store_of(request), source[:120])
