"""The contract's commands: the pipeline of the application, run in memory on one file."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import orjson
from numpy.typing import NDArray

from .core.contract import (
    Choice,
    Document,
    FaceDoc,
    HealthDoc,
    JudgeDoc,
    LayersBoard,
    LayersDoc,
    LayersRow,
    MarksChoice,
    PoseBoard,
    PoseDoc,
    PrintFileDoc,
    ProofBoard,
    ProofDoc,
    SlicesDoc,
    StrokeDoc,
    SupportsAskedDoc,
    SupportsChoice,
    WallsChoice,
    health_document,
    pack_labels,
    pose_document,
    repair_document,
    steps_of,
)
from .core.errors import CoreError
from .core.formats import pack_whole, read, write_3mf, write_obj, write_ply, write_run_sheet, write_stl
from .core.machines import USUAL_RISK, Material, Printer, default_height, load_material, load_printer, printer_heights
from .core.marks import MarkError, labels_from_lists, transfer
from .core.mesh import UNITS, Mesh, examine
from .core.plan import (
    ENDINGS,
    Chosen,
    Inputs,
    MemoryShelf,
    PlanBase,
    computed,
    held_of,
    judged_file,
    must,
    of,
    parts_of,
    run_chain,
    run_sheet,
    sized,
    spec_of,
    upright_of,
)
from .core.plan.asked_set import asked_set
from .core.plan.figure import coarse_of
from .core.plan.given import BareGiven, FigureGiven, HeightsGiven, LookGiven, PosedGiven, PoseGiven, ProofGiven
from .core.plan.inputs import PosedInputs
from .core.plan.look import faced, look_of
from .core.plan.off_plate import off_plate
from .core.plan.on_plate import on_plate
from .core.pose import Direction, up_of
from .core.repair import Ready, make_ready, repair

Labels = NDArray[np.uint8]
FILE_DOWN = [0.0, 0.0, -1.0]


@dataclass(frozen=True)
class Brought:
    """A file: its mesh in mm as it came, the mesh to work on, and the labels of the file's faces where it is marked."""

    mesh: Mesh
    ready: Ready | None
    labels: Labels | None

    @property
    def worked_ready(self) -> Ready:
        """What was made of it."""
        assert self.ready is not None
        return self.ready

    @property
    def worked(self) -> Mesh:
        """The mesh to work on."""
        return self.worked_ready.mesh


def read_figure(path: str, unit: str, marks: str | None, *, ready: bool) -> Brought:
    """A file's mesh in mm, its marks, and with `ready` the mesh to work on."""
    with open(path, "rb") as handle:
        read_in = read(handle)
    own = None
    if read_in.marks:
        own = np.concatenate(
            [read_in.marks.get(name, np.zeros(len(part.faces), np.uint8)) for name, part in read_in.parts.items()]
        )
    mesh = read_in.whole if unit == "mm" else read_in.whole.scaled(UNITS[unit])
    labels = _labels(marks, len(mesh.faces), own)
    return Brought(mesh, make_ready(mesh) if ready else None, labels)


def _labels(path: str | None, faces: int, own: Labels | None) -> Labels | None:
    """Labels (faces,) from a marks file: {"faces": {"show": [...], ...}} with indices in file order; without one, the
    figure file's own.
    """
    if path is None:
        return own
    try:
        marks = orjson.loads(Path(path).read_bytes())
    except orjson.JSONDecodeError as reason:
        raise MarkError("bad-marks", f"The marks cannot be read: {reason}.", path) from reason
    return labels_from_lists(marks.get("faces") if isinstance(marks, dict) else None, faces, path)


WRITERS: dict[str, Callable[[dict[str, Mesh], BinaryIO], None]] = {
    ".3mf": write_3mf,
    ".stl": lambda parts, handle: write_stl(Mesh.joined(list(parts.values())), handle),
    ".obj": write_obj,
    ".ply": lambda parts, handle: write_ply(Mesh.joined(list(parts.values())), handle),
}


def _writer(out: str) -> Callable[[dict[str, Mesh], BinaryIO], None]:
    writer = WRITERS.get(Path(out).suffix.lower())
    if writer is None:
        raise CoreError("bad-format", f"{out} does not end in {', '.join(WRITERS)}.", remedy="Choose one of these.")
    return writer


