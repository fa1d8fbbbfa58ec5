"""The file that the machine takes, written from the proved plan and read back."""

from __future__ import annotations

import io

import numpy as np

from ..contract import PrintFileDoc
from ..errors import CoreError
from ..machines import ResinPrinter
from ..mesh import Mesh
from ..vat import read_archive, write_archive
from .held import HELD
from .inputs import Inputs
from .proof import parts_of
from .shelf import Shelf
from .supports import held_of
from .tasks import Given, Progress, task, within


class FileError(CoreError):
    """A file that cannot be written."""


def on_plate(parts: dict[str, Mesh]) -> Mesh:
    """All parts in one, in the middle of the plate."""
    whole = Mesh.joined(list(parts.values()))
    middle = (whole.lower + whole.upper) / 2
    return Mesh(whole.vertices - np.array([middle[0], middle[1], 0.0]), whole.faces)


@task("printfile", 1, HELD, PrintFileDoc, rests_on=("held",))
def printfile(shelf: Shelf, given: Given, progress: Progress) -> PrintFileDoc:
    """Layers at the screen's own pixels in an archive, every pixel of it read back.

    Raises:
        FileError: `no-file`: the machine takes another kind of file.
    """
    held = Inputs(shelf, given)
    printer = held.printer
    if not isinstance(printer, ResinPrinter):
        raise FileError(
            "no-file", "Files for filament machines are not written yet.", printer.name, "Take the 3MF or the STL."
        )
    made = held_of(
        shelf,
        given,
        height=given["height"],
        risk=given["risk"],
        style=given.get("style", "pillars"),
        edits=given.get("edits") or (),
    )
    out = io.BytesIO()
    told = write_archive(
        on_plate(parts_of(held, made)), printer, held.material, given["height"], out, within(progress, 0.05, 0.6)
    )
    back = read_archive(out, within(progress, 0.6, 0.98))
    data = out.getvalue()
    return PrintFileDoc(
        kind="layers",
        sha=shelf.put(data),
        size=len(data),
        printer=printer.name,
        layer_height_mm=told.layer_height_mm,
        layers=back.manifest.layers,
        volume_ml=back.volume_mm3 / 1000,
        time_s=back.manifest.time_s,
        differs=back.differs,
    )
