"""The file that the machine takes, written from the proved plan and read back."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from itertools import zip_longest

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ..contract import LayerPathDoc, PrintFileDoc, blemishes_document
from ..machines import FilamentPrinter, Material, ResinPrinter, as_filament, peels
from ..mesh import Mesh
from ..paths import (
    Blemishes,
    GcodeError,
    Path,
    Seen,
    blemishes_of,
    layer_of,
    planned,
    read_gcode,
    words_of,
    write_gcode,
)
from ..paths.blemishes import AIR_MM
from ..paths.lines import KINDS, TRAVEL
from ..supports import seen_weights
from ..vat import layer_image, read_archive, write_archive
from .bands import bands_as_taken
from .given import BandedGiven
from .inputs import PosedInputs
from .parts import carried_in, parts_of, props_in
from .shelf import Shelf
from .supports import held_as_taken
from .tasks import Progress, task, within

ROOM_MM, MOST_SIDE = 1.0, 1400
"""Around the figure in a layer's picture; and no picture is larger, pixels."""
SAME = 1e-4
"""A file holds what was planned to within its own decimals."""


def on_plate(parts: dict[str, Mesh]) -> dict[str, Mesh]:
    """All parts, moved together into the middle of the plate."""
    whole = Mesh.joined(list(parts.values()))
    middle = (whole.lower + whole.upper) / 2
    shift = np.array([middle[0], middle[1], 0.0])
    return {name: Mesh(part.vertices - shift, part.faces) for name, part in parts.items()}


@task("printfile", BandedGiven, PrintFileDoc, rests_on=("held",))
def printfile(shelf: Shelf, given: BandedGiven, progress: Progress) -> PrintFileDoc:
    """For a screen, layers at its own pixels in an archive; for a nozzle, the planned path as G-code. All of it is read
    back.
    """
    inputs = PosedInputs(shelf, given)
    supported = held_as_taken(shelf, given)
    parts = on_plate(parts_of(inputs, supported))
    printer = inputs.printer
    if peels(printer):
        return as_layers(parts, printer, inputs.material, height=given.height, put=shelf.put, progress=progress)
    progress(0.05, "planning every line")
    path, blemishes = _path(inputs, parts, given)
    return as_gcode(path, blemishes, printer, material=inputs.material, put=shelf.put, progress=progress)


def as_layers(
    parts: dict[str, Mesh],
    printer: ResinPrinter,
    material: Material,
    *,
    height: float,
    put: Callable[[bytes], str],
    progress: Progress,
) -> PrintFileDoc:
    """Layers of parts about the middle of the plate, in an archive, read back."""
    out = io.BytesIO()
    whole = Mesh.joined(list(parts.values()))
    manifest = write_archive(whole, printer, material, height=height, handle=out, progress=within(progress, 0.05, 0.6))
    back = read_archive(out, within(progress, 0.6, 0.98))
    data = out.getvalue()
    return PrintFileDoc(
        kind="layers",
        sha=put(data),
        size=len(data),
        printer=printer.name,
        layer_height_mm=manifest.layer_height_mm,
        layers=back.manifest.layers,
        volume_ml=back.volume_mm3 / 1000,
        time_s=back.manifest.time_s,
        differs=back.differs,
    )


def _path(inputs: PosedInputs, parts: dict[str, Mesh], given: BandedGiven) -> tuple[Path, Blemishes]:
    """Every line of figure, plinth and supports, and what of it will show."""
    printer, weights = as_filament(inputs.printer), seen_weights(inputs.placed_context().weights)
    figure = carried_in(parts)
    seen = None if weights is None else Seen(figure, weights)
    bands = bands_as_taken(inputs, given)
    path = planned(figure, props_in(parts), printer, given.height if bands is None else bands.heights, seen)
    return path, blemishes_of(path, seen and seen.raised(path.lift), printer.least_layer_s)