def write_parts(parts: dict[str, Mesh], out: str, labels: Labels | None = None) -> None:
    """Write parts by the ending of the file's name.

    Raises:
        CoreError: `bad-format`.
    """
    writer = _writer(out)
    with open(out, "wb") as handle:
        if writer is write_3mf and labels is not None:
            write_3mf(parts, handle, {"figure": labels})
        else:
            writer(parts, handle)


def _height(given: float | None, printer: Printer) -> float:
    if given is not None and not 0.005 <= given <= 2:
        raise CoreError("bad-height", f"A layer height of {given} mm is out of range.", remedy="Give 0.005 to 2 mm.")
    return default_height(printer) if given is None else given


class Run:
    """One command on one file: its machine, its shelf, and the inputs that the pipeline takes."""

    def __init__(self, given: argparse.Namespace, brought: Brought, printer: Printer, material: Material) -> None:
        self.given, self.brought, self.printer, self.material = given, brought, printer, material
        self.shelf = MemoryShelf()
        self.base = PlanBase(
            sha=self.shelf.put(pack_whole(brought.mesh)),
            worked=self.shelf.put(pack_whole(brought.worked)),
            printers={1: printer.model_dump(mode="json")},
            materials={1: material.model_dump(mode="json")},
        )
        self.up = up_of(getattr(given, "up", "auto")) or upright_of(self.shelf, self.base.worked).ups[0].up
        self.strokes: list[StrokeDoc] = []
        if brought.labels is not None:
            self.strokes = [StrokeDoc(tool="file", what=self.shelf.put(pack_labels(brought.labels)))]

    @property
    def figure(self) -> FigureGiven:
        """Inputs of a task for the figure as it stands in its file."""
        return FigureGiven(
            sha=self.base.worked,
            up=self.up,
            printer=self.base.printers[1],
            material=self.base.materials[1],
            strokes=tuple(self.strokes),
            marks_of=self.base.sha if self.strokes else None,
        )

    @property
    def posed(self) -> PosedGiven:
        """The same in the pose of its file."""
        return self.figure.to(PosedGiven, down=FILE_DOWN)


def _prepared(ready: Ready) -> dict[str, Any]:
    """What was mended before the computation, said in every document."""
    steps = [step.model_dump() for step in steps_of(ready.steps)]
    return {"prepared": {"steps": steps, "specks_left_out": ready.specks, "open_left": ready.open_left}}


def _health(given: argparse.Namespace, mesh: Mesh) -> HealthDoc:
    up = _up_of(mesh)
    if not given.repair:
        return health_document(mesh, examine(mesh), up)
    done = repair(mesh, given.unite, given.remesh)
    write_parts({"figure": done.mesh}, given.repair)
    return health_document(mesh, examine(mesh), up, repair_document(done))


def _up_of(mesh: Mesh) -> Direction:
    """What is taken for the up of what would be worked on, or of the file as it came where it cannot be."""
    try:
        worked = make_ready(mesh).mesh
    except CoreError:
        worked = mesh
    shelf = MemoryShelf()
    return upright_of(shelf, shelf.put(pack_whole(worked))).ups[0].up


def _refuse(given: argparse.Namespace, printer: Printer) -> None:
    """Refuse numbers that are out of range before anything is read.

    Raises:
        CoreError: `bad-count`, `bad-height`.
    """
    if not 1 <= getattr(given, "count", 1) <= 24:
        raise CoreError("bad-count", f"{given.count} candidates are out of range.", remedy="Give 1 to 24.")
    tall = getattr(given, "height", None)
    if tall is not None and not 1 <= tall <= 2000:
        raise CoreError("bad-height", f"A figure {tall} mm tall is out of range.", remedy="Give 1 to 2000 mm.")
    _height(getattr(given, "layer_height", None), printer)
    refuse_files(given)
    for height in _heights(given) or ():
        _height(height, printer)


WRITES_MESHES = ("health", "hollow", "supports")
"""Commands whose files are meshes; others write into a folder, or numbers."""


def refuse_files(given: argparse.Namespace) -> None:
    """Refuse, before anything is read, to write over the file that is read, and meshes of no known format.

    Raises:
        CoreError: `own-file`, `bad-format`.
    """
    file = Path(given.file)
    written = [out for name in ("out", "repair", "plugs") if (out := getattr(given, name, None))]
    if any(Path(out).resolve() == file.resolve() for out in written):
        raise CoreError(
            "own-file",
            f"{file} would be written over by what is made of it.",
            remedy="Give another file.",
        )
    for out in written if given.command in WRITES_MESHES else ():
        _writer(out)


