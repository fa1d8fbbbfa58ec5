"""`night`: a folder of figures planned while nobody looks on, each on the machines that there are; a table in the
morning. What is done is kept figure by figure: stopped, it goes on where it was.
"""

from __future__ import annotations

import argparse
import csv
import html
import io
import multiprocessing
import traceback
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Executor, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from contextlib import AbstractContextManager, contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import orjson
from pydantic import ValidationError

from .core.contract import Refusal
from .core.contract.night import NightDoc, NightRow, NightWay
from .core.errors import CoreError
from .core.machines import load_material, load_printer
from .core.plan.night import Night, best_of, chosen, composed, engine, planned_figure, wants_a_look
from .headless import say, write_whole

if TYPE_CHECKING:
    from distributed import Client

ENDINGS = (".stl", ".obj", ".ply", ".3mf", ".glb", ".gltf", ".zip")
MOST_FILES, MOST_BYTES = 500, 1 << 30
MOST_WORKERS = 32
AHEAD = 2
Planned = tuple[NightRow, list[bytes]]
Opened = Callable[[], AbstractContextManager[tuple[Executor, int]]]


def night(given: argparse.Namespace) -> NightDoc:
    """Plan a folder.

    Raises:
        CoreError: `no-folder`, `no-figures`, `too-many`, `bad-limit`, and what the machines' files raise.
    """
    home, asked = Path(given.file), _asked(given)
    files = _files(home)
    out = home / "night" if given.out is None else Path(given.out)
    (out / "rows").mkdir(parents=True, exist_ok=True)
    rows: dict[str, NightRow] = {}
    wanted: list[Path] = []
    for file in files:
        kept = None if given.again else _kept(out, file, asked)
        if kept is None:
            wanted.append(file)
        else:
            rows[file.name] = chosen(kept, asked)
    say(0.0, f"{len(files)} figures, {len(rows)} planned before")
    kept_before = len(rows)
    for name, row in _planned(lambda: pool_of(given.workers, given.scheduler), wanted, asked, out):
        rows[name] = row
        say(len(rows) / len(files), f"{name}: {_told(row)}")
    document = _document([rows[file.name] for file in files], kept_before)
    (out / "night.json").write_bytes(orjson.dumps(document.model_dump(by_alias=True), option=orjson.OPT_INDENT_2))
    (out / "night.csv").write_text(_table(document))
    (out / "night.html").write_text(_page(document))
    return document


def _asked(given: argparse.Namespace) -> Night:
    if not 1 <= given.workers <= MOST_WORKERS:
        raise CoreError("bad-limit", f"{given.workers} workers.", remedy=f"Give 1 to {MOST_WORKERS}.")
    if not 0 < given.most_risk <= 1 or not 0 < given.most_hours <= 1e6:
        raise CoreError("bad-limit", "Limits are a risk above 0 and up to 1, and hours above 0.", remedy="Give such.")
    if given.height is not None and not 1 <= given.height <= 2000:
        raise CoreError("bad-height", f"Figures {given.height} mm tall.", remedy="Give 1 to 2000 mm.")
    printers = [load_printer(name) for name in given.printers]
    materials = given.materials or [None] * len(printers)
    if len(materials) != len(printers):
        what = f"{len(materials)} materials for {len(printers)} printers."
        raise CoreError("bad-limit", what, remedy="Give one for each, or none.")
    machines = tuple(
        (printer.model_dump(mode="json"), load_material(material, printer).model_dump(mode="json"))
        for printer, material in zip(printers, materials, strict=True)
    )
    return Night(machines, given.height, given.unit, given.most_risk, given.most_hours)


def _files(home: Path) -> list[Path]:
    if not home.is_dir():
        raise CoreError("no-folder", f"{home} is no folder.", remedy="Give a folder with figures in it.")
    files = sorted(p for p in home.iterdir() if p.is_file() and p.suffix.lower() in ENDINGS)
    if not files:
        raise CoreError("no-figures", f"No figure lies in {home}.", remedy=f"Figures end in {', '.join(ENDINGS)}.")
    if len(files) > MOST_FILES:
        what = f"{len(files):,} figures are more than one night's work."
        raise CoreError("too-many", what, remedy=f"Give {MOST_FILES} at once at most.")
    return files


def _row_file(out: Path, file: Path) -> Path:
    return out / "rows" / f"{file.name}.json"


def _kept(out: Path, file: Path, asked: Night) -> NightRow | None:
    """The row of a figure that was planned before, where file, machines and engine are the same."""
    kept = _row_file(out, file)
    if not kept.is_file():
        return None
    try:
        row = NightRow.model_validate_json(kept.read_bytes())
    except ValidationError:
        return None  # of another version, or cut off: planned again
    return row if row.key == asked.key(file.read_bytes()) else None


