"""The folds of a job, written once: what each asks, needs and rests on, how it is computed, and how a choice is worded.

A fold is `open` (nothing decided), `settled`, or `stale`: its decision rests on inputs that are not today's, whatever changed: the fold
before it, a printer on the shelf, the engine's version of its task.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from ..contract import Document, HollowBoard, LayersBoard, Numbers, PoseBoard, ProofBoard, SupportsBoard, WallsBoard
from ..machines import default_height, load_printer
from ..pose import Z_UP
from .came import CAME
from .tasks import Given, key_of, task_of

Choice = dict[str, Any]


@dataclass(frozen=True)
class Taken:
    """An alternative that was taken: what is stored of it, why, and its running figures."""

    choice: Choice
    reason: str
    numbers: Numbers | None


@dataclass(frozen=True)
class FoldSpec:
    """One fold. `needs`: folds that must be settled before it. `given`: its task's inputs from the figure's and the choices before it.

    `take`: an alternative of its board by index. `free`: it may stay open and the rest goes on without it. `process`: the only one that it is for.
    `wished`: its board rests on what somebody asks.
    """

    name: str
    title: str
    question: str
    needs: tuple[str, ...]
    worded: Callable[[Choice], str]
    task: str | None = None
    given: Callable[[Given, Mapping[str, Choice]], Given] | None = None
    take: Callable[[Any, int], Taken] | None = None
    free: bool = False
    decided: bool = True
    process: str | None = None
    wished: bool = False

    def asks(self, choices: Mapping[str, Choice]) -> bool:
        """Whether the fold is asked of a plan with these choices."""
        return self.process is None or choices.get("size", {}).get("process", self.process) == self.process


def _figure(base: Given, choices: Mapping[str, Choice]) -> Given:
    """What all tasks share: the figure at its size on its machine, with its marks. `base` holds the mesh, printers and materials by id."""
    size = choices["size"]
    given: Given = {
        "sha": size["sha"],
        "factor": size["factor"],
        "up": list(size.get("up") or Z_UP),
        "printer": base["printers"][size["printer_id"]],
        "material": base["materials"][size["material_id"]],
    }
    if choices.get("marks", {}).get("bare"):
        given["bare"] = True
    strokes = choices.get("marks", {}).get("strokes")
    if strokes:
        given["strokes"] = strokes
        if any(row.get("tool") == "file" for row in strokes):
            given["marks_of"] = base["sha"]
    return given


def _pose(base: Given, choices: Mapping[str, Choice]) -> Given:
    held = choices.get("pose", {}).get("wishes")
    asked = base.get("wishes")
    wishes = asked if asked is not None else held if held is not None else _first_wishes(choices)
    if base.get("came"):  # the way it stood in its plan's file
        wishes = wishes | {"pinned": [[0.0, 0.0, -1.0], *wishes.get("pinned", [])]}
    front = choices["size"].get("front")
    return _figure(base, choices) | ({"front": front} if front else {}) | wishes


def _first_wishes(choices: Mapping[str, Choice]) -> Given:
    wish = choices.get("marks", {}).get("wish")
    return {"wish": wish} if wish else {}


def _supports(base: Given, choices: Mapping[str, Choice]) -> Given:
    pose = choices["pose"]
    plinth = {"plinth": pose["plinth"]} if pose.get("plinth") else {}
    cut = choices.get("hollow", {}) if choices["size"].get("process") == "resin" else {}
    hollow = {"hollow": {k: cut.get(k) for k in ("wall", "lattice", "holes")}} if cut.get("wall") is not None else {}
    if hollow and (cut.get("wishes") or {}).get("plugs"):
        hollow["hollow"]["plugs"] = True
    figure = _figure(base, choices)
    if set_to := _set_walls(choices):
        figure["printer"] = figure["printer"] | set_to
    return figure | {"down": pose["down"]} | plinth | hollow | _rates(choices)


def _rates(choices: Mapping[str, Choice]) -> Given:
    rates = ((choices.get("pose", {}).get("wishes") or {}).get("wish") or {}).get("rates")
    return {"rates": rates} if rates else {}


def _set_walls(choices: Mapping[str, Choice]) -> Given:
    """What the machine is set to for the walls that were taken."""
    walls = choices.get("walls", {}) if choices["size"].get("process") == "filament" else {}
    return {k: walls[k] for k in ("perimeters", "roof_mm", "infill") if walls.get(k) is not None}


def _own(base: Given, choices: Mapping[str, Choice], fold: str) -> Given:
    """What somebody asks of a fold's board now, else what was asked when it was settled."""
    asked = base.get("wishes")
    own = (asked if asked is not None else choices.get(fold, {}).get("wishes") or {}).get("own")
    return {"own": own} if own else {}


