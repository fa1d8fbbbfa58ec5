"""A resin print as a file: a ZIP of grey PNG layers at the screen's own pixels, and a manifest that says all else.
`docs/formats.md` describes it.

Our own open layout; any ZIP and PNG reader reads it. It is read back here pixel by pixel for proof.
"""

from __future__ import annotations

import io
import itertools
import json
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any, BinaryIO, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from ..compiled import CORES
from ..errors import CoreError
from ..formats.inflate import BAD, CHECK, CUT, FILTERED, GOOD, LONG, SHORT, rows_of
from ..formats.png import MAGIC, PngWriter
from ..layers import LayerGrid
from ..machines import Material, ResinPrinter
from ..mesh import Mesh
from ..sections import Screen, rasters
from ..sections.screen import FULL
from .resin import exposures, layer_seconds

F8 = NDArray[np.float64]
MANIFEST = "manifest.json"
TOGETHER = 32
"""Layers that a core makes at a time."""
MOST_PIXELS = 200_000_000
MOST_LAYERS = 20_000
MOST_MANIFEST = 16 * 2**20
SAID = {
    CUT: "cannot be unpacked: it ends too early",
    BAD: "cannot be unpacked: it is no deflate stream",
    LONG: "does not hold its pixels: there are more",
    SHORT: "does not hold its pixels: some are missing",
    FILTERED: "uses row filters, which this layout does not",
    CHECK: "cannot be unpacked: its checksum does not fit",
}
"""What is wrong with a layer, by how its reading ended."""
Progress = Callable[[float, str], None]


class ArchiveError(CoreError):
    """A layer archive that cannot be made or read."""