def _pool(workers: int) -> Executor:
    return ProcessPoolExecutor(workers, mp_context=multiprocessing.get_context("forkserver"), max_tasks_per_child=20)


@contextmanager
def pool_of(workers: int, scheduler: str | None) -> Iterator[tuple[Executor, int]]:
    """What plans the figures, and how many are handed to it at a time: processes of this computer, or with the address
    of a Dask scheduler all workers that have joined it. Whatever it is, it is an `Executor`, and the rows are the same.

    Raises:
        CoreError: `no-scheduler`, `no-workers`, `other-workers`.
    """
    if scheduler is None:
        with _pool(workers) as pool:
            yield pool, AHEAD * workers
        return
    from distributed import Client

    try:
        client = Client(scheduler, timeout=SCHEDULER_S, set_as_default=False)  # type: ignore[no-untyped-call]
    except (OSError, ValueError, TypeError) as reason:
        what, how = f"No scheduler answers at {scheduler}.", "Start one (`dask scheduler`), or leave --scheduler out."
        raise CoreError("no-scheduler", what, remedy=how) from reason
    with client:
        _same_everywhere(client)
        with client.get_executor(pure=False) as joined:  # type: ignore[no-untyped-call]
            yield joined, AHEAD * max(1, sum(client.nthreads().values()))  # type: ignore[no-untyped-call]


SCHEDULER_S = 10


def _same_everywhere(client: Client) -> None:
    """Refuse workers that would answer otherwise than this computer."""
    # A worker that is lost meanwhile is the scheduler's to replace.
    answers = client.run(engine, on_error="return")
    engines = {worker: told for worker, told in answers.items() if isinstance(told, str)}
    if not engines:
        what = "No worker has joined the scheduler."
        raise CoreError("no-workers", what, remedy="Start some (`dask worker ADDRESS`) beside Tenugui's packages.")
    others = sorted(worker for worker, told in engines.items() if told != engine())
    if others:
        what = f"{len(others)} of {len(engines)} workers run another version: {', '.join(others[:3])}."
        raise CoreError("other-workers", what, remedy="Install the same version on all of them.")


def _planned(opened: Opened, files: Sequence[Path], asked: Night, out: Path) -> Iterator[tuple[str, NightRow]]:
    """Rows as they are done, each on the disk before it is told; as many are read as are planned soon. Where one takes
    its process down, those that were under way are planned once more, each alone, and the others by another pool.
    """
    waiting, alone = deque(files), list[Path]()
    while waiting:
        with opened() as (pool, ahead):
            begun: dict[Future[Planned], Path] = {}
            broken = False
            while (waiting or begun) and not broken:
                while waiting and len(begun) < ahead:
                    file = waiting.popleft()
                    begun[pool.submit(_figure, file.name, file.read_bytes(), asked)] = file
                done, _ = wait(begun, return_when=FIRST_COMPLETED)
                for one in done:
                    file = begun.pop(one)
                    try:
                        yield file.name, _written(out, file, one.result())
                    except BrokenProcessPool:
                        broken = True
                        alone.append(file)
                    except Exception as lost:  # of the pool itself: a figure's own faults are told in its row
                        what = f"Its workers were lost: {lost}."
                        why = Refusal(code="died", what=what, where="", remedy="Thin it, or plan it alone.")
                        yield file.name, _written(out, file, _refused(file.name, why))
            alone += begun.values()
    for file in alone:
        yield file.name, _written(out, file, _alone(file, asked))


def _figure(name: str, data: bytes, asked: Night) -> Planned:
    """A figure of the night. What nobody foresaw of one is told in its row, and stops no other."""
    if len(data) > MOST_BYTES:
        what = f"The file is larger than {MOST_BYTES >> 30} GB."
        return _refused(name, Refusal(code="too-large", what=what, where="", remedy="Thin it."))
    try:
        return planned_figure(name, data, asked)
    except Exception as fault:
        traceback.print_exc()
        what = f"Its planning failed, which is a defect of Tenugui: {type(fault).__name__}: {fault}."
        return _refused(name, Refusal(code="fault", what=what, where="", remedy="Report this, with the file."))


def _written(out: Path, file: Path, planned: Planned) -> NightRow:
    """A row on the disk with the pictures of its ways."""
    row, pictures = planned
    ways = []
    for k, (way, picture) in enumerate(zip(row.ways, pictures, strict=True)):
        shown = f"rows/{file.name}.{k + 1}.png"
        (out / shown).write_bytes(picture)
        ways.append(way.model_copy(update={"picture": shown}))
    row = row.model_copy(update={"ways": ways})
    write_whole(_row_file(out, file), row.dumped())
    return row


