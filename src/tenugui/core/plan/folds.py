"""The folds of a job, written once, in the order of the work: what each asks, needs and rests on, how an alternative is
taken, and how a choice is worded.

A new fold is one entry here, its task, its board's model, and its component on the page.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from ..contract import (
    BandsTaken,
    Choice,
    EditAsk,
    HoleAsk,
    HollowAsk,
    HollowBoard,
    HollowChoice,
    HollowRow,
    LayersBoard,
    LayersChoice,
    MarksChoice,
    NoAsk,
    PoseAsk,
    PoseBoard,
    PoseChoice,
    ProofBoard,
    ProofChoice,
    SizeChoice,
    SupportsAsk,
    SupportsBoard,
    SupportsChoice,
    WallsAsk,
    WallsBoard,
    WallsChoice,
    WishAsk,
)
from .came import CAME
from .given import (
    Cut,
    FigureGiven,
    HollowGiven,
    LayersGiven,
    PosedGiven,
    PoseGiven,
    Priced,
    ProofGiven,
    SupportsGiven,
    WallsGiven,
)
from .spec import Chosen, FoldSpec, PlanBase, Taken, must, of

ASKED_FROM_MM = 60.0
"""Prior: smaller figures are printed solid, or with the walls that the machine is set to, and nobody asks."""
SAME_DOWN, SAME_HOLE = 1e-6, 1e-4
"""Squared, of unit vectors, and mm of places: nearer ones are one."""


def figure_inputs(base: PlanBase, choices: Chosen) -> FigureGiven:
    """What all tasks share: the figure at its size on its machine, with its marks, and where it faces if somebody said
    so.
    """
    size, marks = must(choices, SizeChoice), of(choices, MarksChoice) or MarksChoice()
    return FigureGiven(
        sha=size.sha,
        factor=size.factor,
        up=size.up,
        front=size.front,
        printer=base.printers[size.printer_id],
        material=base.materials[size.material_id],
        bare=marks.bare,
        faceless=marks.faceless,
        strokes=tuple(marks.strokes),
        marks_of=base.sha if any(stroke.tool == "file" for stroke in marks.strokes) else None,
    )


def _pose(base: PlanBase, choices: Chosen, asked: PoseAsk) -> PoseGiven:
    # The way it stood in its plan's file comes before those of one's own.
    pinned = (*([(0.0, 0.0, -1.0)] if base.came else []), *asked.pinned)
    wish = None if asked.wish == WishAsk() else asked.wish
    return figure_inputs(base, choices).to(PoseGiven, wish=wish, pinned=pinned)


def _first_pose(choices: Chosen) -> PoseAsk:
    """The wish that came with the marks."""
    marks = of(choices, MarksChoice)
    return PoseAsk(wish=marks.wish) if marks and marks.wish else PoseAsk()


def _same_pose(choice: PoseChoice, board: PoseBoard) -> int | None:
    return _index(board.candidates, lambda r: _apart(r.pose.down, choice.down) < SAME_DOWN)


def _pose_again(choice: PoseChoice, asked: PoseAsk) -> PoseAsk | None:
    """The direction itself, whatever a new search offers."""
    others = [down for down in asked.pinned if _apart(down, choice.down) >= SAME_DOWN]
    return asked.model_copy(update={"pinned": [*others[-3:], choice.down]})


def _apart(a: Sequence[float], b: Sequence[float]) -> float:
    return sum((u - v) ** 2 for u, v in zip(a, b, strict=True))


def _index(rows: Sequence[Any], is_it: Callable[[Any], bool]) -> int | None:
    return next((index for index, row in enumerate(rows) if is_it(row)), None)


def _posed(base: PlanBase, choices: Chosen) -> PosedGiven:
    """The figure in its pose, on a plinth where it has one."""
    pose = must(choices, PoseChoice)
    return figure_inputs(base, choices).to(PosedGiven, down=pose.down, plinth=pose.plinth or 0.0)


def _rates(choices: Chosen) -> Priced:
    """The rates that poses were weighed by."""
    pose = of(choices, PoseChoice)
    return pose.wishes.wish.rates if pose and pose.wishes else None


def _walls(base: PlanBase, choices: Chosen, asked: WallsAsk) -> WallsGiven:
    return _posed(base, choices).to(WallsGiven, rates=_rates(choices), own=asked.own)


def _hollow(base: PlanBase, choices: Chosen, asked: HollowAsk) -> HollowGiven:
    """Judged in the pose where it is settled, else as the figure stands: holes may come before the pose or after it."""
    pose = of(choices, PoseChoice)
    down = pose.down if pose else None
    return figure_inputs(base, choices).to(HollowGiven, down=down, rates=_rates(choices), own=asked.own)


def _body(base: PlanBase, choices: Chosen) -> PosedGiven:
    """What is printed: the posed figure, hollow where it is, its machine set to the walls that were taken."""
    given, process = _posed(base, choices), must(choices, SizeChoice).process
    cut, walls = of(choices, HollowChoice), of(choices, WallsChoice)
    hollow, printer = None, given.printer
    if cut and cut.wall is not None and process in (None, "resin"):
        plugs = bool(cut.wishes and cut.wishes.plugs)
        hollow = Cut(wall=cut.wall, lattice=cut.lattice, holes=tuple(cut.holes), plugs=plugs)
    if walls and process in (None, "filament"):
        printer = printer | {"perimeters": walls.perimeters, "roof_mm": walls.roof_mm, "infill": walls.infill}
    return given.to(PosedGiven, hollow=hollow, printer=printer)


def _support_sets(base: PlanBase, choices: Chosen, asked: SupportsAsk) -> SupportsGiven:
    return _body(base, choices).to(SupportsGiven, came=base.came, rates=_rates(choices), own=asked.own)


def _layers(base: PlanBase, choices: Chosen, asked: NoAsk) -> LayersGiven:
    taken = must(choices, SupportsChoice)
    return _body(base, choices).to(
        LayersGiven,
        risk=taken.risk,
        style=taken.style,
        edits=tuple(taken.edits),
        came=base.came if taken.style == CAME else None,
        rates=_rates(choices),
    )


def _proof(base: PlanBase, choices: Chosen, asked: NoAsk) -> ProofGiven:
    taken = must(choices, LayersChoice)
    bands = taken.bands.limit_mm if taken.bands else None
    return _layers(base, choices, asked).to(ProofGiven, height=taken.layer_height_mm, bands=bands)


def _take_pose(board: PoseBoard, index: int) -> Taken:
    row = board.candidates[index]
    choice = PoseChoice(
        down=row.pose.down,
        option=index,
        recommended=index == board.recommended,
        plinth=row.pose.metrics.plinth_mm or None,
    )
    return Taken(choice, row.pose.why, row.numbers)


def _take_hollow(board: HollowBoard, index: int) -> Taken:
    row = board.choices[index]
    if row.hollow is None or row.wall_mm is None:
        return Taken(HollowChoice(option=index), "Stays solid" if row.hollow is None else "As it came", None)
    holes = [HoleAsk(**hole.model_dump()) for cavity in row.hollow.cavities for hole in cavity.holes]
    choice = HollowChoice(
        option=index, wall=row.wall_mm, lattice=row.lattice_mm, holes=holes, preview_sha=row.preview_sha
    )
    many = f"{len(holes)} hole{'s' * (len(holes) != 1)}"
    if row.wall_mm <= 0:
        reason = "Its closed voids are filled" if row.wall_mm < 0 else f"As it came, with {many} more"
        return Taken(choice, reason, None)
    struts = f", struts every {row.lattice_mm:g} mm" if row.lattice_mm else ""
    reason = f"Hollow, wall {row.wall_mm:g} mm{struts}, {many}: {row.hollow.saved_ml:.1f} ml saved"
    return Taken(choice, reason, None)


def _same_hollow(choice: HollowChoice, board: HollowBoard) -> int | None:
    """Of rows of one wall the one whose holes are where they were; else one's own, where it was one's own."""
    rows = board.choices
    alike = [i for i, r in enumerate(rows) if (r.wall_mm, r.lattice_mm) == (choice.wall, choice.lattice)]
    own = bool(choice.wishes and choice.wishes.own)
    return min(alike, key=lambda i: (not _same_holes(rows[i], choice), rows[i].own != own), default=None)


def _same_holes(row: HollowRow, choice: HollowChoice) -> bool:
    holes = [hole for cavity in row.hollow.cavities for hole in cavity.holes] if row.hollow else []
    places = [[(h.x_mm, h.y_mm, h.z_mm, h.diameter_mm) for h in some] for some in (holes, choice.holes)]
    return len(holes) == len(choice.holes) and all(_apart(a, b) < SAME_HOLE for a, b in zip(*places, strict=True))


def _hollowed(choice: HollowChoice) -> str:
    if choice.wall is None or choice.wall < 0:
        return "filled" if choice.wall else "not hollowed"
    many = len(choice.holes)
    holes = f"{many} hole{'s' * (many != 1)}"
    return f"wall {choice.wall:g} mm, {holes}" if choice.wall else f"{holes} more"


def _take_walls(board: WallsBoard, index: int) -> Taken:
    row = board.choices[index]
    choice = WallsChoice(option=index, perimeters=row.perimeters, roof_mm=row.roof_mm, infill=row.infill)
    return Taken(choice, f"{row.name}: {_walled(choice)}, roofs of {row.roof_mm:g} mm, {row.mass_g:.0f} g", None)


def _same_walls(choice: WallsChoice, board: WallsBoard) -> int | None:
    def is_it(row: Any) -> bool:
        return all(abs(getattr(row, k) - getattr(choice, k)) < 1e-9 for k in ("perimeters", "roof_mm", "infill"))

    return _index(board.choices, is_it)


def _walled(choice: WallsChoice) -> str:
    lines = choice.perimeters
    return f"{lines} line{'s' * (lines != 1)}, {choice.infill:.0%} inside".replace("%", " %")


def _styled(style: str) -> str:
    return {
        "trees": ", in trees",
        "mixed": ", mixed",
        "blocks": ", in blocks",
        "areas": ", on areas",
        CAME: ", as they came",
    }.get(style, "")


def _take_supports(board: SupportsBoard, index: int) -> Taken:
    row = board.choices[index]
    edits = [EditAsk(**edit.model_dump()) for edit in row.edits]
    choice = SupportsChoice(option=index, risk=row.risk, style=row.style, tips=row.tip_count, edits=edits)
    hand = f", {len(row.edits)} change{'s' * (len(row.edits) > 1)} by hand" if row.edits else ""
    how = f"{_styled(row.style)}{hand}: {row.tip_count} tips, {row.islands_after} islands left"
    return Taken(choice, f"Accepted risk {row.risk:.0%} a tip{how}", row.numbers)


def _unsaid_of(board: SupportsBoard, index: int, asked: SupportsAsk) -> str | None:
    """A breach of one's own marks wants one's word."""
    finding = next((f for f in board.choices[index].findings if f.code == "breaks-marks"), None)
    return finding.message if finding and not asked.may_break else None


def _same_supports(choice: SupportsChoice, board: SupportsBoard) -> int | None:
    """The set of the same risk and style with the same changes by hand."""

    def is_it(row: Any) -> bool:
        edits = [EditAsk(**edit.model_dump()) for edit in row.edits]
        return (row.style, round(row.risk, 9), edits) == (choice.style, round(choice.risk, 9), list(choice.edits))

    return _index(board.choices, is_it)


def _take_layers(board: LayersBoard, index: int) -> Taken:
    row = board.choices[index]
    h = row.height
    reason = f"{h.layer_height_mm:g} mm" + (f", {h.step_kind} step" if h.step_kind != "none" else "")
    bands = None
    if row.bands:
        heights = [height for height, _ in row.bands.runs]
        bands = BandsTaken(limit_mm=row.bands.limit_mm, most_mm=max(heights))
        reason = f"{min(heights):g} to {max(heights):g} mm in bands, steps within {row.bands.limit_mm * 1000:.0f} µm"
    choice = LayersChoice(option=index, layer_height_mm=h.layer_height_mm, layers=h.layers, bands=bands)
    return Taken(choice, reason, row.held.numbers)


def _same_layers(choice: LayersChoice, board: LayersBoard) -> int | None:
    def is_it(row: Any) -> bool:
        bands = (row.bands and row.bands.limit_mm, choice.bands and choice.bands.limit_mm)
        return abs(row.height.layer_height_mm - choice.layer_height_mm) < 1e-9 and bands[0] == bands[1]

    return _index(board.choices, is_it)


def _layered(choice: LayersChoice) -> str:
    thick = f" to {choice.bands.most_mm:g}" if choice.bands else ""
    return f"{choice.layer_height_mm:g}{thick} mm, {choice.layers:,}"


def _take_proof(board: ProofBoard, index: int) -> Taken:
    choice = ProofChoice(
        islands=board.held.islands_after,
        hazards=len(board.proof.hazards),
        layer_height_mm=board.proof.layers.height_mm,
    )
    return Taken(choice, "Every layer read", board.held.numbers)


def _marked(choice: MarksChoice) -> str:
    unmarked = "bare" if choice.bare else "as it says itself"
    kinds = ", ".join(kind.replace("_", " ") for kind in choice.kinds)
    return kinds or ("as the file marks it" if choice.strokes else unmarked)


FOLDS: list[FoldSpec] = [
    FoldSpec("size", "Size", "How tall?", (), SizeChoice, lambda c: f"{c.height_mm:.0f} mm, {c.printer}"),
    FoldSpec("marks", "Marks", "Which surfaces matter?", ("size",), MarksChoice, _marked, free=True),
    FoldSpec(
        "pose",
        "Pose",
        "Which way up?",
        ("size",),
        PoseChoice,
        lambda c: f"way {c.option + 1} of the board",
        uses=("marks",),
        task="pose",
        given=_pose,
        take=_take_pose,
        same=_same_pose,
        again=_pose_again,
        ask=PoseAsk,
        first=_first_pose,
    ),
    FoldSpec(
        "hollow",
        "Hollow",
        "Solid or hollow?",
        ("size",),
        HollowChoice,
        _hollowed,
        task="hollow",
        given=_hollow,
        take=_take_hollow,
        same=_same_hollow,
        ask=HollowAsk,
        first=lambda choices: HollowAsk(),
        free=True,
        from_mm=ASKED_FROM_MM,
        process="resin",
    ),
    FoldSpec(
        "walls",
        "Walls",
        "How thick are its walls?",
        ("size", "pose"),
        WallsChoice,
        _walled,
        task="walls",
        given=_walls,
        take=_take_walls,
        same=_same_walls,
        ask=WallsAsk,
        first=lambda choices: WallsAsk(),
        free=True,
        from_mm=ASKED_FROM_MM,
        process="filament",
    ),
    FoldSpec(
        "supports",
        "Supports",
        "How is it held?",
        ("size", "pose"),
        SupportsChoice,
        lambda c: f"{c.tips} tips" + (_styled(c.style) or f", {c.risk:.0%} a tip"),
        uses=("hollow", "walls"),
        task="supports",
        given=_support_sets,
        take=_take_supports,
        same=_same_supports,
        unsaid=_unsaid_of,
        ask=SupportsAsk,
        first=lambda choices: SupportsAsk(),
    ),
    FoldSpec(
        "layers",
        "Layers",
        "How thin a layer?",
        ("size", "pose", "supports"),
        LayersChoice,
        _layered,
        uses=("hollow", "walls"),
        task="layers",
        given=_layers,
        take=_take_layers,
        same=_same_layers,
    ),
    FoldSpec(
        "proof",
        "Proof",
        "Will it print?",
        ("size", "pose", "supports", "layers"),
        ProofChoice,
        lambda c: f"{c.islands} islands left" if c.islands else "no island left",
        uses=("hollow", "walls"),
        task="proof",
        given=_proof,
        take=_take_proof,
    ),
    FoldSpec("log", "Log", "What became of it?", ("proof",), Choice, lambda c: "", decided=False),
]
"""In the order of the work."""
