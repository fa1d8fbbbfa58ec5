"""Inputs of tasks for figures that tests make."""

from __future__ import annotations

from tenugui.core.formats import pack_whole
from tenugui.core.machines import FilamentPrinter, Material, ResinPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.plan import Shelf
from tenugui.core.plan.given import FigureGiven, PosedGiven
from tests.presets import HERON, RESIN

DOWN = (0.0, 0.0, -1.0)


def figure_given(
    shelf: Shelf, mesh: Mesh, printer: ResinPrinter | FilamentPrinter = HERON, material: Material = RESIN
) -> FigureGiven:
    """A figure at the size of its numbers, on a machine."""
    return FigureGiven(
        sha=shelf.put(pack_whole(mesh)),
        printer=printer.model_dump(mode="json"),
        material=material.model_dump(mode="json"),
    )


def posed_given(
    shelf: Shelf, mesh: Mesh, printer: ResinPrinter | FilamentPrinter = HERON, material: Material = RESIN
) -> PosedGiven:
    """The same as it stands."""
    return figure_given(shelf, mesh, printer, material).to(PosedGiven, down=DOWN)