def _walls(base: Given, choices: Mapping[str, Choice]) -> Given:
    pose = choices["pose"]
    plinth = {"plinth": pose["plinth"]} if pose.get("plinth") else {}
    return _figure(base, choices) | {"down": pose["down"]} | plinth | _own(base, choices, "walls") | _rates(choices)


def _hollow(base: Given, choices: Mapping[str, Choice]) -> Given:
    """Judged in the pose where it is settled, else as the figure stands: holes may come before the pose or after it."""
    pose = choices.get("pose") or {}
    down = {"down": pose["down"]} if pose.get("down") else {}
    return _figure(base, choices) | down | _own(base, choices, "hollow") | _rates(choices)


def _layers(base: Given, choices: Mapping[str, Choice]) -> Given:
    held = choices["supports"]
    by_hand = {"edits": held["edits"]} if held.get("edits") else {}
    came = {"came": base["came"]} if held["style"] == CAME else {}
    return _supports(base, choices) | {"risk": held["risk"], "style": held["style"]} | came | by_hand


def _support_sets(base: Given, choices: Mapping[str, Choice]) -> Given:
    came = {"came": base["came"]} if base.get("came") else {}
    return _supports(base, choices) | came | _own(base, choices, "supports")


def _proof(base: Given, choices: Mapping[str, Choice]) -> Given:
    taken = choices["layers"]
    bands = {"bands": taken["bands"]["limit_mm"]} if taken.get("bands") else {}
    return _layers(base, choices) | {"height": taken["layer_height_mm"]} | bands


def _take_pose(board: PoseBoard, index: int) -> Taken:
    row = board.candidates[index]
    choice = {"down": list(row.pose.down), "option": index, "recommended": index == board.recommended}
    if row.pose.metrics.plinth_mm:
        choice["plinth"] = row.pose.metrics.plinth_mm
    return Taken(choice, row.pose.why, row.numbers)


def _take_hollow(board: HollowBoard, index: int) -> Taken:
    row = board.choices[index]
    if row.hollow is None or row.wall_mm is None:
        return Taken({"option": index, "wall": None}, "Stays solid" if row.hollow is None else "As it came", None)
    holes = [hole.model_dump(mode="json") for cavity in row.hollow.cavities for hole in cavity.holes]
    choice = {
        "option": index,
        "wall": row.wall_mm,
        "lattice": row.lattice_mm,
        "holes": holes,
        "preview_sha": row.preview_sha,
    }
    many = f"{len(holes)} hole{'s' * (len(holes) != 1)}"
    if row.wall_mm <= 0:
        reason = "Its closed voids are filled" if row.wall_mm < 0 else f"As it came, with {many} more"
        return Taken(choice, reason, None)
    struts = f", struts every {row.lattice_mm:g} mm" if row.lattice_mm else ""
    reason = f"Hollow, wall {row.wall_mm:g} mm{struts}, {many}: {row.hollow.saved_ml:.1f} ml saved"
    return Taken(choice, reason, None)


