"""What a run freezes, and what is other than before; its label; photos; test pieces."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image
from pypdf import PdfReader

from tenugui.core.contract import FrozenLine, SizeChoice, SupportsChoice
from tenugui.core.errors import CoreError
from tenugui.core.formats import FormatError, Label, read_photo, write_labels
from tenugui.core.machines import load_material, load_printer
from tenugui.core.mesh import examine, measure
from tenugui.core.pieces import PIECES, piece
from tenugui.core.pieces.make import BASE_MM, LEVELS, NOTCH_MM
from tenugui.core.plan import changed, frozen_of
from tenugui.core.plan.given import FigureGiven


def lines(printer: str = "heron", material: str = "lantern grey", **more: object) -> list[FrozenLine]:
    held = load_printer(printer)
    stuff = load_material(material, held)
    spec = held.model_dump(mode="json") | more
    given = FigureGiven(sha="0" * 64, printer=spec, material=stuff.model_dump(mode="json"))
    choices = {
        "size": SizeChoice(
            sha="0" * 64, factor=1, height_mm=54, printer_id=1, material_id=1, printer=printer, material=material
        ),
        "supports": SupportsChoice(risk=0.05, style="pillars", tips=31),
    }
    return frozen_of(choices, given, {"Lot or bottle": "A7", "Film": ""})


def test_everything_that_was_set_is_there_in_words() -> None:
    frozen = lines()
    by_name = {(line.where, line.name): line.value for line in frozen}
    assert len(by_name) == len(frozen), "no line twice"
    assert by_name["printer", "Lift, slow then fast"] == "2.5, 3.5 mm"
    assert by_name["material", "A second one, if known: layer and time"] == "not set"
    assert by_name["room", "Lot or bottle"] == "A7" and ("room", "Film") not in by_name
    assert "54" in by_name["plan", "Size"] and "31" in by_name["plan", "Supports"]
    drawn = {(line.where, line.name): line.value for line in lines("kestrel", "marsh matte")}
    assert drawn["printer", "Loops begin"] in ("at the back", "in a crease", "where nobody looks")


def test_one_thing_that_was_changed_is_one_line() -> None:
    (line,) = changed(lines(peel_kpa=9.5), lines())
    assert (line.where, line.before, line.now) == ("printer", "8 kPa", "9.5 kPa")
    assert changed(lines(), lines()) == []
    other = changed(lines("kestrel", "marsh matte"), lines())
    gone = [line for line in other if line.now == "not set"]
    assert any("Peel" in line.name for line in gone), "what is not asked any more is told too"


def test_a_label_has_its_number_in_plain_and_a_code() -> None:
    out = io.BytesIO()
    code = "http://127.0.0.1:8080/run/123"
    write_labels([Label(123, "Reed warden", ("54.0 mm", "heron, lantern grey"), code)], out)
    (page,) = PdfReader(out).pages
    text = page.extract_text()
    assert "Run 123" in text and "Reed warden" in text and "heron" in text
    wide, high = (float(v) / 72 * 25.4 for v in page.mediabox[2:])
    assert (wide, high) == pytest.approx((50, 19), abs=0.1)
    import segno

    squares = page.get_contents().get_data().count(b" re f")  # type: ignore[union-attr]
    assert squares == sum(bit for row in segno.make(code, error="m", micro=False).matrix for bit in row)


def photo(size: tuple[int, int] = (40, 30), kind: str = "JPEG", **more: object) -> bytes:
    image = Image.fromarray(np.random.default_rng(1).integers(0, 255, (size[1], size[0], 3), np.uint8))
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


def test_a_photo_is_turned_and_loses_what_the_camera_wrote() -> None:
    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = 6, "the maker"  # turned by a quarter
    exif.get_ifd(0x8825)[1] = "N"
    given = photo(exif=exif)
    assert b"the maker" in given
    read = read_photo(given)
    assert (read.width, read.height) == (30, 40), "upright as it was taken"
    for data in (read.whole, read.small):
        kept = Image.open(io.BytesIO(data))
        assert kept.format == "JPEG" and not kept.getexif() and b"the maker" not in data


def test_a_photo_is_made_as_small_as_it_needs_to_be() -> None:
    read = read_photo(photo((3000, 600), "PNG"))
    assert (read.width, read.height) == (2400, 480)
    assert Image.open(io.BytesIO(read.small)).size == (360, 72)


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"", "no-photo"),
        (b"GIF89a" + b"\0" * 40, "no-photo"),
        (photo()[:200], "no-photo"),
        (b"\xff\xd8\xff" + b"junk" * 30, "no-photo"),
        (b"\0" * (25 * 2**20 + 1), "photo-too-large"),
    ],
)
def test_what_is_no_photo_is_refused_with_its_reason(data: bytes, code: str) -> None:
    with pytest.raises(FormatError) as refused:
        read_photo(data)
    assert refused.value.code == code and refused.value.remedy


def test_a_photo_of_too_many_pixels_is_refused_before_it_is_unpacked() -> None:
    import struct
    import zlib

    head = struct.pack(">IIBBBBB", 60_000, 60_000, 8, 2, 0, 0, 0)
    chunk = b"IHDR" + head
    bomb = b"\x89PNG\r\n\x1a\n" + struct.pack(">I", len(head)) + chunk + struct.pack(">I", zlib.crc32(chunk))
    bomb += struct.pack(">I", 0) + b"IDAT" + struct.pack(">I", zlib.crc32(b"IDAT"))
    with pytest.raises(FormatError, match="pixels") as refused:
        read_photo(bomb)
    assert refused.value.code == "photo-too-large"


@pytest.mark.parametrize("name", sorted(PIECES))
def test_a_test_piece_is_one_closed_body_on_the_plate(name: str) -> None:
    made = piece(name)
    told = measure(made)
    assert told.watertight and told.shells == 1 and not [f for f in examine(made).findings if f.severity == "severe"]
    assert made.vertices[:, 2].min() == pytest.approx(0, abs=1e-6)


def test_pegs_and_holes_are_of_the_sizes_that_are_asked() -> None:
    def volume(levels: list[float]) -> float:
        corners = piece("peg and hole", levels)
        points = corners.vertices[corners.faces]
        return float(np.einsum("ij,ij->i", points[:, 0], np.cross(points[:, 1], points[:, 2])).sum() / 6)

    levels, pitch = [1.0, 2.0, 3.0], 3.0 + 4.0
    base = BASE_MM * ((pitch * 3 + 4.0) * (2 * pitch + 4.0) - NOTCH_MM**2)
    round_ = np.array([48 / 8 * v**2 * np.sin(2 * np.pi / 48) for v in levels]).sum()
    assert volume(levels) == pytest.approx(base + round_ * 5.0 - round_ * BASE_MM, rel=1e-6)


def test_a_piece_that_is_none_is_said() -> None:
    with pytest.raises(CoreError, match="no test piece"):
        piece("teapot")
    assert set(LEVELS) == set(PIECES)
