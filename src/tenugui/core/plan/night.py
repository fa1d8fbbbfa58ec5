"""One figure of many, planned to its proof on every machine that there is, and the best of these named."""

from __future__ import annotations

import hashlib
import io
import time
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import orjson

from ..contract import HeldDoc, Refusal, UprightDoc, steps_of
from ..contract.health import StepDoc
from ..contract.night import NightPlate, NightRow, NightWay
from ..contract.on_plate import OnPlateDoc
from ..contract.plate import PlanOfPlate, piece_of
from ..contract.proof import ProofDoc
from ..errors import CoreError
from ..formats import pack_whole, read
from ..machines import load_material, load_printer
from ..mesh import UNITS, Mesh
from ..plate import Piece, plates_of
from ..pose import Direction, height_along
from ..repair import make_ready
from ..worth import Gift, priced, rates_of
from .beside import side_of
from .chain import run_chain, sized
from .code import fingerprint
from .folds import FOLDS
from .given import ProofGiven, Spec
from .inputs import PosedInputs
from .on_plate import on_plate
from .proof import held_as_printed
from .shelf import MemoryShelf, Shelf
from .size import upright_of
from .spec import Chosen, PlanBase
from .tasks import Progress, engine_of, quiet, within

ALIKE = 0.05
"""Prior: machines whose plans differ by less of their coins are a person's choice."""
MOST_SAID = 3
GAP_MM = 2.0
"""Between pieces of a plate."""


@dataclass(frozen=True)
class Night:
    """What the night is for: machines with a material each, how tall every figure is to be (None: as it came), the unit
    of its file, and what is too risky or takes too long.
    """

    machines: tuple[tuple[Spec, Spec], ...]
    height_mm: float | None = None
    unit: str = "mm"
    most_risk: float = 1.0
    most_hours: float = 1e6

    def key(self, data: bytes) -> str:
        """Of a file, what is asked of it, and the engine that answers; limits choose and are no part of it."""
        asked = [self.machines, self.height_mm, self.unit, engine(), hashlib.sha256(data).hexdigest()]
        return hashlib.sha256(orjson.dumps(asked, option=orjson.OPT_SORT_KEYS)).hexdigest()


def engine() -> str:
    """Of all that a figure of the night is planned by: every fold's task, and this."""
    tasks = [engine_of(spec.task) for spec in FOLDS if spec.task]
    return hashlib.sha256("".join([fingerprint(__name__), *tasks]).encode()).hexdigest()


def planned_figure(name: str, data: bytes, night: Night) -> tuple[NightRow, list[bytes]]:
    """A file's row, and a picture (PNG) of each of its ways; a file that cannot be planned says why in its row."""
    began, key = time.perf_counter(), night.key(data)
    try:
        whole = read(io.BytesIO(data)).whole.scaled(UNITS[night.unit])
        ready = make_ready(whole)
    except CoreError as problem:
        row = NightRow(
            file=name, key=key, size_mm=[], ways=[], best=None, look=[], refused=[_refusal(problem)],
            seconds=time.perf_counter() - began,
        )  # fmt: skip
        return row, []
    shelf = MemoryShelf()
    sha, worked = shelf.put(pack_whole(whole)), shelf.put(pack_whole(ready.mesh))
    row, pictures = planned_on(
        shelf,
        NightFigure(
            sha,
            worked,
            ready.mesh,
            upright_of(shelf, worked),
            mended_words(steps_of(ready.steps), closed=not ready.open_left),
        ),
        night,
        quiet,
    )
    return row.model_copy(update={"file": name, "key": key, "seconds": _since(began)}), pictures


