"""Keys of drills against brute force: other libraries cut the figures, and the laws are written out once more."""

from __future__ import annotations

import math
import re

import numpy as np
import pytest
import shapely
import trimesh

from tenugui.core.drills import Scene
from tenugui.core.drills.of_figure import islands_drill
from tenugui.core.drills.plain import primed_drill
from tenugui.core.layers import prove
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tests.figures import CASES
from tests.presets import HERON, RESIN
from tests.shapes import knobbly

CONTEXT = Context.of(HERON, RESIN, 0.2)
TURNED = np.array([[1, 0, 0], [0, math.cos(0.5), -math.sin(0.5)], [0, math.sin(0.5), math.cos(0.5)]])


def outline(shells: list[trimesh.Trimesh], z: float) -> shapely.Geometry:
    """What a mesh library cuts of each shell at a height, united: shells stand in each other."""
    return shapely.union_all([_cut(shell, z) for shell in shells])


def _cut(shell: trimesh.Trimesh, z: float) -> shapely.Geometry:
    cut = shell.section([0, 0, 1], [0, 0, z])
    if cut is None:
        return shapely.Polygon()
    rings = [shapely.Polygon(np.array(loop)[:, :2]).buffer(0) for loop in cut.discrete if len(loop) > 3]
    whole = shapely.Polygon()
    for ring in sorted(rings, key=lambda p: -p.area):
        whole = whole.symmetric_difference(ring)
    return whole


def figures() -> dict[str, Mesh]:
    made = {name: case.make() for name, case in list(CASES.items())[:6]}
    made |= {f"{name}, leaning": mesh.transformed(TURNED, np.zeros(3)) for name, mesh in list(made.items())[:4]}
    return made | {"a stone": knobbly(12, 4)}


@pytest.mark.parametrize("name", sorted(figures()))
def test_what_is_said_to_start_in_mid_air_has_nothing_below_it(name: str) -> None:
    mesh = figures()[name]
    mesh = Mesh(mesh.vertices - [0, 0, mesh.lower[2] - 3.0], mesh.faces)
    height = 0.2
    proof = prove(mesh, height, CONTEXT.reach)
    drill = islands_drill(Scene(name, mesh, proof), np.random.default_rng(4))
    assert drill is not None
    shells = list(trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).split(only_watertight=False))
    for k in drill.key.right:
        said = re.search(r"Starts at ([0-9.]+) mm with nothing under it, ([0-9.e+-]+) mm²", drill.key.reasons[k])
        assert said is not None
        island = next(i for i in proof.islands if (f"{i.z:.1f}", f"{i.area:.2g}") == said.groups())
        here = outline(shells, (island.layer + 0.5) * height)
        below = outline(shells, (island.layer - 0.5) * height)
        starts = [part for part in shapely.get_parts(here) if not part.intersects(below)]
        place = shapely.Point(island.x, island.y)
        assert any(part.distance(place) < 0.2 for part in starts), "a mesh library finds nothing below it either"


def test_who_sees_steps_is_the_law_written_out() -> None:
    rng, seen = np.random.default_rng(3), set()
    for _ in range(60):
        drill = primed_drill(rng)
        asked = re.search(r"([0-9.]+) mm on a slope that rises ([0-9.]+)", drill.question.text)
        assert asked is not None
        height, rise = (float(v) for v in asked.groups())
        micron = 1000 * height * math.cos(math.radians(rise))
        right = 0 if micron < 30 else 1 if micron < 50 else 2
        assert drill.key.right == [right] and drill.key.credit[right] == 1.0
        assert min(abs(micron / 30 - 1), abs(micron / 50 - 1)) >= 0.12, "borders are priors, and nobody is asked there"
        seen.add(right)
    assert seen == {0, 1, 2}
