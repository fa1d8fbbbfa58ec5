"""Everything the layer stack proves about a posed figure, in one call."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from ..mesh import Mesh
from .grid import grid_for
from .overhang import Overhang, overhang
from .runs import F8, LayerStack, cut, cut_onto
from .solids import GRAIN_MM2, Components, Island, find_islands, solid_components
from .voids import Voids, find_voids

RELIEF_MM, RELIEF_LAYERS = 0.3, 4
"""Priors: what starts alone and joins within this height, or so few layers, is surface relief; longer, it is a part."""


@dataclass(frozen=True)
class Proof:
    """One stack and what was read off it. `areas` and `centroids` by layer, in mm² and mm."""

    stack: LayerStack
    components: Components
    islands: list[Island]
    voids: Voids
    hang: Overhang
    areas: F8
    centroids: F8


@dataclass(frozen=True)
class Solid:
    """The solid side of a stack: what islands there are, before anything else is read. Enough to see whether supports
    hold.
    """

    stack: LayerStack
    components: Components
    islands: list[Island]


def read_solid(stack: LayerStack, more: Mesh) -> Solid:
    """A cut figure with other solids (its supports) in build coordinates, and the islands that are left.

    Raises `LayerError` where both are too large together or below the plate.
    """
    return _solid_of(cut_onto(stack, more))


def _read(solid: Solid, free_reach: float, bridge: float, voids: Callable[[], Voids]) -> Proof:
    stack, parts = solid.stack, solid.components
    hang = overhang(stack, parts.of_run, len(parts.layer), free_reach, bridge)
    sums = stack.sums()
    return Proof(stack, parts, solid.islands, voids(), hang, sums[:, 0], sums[:, 1:])


def completed(solid: Solid, free_reach: float, *, bridge: float = 0.0) -> Proof:
    """Read what else there is: empty space and overhang, side by side. `free_reach` is in mm a layer."""
    with ThreadPoolExecutor(2) as pool:
        return _read(solid, free_reach, bridge, pool.submit(find_voids, solid.stack).result)


def _solid_of(stack: LayerStack) -> Solid:
    parts = solid_components(stack)
    return Solid(stack, parts, find_islands(stack, parts, grain_mm2=GRAIN_MM2))


def prove(mesh: Mesh, height: float, free_reach: float, pitch: float | None = None, *, bridge: float = 0.0) -> Proof:
    """Cut a mesh in build coordinates at `height` mm and read every layer; `free_reach` is in mm a layer, `bridge` the
    longest span in mm that is laid from bank to bank.

    Solid and empty space are read side by side. Raises `LayerError` where the figure is too large or below the plate.
    """
    stack = cut(mesh, grid_for(mesh, height, pitch))
    with ThreadPoolExecutor(2) as pool:
        voids = pool.submit(find_voids, stack)
        return _read(_solid_of(stack), free_reach, bridge, voids.result)


def is_slight(island: Island, height: float) -> bool:
    """Whether an island is relief rather than a part: it joins an older part, or ends, within `relief_mm`. Losing it
    costs a scar.
    """
    return alone_mm(island, height) <= relief_mm(height)


def relief_mm(height: float) -> float:
    """The height within which relief joins, of layers of `height` mm.

    >>> relief_mm(0.05), relief_mm(0.12)
    (0.3, 0.48)
    """
    return max(RELIEF_MM, RELIEF_LAYERS * height)


def alone_mm(island: Island, height: float) -> float:
    """How high an island grows before it joins an older part, or ends."""
    return (island.until_layer - island.layer) * height
