"""How a plan flows: folds against their laws, keys against what changes, and the whole chain on what people bring,
however it came.
"""

from __future__ import annotations

import dataclasses
import io
from typing import Any

import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError
from scipy.spatial.transform import Rotation

from tenugui.core.contract import Document, OwnSupports, ProofBoard, StrokeDoc
from tenugui.core.errors import CoreError
from tenugui.core.formats import pack_whole, read, read_3mf, write_run_sheet
from tenugui.core.machines import Context, Material, Printer, default_height
from tenugui.core.mesh import Mesh
from tenugui.core.plan import (
    FOLDS,
    MemoryShelf,
    PlanBase,
    key_of,
    next_of,
    read_folds,
    run_chain,
    run_sheet,
    sized,
    tasks,
)
from tenugui.core.plan.given import Cut, FigureGiven, HollowGiven, MeshGiven, PosedGiven, SupportsGiven
from tenugui.core.repair import make_ready
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cup, fork, knobbly

BASE = PlanBase(
    sha="file",
    worked="made",
    printers={1: HERON.model_dump(mode="json"), 2: KESTREL.model_dump(mode="json")},
    materials={1: RESIN.model_dump(mode="json"), 2: FILAMENT.model_dump(mode="json")},
)
MACHINES: dict[str, tuple[int, int, Printer, Material]] = {
    "resin": (1, 1, HERON, RESIN),
    "filament": (2, 2, KESTREL, FILAMENT),
}
Told = list[tuple[str, dict[str, Any], str | None]]


def size_choice(factor: float = 1.0, printer: int = 1, height: float = 30.0) -> dict[str, Any]:
    made = sized(BASE, factor=factor, height_mm=height * factor, printer_id=printer, material_id=printer)
    return made.model_dump(mode="json")


CHOICES: dict[str, dict[str, Any]] = {
    "size": size_choice(),
    "marks": {"strokes": [{"tool": "propose", "what": "seen", "kind": "show"}]},
    "pose": {"down": [0.0, 0.0, -1.0], "option": 0},
    "hollow": {"wall": 1.5, "lattice": None, "holes": [], "option": 1},
    "supports": {"risk": 0.05, "style": "pillars", "tips": 3},
    "layers": {"layer_height_mm": 0.05, "layers": 100},
    "proof": {"islands": 0},
}


def decided(told: Told, fold: str, choice: dict[str, Any] | None = None, base: PlanBase = BASE) -> Told:
    """A chain with one decision more, resting on today's inputs."""
    key = next(f.key for f in read_folds(told, base) if f.name == fold)
    return [*told, (fold, choice or CHOICES[fold], key)]


def whole() -> Told:
    told: Told = []
    for fold in CHOICES:
        told = decided(told, fold)
    return told


def states(told: Told, base: PlanBase = BASE) -> dict[str, str]:
    return {f.name: f.state for f in read_folds(told, base)}


def test_the_order_of_the_work_is_the_order_of_the_folds() -> None:
    told: Told = []
    for fold in (n for n in (s.name for s in FOLDS) if n not in ("log", "walls")):  # resin is asked for no walls
        assert next_of(read_folds(told, BASE)) == fold
        told = decided(told, fold)
    assert next_of(read_folds(told, BASE)) == "log"
    assert set(states(told).values()) == {"settled", "open"} and states(told)["log"] == "open"


def test_marks_may_stay_open_but_are_asked_for_first() -> None:
    told = decided([], "size")
    assert next_of(read_folds(told, BASE)) == "marks"
    posed = decided(told, "pose")
    assert next_of(read_folds(posed, BASE)) == "hollow"
    assert next_of(read_folds(decided(posed, "supports"), BASE)) == "layers", "what was left solid is not asked again"


def test_only_resin_is_asked_whether_it_is_hollow_and_its_body_goes_into_what_follows() -> None:
    on_filament = decided([], "size", size_choice(printer=2))
    assert "hollow" not in states(on_filament) and "hollow" in states(decided([], "size"))
    told = whole()
    given = next(f.given for f in read_folds(told, BASE) if f.name == "supports")
    assert isinstance(given, SupportsGiven) and given.hollow == Cut(wall=1.5)
    solid = next(f.given for f in read_folds([r for r in told if r[0] != "hollow"], BASE) if f.name == "supports")
    assert isinstance(solid, SupportsGiven) and solid.hollow is None
    unposed = next(f.given for f in read_folds(decided([], "size"), BASE) if f.name == "hollow")
    assert isinstance(unposed, HollowGiven) and unposed.down is None, "holes may come before the pose"


def test_a_fold_waits_for_all_that_it_needs() -> None:
    for spec in (spec for spec in FOLDS if spec.process != "filament"):
        for missing in spec.needs:
            told = [row for row in whole() if row[0] != missing]
            fold = next(f for f in read_folds(told, BASE) if f.name == spec.name)
            assert not fold.ready and fold.key is None and fold.state in ("stale", "open")