def _alone(file: Path, asked: Night) -> Planned:
    """A figure once more in a process of its own, after one died."""
    with _pool(1) as pool:
        try:
            return pool.submit(_figure, file.name, file.read_bytes(), asked).result()
        except BrokenProcessPool:
            what = "Its planning takes the process down, most likely for want of memory."
            return _refused(file.name, Refusal(code="died", what=what, where="", remedy="Thin it, or plan it alone."))


NEVER = "never kept"
"""The key of a row that is to be planned again the next time."""


def _refused(name: str, why: Refusal) -> Planned:
    row = NightRow(file=name, key=NEVER, size_mm=[], ways=[], best=None, look=[], refused=[why], seconds=0.0)
    return row, []


def _told(row: NightRow) -> str:
    best = best_of(row)
    if best is not None:
        return f"{best.printer}, {best.layer_height_mm:g} mm, {best.time_s / 3600:.1f} h, risk {best.risk:.0%}"
    return row.refused[0].what if row.refused else "no machine keeps the limits"


def _document(rows: list[NightRow], kept: int) -> NightDoc:
    plates, unplaced = composed(rows)
    return NightDoc(
        rows=rows,
        plates=plates,
        unplaced=unplaced,
        hours=sum(plate.time_s for plate in plates) / 3600,
        planned=sum(best_of(row) is not None for row in rows),
        kept=kept,
        looked_first=sum(map(wants_a_look, rows)),
    )


COLUMNS: tuple[tuple[str, Callable[[NightRow, NightWay], object]], ...] = (
    ("machine", lambda row, way: way.printer),
    ("layer mm", lambda row, way: way.layer_height_mm),
    ("hours", lambda row, way: round(way.time_s / 3600, 2)),
    ("minutes by hand", lambda row, way: round(way.hands_min)),
    ("grams", lambda row, way: round(way.mass_g, 1)),
    ("risk %", lambda row, way: round(100 * way.risk, 1)),
    ("supports", lambda row, way: way.tips),
    ("coins", lambda row, way: round(way.coins, 2)),
)


def _table(document: NightDoc) -> str:
    """The rows as CSV."""
    out = io.StringIO()
    sheet = csv.writer(out)
    sheet.writerow(["figure", *(name for name, _ in COLUMNS), "look first"])
    for row in document.rows:
        way = best_of(row)
        cells = ["" if way is None else of(row, way) for _, of in COLUMNS]
        sheet.writerow([_plain(row.file), *cells, "; ".join(_first(row))])
    return out.getvalue()


def _plain(name: str) -> str:
    """A file's name that no sheet takes for a formula."""
    return f"'{name}" if name[:1] in "=+-@" else name


def _first(row: NightRow) -> list[str]:
    said = [f"{r.where}: {r.what} {r.remedy}".removeprefix(": ").strip() for r in row.refused]
    if row.ways and best_of(row) is None:
        said += [f"{way.printer}: {', '.join(way.beyond)}" for way in row.ways]
    return said + row.look


STYLE = (
    "body{background:#f2ede1;color:#21293c;font:15px/1.45 Georgia,serif;margin:2rem}"
    "table{border-collapse:collapse}td,th{border-bottom:1px solid #cdbfa6;padding:.4rem .7rem;text-align:left;"
    "vertical-align:top;font-weight:400}th{color:#5d6478}img{height:150px}h1,h2{font-weight:400;color:#20365f}"
)


def _page(document: NightDoc) -> str:
    """The rows as a page with pictures, beside which it lies."""
    e = html.escape
    heads = "".join(f"<th>{e(name)}</th>" for name in ("", "figure", *(name for name, _ in COLUMNS), "look first"))
    lines = []
    for row in document.rows:
        way = best_of(row)
        seen = way or (row.ways[0] if row.ways else None)
        shown = f'<img src="{e(seen.picture)}" alt="{e(row.file)} as it is printed">' if seen and seen.picture else ""
        cells = "".join(f"<td>{'' if way is None else e(str(of(row, way)))}</td>" for _, of in COLUMNS)
        look = "<br>".join(e(said) for said in _first(row))
        lines.append(f"<tr><td>{shown}</td><td>{e(row.file)}</td>{cells}<td>{look}</td></tr>")
    told = [(f"{p.printer}, {p.material}: {', '.join(p.pieces)}", p) for p in document.plates]
    plates = "".join(f"<li>{e(said)}, {p.time_s / 3600:.1f} h, risk {p.risk:.0%}</li>" for said, p in told)
    return (
        f'<!doctype html><html lang="en"><meta charset="utf-8"><title>The night</title><style>{STYLE}</style>'
        f"<h1>{document.planned} of {len(document.rows)} planned</h1>"
        f"<p>{document.looked_first} want a look first. Chances are priors.</p>"
        f"<table><thead><tr>{heads}</tr></thead><tbody>{''.join(lines)}</tbody></table>"
        f"<h2>Plates, {document.hours:.1f} hours</h2><ol>{plates}</ol></html>\n"
    )
