"""Areas: one body under a wide underside, to the closed form and by the boolean library; what it leaves to pillars; how
it comes off, goes into files and comes back.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.contract import check_came, tips_from
from tenugui.core.contract.supports import contact_mm2, tip_of
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.mesh.edges import face_volumes
from tenugui.core.plan import MemoryShelf, held_of
from tenugui.core.removal.hands import weights_at
from tenugui.core.supports import Edit, SupportSet, Tip, make_supports, pieces, regions
from tenugui.core.supports.areas import COVERS, FLARE, SLAB_MM
from tenugui.core.supports.body import printed
from tenugui.core.supports.contact import Contact
from tenugui.core.supports.manner import BRIDGE_MM
from tenugui.core.supports.minutes import CUT_MIN, MARKS_MM2, PEELS, SAND_MIN, tip_minutes
from tenugui.core.supports.regions import LINKS
from tests.core.test_supports_checked import manifold, solid
from tests.given import posed_given
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import box

CONTEXT = Context.of(KESTREL, FILAMENT, 0.2)
GAP = Contact.of(CONTEXT).gap


def table(top: Mesh | None = None) -> Mesh:
    """A top of 40 by 30 mm on a leg of 6, its underside 20 mm up."""
    return Mesh.joined([box((0, 0, 10.25), (6, 6, 20.5)), box((0, 0, 21.5), (40, 30, 3)) if top is None else top])


def on_areas(mesh: Mesh, context: Context = CONTEXT, edits: Sequence[Edit] = ()) -> tuple[SupportSet, list[Tip]]:
    made = make_supports(mesh, context, style="areas", edits=edits)
    return made, [tip for tip in made.tips if tip.cells]


def test_a_table_is_carried_by_one_body_that_keeps_the_gap() -> None:
    made, (area,) = on_areas(table())
    cells = np.array(area.cells)
    assert made.islands == [] and [t for t in made.tips if not t.cells] == []
    assert cells[:, 3] == pytest.approx(20 - GAP), "level, short of the underside by the gap"
    carried = contact_mm2([area])
    assert 0.85 * (40 * 30 - 36) < carried < 40 * 30, "nearly all of it, and nothing beyond"
    assert np.abs(cells[:, 0]).max() + area.cell / 2 < 20 + COVERS * BRIDGE_MM
    assert made.after.hang.total < 0.1 * made.before.hang.total


def test_it_widens_from_its_core_no_faster_than_it_may() -> None:
    _, (area,) = on_areas(table())
    begins = {(round(x / area.cell, 1), round(y / area.cell, 1)): low for x, y, low, _ in area.cells}
    assert min(begins.values()) == 0 and max(begins.values()) == pytest.approx(20 - GAP - SLAB_MM)
    for (x, y), low in begins.items():
        beside = [
            begins.get((round(x + i, 1), round(y + j, 1)), math.inf) for i, j in ((1, 0), (-1, 0), (0, 1), (0, -1))
        ]
        assert low == 0 or min(beside) <= low - FLARE * area.cell + 1e-6, (
            "each cell is carried by one that begins lower"
        )
    prism = sum(area.cell**2 * top for _, _, _, top in area.cells)
    assert 0.3 * prism < float(face_volumes(printed(area, False)).sum()) < 0.9 * prism


@pytest.mark.parametrize("lean", [0.0, 12.0, 25.0])
def test_nothing_of_it_meets_the_figure_by_the_boolean_library(lean: float) -> None:
    """A tilted disc with a sharp underside: the body follows it, short of it everywhere."""
    disc = box((0, 0, 0), (36, 36, 2))
    a = math.radians(lean)
    turn = np.array([[math.cos(a), 0, math.sin(a)], [0, 1, 0], [-math.sin(a), 0, math.cos(a)]])
    leaning = Mesh(disc.vertices @ turn.T + [0, 0, 22], disc.faces)
    made, broad = on_areas(table(leaning))
    assert broad or lean > 20
    figure = solid(made.figure)
    for area in broad:
        whole = manifold3d.Manifold.batch_boolean(
            [manifold(one) for one in _columns(printed(area, False))], manifold3d.OpType.Add
        )
        assert (figure ^ whole).volume() < 1e-6, "it never touches what it carries"
        assert whole.bounding_box()[2] == pytest.approx(0.0), "it stands on the plate"
    assert made.islands == []


def _columns(mesh: Mesh) -> list[Mesh]:
    """The closed columns of a body."""
    return [Mesh(mesh.vertices[8 * k : 8 * k + 8], mesh.faces[:12]) for k in range(len(mesh.vertices) // 8)]


def test_what_is_kept_out_and_what_has_the_figure_below_it_is_carried_by_none() -> None:
    shelf = Mesh.joined([table(), box((14, 0, 2), (8, 20, 4))])
    _, broad = on_areas(shelf)
    cells = np.array([cell for area in broad for cell in area.cells])
    over = (np.abs(cells[:, 0] - 14) < 4) & (np.abs(cells[:, 1]) < 10)
    assert len(cells) and not over.any(), "below it is the figure"
    barred = two_halves()
    weights = np.where(barred.middles()[:, 0] < 0, 100.0, 1.0)
    _, broad = on_areas(barred, context=Context(CONTEXT.printer, CONTEXT.material, 0.2, weights=weights))
    at = np.array([cell[:2] for area in broad for cell in area.cells])
    assert len(at) and at[:, 0].min() > 0, "what is kept out is touched by none"


def two_halves() -> Mesh:
    """The table with a top in two pieces, whose faces can be told apart."""
    halves = [box((-10, 0, 21.5), (20, 30, 3)), box((10, 0, 21.5), (20, 30, 3))]
    return Mesh.joined([box((0, 0, 10.25), (6, 6, 20.5)), *halves])


def test_where_nothing_keeps_a_gap_nothing_is_carried_by_an_area() -> None:
    """On resin a body would grow together with what it carries."""
    resin = Context.of(HERON, RESIN, 0.1)
    made = make_supports(table(), resin, style="areas")
    assert not any(tip.cells for tip in made.tips) and made.islands == []


def test_few_and_small_stay_with_pillars() -> None:
    small = Mesh.joined([box((0, 0, 10), (4, 4, 20)), box((0, 0, 20.5), (7, 7, 2))])
    made, broad = on_areas(small)
    plain = make_supports(small, CONTEXT, style="pillars")
    assert not broad and len(made.tips) == len(plain.tips) > 0


def test_it_comes_off_as_one_and_marks_what_it_carries() -> None:
    made, (area,) = on_areas(table())
    assert pieces(made.tips) == 1
    (minutes,) = tip_minutes([area], np.ones(1), "filament")
    wide = area.diameter / 0.42
    assert minutes == pytest.approx(PEELS * (CUT_MIN * wide + SAND_MIN * contact_mm2([area]) / MARKS_MM2), rel=0.05)
    pillars = make_supports(table(), CONTEXT, style="pillars")
    each = tip_minutes(pillars.tips, np.ones(len(pillars.tips)), "filament").sum()
    assert minutes < each, "less than the same underside on pins"


def test_its_scar_costs_what_all_that_it_carries_costs() -> None:
    made, (area,) = on_areas(two_halves())
    weights = np.where(made.figure.middles()[:, 0] < 0, 5.0, 1.0)
    share = np.mean([x < 0 for x, *_ in area.cells])
    (cost,) = weights_at(made.figure, weights, [area])
    assert cost == pytest.approx(5 * share + 1 - share, abs=0.1) and 0.4 < share < 0.6


def test_it_goes_into_a_document_and_comes_back() -> None:
    shelf = MemoryShelf()
    given = posed_given(shelf, table(), KESTREL, FILAMENT)
    held = held_of(shelf, given, height=0.2, risk=0.05, style="areas")
    (row,) = held.supports.tips
    (back,) = tips_from([row])
    assert tip_of(back) == row and len(back.cells) == len(row.cells) > 100
    assert held.row.tip_count == 1 and held.row.spots[0].area_mm2 == pytest.approx(held.row.contact_mm2)
    assert [region.held for region in held.supports.regions] == ["area"]
    assert held.supports.regions[0].area_mm2 == pytest.approx(held.row.contact_mm2)
    check_came(held.supports)
    broken: list[dict[str, object]] = [
        {"cells": [(0.0, 0.0, 0.0, -1.0)]},
        {"cells": [(1e9, 0.0, 0.0, 1.0)]},
        {"cells": [(0.0, 0.0, 0.0, 1.0)] * 200_001},
        {"cell_mm": 0.0},
    ]
    for wrong in broken:
        with pytest.raises(ValueError, match="area"):
            check_came(held.supports.model_copy(update={"tips": [row.model_copy(update=wrong)]}))
    pinned = held_of(shelf, given, height=0.2, risk=0.05, style="pillars").supports.regions
    assert [region.held for region in pinned] == ["pin"]
    assert pinned[0].area_mm2 == pytest.approx(40 * 30 - 36, rel=0.05), "what the layers leave over air"


def test_a_hand_takes_it_away_wherever_it_points() -> None:
    _, (area,) = on_areas(table())
    x, y, _, top = max(area.cells)
    bare, broad = on_areas(table(), edits=[Edit("remove", (x, y, top + GAP))])
    assert not broad and bare.tips == []
    kept, broad = on_areas(table(), edits=[Edit("foot", (x, y, top + GAP), to=(30.0, 0.0, 0.0))])
    assert broad and [f.code for f in kept.findings] == ["hand-missed"], "an area has no foot to be moved"


@settings(max_examples=30)
@given(st.integers(0, 10_000), st.integers(2, 40))
def test_contacts_of_one_region_are_linked_and_those_of_two_are_not(seed: int, many: int) -> None:
    points = np.random.default_rng(seed).uniform(0, 20, (many, 3)) * [1, 1, 0.2]
    label = regions(points, BRIDGE_MM)
    away = np.linalg.norm(points[:, None] - points[None], axis=2)
    assert (away[label[:, None] != label[None]] > LINKS * BRIDGE_MM).all()
    for k in range(label.max() + 1):
        mine = away[np.ix_(label == k, label == k)] + np.where(np.eye((label == k).sum()), np.inf, 0)
        assert (label == k).sum() == 1 or (mine.min(axis=1) <= LINKS * BRIDGE_MM).all()


def test_at_what_people_look_at_a_small_droop_is_left_and_a_large_one_is_not() -> None:
    """A brow of 10 by 2 mm: on a face its pins cost more than it does, and nowhere else."""
    figure = Mesh.joined([box((0, 0, 15), (10, 10, 30)), box((0, -6, 28), (10, 2, 4))])
    wide = Mesh.joined([box((0, 0, 15), (10, 10, 30)), box((0, -11, 28), (10, 12, 4))])

    def tips(mesh: Mesh, cost: float, risk: float = 0.05) -> int:
        context = Context(
            KESTREL.model_copy(update={"bridge_mm": 0.0}), FILAMENT, 0.2, weights=np.full(len(mesh.faces), cost)
        )
        return len(make_supports(mesh, context, risk=risk).tips)

    assert tips(figure, 1.0) > 0 and tips(figure, 16.0) == 0
    assert tips(figure, 16.0, 0.01) > 0, "who accepts next to nothing has it held"
    assert tips(wide, 16.0) > 0, "what would be a part is carried in any case"
