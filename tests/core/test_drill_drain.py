"""Drills of a second hole and of what an area carries: keys against the engine asked by hand."""

from __future__ import annotations

import io
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from tenugui.core.contract import StrokeDoc
from tenugui.core.drills import Answer, Scene, graded
from tenugui.core.drills.carried import area_drill
from tenugui.core.drills.drain import AIR, BODY, LIQUID, SIZE, Drained, Hollowness, cut, drain_drill
from tenugui.core.formats import pack_whole
from tenugui.core.hollow import bores, hollow, judged
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.plan import MemoryShelf
from tenugui.core.plan.drills import hollowness
from tenugui.core.plan.given import Cut, PosedGiven
from tenugui.core.plan.inputs import PosedInputs
from tenugui.core.repair import unite
from tenugui.core.supports import make_supports
from tests.presets import HERON, RESIN
from tests.shapes import ball, box


def sleeved() -> Mesh:
    """A trunk on the plate with an arm at its top whose sleeve hangs down: what runs into that stays, upright."""
    parts = [box((0, 0, 15), (20, 20, 30)), box((17, 0, 25), (20, 14, 10)), box((22, 0, 17), (10, 14, 22))]
    whole = unite(Mesh.joined(parts))
    assert whole is not None
    return whole


def test_a_second_hole_is_keyed_by_what_stays() -> None:
    figure, shelf = sleeved(), MemoryShelf()
    sha = shelf.put(pack_whole(figure))
    machine, stuff = HERON.model_dump(mode="json"), RESIN.model_dump(mode="json")
    given = PosedGiven(sha=sha, printer=machine, material=stuff, down=(0.0, 0.0, -1.0), hollow=Cut(wall=2.0))
    told = hollowness(shelf, PosedInputs(shelf, given), given, 3)
    assert told is not None and 3 <= len(told.places) <= 5
    made = hollow(figure, 2.0)
    (cavity,) = made.cavities
    assert told.volume_ml == pytest.approx(cavity.volume / 1000)
    down = np.array([0.0, 0.0, -1.0])
    vent, *others = bores(made, cavity, down)
    assert vent.point[2] < 3.0, "low down, beside the plate"
    placed = PosedInputs(shelf, given).placed.place
    at = np.array([h.point for h in others]) @ placed.turn.T + placed.shift
    for place in told.places:
        nearest = int(np.linalg.norm(at - place.at, axis=1).argmin())
        assert np.linalg.norm(at[nearest] - place.at) < 1e-6
        drips = judged(cavity, [vent, others[nearest]], down).drips
        assert place.left_ml == pytest.approx(drips.retained / 1000)
    drill = drain_drill("A trunk", told)
    assert drill is not None
    left = [place.left_ml for place in told.places]
    assert drill.key.right == [left.index(min(left))] and drill.key.credit[drill.key.right[0]] == 1.0
    assert min(left) < 0.01 * told.volume_ml and max(left) > 0.04 * told.volume_ml
    assert graded(drill.key, Answer([left.index(max(left))]), len(left)) == 0.0
    assert len(drill.key.pictures) == len(left) and len(drill.question.pictures) == 2
    for place, reason in zip(told.places, drill.key.reasons, strict=True):
        assert reason.startswith(f"{place.left_ml:.2g} ml of {told.volume_ml:.2g} stay")


def test_a_figure_of_shells_in_each_other_is_drilled_where_its_marks_say() -> None:
    """Its outside is united and has other faces than the file: what a mark weighs is carried over to them."""
    shells = Mesh.joined(
        [box((0, 0, 15), (20, 20, 30)), box((17, 0, 25), (20, 14, 10)), box((22, 0, 17), (10, 14, 22))]
    )
    shelf = MemoryShelf()
    machine, stuff = HERON.model_dump(mode="json"), RESIN.model_dump(mode="json")
    given = PosedGiven(
        sha=shelf.put(pack_whole(shells)),
        printer=machine,
        material=stuff,
        down=(0.0, 0.0, -1.0),
        hollow=Cut(wall=2.0),
        strokes=(StrokeDoc(tool="brush", kind="show", points=[(0.0, -10.0, 15.0)], radius=6.0),),
    )
    inputs = PosedInputs(shelf, given)
    made = hollow(inputs.figure, 2.0)
    assert inputs.weights is not None and len(inputs.weights) != len(made.outer.faces)
    told = hollowness(shelf, inputs, given, 3)
    assert told is not None and len(told.places) >= 3


def test_where_all_places_are_alike_nothing_is_asked() -> None:
    places = [Drained((0.0, 0.0, float(k)), 0.001 * k, 5.0, b"") for k in range(4)]
    assert drain_drill("A ball", Hollowness(ball(5), 1.0, places)) is None
    wet = [Drained(p.at, 0.2, None, b"") for p in places]
    assert drain_drill("A ball", Hollowness(ball(5), 1.0, wet)) is None


def test_a_cut_shows_body_air_and_what_stays() -> None:
    def square(r: float) -> list[tuple[float, float]]:
        return [(-r, -r), (r, -r), (r, r), (-r, r)]

    png = cut([square(10.0)], [square(8.0)], [(x, -7.0) for x in range(-7, 8)], 1.0)
    image = Image.open(io.BytesIO(png)).convert("RGB")
    scale = (SIZE - 24) / 20.0

    def seen(x: float, y: float) -> object:
        return image.getpixel((round(SIZE / 2 + scale * x), round(SIZE / 2 - scale * y)))

    assert seen(0, 9) == BODY and seen(0, 3) == AIR and seen(0.2, -7) == LIQUID and seen(0, -9) == BODY
    shares = np.unique(np.asarray(image).reshape(-1, 3), axis=0, return_counts=True)
    liquid = int(shares[1][(shares[0] == LIQUID).all(axis=1)][0])
    assert liquid == pytest.approx(15 * scale**2, rel=0.15)


def test_an_area_is_right_and_a_point_wants_one_tip() -> None:
    """Pegs that hang from a beam; every second one is taken for a flat place of so many mm²."""
    pegs = [box((x, 0, 10), (2, 2, 8)) for x in (-18, -12, -6, 6, 12, 18)]
    figure = unite(Mesh.joined([box((0, 0, 8), (3, 3, 16)), box((0, 0, 15), (40, 3, 3)), *pegs]))
    assert figure is not None
    made = make_supports(figure, Context.of(HERON, RESIN, 0.1), risk=0.05, style="pillars")
    tips = [t for t in made.tips if t.reason == "island"]
    assert len(tips) >= 5
    under = [tuple((t.x + 0.5 * k, t.y, 0.0, t.z) for k in range(24)) for t in tips]
    mixed = [replace(t, cells=under[k], cell=0.5) if k % 2 else t for k, t in enumerate(tips)]
    scene = Scene("A comb", made.figure, made.before, tips=mixed)
    drill = area_drill(scene, np.random.default_rng(1))
    assert drill is not None and drill.key.right and len(drill.key.right) < len(drill.key.reasons)
    for k, reason in enumerate(drill.key.reasons):
        assert reason.startswith("6 mm² lie flat" if k in drill.key.right else "Too little")
    assert area_drill(replace(scene, tips=tips), np.random.default_rng(1)) is None
