"""Layers at a screen's own pixels, and the archive that they are written to: by arithmetic, by another PNG reader, and
spoilt in every way.
"""

from __future__ import annotations

import io
import json
import math
import struct
import zipfile
import zlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from tenugui.core.formats.png import PngWriter
from tenugui.core.machines import ResinPrinter
from tenugui.core.mesh import Mesh
from tenugui.core.sections import Screen, rasters
from tenugui.core.sections.screen import SUBLINES, SectionError
from tenugui.core.vat import ArchiveError, layer_seconds, read_archive, write_archive
from tests.pictures import painted, spans
from tests.presets import RESIN
from tests.shapes import ball, box, cylinder

SMALL = ResinPrinter(name="teal", build_mm=(32.0, 20.0, 60.0), pixels=(640, 400))
SCREEN = Screen.of(SMALL)


def archive(mesh: Mesh, height: float = 0.1) -> bytes:
    out = io.BytesIO()
    write_archive(mesh, SMALL, RESIN, height=height, handle=out)
    return out.getvalue()


def test_the_pixels_of_a_disc_sum_to_its_area() -> None:
    rod = cylinder(6.0, 1.0)
    rod = Mesh(rod.vertices - [0, 0, rod.lower[2]], rod.faces)
    first = next(rasters(rod, 0.1, SCREEN))
    sides = len({(round(x, 6), round(y, 6)) for x, y, z in rod.vertices.tolist() if math.hypot(x, y) > 5.9})
    true = sides / 2 * 36 * math.sin(2 * math.pi / sides)
    assert first.area_mm2(SCREEN) == pytest.approx(true, rel=2e-4)


@settings(max_examples=60, deadline=None)
@given(st.floats(-10, 5), st.floats(-6, 2), st.floats(0.3, 4), st.floats(0.3, 4))
def test_a_box_covers_each_pixel_by_its_share(x: float, y: float, wide: float, deep: float) -> None:
    """Along a row exactly, across rows to the quarter that a scan line stands for."""
    mesh = box((x + wide / 2, y + deep / 2, 0.5), (wide, deep, 1.0))
    raster = next(rasters(mesh, 0.2, SCREEN))
    grey = painted(raster, SCREEN).astype(float)
    assert raster.lit == grey.sum()
    left, bottom = SCREEN.corner
    px = left + np.arange(SCREEN.columns + 1) * SCREEN.wide_mm
    across = np.clip(np.minimum(px[1:], x + wide) - np.maximum(px[:-1], x), 0, None) / SCREEN.wide_mm
    lines = bottom + (np.arange(SCREEN.rows * SUBLINES) + 0.5) * SCREEN.tall_mm / SUBLINES
    down = ((lines > y) & (lines < y + deep)).reshape(-1, SUBLINES).mean(axis=1)[::-1]
    assert np.abs(grey - 255 * down[:, None] * across).max() <= 1.5


def test_slabs_make_no_difference_and_up_is_up() -> None:
    figure = Mesh.joined([ball(5, (2, 1, 5), 4), box((-8, 4, 1), (3, 3, 2))])
    whole = [painted(r, SCREEN) for r in rasters(figure, 0.1, SCREEN)]
    middle = [painted(r, SCREEN) for r in rasters(figure, 0.1, SCREEN, first=30, last=40)]
    assert all(np.array_equal(a, b) for a, b in zip(whole[30:40], middle, strict=True))
    low = next(rasters(figure, 0.1, SCREEN))
    lit = np.argwhere(painted(low, SCREEN) == 255)
    x, y = (lit[:, 1] + 0.5) * 0.05 - 16.0, 10.0 - (lit[:, 0] + 0.5) * 0.05
    assert (np.abs(x[x < 0] + 8) < 1.5).all() and (np.abs(y[x < 0] - 4) < 1.5).all(), "the box, at the back on the left"


def test_what_reaches_off_the_screen_is_refused() -> None:
    with pytest.raises(SectionError) as refused:
        next(rasters(box((14, 0, 1), (6, 2, 2)), 0.1, SCREEN))
    assert refused.value.code == "off-screen" and "17.0" in refused.value.what


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 60), st.integers(1, 50), st.data())
def test_any_band_reads_back_in_another_reader(columns: int, rows: int, data: st.DataObject) -> None:
    first = data.draw(st.integers(0, rows - 1))
    band = data.draw(st.integers(1, rows - first))
    grey = np.random.default_rng(columns * rows).integers(0, 256, (band, columns), dtype=np.uint8)
    image = Image.open(io.BytesIO(PngWriter(columns, rows, first, band).image(*spans(grey))))
    whole = np.zeros((rows, columns), np.uint8)
    whole[first : first + band] = grey
    assert image.mode == "L" and np.array_equal(np.asarray(image), whole)