def as_gcode(
    path: Path,
    blemishes: Blemishes,
    printer: FilamentPrinter,
    *,
    material: Material,
    put: Callable[[bytes], str],
    progress: Progress,
    in_turn: bool = False,
) -> PrintFileDoc:
    """A planned path as G-code, read back; `in_turn`: pieces one after the other, each from the plate upwards."""
    progress(0.6, "writing the path")
    text = write_gcode(path, printer, material)
    progress(0.8, "reading it back")
    back = read_gcode(text)
    _refuse_unasked(back.words, words_of(path, printer))
    # The last stroke back before the end stays in the nozzle.
    volume = back.volume_mm3(printer) + printer.retract_mm * np.pi * printer.filament_mm**2 / 4
    drawn = path.fed > 0
    # The reader counts heights; pieces one after the other share theirs.
    layers = len(np.unique(np.round(path.points[1:][drawn, 2], 4) if in_turn else path.layer[drawn]))
    differs = int(back.layers != layers) + int(abs(volume - path.volume_mm3) > SAME * max(path.volume_mm3, 1.0))
    data = text.encode()
    return PrintFileDoc(
        kind="gcode",
        sha=put(data),
        size=len(data),
        printer=printer.name,
        layer_height_mm=float(path.heights.min()),
        thickest_mm=None if np.ptp(path.heights) < 1e-6 else float(path.heights.max()),
        layers=path.layers if in_turn else back.layers,
        volume_ml=volume / 1000,
        time_s=printer.start_s + float(path.seconds.sum()) + printer.layer_change_s * path.layers,
        differs=differs,
        lost_mm3=float((path.lost * path.heights).sum()),
        blemishes=blemishes_document(blemishes, path.tops),
    )


def _refuse_unasked(said: Sequence[str], asked: Sequence[str]) -> None:
    """Refuse a file that says anything to the machine which the plan did not ask for.

    Raises:
        GcodeError: `unasked-word`.
    """
    for k, (word, wanted) in enumerate(zip_longest(said, asked, fillvalue="nothing")):
        if word != wanted:
            raise GcodeError(
                "unasked-word",
                f"The file says '{word[:40]}' to the machine where the plan asks for '{wanted[:40]}'.",
                f"word {k + 1} of those that move nothing",
                "Nothing was kept of it. Look at the names of printer and material; this is a defect of Tenugui.",
            )


def layer_path(text: str, number: int, layers: int, printer: FilamentPrinter) -> LayerPathDoc:
    """A layer of a written path, to a hundredth of a mm."""
    read = layer_of(text, number, printer)
    drawn = read.kind != TRAVEL
    return LayerPathDoc(
        layer=number,
        layers=layers,
        z_mm=float(read.points[-1 if not drawn.any() else int(np.flatnonzero(drawn)[0]) + 1, 2]),
        points=[(x, y) for x, y in np.round(read.points[:, :2], 2).tolist()],
        kind=read.kind.tolist(),
        seconds=np.round(read.seconds, 4).tolist(),
        kinds=list(KINDS),
        begins=np.flatnonzero(read.begin).tolist(),
        strings=np.flatnonzero(read.air > AIR_MM).tolist(),
    )


STRIPES, STRIPED = 6, (194, 84, 36)
"""What hangs is striped: pixels from one stripe to the next, and their colour."""


def _striped(lit: NDArray[np.uint8], below: NDArray[np.uint8]) -> Image.Image:
    """Grey as it is lit, and striped where nothing was below."""
    rows, columns = np.indices(lit.shape, np.int32)
    bare = (lit > 0) & (below == 0) & ((rows + columns) // (STRIPES // 2) % 2 == 0)
    return Image.fromarray(np.where(bare[..., None], np.array(STRIPED, np.uint8), lit[..., None].repeat(3, axis=2)))


def layer_picture(
    archive: bytes, number: int, footprint_mm: tuple[float, float], printer: ResinPrinter, *, hangs: bool = False
) -> bytes:
    """A layer of a written archive as a PNG, cut to what the figure covers of the screen with a little room; with
    `hangs` what is lit over nothing that the layer below has lit is striped.

    Raises:
        ArchiveError: `no-layer`: the archive has none of that number.
    """
    image = Image.open(io.BytesIO(layer_image(archive, number)))
    wide, deep = ((side + 2 * ROOM_MM) / printer.pixel_mm / 2 for side in footprint_mm)
    x, y = image.width / 2, image.height / 2
    box = (
        max(0, int(x - wide)),
        max(0, int(y - deep)),
        min(image.width, int(x + wide)),
        min(image.height, int(y + deep)),
    )
    cut = image.crop(box)
    if hangs:
        below = Image.open(io.BytesIO(layer_image(archive, number - 1))).crop(box) if number > 1 else cut
        cut = _striped(np.asarray(cut.convert("L")), np.asarray(below.convert("L")))
    cut.thumbnail((MOST_SIDE, MOST_SIDE))
    out = io.BytesIO()
    cut.save(out, "PNG", compress_level=1)
    return out.getvalue()