def _heights(given: argparse.Namespace) -> list[float] | None:
    """The layer heights that were asked for; None where none were."""
    asked = getattr(given, "heights", None)
    try:
        return [float(height) for height in asked.split(",")] if asked else None
    except ValueError as reason:
        raise CoreError("bad-height", f"--heights is not a list of numbers: {asked}.") from reason


def _proof(run: Run) -> ProofDoc:
    given = run.given
    height = _height(given.layer_height, run.printer)
    if given.supports == "auto":
        return held_of(run.shelf, run.posed, height=height, risk=USUAL_RISK).proof
    return computed(run.shelf, "bare", run.figure.to(BareGiven, height=height, as_is=bool(given.as_is)), ProofDoc)


def _pose(run: Run) -> PoseDoc:
    return pose_document(computed(run.shelf, "pose", run.figure.to(PoseGiven, count=run.given.count), PoseBoard))


def _supports(run: Run) -> SupportsAskedDoc:
    given = run.given
    height = _height(given.layer_height, run.printer)
    supported = held_of(
        run.shelf,
        run.posed,
        height=height,
        risk=(USUAL_RISK if given.risk is None else given.risk),
        style=given.style,
    )
    inputs = PosedInputs(run.shelf, run.posed)
    if given.out:
        write_parts(parts_of(inputs, supported), given.out, inputs.labels)
    return asked_set(inputs, supported)


def _layers(run: Run) -> LayersDoc:
    heights = _heights(run.given) or printer_heights(run.printer, run.material)
    return computed(run.shelf, "heights", run.figure.to(HeightsGiven, heights=tuple(heights)), LayersDoc)


def say(share: float, what: str) -> None:
    """How far it is, beside the document."""
    print(f"{share:4.0%} {what}", file=sys.stderr, flush=True)


def _plan(run: Run) -> dict[str, Any]:
    given, tall = run.given, Inputs(run.shelf, run.figure).tall
    factor = _factor(run)
    start: dict[str, Choice] = {
        "size": sized(run.base, factor=factor, height_mm=tall * factor, printer_id=1, material_id=1, up=run.up)
    }
    if run.strokes:
        start["marks"] = MarksChoice(strokes=run.strokes)
    chain = run_chain(run.shelf, run.base, start, progress=say)
    board = chain.boards["proof"]
    assert isinstance(board, ProofBoard)
    out, name = Path(given.out), Path(given.file).stem
    out.mkdir(parents=True, exist_ok=True)
    if any((out / f"{name}{ending}").resolve() == Path(given.file).resolve() for ending in (".3mf", ".stl")):
        name += "-plan"  # the file that was read stays as it is
    (out / f"{name}.3mf").write_bytes(run.shelf.get(board.files.package))
    (out / f"{name}.stl").write_bytes(run.shelf.get(board.files.stl))
    given_last = _given("proof", run.base, chain.choices).to(ProofGiven)
    with open(out / f"{name}-run-sheet.pdf", "wb") as handle:
        write_run_sheet(
            run_sheet(name, board, given_last, run.shelf.get(board.files.sheet_sha)),
            handle,
        )
    layers, pose = chain.boards["layers"], chain.boards["pose"]
    assert isinstance(layers, LayersBoard) and isinstance(pose, PoseBoard)
    print_file = computed(run.shelf, "printfile", given_last, PrintFileDoc, say)
    cut = computed(run.shelf, "slices", given_last, SlicesDoc, say)
    written = {
        f"{name}-layers.zip" if print_file.kind == "layers" else f"{name}.gcode": print_file.sha,
        f"{name}-slices.3mf": cut.sha,
    }
    for file, sha in written.items():
        write_whole(out / file, run.shelf.get(sha))
    taken, walls = must(chain.choices, SupportsChoice), of(chain.choices, WallsChoice)
    held = held_of(run.shelf, given_last, height=board.proof.layers.height_mm, risk=taken.risk, style=taken.style)
    document = {
        "schema": "tenugui/plan@1",
        "up": list(run.up),
        "layer_height_mm": board.proof.layers.height_mm,
        "files": [f"{name}.3mf", f"{name}.stl", f"{name}-run-sheet.pdf", *written, "plan.json"],
        "pose": pose_document(pose).model_dump(),
        "supports": held.supports.model_dump(),
        "layers": {
            "schema": "tenugui/layers@1",
            "choices": [_layers_row(row) for row in layers.choices],
            "recommended": layers.recommended,
            "why": layers.why,
        },
        "hollow": _hollow_of(chain.boards.get("hollow")),
        "walls": walls and walls.model_dump(include={"perimeters", "roof_mm", "infill", "option"}),
        "choices": {fold: choice.model_dump(mode="json") for fold, choice in chain.choices.items()},
        "on_plate": on_plate(run.shelf, given_last, held).model_dump(),
        "off_plate": off_plate(given_last, board, held).model_dump(),
        # Of the very file that was written, which plans every layer.
        "proof": board.proof.model_dump() | {"time_s": print_file.time_s},
    } | _prepared(run.brought.worked_ready)
    (out / "plan.json").write_bytes(orjson.dumps(document, option=orjson.OPT_INDENT_2 | orjson.OPT_SERIALIZE_NUMPY))
    return document


