"""Files that are no figure, or cost too much: refused in words, with where and what to do, and soon; none of it takes
the memory of the machine.
"""

from __future__ import annotations

import io

import numpy as np
import pytest

from tenugui.core.errors import CoreError
from tenugui.core.formats import pack_whole, read
from tenugui.core.layers import LayerError, cut, grid_for
from tenugui.core.mesh import Mesh
from tenugui.core.mesh.shells import clusters_of
from tenugui.core.plan import MemoryShelf, upright_of
from tenugui.core.plan.supported import refuse_crumb
from tenugui.core.pose import height_along
from tenugui.core.repair import RepairError, make_ready, presupported
from tenugui.core.repair.presupported import MOST_CROSSINGS, find_props
from tests.figures import keeper
from tests.shapes import ball, box


def crumbs(many: int, apart: float) -> Mesh:
    one, rng = ball(0.4, fineness=0), np.random.default_rng(3)
    at = rng.permutation(np.stack(np.meshgrid(*[np.arange(20) * apart] * 3), axis=-1).reshape(-1, 3))[:many]
    return Mesh.joined([Mesh(one.vertices + p, one.faces) for p in at])


def test_thousands_of_loose_crumbs_are_no_figure() -> None:
    with pytest.raises(RepairError, match="6,000 loose pieces") as refused:
        make_ready(crumbs(6000, 1.5))
    assert refused.value.code == "loose-pieces" and "kit" in refused.value.remedy
    assert len(make_ready(crumbs(6000, 0.6)).mesh.faces), "crumbs that hang together are one thing"
    assert len(make_ready(crumbs(60, 1.5)).mesh.faces), "an army in one file is one"


def test_boxes_that_overlap_hang_together() -> None:
    rng = np.random.default_rng(5)
    low = rng.uniform(0, 30, (300, 3))
    high = low + rng.uniform(0.5, 3, (300, 3))
    meets = ((low[:, None] <= high[None]) & (high[:, None] >= low[None])).all(axis=2)
    plain = np.arange(300)
    for _ in range(300):  # by plain means: the smallest number within reach, until nothing changes
        plain = np.where(meets, plain[None], 300).min(axis=1)
    assert (clusters_of(low, high) == plain).all()


@pytest.mark.parametrize("radius", [0.2, 0.7, 1.0])
def test_a_crumb_below_the_foot_takes_nothing_from_the_height_nor_from_up(radius: float) -> None:
    """It would be left out once the height was set: 100 mm came out as 87."""
    ready = make_ready(Mesh.joined([keeper(), ball(radius, (0, 0, -9), fineness=1)]))
    assert ready.specks == 1 and ready.mesh.size[2] == pytest.approx(keeper().size[2])
    shelf = MemoryShelf()
    up = upright_of(shelf, shelf.put(pack_whole(ready.mesh))).ups[0].up
    assert up == (0.0, 0.0, 1.0) and height_along(ready.mesh.vertices, up) == pytest.approx(keeper().size[2])


def test_a_part_that_lies_loose_is_no_crumb() -> None:
    ready = make_ready(Mesh.joined([keeper(), box((30, 0, 4), (8, 8, 8))]))
    assert ready.specks == 0


def test_a_figure_in_another_unit_is_told_so() -> None:
    tiny = keeper().scaled(0.1 / 66)
    with pytest.raises(CoreError, match="no millimetres") as refused:
        refuse_crumb(tiny)
    assert refused.value.code == "wrong-unit" and "--height" in refused.value.remedy
    refuse_crumb(keeper())


def tangle(corners: int) -> Mesh:
    """A slab whose outline is one polygon through random places: each of its walls crosses nearly every scan line."""
    rng = np.random.default_rng(0)
    at = rng.uniform(-20, 20, (corners, 2))
    lines = [f"v {x:.5f} {y:.5f} {z}" for z in (0, 5) for x, y in at]
    lines.append("f " + " ".join(str(k) for k in range(corners, 0, -1)))
    lines.append("f " + " ".join(str(corners + k) for k in range(1, corners + 1)))
    pairs = [(k, k % corners + 1) for k in range(1, corners + 1)]
    lines += [f"f {a} {b} {corners + b} {corners + a}" for a, b in pairs]
    return read(io.BytesIO("\n".join(lines).encode())).whole


def test_a_tangle_is_bounded_by_what_it_costs(monkeypatch: pytest.MonkeyPatch) -> None:
    """Sixty kilobytes took 43 s and 2 GB: its layers crossed the surface hundreds of millions of times."""
    mesh, made = tangle(1500), list[int]()

    def counted(*words: object) -> object:
        stack = cut(*words)  # type: ignore[arg-type]
        made.append(len(stack.x_in))
        return stack

    monkeypatch.setattr(presupported, "cut", counted)
    find_props(mesh)
    assert made and max(made) <= MOST_CROSSINGS
    placed = mesh.dropped()
    with pytest.raises(LayerError, match="cross the surface") as refused:
        cut(placed, grid_for(placed, 0.01, 0.01))
    assert refused.value.code == "too-intricate"
