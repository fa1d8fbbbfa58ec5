"""What a filament print takes, from the true path of some of its layers.

Layers change little from one to the next, so some of them are planned line by line, as the file will have them; what
the others take follows from the rough estimate of every layer (lengths over speeds), corrected by how far it was off
where the path is known. A ratio estimator (Cochran 1977, chapter 6).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from manifold3d import CrossSection
from numpy.typing import NDArray

from ..machines import FilamentPrinter, Material
from ..mesh import Mesh
from ..sections import outlines
from .blemishes import AIR_MM, open_air
from .drive import Path, driven
from .estimate import FilamentUse, Strings, filament_use
from .lines import SIMPLE_MM, Line
from .plan import closely, coarse, inside_of, lines_of, nozzle_lays, raft
from .props import Props, whole

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
SAMPLES = 30
"""Layers that are planned truly; all of them where there are no more."""
NEIGHBOURS = 3
"""Of the layers that may cover one, so many on each side are looked at."""


def sampled_use(
    figure: Mesh,
    props: Props,
    printer: FilamentPrinter,
    *,
    material: Material,
    height: float,
    rough: tuple[F8, F8],
) -> FilamentUse:
    """Seconds, ml, grams and cost of a figure with its supports in build coordinates. `rough`: area and contour length
    of every layer (layers,), as cut.

    Raises:
        PathError: `bad-height`: a layer that the nozzle cannot lay.
    """
    nozzle_lays(printer, height)
    areas, contours = rough
    guess = filament_use(printer, material, height, areas, contours)
    layers = np.flatnonzero(areas > 0)
    if not len(layers):
        return guess
    spread = np.round(np.linspace(0, len(layers) - 1, min(SAMPLES, len(layers)))).astype(int)
    # The first layer is slow, and stands for no other.
    taken = layers[np.unique(np.append(spread, min(1, len(layers) - 1)))]
    path, first = _planned(figure, props, printer, height, taken)
    use = replace(_scaled(guess, printer, material, taken, path), strings=_strings(path, taken, len(areas)))
    return _on_raft(use, raft(first, printer, height), printer, material, height)


def seconds_at(figure: Mesh, props: Props, printer: FilamentPrinter, height: float, layers: I8) -> F8:
    """(n,) seconds that some layers (n,) truly take, in build coordinates, the change to the next one with them.

    Raises:
        PathError: `bad-height`: a layer that the nozzle cannot lay.
    """
    nozzle_lays(printer, height)
    path, _ = _planned(figure, props, printer, height, layers)
    return path.by_layer() + printer.layer_change_s


def _planned(
    figure: Mesh, props: Props, printer: FilamentPrinter, height: float, taken: I8
) -> tuple[Path, CrossSection]:
    """The path of layers `taken`, one on the other as if nothing lay between: the rise to the next one taken is no move
    of the print; and the section of the first of them.
    """
    beside = _beside(max(1, round(printer.roof_mm / height)))
    above = np.arange(1, 1 + closely(printer, height))
    held = {density: _cut(solid, height, taken) for density, solid in props.items()}
    near = [taken + d for d in beside] + [taken - d for d in beside]
    near += [taken + d for d in (above if props else above[:1])]
    own = _cut(figure, height, np.unique(np.concatenate([taken, *near])))
    lines, insides = [], []
    for k in taken.tolist():
        covered = _covered(own, k, beside)
        over = [own.get(j, CrossSection()) for j in (k + above).tolist()]
        mine, props_here = own.get(k, CrossSection()), {density: cut[k] for density, cut in held.items() if k in cut}
        lines.append(
            lines_of(mine, props_here, covered, above=over, k=k, printer=printer, height=height, z=(k + 0.5) * height)[
                0
            ]
        )
        insides.append(inside_of(mine, lines[-1]))
    each = np.full(len(lines), height)
    plate = bool(taken[0] == 0) and not printer.raft_layers
    path = driven(lines, np.zeros(len(lines)), printer, np.cumsum(each), each, from_plate=plate, insides=insides)
    path = replace(path, air=open_air(path, insides))
    first = int(taken[0])
    return path, own.get(first, CrossSection()) + whole({d: cut[first] for d, cut in held.items() if first in cut})


def _strings(path: Path, taken: I8, layers: int) -> Strings:
    """Of all layers, by those `taken`."""
    assert path.air is not None
    crossing = np.flatnonzero(path.air > AIR_MM)
    many = np.bincount(path.layer[crossing], minlength=len(taken))
    total = float(np.interp(np.arange(layers), taken, many).sum())
    if not len(crossing):
        return Strings(0.0, 0, 0.0, 0.0)
    most = int(many.argmax())
    x, y, _ = path.points[1 + crossing[int((path.layer[crossing] == most).argmax())]].tolist()
    return Strings(total, int(taken[most]), x, y)


def _on_raft(
    use: FilamentUse, under: list[list[Line]], printer: FilamentPrinter, material: Material, height: float
) -> FilamentUse:
    """With what a raft takes before the first layer."""
    if not under:
        return use
    each = np.full(len(under), height)
    path = driven(under, np.zeros(len(under)), printer, np.cumsum(each), each)
    later = float(path.by_layer().sum()) + len(under) * printer.layer_change_s
    ml = path.volume_mm3 / 1000 * (1 + material.waste)
    grams = use.mass_g + ml * material.density_g_ml
    return replace(
        use,
        time_s=use.time_s + later,
        clock_s=use.clock_s + later,
        volume_ml=use.volume_ml + ml,
        mass_g=grams,
        cost=grams / 1000 * material.cost,
    )


def _beside(most: int) -> list[int]:
    return sorted({int(d) for d in np.ceil(np.linspace(0, most, NEIGHBOURS + 1))[1:]})


def _cut(mesh: Mesh, height: float, layers: I8) -> dict[int, CrossSection]:
    """Sections of some layers by number; those that are not empty."""
    sections = outlines(mesh, height, layers)
    return {int(k): s.simplify(SIMPLE_MM) for k, s in zip(layers, sections, strict=True) if not s.is_empty()}


def _covered(own: dict[int, CrossSection], k: int, beside: Sequence[int]) -> CrossSection:
    covered: CrossSection | None = None
    for j in (k + side * d for d in beside for side in (1, -1)):
        if j not in own or (covered is not None and covered.is_empty()):
            return CrossSection()
        covered = coarse(own[j]) if covered is None else covered ^ coarse(own[j])
    return CrossSection() if covered is None else covered


def _scaled(guess: FilamentUse, printer: FilamentPrinter, material: Material, taken: I8, path: Path) -> FilamentUse:
    """The rough estimate, corrected layer by layer by how far it was off at the layers `taken`."""
    rough_s = np.diff(guess.clock_s, prepend=printer.start_s)
    at = np.arange(len(rough_s))

    def scaled(rough: F8, true: F8) -> F8:
        return np.asarray(rough * np.interp(at, taken, true / np.maximum(rough[taken], 1e-9)))

    took = scaled(rough_s, path.by_layer() + printer.layer_change_s)
    volume = scaled(guess.layer_mm3, path.fed_by_layer())
    unslowed = np.minimum(scaled(guess.unslowed_s, path.unslowed), took)
    clock = printer.start_s + np.cumsum(took)
    ml = float(volume.sum()) / 1000 * (1 + material.waste)
    grams = ml * material.density_g_ml
    return FilamentUse(float(clock[-1]), clock, ml, grams, grams / 1000 * material.cost, volume, unslowed)