def planned_on(shelf: Shelf, figure: NightFigure, night: Night, progress: Progress) -> tuple[NightRow, list[bytes]]:
    """The row of a figure on a shelf, still without name and key, and a picture (PNG) of each of its ways."""
    began = time.perf_counter()
    ways: list[NightWay] = []
    pictures: list[bytes] = []
    look, refused = figure.look(), []
    for done, (printer, material) in enumerate(night.machines):
        low, high = done / len(night.machines), (done + 1) / len(night.machines)
        try:
            way, picture, more = figure.on(shelf, printer, material, night, within(progress, low, high))
        except CoreError as problem:
            refused.append(_refusal(problem, str(printer["name"])))
            continue
        ways.append(way)
        pictures.append(picture)
        look += [f"{way.printer}: {said}" for said in more]
    best, close = _best(ways)
    row = NightRow(
        file="",
        key="",
        size_mm=[round(float(v), 2) for v in figure.mesh.size * figure.factor(night)],
        ways=ways,
        best=best,
        look=look + close,
        refused=refused,
        seconds=_since(began),
    )
    return row, pictures


def _since(began: float) -> float:
    return round(time.perf_counter() - began, 1)


def beyond_of(way: NightWay, night: Night) -> list[str]:
    """What of the limits a plan breaks."""
    beyond = []
    if way.risk > night.most_risk:
        beyond.append(f"risk {way.risk:.0%}, more than {night.most_risk:.0%}")
    if way.time_s / 3600 > night.most_hours:
        beyond.append(f"{way.time_s / 3600:.1f} hours, more than {night.most_hours:g}")
    return beyond


def chosen(row: NightRow, night: Night) -> NightRow:
    """The row with its ways held to other limits, and the best of them."""
    ways = [way.model_copy(update={"beyond": beyond_of(way, night)}) for way in row.ways]
    return row.model_copy(update={"ways": ways, "best": _best(ways)[0]})


def _best(ways: Sequence[NightWay]) -> tuple[int | None, list[str]]:
    """The cheapest within the limits, and what is to be said where another is as cheap."""
    able = [k for k, way in enumerate(ways) if not way.beyond]
    if not able:
        return None, ["no machine keeps the limits"] if ways else []
    best = min(able, key=lambda k: ways[k].coins)
    alike = [ways[k].printer for k in able if k != best and ways[k].coins < ways[best].coins * (1 + ALIKE)]
    return best, [f"as cheap on {', '.join(alike)}"] if alike else []


def _refusal(problem: CoreError, where: str = "") -> Refusal:
    return Refusal(code=problem.code, what=problem.what, where=where or problem.where, remedy=problem.remedy)


def mended_words(steps: Sequence[StepDoc], *, closed: bool) -> tuple[str, ...]:
    """What was done to a figure's file, and what it could not mend."""
    said = [f"its file was mended: {'; '.join(step.message for step in steps[:MOST_SAID])}"] if steps else []
    return (*said, *([] if closed else ["it is not closed all round"]))


@dataclass(frozen=True)
class NightFigure:
    """A figure of the night on a shelf: its file's mesh, the one that is worked on, which way is up, and what was done
    to its file.
    """

    sha: str
    worked: str
    mesh: Mesh
    upright: UprightDoc
    mended: tuple[str, ...]

    @property
    def up(self) -> Direction:
        """As it is guessed."""
        return self.upright.ups[0].up

    def factor(self, night: Night) -> float:
        """From the file's numbers to mm."""
        tall = height_along(self.mesh.vertices, self.up)
        return 1.0 if night.height_mm is None else night.height_mm / tall

    def look(self) -> list[str]:
        """What is to be looked at whatever it is printed on."""
        return ([] if self.upright.sure else ["which way is up was hard to tell"]) + list(self.mended)

    def on(
        self, shelf: Shelf, printer: Spec, material: Spec, night: Night, progress: Progress
    ) -> tuple[NightWay, bytes, list[str]]:
        """Planned on a machine: the way, its picture, and what is to be looked at."""
        base = PlanBase(self.sha, self.worked, {1: printer}, {1: material})
        factor = self.factor(night)
        tall = height_along(self.mesh.vertices, self.up) * factor
        start: Chosen = {"size": sized(base, factor=factor, height_mm=tall, printer_id=1, material_id=1, up=self.up)}
        chain = run_chain(shelf, base, start, until="layers", progress=progress)
        given = _last(base, chain.choices)
        held = held_as_printed(PosedInputs(shelf, given), given)
        way = _way(held, given, self.up, shelf)
        way = way.model_copy(update={"beyond": beyond_of(way, night)})
        return way, side_of(shelf, given, held), _said(held)