def _hollowed(choice: Choice) -> str:
    wall = choice.get("wall")
    if wall is None or wall < 0:
        return "filled" if wall else "not hollowed"
    many = len(choice["holes"])
    holes = f"{many} hole{'s' * (many != 1)}"
    return f"wall {wall:g} mm, {holes}" if wall else f"{holes} more"


def _take_walls(board: WallsBoard, index: int) -> Taken:
    row = board.choices[index]
    choice = {"option": index, "perimeters": row.perimeters, "roof_mm": row.roof_mm, "infill": row.infill}
    return Taken(choice, f"{row.name}: {_walled(choice)}, roofs of {row.roof_mm:g} mm, {row.mass_g:.0f} g", None)


def _walled(choice: Choice) -> str:
    lines = choice["perimeters"]
    return f"{lines} line{'s' * (lines != 1)}, {choice['infill']:.0%} inside".replace("%", " %")


def _styled(style: str | None) -> str:
    return {"trees": ", in trees", "mixed": ", mixed", "blocks": ", in blocks", CAME: ", as they came"}.get(
        style or "", ""
    )


def _take_supports(board: SupportsBoard, index: int) -> Taken:
    row = board.choices[index]
    trees = _styled(row.style)
    choice = {"risk": row.risk, "style": row.style, "tips": row.tip_count, "option": index}
    if row.edits:
        choice["edits"] = [edit.model_dump(exclude_none=True) for edit in row.edits]
    hand = f", {len(row.edits)} change{'s' * (len(row.edits) > 1)} by hand" if row.edits else ""
    return Taken(
        choice,
        f"Accepted risk {row.risk:.0%} a tip{trees}{hand}: {row.tip_count} tips, {row.islands_after} islands left",
        row.numbers,
    )


def _take_layers(board: LayersBoard, index: int) -> Taken:
    row = board.choices[index]
    h = row.height
    reason = f"{h.layer_height_mm:g} mm" + (f", {h.step_kind} step" if h.step_kind != "none" else "")
    choice: Choice = {"layer_height_mm": h.layer_height_mm, "layers": h.layers, "option": index}
    if row.bands:
        heights = [height for height, _ in row.bands.runs]
        choice["bands"] = {"limit_mm": row.bands.limit_mm, "most_mm": max(heights)}
        reason = f"{min(heights):g} to {max(heights):g} mm in bands, steps within {row.bands.limit_mm * 1000:.0f} µm"
    return Taken(choice, reason, row.held.numbers)


def _layered(choice: Choice) -> str:
    bands = choice.get("bands")
    thick = f" to {bands['most_mm']:g}" if bands else ""
    return f"{choice['layer_height_mm']:g}{thick} mm, {choice['layers']:,}"


def _take_proof(board: ProofBoard, index: int) -> Taken:
    choice = {
        "islands": board.held.islands_after,
        "hazards": len(board.proof.hazards),
        "layer_height_mm": board.proof.layers.height_mm,
    }
    return Taken(choice, "Every layer read", board.held.numbers)


def _marked(choice: Choice) -> str:
    kinds = choice.get("kinds") or []
    unmarked = "bare" if choice.get("bare") else "as it says itself"
    return ", ".join(k.replace("_", " ") for k in kinds) or (
        "as the file marks it" if choice.get("strokes") else unmarked
    )


