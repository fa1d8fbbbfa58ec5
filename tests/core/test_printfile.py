"""The machine's own file of a plan: written from its very parts, in the middle of the plate, and read back."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from tenugui.core.contract import PrintFileDoc
from tenugui.core.machines import ResinPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.paths import read_gcode
from tenugui.core.plan import computed
from tenugui.core.plan.bands import bands_as_taken
from tenugui.core.plan.given import BandedGiven
from tenugui.core.plan.inputs import PosedInputs
from tenugui.core.plan.printfile import STRIPED, layer_picture, on_plate
from tenugui.core.vat import read_archive, write_archive
from tests.core.test_shared import plan_of
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box, cylinder


def test_a_plans_file_holds_the_proved_layers_their_volume_and_their_time() -> None:
    held, made = plan_of(ball(4, fineness=4).dropped())
    given = held.held.to(BandedGiven)
    told: list[tuple[float, str]] = []
    file = computed(held.shelf, "printfile", given, PrintFileDoc, lambda share, doing: told.append((share, doing)))
    assert file.differs == 0 and file.layers == made.proof.layers.count
    assert file.time_s == pytest.approx(made.proof.time_s)
    waste = 1 + held.material.waste
    assert file.volume_ml * waste == pytest.approx(made.proof.material.volume_ml, rel=0.01)
    data = held.shelf.get(file.sha)
    back = read_archive(io.BytesIO(data))
    assert file.size == len(data) and back.manifest.printer == held.printer.name
    shares = [share for share, _ in told]
    assert shares == sorted(shares) and "layer" in told[0][1]
    assert computed(held.shelf, "printfile", given, PrintFileDoc) == file, "it is not written twice"


def test_parts_stand_in_the_middle_of_the_plate() -> None:
    moved = on_plate({"figure": box((30, 5, 4), (4, 4, 8)), "supports": box((20, 5, 1), (4, 4, 2))})
    whole = Mesh.joined(list(moved.values()))
    assert set(moved) == {"figure", "supports"}
    assert np.allclose((whole.lower + whole.upper)[:2], 0) and whole.lower[2] == 0


def test_a_filament_plan_is_written_as_the_path_that_was_planned() -> None:
    held, _ = plan_of(Mesh.joined([box((0, 0, 5), (10, 10, 10))]))
    given = held.held.to(
        BandedGiven,
        printer=KESTREL.model_dump(mode="json"),
        material=FILAMENT.model_dump(mode="json"),
        height=0.2,
    )
    file = computed(held.shelf, "printfile", given, PrintFileDoc)
    assert (file.kind, file.layers, file.differs) == ("gcode", 50, 0)
    back = read_gcode(held.shelf.get(file.sha).decode())
    assert back.layers == 50 and 0.3 < file.volume_ml < 1.0, "walls, roofs, and little inside"
    assert file.time_s > KESTREL.start_s + 50 * KESTREL.least_layer_s - 1  # type: ignore[union-attr]


def test_what_is_lit_over_nothing_is_striped_and_nothing_else() -> None:
    """A post of 4 mm under a slab of 12: where the slab begins its rim is striped, a layer higher nothing is."""
    out = io.BytesIO()
    assert isinstance(HERON, ResinPrinter)
    write_archive(
        Mesh.joined([box((0, 0, 1), (4, 4, 2)), box((0, 0, 2.5), (12, 12, 1))]), HERON, RESIN, height=0.1, handle=out
    )
    shares = []
    for number in (1, 21, 22):
        grey, striped = (
            np.asarray(
                Image.open(io.BytesIO(layer_picture(out.getvalue(), number, (12.0, 12.0), HERON, hangs=hangs))).convert(
                    "RGB"
                )
            )
            for hangs in (False, True)
        )
        bare = (grey != striped).any(axis=2)
        assert (striped[bare] == np.array(STRIPED)).all()
        shares.append(bare.sum() / (grey[..., 0] > 0).sum())
    assert shares[0] == shares[2] == 0, "the plate is something, and so is the layer below"
    assert shares[1] == pytest.approx((144 - 16) / 144 / 2, rel=0.03), "every second stripe of what hangs"


@pytest.mark.parametrize("limit", [0.05, 0.11])
def test_the_board_tells_the_hours_of_bands_as_the_file_takes_them(limit: float) -> None:
    """On the supports of the finest layer, which bands are held by; the hours of coarser layers' own supports would not
    do.
    """
    cap = Mesh.joined([ball(7, (0, 0, 15), 4), cylinder(2.5, 10)])
    held, _ = plan_of(cap)
    given = held.held.to(
        BandedGiven,
        printer=KESTREL.model_dump(mode="json"),
        material=FILAMENT.model_dump(mode="json"),
        height=0.08,
        risk=0.05,
        style="pillars",
        bands=limit,
    )
    there = PosedInputs(held.shelf, given)
    bands = bands_as_taken(there, given)
    assert bands is not None and len(set(bands.heights.tolist())) > 1
    file = computed(held.shelf, "printfile", given, PrintFileDoc)
    assert file.layers == pytest.approx(len(bands.heights), abs=1)
    assert file.time_s == pytest.approx(bands.time_s, rel=0.03)
