"""The fold Proof: the plan as it stands, with the files to take away."""

from __future__ import annotations

import io
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from ..contract import (
    FilesDoc,
    HeldDoc,
    ProofBoard,
    RemovalDoc,
    SettingsDoc,
    braces_from,
    removal_document,
    tips_from,
    unpack_mesh,
)
from ..formats import NO_LIMITS, Beams, read_3mf, write_3mf, write_stl
from ..mesh import Mesh, picture
from ..removal.cutter import removal_of
from ..removal.hands import weights_at
from ..supports import beams_of, raft_solid, support_mesh
from .bands import bands_as_taken, fewer_strings, in_bands
from .figure import preview_of
from .given import BandedGiven
from .inputs import PosedInputs
from .parts import parts_of
from .shelf import Shelf
from .supported import PlanError
from .supports import held_as_taken
from .tasks import Progress, task
from .walk import layer_at, stops_of, tops_of

SHEET_PICTURE = (300, 420)
PACKED_MM = 5e-5
"""A package keeps corners as 32 bits, written in decimals: to within so much."""


def as_stl(parts: dict[str, Mesh]) -> bytes:
    """All in one mesh."""
    stl = io.BytesIO()
    write_stl(Mesh.joined(list(parts.values())), stl)
    return stl.getvalue()


def as_package(parts: dict[str, Mesh], labels: NDArray[np.uint8] | None, settings: SettingsDoc) -> bytes:
    """3MF with figure, plinth and supports apart, the marks on the figure, and how it came about."""
    package = io.BytesIO()
    write_3mf(parts, package, None if labels is None else {"figure": labels}, settings.dumped().decode())
    return package.getvalue()


def checked_package(parts: dict[str, Mesh], labels: NDArray[np.uint8] | None, settings: SettingsDoc) -> bytes:
    """`as_package`, read back before it is offered: every triangle, the marks and the settings are what was written.

    Raises:
        PlanError: `package-differs`.
    """
    data = as_package(parts, labels, settings)
    marks: dict[str, NDArray[np.uint8]] = {}
    differs: list[str] = []
    back = read_3mf(io.BytesIO(data), len(data), NO_LIMITS, marks, differs)
    wanted = {} if labels is None or not labels.any() else {"figure": labels}
    wrong = [name for name, mesh in parts.items() if name not in back or not _same_triangles(back[name], mesh)]
    wrong += [name for name in (*wanted, *marks) if not np.array_equal(marks.get(name, ()), wanted.get(name, ()))]
    wrong += ["settings"] if differs != [settings.dumped().decode()] else []
    if wrong:
        raise PlanError(
            "package-differs",
            f"The 3MF does not read back as it was written: {', '.join(dict.fromkeys(wrong))}.",
            "reading it back",
            "Take the STL, and report this: it is a defect of Tenugui.",
        )
    return data


def _same_triangles(one: Mesh, other: Mesh) -> bool:
    """Corner by corner."""
    a, b = one.corners(), other.corners()
    return a.shape == b.shape and float(np.abs(a - b).max(initial=0.0)) <= PACKED_MM


def settings_of(inputs: PosedInputs, supported: HeldDoc) -> SettingsDoc:
    """The machine, the choices and every support of a plan."""
    row = supported.row
    return SettingsDoc(
        printer=inputs.printer.name,
        material=inputs.material.name,
        layer_height_mm=row.layer_height_mm,
        risk=row.risk,
        style=row.style,
        matrix=row.matrix,
        supports=supported.supports,
    )


STAND_GAP_MM = 0.05


def stand_of(supported: HeldDoc) -> Mesh | None:
    """The supports that stand on the plate alone, a little short of the figure: a stand that cradles it. None where
    there are none.
    """
    tips = [tip for tip in tips_from(supported.supports.tips) if tip.on == "plate"]
    return support_mesh(tips, supported.supports.raft, short_mm=STAND_GAP_MM, margin=supported.supports.raft_margin_mm)