FOLDS: tuple[FoldSpec, ...] = (
    FoldSpec("size", "Size", "How tall?", (), lambda c: f"{c['height_mm']:.0f} mm, {c['printer']}"),
    FoldSpec("marks", "Marks", "Which surfaces matter?", ("size",), _marked, free=True),
    FoldSpec(
        "pose",
        "Pose",
        "Which way up?",
        ("size",),
        lambda c: f"way {c['option'] + 1} of the board",
        "pose",
        _pose,
        _take_pose,
        wished=True,
    ),
    FoldSpec(
        "hollow",
        "Hollow",
        "Solid or hollow?",
        ("size",),
        _hollowed,
        "hollow",
        _hollow,
        _take_hollow,
        free=True,
        process="resin",
        wished=True,
    ),
    FoldSpec(
        "walls",
        "Walls",
        "How thick are its walls?",
        ("size", "pose"),
        _walled,
        "walls",
        _walls,
        _take_walls,
        free=True,
        process="filament",
        wished=True,
    ),
    FoldSpec(
        "supports",
        "Supports",
        "How is it held?",
        ("size", "pose"),
        lambda c: f"{c['tips']} tips" + (_styled(c.get("style")) or f", {c['risk']:.0%} a tip"),
        "supports",
        _support_sets,
        _take_supports,
        wished=True,
    ),
    FoldSpec(
        "layers",
        "Layers",
        "How thin a layer?",
        ("size", "pose", "supports"),
        _layered,
        "layers",
        _layers,
        _take_layers,
    ),
    FoldSpec(
        "proof",
        "Proof",
        "Will it print?",
        ("size", "pose", "supports", "layers"),
        lambda c: f"{c['islands']} islands left" if c["islands"] else "no island left",
        "proof",
        _proof,
        _take_proof,
    ),
    FoldSpec("log", "Log", "What became of it?", ("proof",), lambda c: "", decided=False),
)
NAMES = tuple(spec.name for spec in FOLDS)


def spec_of(name: str) -> FoldSpec | None:
    """A fold by its name."""
    return next((spec for spec in FOLDS if spec.name == name), None)


@dataclass(frozen=True)
class Fold:
    """A fold as a plan stands: its state, whether all it needs is settled, and its choice. `key`: of today's inputs, where they are known."""

    spec: FoldSpec
    state: Literal["open", "settled", "stale"]
    ready: bool
    choice: Choice | None
    key: str | None = None
    given: Given | None = None

    @property
    def name(self) -> str:
        """The fold's name."""
        return self.spec.name


def read_folds(decisions: Sequence[tuple[str, Choice, str | None]], base: Given) -> list[Fold]:
    """All folds after a chain of decisions: (fold, choice, key of the inputs it rests on), first to last. `base`: see `_figure`.

    A decision of a fold without a task rests on nothing that could change under it.
    """
    last = {fold: (choice, key) for fold, choice, key in decisions}
    choices = {fold: choice for fold, (choice, _) in last.items()}
    states: dict[str, str] = {}
    found = []
    for spec in (spec for spec in FOLDS if spec.asks(choices)):
        ready = all(states.get(need) == "settled" for need in spec.needs)
        held = last.get(spec.name)
        key, given = None, None
        if ready and spec.task and spec.given:
            given = spec.given(base, choices)
            key = key_of(spec.task, given)
        state: Literal["open", "settled", "stale"] = "open"
        if held is not None:
            fresh = ready and (spec.task is None or held[1] == key)
            state = "settled" if fresh or (spec.free and spec.task is None and "size" in last) else "stale"
        states[spec.name] = state
        found.append(Fold(spec, state, ready, held[0] if held else None, key, given))
    return found


def next_of(folds: Sequence[Fold]) -> str | None:
    """The fold that wants a decision next: the first that is not settled. One that may stay open is passed over once the work has gone past it."""
    done = [f.choice is not None for f in folds]
    for place, fold in enumerate(folds):
        if fold.state != "settled" and not (fold.spec.free and any(done[place:])):
            return fold.name
    return None


def board_size(board: Document) -> int:
    """How many alternatives a board holds."""
    return len(getattr(board, "candidates", None) or getattr(board, "choices", None) or [board])


def recommended(board: Document) -> int:
    """The alternative that the engine would take."""
    return int(getattr(board, "recommended", 0))


def customary(printer: Any) -> float:
    """The layer height that a printer starts from."""
    return default_height(load_printer(printer))


def model_of(spec: FoldSpec) -> type[Document]:
    """The model of a fold's board."""
    assert spec.task is not None
    return task_of(spec.task).model
