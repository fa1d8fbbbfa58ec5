"""Files of a plate: instances where their pieces lie, the drawing from above, and what cannot be one file."""

from __future__ import annotations

import io
import zipfile

import numpy as np
import pytest
from PIL import Image

from tenugui.core.formats import NO_LIMITS, Spot, plate_picture, write_plate
from tenugui.core.formats.plate import EDGE_PX, FILL, PAPER, SIDE_PX
from tenugui.core.formats.threemf import read_3mf
from tenugui.core.mesh import Mesh
from tenugui.core.plan import MemoryShelf, PlanError, PlateGiven
from tenugui.core.plan.given import BandedGiven
from tenugui.core.plan.on_plate import PieceGiven, plate
from tenugui.core.plan.tasks import quiet
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import box


def written(spots: list[Spot], **plans: dict[str, Mesh]) -> bytes:
    out = io.BytesIO()
    write_plate(plans, spots, out)
    return out.getvalue()


def test_each_piece_is_an_instance_turned_counter_clockwise_and_moved() -> None:
    bar = Mesh.joined([box((5, 0, 1), (10, 2, 2))])  # from x 0 to 10
    data = written([Spot("bar", 1, 20, 30, 0), Spot("bar", 2, 60, 30, 90)], bar={"figure": bar})
    parts = read_3mf(io.BytesIO(data), len(data), NO_LIMITS)
    boxes = sorted((m.lower.round(3).tolist(), m.upper.round(3).tolist()) for m in parts.values())
    assert boxes == [([20, 29, 0], [30, 31, 2]), ([59, 30, 0], [61, 40, 2])]


def test_a_plan_is_written_once_however_many_lie_there() -> None:
    many = Mesh.joined([box((0, 0, k), (1, 1, 0.5)) for k in range(400)])
    one, twelve = (
        len(
            written(
                [Spot("a", k, 5.0 * k, 0, 0) for k in range(n)],
                a={"figure": many, "supports": box((9, 0, 1), (1, 1, 2))},
            )
        )
        for n in (1, 12)
    )
    assert twelve < 1.2 * one
    data = written([Spot("a", k, 5.0 * k, 0, 0) for k in range(3)], a={"figure": many})
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        model = package.read("3D/3dmodel.model").decode()
    assert model.count("<item ") == 3 and model.count("<mesh>") == 1


def test_the_drawing_shows_each_piece_where_it_lies_its_front_below() -> None:
    square = [[(10.0, 10.0), (40.0, 10.0), (40.0, 40.0), (10.0, 40.0)]]
    image = Image.open(io.BytesIO(plate_picture([square], (200.0, 120.0))))
    scale = SIDE_PX / 200

    def at(x: float, y: float) -> tuple[int, ...]:
        pixel = image.getpixel((round(EDGE_PX + x * scale), round(image.height - EDGE_PX - y * scale)))
        assert isinstance(pixel, tuple)
        return pixel

    assert at(15, 15) == FILL and at(100, 100) == PAPER and at(15, 100) == PAPER and at(37, 37) == FILL


def given(printer: object, material: object, **more: float) -> PieceGiven:
    plan = BandedGiven(
        sha="0" * 64,
        printer=printer.model_dump(mode="json"),  # type: ignore[attr-defined]
        material=material.model_dump(mode="json"),  # type: ignore[attr-defined]
        down=(0.0, 0.0, -1.0),
        risk=0.05,
        height=more.get("height", 0.05),
        bands=more.get("bands"),
    )
    return PieceGiven(plan=plan, x_mm=20, y_mm=20, turn_deg=0)


@pytest.mark.parametrize(
    "pieces",
    [
        (given(HERON, RESIN), given(HERON, RESIN, height=0.03)),
        (given(HERON, RESIN), given(KESTREL, FILAMENT)),
        (given(KESTREL, FILAMENT, height=0.12, bands=0.1), given(KESTREL, FILAMENT, height=0.12)),
    ],
)
def test_what_is_not_of_one_machine_material_and_layering_is_no_file(pieces: tuple[PieceGiven, ...]) -> None:
    with pytest.raises(PlanError, match="more than one") as refused:
        plate(MemoryShelf(), PlateGiven(pieces=pieces), quiet)
    assert refused.value.code == "unlike-pieces" and refused.value.remedy


def test_an_empty_plate_is_no_file() -> None:
    with pytest.raises(PlanError, match="empty"):
        plate(MemoryShelf(), PlateGiven(pieces=()), quiet)


def test_a_plates_key_is_of_where_its_pieces_lie() -> None:
    from tenugui.core.plan import key_of

    here = PlateGiven(pieces=(given(HERON, RESIN),))
    moved = PlateGiven(pieces=(given(HERON, RESIN).model_copy(update={"x_mm": 21.0}),))
    assert key_of("plate", here) == key_of("plate", PlateGiven(pieces=(given(HERON, RESIN),))) != key_of("plate", moved)
    back = PlateGiven.model_validate(here.plain())
    assert back == here and np.isclose(back.pieces[0].x_mm, 20)