def beams_3mf(supported: HeldDoc) -> bytes | None:
    """The supports alone as beams of the lattice extension, their raft as a mesh: a 3MF. None where there are none."""
    tips = tips_from(supported.supports.tips)
    if not tips:
        return None
    out = io.BytesIO()
    beams = Beams(*beams_of(tips, braces_from(supported.supports.braces)))
    solids = {"raft": raft_solid(tips, supported.supports.raft_margin_mm)} if supported.supports.raft else {}
    broad = support_mesh([tip for tip in tips if tip.cells], False)
    write_3mf(
        solids | ({} if broad is None else {"areas": broad}),
        out,
        beams={"supports": beams},
    )
    return out.getvalue()


def written(inputs: PosedInputs, supported: HeldDoc) -> tuple[bytes, bytes]:
    """STL of all in one, and 3MF with figure and supports apart and the marks on the figure."""
    parts = parts_of(inputs, supported)
    labels = None if inputs.labels is None else np.asarray(inputs.carried(inputs.labels, 0), np.uint8)
    return as_stl(parts), checked_package(parts, labels, settings_of(inputs, supported))


@task("proof", BandedGiven, ProofBoard, rests_on=("held", "preview", "coarse"))
def proof(shelf: Shelf, given: BandedGiven, progress: Progress) -> ProofBoard:
    """The proof of the whole plan at its layer height, and the files to take away."""
    progress(0.05, "supporting and reading every layer")
    inputs = PosedInputs(shelf, given)
    supported = held_as_printed(inputs, given)
    progress(0.7, "writing files")
    parts = parts_of(inputs, supported)
    labels = None if inputs.labels is None else np.asarray(inputs.carried(inputs.labels, 0), np.uint8)
    # The library that writes 3MF takes one core for most of this fold; the other writes the STL and draws meanwhile.
    with ThreadPoolExecutor(1) as pool:
        package = pool.submit(checked_package, parts, labels, settings_of(inputs, supported))
        stl, sheet = shelf.put(as_stl(parts)), shelf.put(_sheet_picture(inputs, supported))
        removal = removal_sheet(inputs, supported)
        files = FilesDoc(stl=stl, package=shelf.put(package.result()), sheet_sha=sheet)
    stops = stops_of(supported, tops_of(supported.row.strip, parts))
    return ProofBoard(proof=supported.proof, held=supported.row, files=files, removal=removal, stops=stops)


def held_as_printed(inputs: PosedInputs, given: BandedGiven) -> HeldDoc:
    """What was proved in layers of one height, with the hours of its bands where it is printed in such."""
    supported = held_as_taken(inputs.shelf, given)
    bands = bands_as_taken(inputs, given)
    if bands is None:
        return supported
    hazards = fewer_strings(supported.proof.hazards, supported.row.strip.layers, bands)
    tops = np.cumsum(bands.heights)
    hazards = [h.model_copy(update={"layer": layer_at(tops, h.z_mm) - 1}) for h in hazards]
    layers = supported.proof.layers.model_copy(update={"count": len(tops)})
    proof = supported.proof.model_copy(update={"time_s": bands.time_s, "hazards": hazards, "layers": layers})
    return supported.model_copy(update={"row": in_bands(inputs, supported.row, bands), "proof": proof})


def removal_sheet(inputs: PosedInputs, supported: HeldDoc) -> RemovalDoc:
    """How its supports come off, but for those that stay in a cavity."""
    numbers = [k for k, spot in enumerate(supported.row.spots) if not spot.inside]
    tips = tips_from([supported.supports.tips[k] for k in numbers])
    figure, weights = inputs.placed.whole, inputs.placed_context().weights
    front = inputs.placed.place.turn @ np.array(inputs.front)
    process = inputs.printer.process
    removal = removal_of(figure, tips, weights_at(figure, weights, tips), front, process)
    return removal_document(removal, numbers, inputs.printer)


def _sheet_picture(inputs: PosedInputs, supported: HeldDoc) -> bytes:
    _, preview = preview_of(inputs.shelf, inputs.given.sha)
    figure = inputs.placed.place.apply(preview.scaled(inputs.factor))
    sha = supported.row.supports_sha
    return picture(
        figure if sha is None else Mesh.joined([figure, unpack_mesh(inputs.shelf.get(sha))]), size=SHEET_PICTURE
    )