@pytest.mark.parametrize(
    ("fold", "choice", "stale"),
    [
        ("size", size_choice(1.1), ["pose", "hollow", "supports", "layers", "proof"]),
        ("marks", {"strokes": []}, ["pose", "hollow", "supports", "layers", "proof"]),
        ("pose", {"down": [0.0, 1.0, 0.0], "option": 1}, ["hollow", "supports", "layers", "proof"]),
        ("hollow", {"wall": None, "option": 0}, ["supports", "layers", "proof"]),
        ("supports", {"risk": 0.2, "style": "pillars", "tips": 2}, ["layers", "proof"]),
        ("layers", {"layer_height_mm": 0.04, "layers": 125}, ["proof"]),
    ],
)
def test_a_change_makes_stale_what_rests_on_it_and_nothing_else(
    fold: str, choice: dict[str, Any], stale: list[str]
) -> None:
    before = whole()
    key = next(f.key for f in read_folds(before, BASE) if f.name == fold)
    after = states([*before, (fold, choice, key)])
    assert [name for name, state in after.items() if state == "stale"] == stale
    assert set(states([*before, (fold, choice, key), (fold, CHOICES[fold], key)]).values()) == {"settled", "open"}


def test_a_printer_that_was_changed_on_the_shelf_makes_its_plans_stale() -> None:
    slower, other = (
        dataclasses.replace(BASE, printers={**BASE.printers, number: {**BASE.printers[number], field: 30.0}})
        for number, field in ((1, "lift_mm_per_min"), (2, "watts"))
    )
    assert states(whole(), slower)["pose"] == "stale"
    assert states(whole(), other) == states(whole()), "another printer is another's matter"


def test_other_code_makes_stale_what_rests_on_the_task(monkeypatch: pytest.MonkeyPatch) -> None:
    told = whole()
    held = tasks.task_of("held")
    monkeypatch.setitem(tasks._TASKS, "held", dataclasses.replace(held, code=held.code + "+"))
    after = states(told)
    assert [n for n, s in after.items() if s == "stale"] == ["supports", "layers", "proof"]


def test_a_key_is_of_the_inputs_that_the_task_takes() -> None:
    given = SupportsGiven(sha="a", printer={}, material={}, down=(0.0, 0.0, -1.0))
    assert key_of("preview", given) == key_of("preview", MeshGiven(sha="a")), "a key is of what the task takes"
    others = {
        "sha": "b",
        "factor": 2.0,
        "printer": {"name": "b"},
        "material": {"name": "b"},
        "down": (0.0, 0.0, 1.0),
        "up": (0.0, 1.0, 0.0),
        "front": (1.0, 0.0, 0.0),
        "faceless": True,
        "strokes": (StrokeDoc(tool="clear"),),
        "marks_of": "b",
        "bare": True,
        "plinth": 3.0,
        "hollow": Cut(wall=2.0),
        "came": "b",
        "rates": "order",
        "own": OwnSupports(risk=0.1, style="trees"),
    }
    assert set(others) == set(SupportsGiven.model_fields)
    for name, other in others.items():
        assert key_of("supports", given) != key_of("supports", given.model_copy(update={name: other})), name


def test_an_input_that_is_forgotten_is_refused() -> None:
    figure = FigureGiven(sha="a", printer={}, material={})
    with pytest.raises(ValidationError, match="down"):
        key_of("supports", figure)
    with pytest.raises(ValidationError, match="moon"):
        figure.to(PosedGiven, down=(0.0, 0.0, -1.0), moon=1)
    posed = figure.to(PosedGiven, down=(0.0, 0.0, -1.0), plinth=2.0)
    assert PosedGiven.model_validate(posed.plain()) == posed, "as a job waits it is what it was"
    assert posed.to(FigureGiven) == figure and posed.to(PosedGiven) is posed


