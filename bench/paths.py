"""Paths and trial prints: a whole path with its supports, what it takes from some layers, its motion, steps and lost
detail, a thousand prints; sections beside a general library on the same planes.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import numpy as np

BANDS_MM = (0.08, 0.12, 0.16, 0.2)
FACES, TALL_MM, HEIGHT_MM, PLANES, MOVES = 500_000, 75.0, 0.1, 40, 2_000_000


def table(make: Callable[[int], Any]) -> None:
    """Print the seconds of each step."""
    from tests.presets import FILAMENT, HERON, KESTREL, RESIN

    from tenugui.core.layers.bands import Banding
    from tenugui.core.layers.detail import detail_of
    from tenugui.core.layers.steps import cusp_quantiles
    from tenugui.core.machines import Context, FilamentPrinter
    from tenugui.core.paths import Seen, blemishes_of, planned, read_gcode, sampled_use, write_gcode
    from tenugui.core.paths.motion import seconds
    from tenugui.core.prints import Draws, moments_of, printed
    from tenugui.core.sections import outlines
    from tenugui.core.supports import Carrying, make_supports, reachable, tip_hold
    from tenugui.core.supports.touch import touched

    assert isinstance(KESTREL, FilamentPrinter)
    rows: list[tuple[str, float, str]] = []

    def steps(faces: int, told: bool) -> None:
        mesh = make(faces)
        figure = mesh.scaled(TALL_MM / mesh.size[2]).dropped()
        context = Context.of(KESTREL, FILAMENT, HEIGHT_MM)
        made = make_supports(figure, context, risk=0.05)
        path, whole = _timed(lambda: planned(figure, made.props, KESTREL, HEIGHT_MM))
        seen = Seen(figure, np.where(figure.middles()[:, 0] > 0, 1.0, 0.2))
        watched, kept = _timed(lambda: planned(figure, made.props, KESTREL, HEIGHT_MM, seen))
        begins = blemishes_of(watched, seen, KESTREL.least_layer_s)
        clocks = [_clock(h) for h in BANDS_MM]
        banding, banded = _timed(
            lambda: Banding(figure, None, BANDS_MM, reach_mm=context.reach, begins_mm=np.empty(0), clocks=clocks)
        )
        _, quickest = _timed(lambda: [banding.within(limit) for limit in (0.03, 0.05, 0.08, 0.11, 0.15)])
        rough = (made.after.areas, made.after.stack.contour_mm)
        use, some = _timed(
            lambda: sampled_use(figure, made.props, KESTREL, material=FILAMENT, height=HEIGHT_MM, rough=rough)
        )
        text, wrote = _timed(lambda: write_gcode(path, KESTREL, FILAMENT))
        _, read = _timed(lambda: read_gcode(text))
        walk = np.cumsum(np.random.default_rng(0).normal(0, 1, (MOVES + 1, 3)), axis=0)
        _, motion = _timed(lambda: seconds(walk, np.full(MOVES, 60.0), 1500.0, 0.02))
        zs = np.arange(1, PLANES + 1) * TALL_MM / (PLANES + 1)
        at = np.round(zs / HEIGHT_MM - 0.5).astype(np.int64)
        ours, cut = _timed(lambda: outlines(figure, HEIGHT_MM, at))
        plain, theirs = _timed(lambda: _sections(figure, (at + 0.5) * HEIGHT_MM))
        assert np.allclose([_long(section) for section in ours], plain, rtol=0.06), "but for folds, which ours unites"
        million = make(2 * faces)
        million = million.scaled(TALL_MM / million.size[2]).dropped()
        _, detail = _timed(lambda: [(cusp_quantiles(million), h) for h in range(8)] + [detail_of(million)])
        hung = make_supports(figure, Context.of(HERON, RESIN, 0.05), risk=0.01)
        resin = Context.of(HERON, RESIN, 0.05)
        carrying = Carrying.of(hung.before, resin, reachable(hung.figure, hung.before, resin))
        tips = np.array([[t.x, t.y, t.z] for t in hung.tips])
        strength = np.array([float(tip_hold(resin, t.diameter)) for t in hung.tips])
        on = touched(hung.before, tips)
        moments, laid = _timed(lambda: moments_of(carrying, on, tips, strength))
        draws = Draws.of(len(tips))
        walked, prints = _timed(lambda: printed(moments, draws))
        weak = moments_of(carrying, on, tips, strength / 3)
        worst, often = _timed(lambda: printed(weak, draws))
        if not told:
            return
        true = KESTREL.start_s + float(path.seconds.sum()) + KESTREL.layer_change_s * path.layers
        rows.extend(
            [
                (f"path of {path.layers} layers with {len(made.tips)} supports, {len(path.kind):,} moves", whole, "20"),
                (f"what it takes from some layers ({use.time_s / true - 1:+.1%} of its hours)", some, ""),
                (f"the same with seams where nobody looks, {begins.shown} of {begins.starts} seen", kept, ""),
                (f"prepared for bands of {len(BANDS_MM)} heights", banded, ""),
                ("the quickest bands within five limits", quickest, ""),
                (f"written as G-code, {len(text) / 2**20:.0f} MB", wrote, ""),
                ("read back", read, ""),
                (f"motion of {MOVES:,} moves", motion, "1"),
                (f"{PLANES} sections of {FACES:,} triangles", cut, ""),
                (f"loose pieces of the same by trimesh ({theirs / cut:.1f} times as long)", theirs, ""),
                (f"steps of 8 heights and lost detail, {len(million.faces):,} triangles", detail, "3"),
                (f"moments of {len(tips)} tips, {int(carrying.layer.max()) + 1} layers", laid, ""),
                (f"1,000 prints, both cores; {(walked.moment < 0).sum()} whole", prints, "3 on one"),
                (f"1,000 prints at a third of the strength; {(worst.moment < 0).sum()} whole", often, "3 on one"),
            ]
        )

    steps(20_000, False)
    steps(FACES, True)
    print(
        f"\nPaths and prints: {FACES:,} triangles, {TALL_MM:g} mm "
        f"tall, layers of {HEIGHT_MM} mm\n{'':72} {'seconds':>9}   wanted"
    )
    for name, took, wanted in rows:
        print(f"{name:72} {took:9.3f}   {wanted}")


def _clock(height: float) -> tuple[Any, Any]:
    """Twenty seconds a layer."""
    at = np.arange(int(2 * TALL_MM / height)) * height
    return at, 20.0 * np.arange(len(at))


def _timed(task: Callable[[], Any]) -> tuple[Any, float]:
    began = time.perf_counter()
    found = task()
    return found, time.perf_counter() - began


def _sections(figure: Any, heights: Any) -> Any:
    """Lengths of sections by trimesh, as loose pieces that nobody has chained or united."""
    from trimesh import Trimesh, intersections

    whole = Trimesh(figure.vertices, figure.faces, process=False)
    pieces, _, _ = intersections.mesh_multiplane(whole, [0, 0, 0], [0, 0, 1], heights)
    return np.array([np.linalg.norm(one[:, 1] - one[:, 0], axis=1).sum() for one in pieces])


def _long(section: Any) -> float:
    loops = [np.asarray(loop, float) for loop in section.to_polygons()]
    return float(sum(np.linalg.norm(loop - np.roll(loop, -1, axis=0), axis=1).sum() for loop in loops))
