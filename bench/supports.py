"""Supports: what wants holding, ways to the plate in two styles, and a change by hand, beside plain numpy on the same
task.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import numpy as np

FACES, TALL_MM, HEIGHT_MM, RISK = 500_000, 85.0, 0.05, 0.01
SHAFTS, PIECE = 40, 2_000
"""Of so many shafts plain numpy measures the distance from the figure, so many triangles at a time."""


def table(make: Callable[[int], Any]) -> None:
    """Print the seconds of each step."""
    from tests.presets import HERON, RESIN

    from tenugui.core.layers import prove
    from tenugui.core.machines import Context
    from tenugui.core.mesh import Nearest
    from tenugui.core.supports import Carrying, make_supports, manner_of, raised, reachable, safety_factor
    from tenugui.core.supports.around import Around
    from tenugui.core.supports.demand import find_demand
    from tenugui.core.supports.margins import needed, tip_loads, what_if
    from tenugui.core.supports.route import route
    from tenugui.core.supports.trees import grow

    context = Context.of(HERON, RESIN, HEIGHT_MM)
    tip_mm = manner_of(context).tip_mm(RISK)

    def steps(mesh: Any, told: bool) -> None:
        figure = raised(mesh.scaled(TALL_MM / mesh.size[2]).dropped(), HERON)
        before = prove(figure, HEIGHT_MM, context.reach)
        where, rays = reachable(figure, before, context), Around.of(figure)
        demand, wanting = _timed(lambda: find_demand(figure, before, context, where, tip_mm=tip_mm, risk=RISK))
        radii = np.array([manner_of(context).pillar_mm(tip_mm, z) / 2 for z in demand.points[:, 2]])
        pillars, straight = _timed(lambda: route(rays, demand.points, radii, 0.0, []))
        _, grown = _timed(lambda: grow(rays, demand.points, radii, 0.0))
        few = slice(None, None, 4)
        _, quarter = _timed(lambda: grow(rays, demand.points[few], radii[few], 0.0))
        made, whole = _timed(lambda: make_supports(figure, context, risk=RISK, before=before, where=where))
        carrying = Carrying.of(before, context, where)
        loads, bears = _timed(lambda: tip_loads(carrying, before, made.tips, context))
        points = np.array([[t.x, t.y, t.z] for t in made.tips])
        holds = np.ones(len(points))
        _, which = _timed(lambda: needed(carrying, loads.on, points, holds, safety_factor(RISK)))
        _, edit = _timed(
            lambda: what_if(
                carrying,
                loads.on,
                points,
                holds,
                gone=[0],
                put=points[:1] + 0.4,
                put_strength=1.0,
                wanted=2.0,
            )
        )
        if not told:
            return
        shafts = [way.joints[0] + (way.joints[1] - way.joints[0]) * 0.5 for way in pillars if way.on == "plate"][
            :SHAFTS
        ]
        near, ours = _timed(lambda: Nearest(figure).of(np.array(shafts))[1])
        plain, theirs = _timed(lambda: _plain(figure, np.array(shafts)))
        assert np.allclose(near, plain, atol=1e-6)
        many = len(demand.points)
        print(
            f"\nSupports: {len(figure.faces):,} triangles, {TALL_MM:g} mm "
            f"tall, layers of {HEIGHT_MM} mm\n{'':60} {'seconds':>9}   wanted"
        )
        for name, seconds, wanted in (
            (f"demand, load path and least set of {many} tips", wanting, "2"),
            (f"routing {many} pillars", straight, "1"),
            (f"routing {many} tips in trees", grown, "4"),
            (f"a quarter of them in trees ({grown / max(quarter, 1e-9):.1f} times less)", quarter, ""),
            (f"the whole set, {len(made.tips)} tips, every layer read with it", whole, ""),
            (f"what {len(made.tips)} tips bear", bears, ""),
            (f"which of {len(made.tips)} tips are needed", which, ""),
            ("a tip moved by hand: all margins anew", edit, "0.2"),
            (f"{len(shafts)} shafts from the figure, the tree of boxes", ours, ""),
            (f"the same by plain numpy, every triangle ({theirs / ours:.0f} times as long)", theirs, ""),
        ):
            print(f"{name:60} {seconds:9.3f}   {wanted}")

    steps(make(20_000), False)
    steps(make(FACES), True)


def _timed(task: Callable[[], Any]) -> tuple[Any, float]:
    began = time.perf_counter()
    found = task()
    return found, time.perf_counter() - began


def _plain(figure: Any, points: Any) -> Any:
    """Distance of points (n, 3) from all triangles, by the formulas of a triangle's regions on whole arrays (Ericson
    2005).
    """
    from tenugui.core.mesh import Mesh

    assert isinstance(figure, Mesh)
    best = np.full(len(points), np.inf)
    corners = figure.vertices[figure.faces]
    for start in range(0, len(corners), PIECE):
        a, b, c = (corners[start : start + PIECE, k][None] for k in range(3))
        best = np.minimum(best, _from_triangles(points[:, None], a, b, c).min(axis=1))
    return np.sqrt(best)


def _from_triangles(p: Any, a: Any, b: Any, c: Any) -> Any:
    """Squared distances (n, m) of points from triangles: to the plane where it is met inside, else to the
    nearest edge.
    """

    def dot(u: Any, v: Any) -> Any:
        return (u * v).sum(axis=-1)

    def edge(u: Any, v: Any) -> Any:
        along = v - u
        share = np.clip(dot(p - u, along) / np.maximum(dot(along, along), 1e-30), 0, 1)
        away = p - u - share[..., None] * along
        return dot(away, away)

    normal = np.cross(b - a, c - a)
    inside = np.ones(np.broadcast_shapes(p.shape, a.shape)[:-1], bool)
    for u, v in ((a, b), (b, c), (c, a)):
        inside &= dot(np.cross(np.broadcast_to(v - u, normal.shape), p - u), normal) >= 0
    plane = dot(p - a, normal) ** 2 / np.maximum(dot(normal, normal), 1e-30)
    return np.where(inside, plane, np.minimum(np.minimum(edge(a, b), edge(b, c)), edge(c, a)))