def holed(mesh: Mesh, seed: int) -> Mesh:
    lost = np.random.default_rng(seed).choice(len(mesh.faces), max(1, len(mesh.faces) // 60), replace=False)
    return Mesh(mesh.vertices, np.delete(mesh.faces, lost, axis=0))


def specked(mesh: Mesh, seed: int) -> Mesh:
    chance = np.random.default_rng(seed)
    crumbs = [ball(0.08, tuple(chance.uniform(-15, 15, 3)), fineness=1) for _ in range(9)]
    return Mesh.joined([mesh, *crumbs])


def doubled(mesh: Mesh, seed: int) -> Mesh:
    some = mesh.faces[np.random.default_rng(seed).random(len(mesh.faces)) < 0.3]
    return Mesh(mesh.vertices, np.vstack([mesh.faces, some]))


def unwelded(mesh: Mesh, seed: int) -> Mesh:
    return Mesh(mesh.corners().reshape(-1, 3), np.arange(3 * len(mesh.faces), dtype=np.int32).reshape(-1, 3))


def turned_out(mesh: Mesh, seed: int) -> Mesh:
    faces = mesh.faces.copy()
    some = np.random.default_rng(seed).random(len(faces)) < 0.4
    faces[some] = faces[some][:, ::-1]
    return Mesh(mesh.vertices, faces)


def lying(mesh: Mesh, seed: int) -> Mesh:
    return mesh.transformed(Rotation.random(random_state=seed).as_matrix(), np.array([300.0, -40.0, 7.0]))


def overlapping(mesh: Mesh, seed: int) -> Mesh:
    chance = np.random.default_rng(seed)
    return Mesh.joined([mesh, ball(3.0, tuple(chance.uniform(-4, 4, 3)), fineness=2)])


DIRT = [holed, specked, doubled, unwelded, turned_out, lying, overlapping]
SHAPES = {
    "stone": knobbly(9, 3),
    "fork": fork(),
    "cup": cup(),
    "staff": Mesh.joined([box((0, 0, 15), (1.2, 1.2, 30)), box((0, 0, 0.6), (9, 9, 1.2))]),
    "beast": Mesh.joined([box((0, 0, 6), (24, 7, 6)), *(box((x, y, 2), (2, 2, 4)) for x in (-9, 9) for y in (-2, 2))]),
}


def planned(mesh: Mesh, process: str) -> tuple[MemoryShelf, dict[str, Document], Context]:
    """The whole chain on a mesh as the commands and the demo run it."""
    printer_id, material_id, printer, material = MACHINES[process]
    shelf = MemoryShelf()
    ready = make_ready(mesh)
    base = dataclasses.replace(BASE, sha=shelf.put(pack_whole(mesh)), worked=shelf.put(pack_whole(ready.mesh)))
    size = sized(base, factor=1.0, height_mm=1.0, printer_id=printer_id, material_id=material_id)
    boards = run_chain(shelf, base, {"size": size}).boards
    return shelf, boards, Context.of(printer, material)


@pytest.mark.parametrize("process", list(MACHINES))
@settings(max_examples=2, deadline=None, phases=[Phase.explicit, Phase.reuse, Phase.generate])
@given(
    st.sampled_from(list(SHAPES)),
    st.lists(st.sampled_from(DIRT), max_size=3, unique=True),
    st.integers(0, 1000),
)
def test_whatever_comes_ends_in_files_or_in_words(process: str, name: str, dirt: list[Any], seed: int) -> None:
    """No figure ends the chain in a fault. What is exported can be read again and holds the figure; every number is a
    number.
    """
    mesh = SHAPES[name]
    for spoil in dirt:
        mesh = spoil(mesh, seed)
    try:
        shelf, boards, context = planned(mesh, process)
    except CoreError as refused:
        assert refused.what and refused.code and refused.remedy
        return
    board = boards["proof"]
    assert isinstance(board, ProofBoard)
    package = shelf.get(board.files.package)
    parts = read_3mf(io.BytesIO(package), len(package))
    for made in (read(io.BytesIO(shelf.get(board.files.stl))).whole, Mesh.joined(list(parts.values()))):
        assert np.isfinite(made.vertices).all() and made.lower[2] == pytest.approx(0, abs=1e-3)
    assert 0 <= board.proof.risk <= 1 and board.proof.time_s > 0 and board.proof.material.mass_g > 0
    assert board.proof.layers.height_mm > 0 and not board.held.islands_after
    sheet = io.BytesIO()
    machine = FigureGiven(sha="a", printer=context.printer.model_dump(), material=context.material.model_dump())
    told = run_sheet("Stone", board, machine, shelf.get(board.files.sheet_sha))
    assert ("Film" in dict(told.settings)) == (process == "resin")
    write_run_sheet(told, sheet)
    assert sheet.getvalue().startswith(b"%PDF")
    for fold, document in boards.items():
        assert type(document).loaded(document.dumped()) == document, fold


@pytest.mark.parametrize("process", list(MACHINES))
def test_what_no_machine_can_hold_is_refused_with_numbers(process: str) -> None:
    with pytest.raises(CoreError) as tall:
        planned(box((0, 0, 200), (390, 390, 400)), process)
    assert tall.value.code == "does-not-fit" and "%" in tall.value.remedy + tall.value.what
    with pytest.raises(CoreError) as dust:
        planned(box((0, 0, 0.01), (0.02, 0.02, 0.02)), process)
    assert dust.value.code == "wrong-unit" and "--height" in dust.value.remedy


def test_the_customary_height_is_where_supports_are_made_first() -> None:
    _, boards, context = planned(SHAPES["stone"], "resin")
    assert boards["supports"].layer_height_mm == default_height(context.printer)  # type: ignore[attr-defined]