class Manifest(BaseModel):
    """What `manifest.json` says. Lengths in mm, times in s, volumes in mm³; lists have one number a layer."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, populate_by_name=True)

    schema_: Literal["tenugui/layer-archive@1"] = Field("tenugui/layer-archive@1", alias="schema")
    printer: str
    material: str
    columns: int = Field(ge=1, le=40_000)
    rows: int = Field(ge=1, le=40_000)
    pixel_mm: tuple[float, float]
    layer_height_mm: float = Field(gt=0, le=1)
    pattern: Literal["layers/{:05d}.png"] = "layers/{:05d}.png"
    start_s: float = Field(ge=0)
    end_s: float = Field(ge=0)
    lift_mm: tuple[float, float]
    lift_mm_s: tuple[float, float]
    return_mm: tuple[float, float]
    return_mm_s: tuple[float, float]
    exposure_s: list[float] = Field(min_length=1, max_length=MOST_LAYERS)
    seconds: list[float]
    area_mm2: list[float]

    @model_validator(mode="after")
    def _fits(self) -> Manifest:
        if not len(self.exposure_s) == len(self.seconds) == len(self.area_mm2):
            raise ValueError("exposure_s, seconds and area_mm2 want one number a layer each")
        if self.columns * self.rows > MOST_PIXELS:
            raise ValueError(f"more than {MOST_PIXELS:,} pixels a layer")
        return self

    @property
    def layers(self) -> int:
        """How many."""
        return len(self.exposure_s)

    @property
    def time_s(self) -> float:
        """Start, every layer, end."""
        return self.start_s + sum(self.seconds) + self.end_s

    @property
    def volume_mm3(self) -> float:
        """What is lit."""
        return sum(self.area_mm2) * self.layer_height_mm


def write_archive(
    mesh: Mesh,
    printer: ResinPrinter,
    material: Material,
    *,
    height: float,
    handle: BinaryIO,
    progress: Progress = lambda share, doing: None,
) -> Manifest:
    """Write the layers of a mesh in build coordinates, whose middle is 0. Two cores; memory of some tens of layers.

    Raises:
        SectionError: `off-screen`.
    """
    screen = Screen.of(printer)
    layers = int(np.ceil(mesh.upper[2] / height - 1e-9))
    LayerGrid(height, screen.tall_mm, 0.0, 0.0, layers, 1)
    areas = np.zeros(layers)

    def some(first: int) -> list[bytes]:
        writer, pictures = None, []
        for raster in rasters(mesh, height, screen, first=first, last=first + TOGETHER):
            writer = writer or PngWriter(screen.columns, screen.rows, raster.first, len(raster.start) - 1)
            areas[raster.layer] = raster.area_mm2(screen)
            pictures.append(writer.image(raster.start, raster.at, raster.value))
        return pictures

    starts = range(0, layers, TOGETHER)
    # Deflate packs a dark screen a thousand times at most; packed once more it is next to nothing.
    with (
        zipfile.ZipFile(handle, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as out,
        ThreadPoolExecutor(CORES) as pool,
    ):
        waiting = [pool.submit(some, first) for first in starts[: CORES + 1]]
        number = 0
        for turn in range(len(starts)):
            images = waiting[turn].result()
            waiting[turn] = None  # type: ignore[call-overload]
            if turn + CORES + 1 < len(starts):
                waiting.append(pool.submit(some, starts[turn + CORES + 1]))
            for image in images:
                out.writestr(f"layers/{number:05d}.png", image)
                number += 1
            progress(number / layers, f"layer {number:,} of {layers:,}")
        manifest = Manifest(
            printer=printer.name,
            material=material.name,
            columns=screen.columns,
            rows=screen.rows,
            pixel_mm=(screen.wide_mm, screen.tall_mm),
            layer_height_mm=height,
            start_s=printer.start_s,
            end_s=printer.end_s,
            lift_mm=printer.lift_mm,
            lift_mm_s=printer.lift_mm_s,
            return_mm=printer.return_mm,
            return_mm_s=printer.return_mm_s,
            exposure_s=exposures(printer, material, layers, height).tolist(),
            seconds=layer_seconds(printer, material, layers, height).tolist(),
            area_mm2=areas.tolist(),
        )
        out.writestr(MANIFEST, manifest.model_dump_json(by_alias=True, indent=1))
    return manifest


@dataclass(frozen=True)
class ReadBack:
    """An archive as its pixels say: its manifest, and the area in mm² of each layer (layers,) by its own images."""

    manifest: Manifest
    areas: F8

    @property
    def volume_mm3(self) -> float:
        """What is lit, by the pixels."""
        return float(self.areas.sum()) * self.manifest.layer_height_mm

    @property
    def differs(self) -> int:
        """Layers whose pixels say another area than the manifest."""
        areas = np.array(self.manifest.area_mm2)
        return int((np.abs(self.areas - areas) > 1e-6 * np.maximum(areas, 1.0)).sum())


def read_archive(handle: BinaryIO, progress: Progress = lambda share, doing: None) -> ReadBack:
    """Read an archive back, every pixel of it.

    Raises:
        ArchiveError: `not-an-archive`, `bad-manifest`, `missing-layer`, `bad-layer`; which layer, and what to do.
    """
    try:
        with zipfile.ZipFile(handle) as archive:
            manifest = _manifest(archive)
            areas = np.zeros(manifest.layers)
            with ThreadPoolExecutor(CORES) as pool:
                images = _images(archive, manifest)
                for first in range(0, manifest.layers, TOGETHER):
                    some = [(image, manifest, first + k) for k, image in enumerate(itertools.islice(images, TOGETHER))]
                    areas[first : first + len(some)] = list(pool.map(lambda one: _lit_mm2(*one), some))
                    progress((first + len(some)) / manifest.layers, f"reading layer {first + len(some):,} back")
    except zipfile.BadZipFile as reason:
        raise ArchiveError(
            "not-an-archive", f"This is not a ZIP archive: {reason}.", remedy="Write it again from the plan."
        ) from reason
    return ReadBack(manifest, areas)


def layer_image(data: bytes, number: int) -> bytes:
    """The PNG of layer `number`, from 1.

    Raises:
        ArchiveError: `not-an-archive`, `bad-manifest`, `no-layer`.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            manifest = _manifest(archive)
            if not 1 <= number <= manifest.layers:
                raise ArchiveError(
                    "no-layer", f"The archive has no layer {number:,}.", remedy=f"It has {manifest.layers:,}."
                )
            return archive.read(manifest.pattern.format(number - 1))
    except (zipfile.BadZipFile, KeyError) as reason:
        raise ArchiveError(
            "not-an-archive", f"The archive cannot be read: {reason}.", remedy="Write it again."
        ) from reason


