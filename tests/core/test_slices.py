"""Outlines of every layer in a 3MF, and back; what others would take; what the log says of hours."""

from __future__ import annotations

import io
import math
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tenugui.core.contract import SlicesDoc
from tenugui.core.formats import read_3mf, read_slices, write_slices
from tenugui.core.formats.problems import FormatError
from tenugui.core.formats.rows import rows_of
from tenugui.core.learn import Logged, hours_of
from tenugui.core.paths.level import level_of
from tenugui.core.plan import computed
from tenugui.core.plan.given import BandedGiven
from tenugui.core.plan.purposes import for_purposes
from tenugui.core.sections import loops_of, outlines
from tenugui.core.worth import Gift, Rates
from tests.core.test_shared import plan_of
from tests.presets import HERON, KESTREL
from tests.shapes import ball, box, cup


def area_of(loops: list[np.ndarray]) -> float:
    return sum(float((p[:, 0] * np.roll(p[:, 1], -1) - p[:, 1] * np.roll(p[:, 0], -1)).sum()) / 2 for p in loops)


def test_outlines_come_back_as_they_were_written_holes_and_all() -> None:
    mesh = cup()
    layers = [loops_of(section) for section in outlines(mesh, 0.5)]
    tops = np.arange(1, len(layers) + 1) * np.float64(0.5)
    out = io.BytesIO()
    write_slices({"figure": (mesh, layers)}, tops, out)
    back = read_slices(out.getvalue())["figure"]
    assert [top for top, _ in back] == pytest.approx(tops.tolist())
    for (_, loops), mine in zip(back, layers, strict=True):
        assert len(loops) == len(mine) and area_of(loops) == pytest.approx(area_of(mine), rel=1e-4)
    assert len(back[-1][1]) == 2, "a wall has an outside and an inside"
    whole = read_3mf(io.BytesIO(out.getvalue()), len(out.getvalue()))
    assert len(whole["figure"].faces) == len(mesh.faces), "and whoever cuts for himself has the mesh"
    with pytest.raises(FormatError, match="cannot be read"):
        read_slices(b"no 3MF at all")


@given(st.lists(st.tuples(st.integers(-(10**15), 10**15), st.integers(-99999, 99999)), max_size=8), st.integers(0, 6))
def test_rows_are_the_numbers_that_they_were_made_of(values: list[tuple[int, int]], decimals: int) -> None:
    text = rows_of(np.array(values, np.int64).reshape(-1, 2), ("[", " ", "]\n"), decimals).decode()
    told = [line[1:-1].split(" ") for line in text.splitlines()]
    assert [tuple(int(Decimal(n).scaleb(decimals)) for n in row) for row in told] == values
    assert all(n == "0" or (n[0] != "+" and not (("." in n) and n.endswith(("0", ".")))) for row in told for n in row)


def test_a_part_may_be_called_anything() -> None:
    out = io.BytesIO()
    write_slices({'a "marsh" & <toad>': (box((0, 0, 1), (2, 2, 2)), [[]] * 2)}, np.array([1.0, 2.0]), out)
    assert list(read_slices(out.getvalue())) == ['a "marsh" & <toad>']


def test_a_plan_is_cut_part_by_part_at_its_own_layers() -> None:
    held, made = plan_of(ball(4, fineness=4).dropped())
    given_ = held.held.to(BandedGiven)
    found = computed(held.shelf, "slices", given_, SlicesDoc)
    back = read_slices(held.shelf.get(found.sha))
    assert set(back) == {"figure", "supports"} and found.layers == made.proof.layers.count
    assert found.outlines == sum(len(loops) for part in back.values() for _, loops in part)
    volume = 0.05 * sum(area_of(loops) for _, loops in back["figure"])
    assert volume == pytest.approx(4 / 3 * math.pi * 64, rel=0.01)


def test_terrain_takes_thicker_layers_than_a_display() -> None:
    """Three heights of one lean: hours fall with the height, minutes of smoothing rise."""
    heights = (0.08, 0.12, 0.2)
    gifts = [Gift(20 + 60 * (h - 0.02), 0.4 / h, 1.0, 0.05) for h in heights]

    def above(i: int, hidden: float) -> float:
        return 0.5 * max(0.0, heights[i] - hidden)

    found = {p.name: i for p, i in for_purposes(gifts, above, "filament", Rates(0.15, 0.3, 1.5), 1)}
    assert found["terrain"] >= found["tabletop"] >= found["display"] and found["terrain"] > found["display"]
    assert found["tabletop"] == 1, "what the board recommends is for the tabletop"


def test_shoulders_and_level_places_are_told_with_what_helps() -> None:
    front = np.array([0.0, -1.0, 0.0])
    block = level_of(box((0, 0, 5), (10, 10, 10)), None, front, KESTREL, 0.2)
    assert block.level_mm2 == pytest.approx(100) and block.shoulders_mm2 == 0 and "ironing" in block.said[0]
    assert level_of(box((0, 0, 5), (10, 10, 10)), None, front, HERON, 0.05).said == []
    sphere = level_of(ball(10, fineness=5), None, front, KESTREL, 0.2)
    cap = 2 * math.pi * 100 * (1 - math.cos(math.radians(20)))
    assert sphere.shoulders_mm2 == pytest.approx(cap, rel=0.03) and "Tilted" not in sphere.said[0], (
        "a ball stays a ball"
    )
    # A roof of one pitch, 12° down towards the front: with its front raised by ten it would be nearly level, with it
    # lowered it is steep.
    slope = math.tan(math.radians(12))
    roof = box((0, 0, 5), (10, 10, 10))
    lowered = roof.vertices.copy()
    lowered[:, 2] += np.where(lowered[:, 2] > 5, slope * lowered[:, 1], 0.0)
    pitched = type(roof)(lowered, roof.faces)
    found = level_of(pitched, None, front, KESTREL, 0.2)
    assert found.shoulders_mm2 == pytest.approx(100 / math.cos(math.radians(12)), rel=1e-6)
    assert found.to == "forwards" and found.tilted_mm2 == 0
    hidden = level_of(pitched, np.full(len(roof.faces), 0.2), front, KESTREL, 0.2)
    assert hidden.shoulders_mm2 == 0, "what nobody sees is not told"


def test_three_timed_prints_correct_the_hours_and_an_interval_is_given() -> None:
    three = hours_of([Logged(100, 0, 120, "good")] * 3)
    assert 1.15 < three.ratio < 1.2 and three.low < 1.2 < three.high and three.timed == 3
    many = hours_of([Logged(100, 0, 120, "good")] * 300)
    assert many.ratio == pytest.approx(1.2, rel=0.002)
    assert many.high / many.low == pytest.approx(math.exp(2 * 1.96 * 0.06), rel=0.01), "a print has its own scatter"
    lost = [Logged(100, 0, 10, "print lost"), Logged(100, 0, None, "good"), Logged(100, 0, 50, None)]
    assert hours_of(lost) == hours_of([])


@given(st.lists(st.floats(0.5, 2.0), min_size=1, max_size=20))
def test_hours_lie_between_the_plan_and_the_log(ratios: list[float]) -> None:
    found = hours_of([Logged(100, 0, 100 * r, "good") for r in ratios])
    mean = math.exp(sum(math.log(r) for r in ratios) / len(ratios))
    low, high = sorted((1.0, mean))
    assert low - 1e-9 <= found.ratio <= high + 1e-9 and found.low < found.ratio < found.high
