"""The machine's own file of a plan: written from its very parts, in the middle of the plate, and read back."""

from __future__ import annotations

import io

import numpy as np
import pytest

from tenugui.core.contract import PrintFileDoc
from tenugui.core.mesh import Mesh
from tenugui.core.paths import read_gcode
from tenugui.core.plan import computed
from tenugui.core.plan.printfile import on_plate
from tenugui.core.vat import read_archive
from tests.core.test_shared import plan_of
from tests.presets import FILAMENT, KESTREL
from tests.shapes import ball, box


def test_a_plans_file_holds_the_proved_layers_their_volume_and_their_time() -> None:
    held, made = plan_of(ball(4, fineness=4).dropped())
    given = held.given | {"style": "trees"}
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
    given = held.given | {
        "printer": KESTREL.model_dump(mode="json"),
        "material": FILAMENT.model_dump(mode="json"),
        "style": "trees",
        "height": 0.2,
    }
    file = computed(held.shelf, "printfile", given, PrintFileDoc)
    assert (file.kind, file.layers, file.differs) == ("gcode", 50, 0)
    back = read_gcode(held.shelf.get(file.sha).decode())
    assert back.layers == 50 and 0.3 < file.volume_ml < 1.0, "walls, roofs, and little inside"
    assert file.time_s > KESTREL.start_s + 50 * KESTREL.least_layer_s - 1  # type: ignore[union-attr]