def _manifest(archive: zipfile.ZipFile) -> Manifest:
    try:
        entry = archive.getinfo(MANIFEST)
    except KeyError as reason:
        raise ArchiveError(
            "bad-manifest", f"The archive has no {MANIFEST}.", remedy="Give an archive that a plan has written."
        ) from reason
    if entry.file_size > MOST_MANIFEST:
        raise ArchiveError("bad-manifest", f"Its {MANIFEST} is {entry.file_size:,} bytes long.", MANIFEST)
    try:
        return Manifest.model_validate(json.loads(archive.read(entry)))
    except (ValueError, ValidationError) as reason:
        first: Any = reason.errors()[0] if isinstance(reason, ValidationError) else {"loc": (), "msg": str(reason)}
        where = ".".join(str(part) for part in first["loc"])
        raise ArchiveError(
            "bad-manifest",
            f"Its {MANIFEST} does not say what it must: {first['msg']}.",
            where or MANIFEST,
            "Write it again from the plan.",
        ) from reason


def _images(archive: zipfile.ZipFile, manifest: Manifest) -> Iterator[bytes]:
    most = (manifest.columns + 1) * manifest.rows + 2**16
    for number in range(manifest.layers):
        name = manifest.pattern.format(number)
        try:
            entry = archive.getinfo(name)
        except KeyError as reason:
            raise ArchiveError(
                "missing-layer", f"Layer {number:,} of {manifest.layers:,} is missing.", name, "Write it again."
            ) from reason
        if entry.file_size > most:
            raise ArchiveError("bad-layer", f"Layer {number:,} is larger than its pixels.", name, "Write it again.")
        yield archive.read(entry)


def _lit_mm2(image: bytes, manifest: Manifest, number: int) -> float:
    """What a layer's pixels sum to; the image must be plain grey of the screen's size."""
    name = manifest.pattern.format(number)

    def bad(what: str) -> ArchiveError:
        return ArchiveError("bad-layer", f"Layer {number:,} {what}.", name, "Write it again from the plan.")

    if image[:8] != MAGIC:
        raise bad("is no PNG")
    at, packed, head = 8, [], b""
    while at + 12 <= len(image):
        (length,) = struct.unpack(">I", image[at : at + 4])
        kind, data = image[at + 4 : at + 8], image[at + 8 : at + 8 + length]
        (check,) = struct.unpack(">I", image[at + 8 + length : at + 12 + length] or b"\0\0\0\0")
        if zlib.crc32(kind + data) != check:
            raise bad("is damaged: a checksum does not fit")
        if kind == b"IHDR":
            head = data
        elif kind == b"IDAT":
            packed.append(data)
        at += 12 + length
    if head != struct.pack(">IIBBBBB", manifest.columns, manifest.rows, 8, 0, 0, 0, 0):
        raise bad(f"is not plain grey of {manifest.columns:,} x {manifest.rows:,} pixels")
    wide = manifest.columns + 1
    ended, lit = rows_of(np.frombuffer(b"".join(packed), np.uint8), wide, wide * manifest.rows)
    if ended != GOOD:
        raise bad(SAID[ended])
    return lit / FULL * manifest.pixel_mm[0] * manifest.pixel_mm[1]