def test_an_archive_reads_back_the_same_volume_time_and_layers_here_and_elsewhere() -> None:
    figure = ball(6, (0, 0, 6), 5)
    body = archive(figure)
    back = read_archive(io.BytesIO(body))
    told = back.manifest
    assert told.layers == 120 and back.differs == 0
    assert told.volume_mm3 == pytest.approx(4 / 3 * math.pi * 216, rel=4e-3) == back.volume_mm3
    assert told.time_s == pytest.approx(SMALL.start_s + layer_seconds(SMALL, RESIN, 120, 0.1).sum() + SMALL.end_s)
    with zipfile.ZipFile(io.BytesIO(body)) as held:
        assert held.testzip() is None
        names = sorted(n for n in held.namelist() if n.startswith("layers/"))
        assert names == [f"layers/{k:05d}.png" for k in range(120)]
        elsewhere = [np.asarray(Image.open(held.open(n)), np.int64).sum() for n in names]
        manifest = json.loads(held.read("manifest.json"))
    assert manifest["schema"] == "tenugui/layer-archive@1"
    areas = np.array(elsewhere) / 255 * 0.05 * 0.05
    assert areas == pytest.approx(back.areas) and areas[60] == pytest.approx(math.pi * (36 - 0.05**2), rel=2e-3)


def test_half_the_height_is_exactly_twice_the_normal_layers() -> None:
    figure = box((0, 0, 2), (6, 6, 4))
    fine, coarse = (read_archive(io.BytesIO(archive(figure, h))).manifest for h in (0.05, 0.1))
    assert (fine.layers, coarse.layers) == (80, 40)
    ends = SMALL.bottom_layers + SMALL.transition_layers
    assert fine.layers - ends == 2 * (coarse.layers - ends) + ends


def spoilt(body: bytes, change) -> bytes:  # type: ignore[no-untyped-def]
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(body)) as held, zipfile.ZipFile(out, "w") as new:
        for name in held.namelist():
            kept = change(name, held.read(name))
            if kept is not None:
                new.writestr(name, kept)
    return out.getvalue()


def other_size(_: bytes) -> bytes:
    return PngWriter(64, 40, 0, 1).image(*spans(np.zeros((1, 64), np.uint8)))


def garbled(image: bytes) -> bytes:
    """Sound chunks around what is no deflate stream."""
    data = b"\x78\x01" + b"\xff" * 60
    chunk = struct.pack(">I", len(data)) + b"IDAT" + data + struct.pack(">I", zlib.crc32(b"IDAT" + data))
    return image[:33] + chunk


def manifest_with(**more: object):  # type: ignore[no-untyped-def]
    def change(name: str, data: bytes) -> bytes:
        return json.dumps(json.loads(data) | more).encode() if name == "manifest.json" else data

    return change


BODY = archive(box((0, 0, 0.2), (6, 6, 0.4)))


@pytest.mark.parametrize(
    ("change", "code", "where"),
    [
        (lambda n, d: None if n == "manifest.json" else d, "bad-manifest", ""),
        (lambda n, d: None if n.endswith("2.png") else d, "missing-layer", "layers/00002.png"),
        (lambda n, d: d[:-20] + b"x" + d[-19:] if n.endswith("1.png") else d, "bad-layer", "layers/00001.png"),
        (lambda n, d: b"GIF89a" if n.endswith("3.png") else d, "bad-layer", "layers/00003.png"),
        (lambda n, d: other_size(d) if n.endswith("0.png") else d, "bad-layer", "layers/00000.png"),
        (lambda n, d: garbled(d) if n.endswith("2.png") else d, "bad-layer", "layers/00002.png"),
        (manifest_with(columns=10**9), "bad-manifest", "columns"),
        (manifest_with(exposure_s=[]), "bad-manifest", "exposure_s"),
        (manifest_with(pattern="../{}.png"), "bad-manifest", "pattern"),
        (manifest_with(seconds=[1.0]), "bad-manifest", "manifest.json"),
    ],
)
def test_a_spoilt_archive_is_refused_by_what_and_where(change, code: str, where: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(ArchiveError) as refused:
        read_archive(io.BytesIO(spoilt(BODY, change)))
    assert refused.value.code == code and where in refused.value.where


def test_other_pixels_than_the_manifest_says_are_seen() -> None:
    areas = json.loads(zipfile.ZipFile(io.BytesIO(BODY)).read("manifest.json"))["area_mm2"]
    lied = spoilt(BODY, manifest_with(area_mm2=[areas[0] * 1.1, *areas[1:]]))
    assert read_archive(io.BytesIO(lied)).differs == 1
    with pytest.raises(ArchiveError):
        read_archive(io.BytesIO(b"no archive at all"))