def _last(base: PlanBase, choices: Chosen) -> ProofGiven:
    spec = next(s for s in FOLDS if s.name == "proof")
    return spec.inputs(base, choices).to(ProofGiven)


def _way(held: HeldDoc, given: ProofGiven, up: Direction, shelf: Shelf) -> NightWay:
    row, proof = held.row, held.proof
    gift = Gift(**row.gift.model_dump())
    lean = float(np.degrees(np.arccos(np.clip(-np.dot(given.down, up), -1, 1))))
    printer = load_printer(given.printer)
    return NightWay(
        printer=printer.name,
        material=load_material(given.material, printer).name,
        layer_height_mm=row.layer_height_mm,
        time_s=row.numbers.time_s,
        hands_min=gift.hands_min,
        mass_g=row.numbers.mass_g,
        risk=row.numbers.risk,
        tips=row.tip_count,
        coins=priced(gift, rates_of(None)).total,
        lean_deg=round(lean, 1),
        beyond=[],
        plan={
            "layer_height_mm": row.layer_height_mm,
            "on_plate": on_plate(shelf, given, held).model_dump(),
            "proof": _of_plate(proof),
        },
    )


def _of_plate(proof: ProofDoc) -> dict[str, object]:
    return {
        "printer": proof.printer,
        "material_name": proof.material_name,
        "time_s": proof.time_s,
        "risk": proof.risk,
        "material": proof.material.model_dump(),
        "hazards": [{"code": h.code, "chance": h.chance} for h in proof.hazards if h.code == "mishap"],
    }


def _said(held: HeldDoc) -> list[str]:
    """What of a plan wants a person's eye before it is printed."""
    row = held.row
    said = [f"{row.islands_after} places still start in mid air"] if row.islands_after else []
    said += [f.message for f in row.findings if f.severity == "severe"]
    grave = [h for h in held.proof.hazards if h.severity == "severe" and h.loss != "scar"]
    said += [h.message for h in sorted(grave, key=lambda h: -h.chance)[:MOST_SAID]]
    return list(dict.fromkeys(said))


def best_of(row: NightRow) -> NightWay | None:
    """The way that is named, where one keeps the limits."""
    return None if row.best is None else row.ways[row.best]


def wants_a_look(row: NightRow) -> bool:
    """Whether a person's eye is needed before anything is printed."""
    return bool(row.look or row.refused) or best_of(row) is None


def composed(rows: Sequence[NightRow]) -> tuple[list[NightPlate], list[str]]:
    """The named ways on plates, by machine and material; every row has a name of its own."""
    pieces: dict[tuple[str, str], list[Piece]] = {}
    builds: dict[str, OnPlateDoc] = {}
    for row in rows:
        way = best_of(row)
        if way is not None:
            plan = PlanOfPlate.model_validate(way.plan)
            pieces.setdefault((way.printer, way.material), []).append(piece_of(row.file, plan, 1))
            builds[way.printer] = plan.on_plate
    plates, unplaced = [], []
    for (printer, material), mine in pieces.items():
        build = builds[printer]
        laid = plates_of(mine, build.build_mm, gap=GAP_MM, hangs=build.hangs)
        for plate in laid.plates:
            names = [piece.plan for piece, _ in plate.items]
            plates.append(
                NightPlate(printer=printer, material=material, pieces=names, time_s=plate.time_s, risk=plate.risk)
            )
        unplaced += [f"{piece.plan}: {why}" for piece, why in laid.unplaced]
    return plates, unplaced