def _layers_row(row: LayersRow) -> dict[str, Any]:
    """A layer height as the contract has it, and its bands where it has some."""
    return row.height.model_dump() | ({} if row.bands is None else {"bands": row.bands.model_dump()})


def write_whole(path: Path, data: bytes) -> None:
    """A file, under another name until it is whole."""
    part = path.with_name(path.name + ".part")
    try:
        part.write_bytes(data)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def _given(fold: str, base: PlanBase, choices: Chosen) -> FigureGiven:
    """Inputs of a fold's task."""
    spec = spec_of(fold)
    assert spec is not None
    return spec.inputs(base, choices)


def _hollow_of(board: Any) -> dict[str, Any] | None:
    """What is cut out of the figure; null where it stays solid."""
    row = board.choices[board.recommended].hollow if board else None
    return None if row is None else row.model_dump()


def _judge(run: Run) -> JudgeDoc:
    """Lengths as the figure is asked for: `--height` scales them, the directions stay."""
    factor = _factor(run)
    sha, worked = run.base.worked, run.brought.worked
    look = look_of(run.shelf, LookGiven(sha=sha, up=run.up))
    coarse = coarse_of(run.shelf, sha)
    written = None
    if run.given.out is not None:
        # The file's own triangles, also those that mending left out, each as the nearest that looks its way.
        importance = transfer(coarse, look.importance, run.brought.mesh) if len(worked.faces) else np.empty(0)
        written = str(Path(run.given.out) / "importance.npy")
        Path(run.given.out).mkdir(parents=True, exist_ok=True)
        with open(written, "wb") as handle:
            np.save(handle, importance.astype(np.float32))
    front = faced(run.shelf, sha, run.up)
    return JudgeDoc(up=run.up, front=front, faces=[FaceDoc.of(f, factor) for f in look.faces], importance=written)


def _factor(run: Run) -> float:
    """From the file's lengths to those of the height that was asked for."""
    given = run.given
    return 1.0 if given.height is None else float(given.height / Inputs(run.shelf, run.figure).tall)


COMMANDS: dict[str, Callable[[Run], Document]] = {
    "proof": _proof,
    "pose": _pose,
    "supports": _supports,
    "layers": _layers,
    "judge": _judge,
}


def run(
    given: argparse.Namespace, printer_given: str | dict[str, Any] | None, material_given: str | dict[str, Any] | None
) -> None:
    """Run a headless command and print its document.

    Raises:
        CoreError: bad input, in one sentence with its remedy.
    """
    if printer_given is None:
        refuse_files(given)
        brought = read_figure(given.file, given.unit, None, ready=False)
        document = _health(given, brought.mesh).model_dump()
    elif given.command == "proof" and given.file.lower().endswith(ENDINGS):
        with open(given.file, "rb") as handle:
            document = judged_file(given.file, handle, load_printer(printer_given)).model_dump()
    else:
        printer = load_printer(printer_given)
        material = load_material(material_given, printer)
        _refuse(given, printer)
        brought = read_figure(given.file, given.unit, getattr(given, "marks", None), ready=True)
        here = Run(given, brought, printer, material)
        if given.command == "plan":
            document = _plan(here)
        else:
            document = COMMANDS[given.command](here).model_dump() | _prepared(brought.worked_ready)
    tell(document, given.json)


def tell(document: dict[str, Any], plain: bool) -> None:
    """One JSON document to stdout, on one line or indented."""
    text = orjson.dumps(document, option=orjson.OPT_SERIALIZE_NUMPY | (0 if plain else orjson.OPT_INDENT_2))
    sys.stdout.write(text.decode() + "\n")
