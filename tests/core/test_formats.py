"""Files in and out, and every bad file refused by name."""

from __future__ import annotations

import io
import resource
import struct
import time
import zipfile

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.errors import CoreError
from tenugui.core.formats import FormatError, Limits, load, read_3mf, refuse_early, write_3mf, write_stl
from tenugui.core.mesh import MeshError, measure, weld
from tests.shapes import ball, box, knobbly, stl_bytes


def test_binary_round_trip_is_exact() -> None:
    stone = weld(knobbly().corners().reshape(-1, 3).astype(np.float32))
    again = load(io.BytesIO(stl_bytes(stone)))
    assert np.array_equal(again.vertices, stone.vertices) and np.array_equal(again.faces, stone.faces)


def test_ascii_reads_like_binary(figures) -> None:  # type: ignore[no-untyped-def]
    shape = trimesh.creation.icosphere(2, 7.5)
    text = trimesh.exchange.stl.export_stl_ascii(shape).encode()
    for body in (
        text,
        text.replace(b"\n", b"\r\n"),
        text.upper().replace(b"SOLID", b"solid", 1),
        text.replace(b"solid", b"solid vertex of doom", 1),
    ):
        basics = measure(load(io.BytesIO(body)))
        assert basics.watertight and basics.triangles == 320
        assert basics.volume_mm3 == pytest.approx(shape.volume, rel=1e-5)


def test_a_binary_header_may_say_solid() -> None:
    body = b"solid but binary".ljust(80, b" ") + stl_bytes(box((0, 0, 0), (1, 2, 3)))[80:]
    assert measure(load(io.BytesIO(body))).volume_mm3 == pytest.approx(6)


def test_3mf_round_trip_keeps_names_and_shape() -> None:
    held = io.BytesIO()
    write_3mf({"figure": ball(5), "supports": box((0, 0, -6), (1, 1, 2))}, held)
    parts = read_3mf(io.BytesIO(held.getvalue()), len(held.getvalue()))
    assert list(parts) == ["figure", "supports"]
    assert measure(parts["supports"]).volume_mm3 == pytest.approx(2, rel=1e-5)
    assert len(load(io.BytesIO(held.getvalue())).faces) == len(ball(5).faces) + 12


def test_3mf_units_and_transforms() -> None:
    inner = io.BytesIO()
    write_3mf({"a": box((0, 0, 0), (1, 1, 1))}, inner)
    with zipfile.ZipFile(inner) as source:
        entries = {name: source.read(name) for name in source.namelist()}
    model = next(name for name in entries if name.endswith(".model"))
    text = entries[model].decode().replace('unit="millimeter"', 'unit="inch"')
    entries[model] = text.encode()
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as target:
        for name, body in entries.items():
            target.writestr(name, body)
    assert load(io.BytesIO(held.getvalue())).size == pytest.approx([25.4] * 3)


GOOD = stl_bytes(ball(4, fineness=3))
NAN = bytearray(GOOD)
NAN[84 + 50 * 7 + 12 : 84 + 50 * 7 + 16] = struct.pack("<f", float("nan"))
INF = bytearray(GOOD)
INF[84 + 50 * 3 + 20 : 84 + 50 * 3 + 24] = struct.pack("<f", float("inf"))

BAD = {
    "empty": (b"", "empty-file"),
    "text": (b"Dear diary, today I printed a toad. " * 9, "not-stl"),
    "short": (b"abc", "not-stl"),
    "cut off": (GOOD[:5000], "truncated"),
    "lying header": (GOOD[:80] + struct.pack("<I", 7) + GOOD[84:], "header-lies"),
    "no triangles": (b"x" * 80 + struct.pack("<I", 0), "no-triangles"),
    "nan": (bytes(NAN), "not-finite"),
    "infinite": (bytes(INF), "not-finite"),
    "ascii cut off": (trimesh.exchange.stl.export_stl_ascii(trimesh.creation.box()).encode()[:600], "truncated"),
    "ascii with a word for a number": (
        b"solid x\n facet normal 0 0 1\n outer loop\n vertex 0 0 zero\n endloop endfacet\nendsolid",
        "bad-number",
    ),
    "ascii without triangles": (b"solid nothing here\nendsolid nothing here\n", "no-triangles"),
    "one degenerate triangle": (b" " * 80 + struct.pack("<I", 1) + bytes(50), "flat"),
    "one flat triangle": (b" " * 80 + struct.pack("<I12fH", 1, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0), "flat"),
    "not an archive": (b"PK\x03\x04" + bytes(200), "bad-zip"),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_files_are_refused_by_name(name: str) -> None:
    body, code = BAD[name]
    with pytest.raises(CoreError) as refused:
        load(io.BytesIO(body))
    assert refused.value.code == code
    assert refused.value.what and (isinstance(refused.value, MeshError) or refused.value.remedy)


def test_two_gigabytes_of_zeros_are_refused_unread(tmp_path) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "zeros.stl"
    with open(path, "wb") as sparse:
        sparse.truncate(2 * 1024**3)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    began = time.monotonic()
    with open(path, "rb") as handle, pytest.raises(FormatError) as refused:
        load(handle)
    assert refused.value.code == "no-triangles"
    assert time.monotonic() - began < 2
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 64 * 1024


def test_limits_are_settings() -> None:
    with pytest.raises(FormatError, match="limit is 100"):
        load(io.BytesIO(GOOD), Limits(triangles=100))
    with pytest.raises(FormatError, match="limit"):
        refuse_early(GOOD[:1024], len(GOOD), Limits(file_bytes=1000))


def test_an_archive_that_unpacks_too_large_is_refused() -> None:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as bomb:
        bomb.writestr("3D/3dmodel.model", bytes(50_000_000))
    with pytest.raises(FormatError, match="unpacks"):
        load(io.BytesIO(held.getvalue()), Limits(unpacked_bytes=1_000_000))


@settings(max_examples=150, deadline=None)
@given(
    st.binary(max_size=400),
    st.sampled_from([b"", b"solid ", b"PK\x03\x04", GOOD[:84], b"solid x\nfacet normal 0 0 0\nouter loop\nvertex "]),
)
def test_any_bytes_are_read_or_refused_never_worse(body: bytes, head: bytes) -> None:
    try:
        mesh = load(io.BytesIO(head + body))
    except CoreError as refused:
        assert refused.code and refused.what
    else:
        assert np.isfinite(mesh.vertices).all() and len(mesh.faces)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, len(GOOD) - 1), st.binary(min_size=1, max_size=8))
def test_a_damaged_file_never_breaks_the_reader(at: int, noise: bytes) -> None:
    body = bytearray(GOOD)
    body[at : at + len(noise)] = noise
    try:
        load(io.BytesIO(bytes(body)))
    except CoreError as refused:
        assert refused.code


def test_stl_written_has_outward_normals() -> None:
    held = io.BytesIO()
    write_stl(ball(3), held)
    shape = trimesh.load(io.BytesIO(held.getvalue()), file_type="stl")
    assert shape.is_watertight and shape.volume == pytest.approx(4 / 3 * np.pi * 27, rel=0.01)
