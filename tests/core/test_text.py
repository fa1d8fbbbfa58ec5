"""Numbers and polygons out of text, against the language's own reading and a general library's areas."""

from __future__ import annotations

import io
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.formats import FormatError, Limits
from tenugui.core.formats.kit import read_kit
from tenugui.core.formats.packed import pack_whole, read_whole
from tenugui.core.formats.polygons import triangulate
from tenugui.core.formats.problems import check_parts, check_size, check_triangles, unused
from tenugui.core.formats.text import blanks, line_of, next_line, number, whole
from tests.shapes import knobbly, stl_bytes


def text(words: str) -> np.ndarray:
    return np.frombuffer(words.encode(), np.uint8)


@settings(max_examples=300, deadline=None)
@given(st.floats(allow_nan=False, allow_infinity=False, width=32), st.sampled_from(["{:g}", "{:.9f}", "{:e}", "{!r}"]))
def test_a_number_is_read_as_the_language_reads_it(value: float, form: str) -> None:
    words = form.format(value)
    told, at = number(text(words + " next"), 0)
    assert at == len(words) and told == pytest.approx(float(words), rel=1e-12, abs=1e-300)


@pytest.mark.parametrize("words", ["", "  ", "-", ".", "abc", "1e", "1e+", "1.5x", "--3", "+", "e5"])
def test_what_is_no_number_is_not_read_as_one(words: str) -> None:
    assert number(text(words), 0)[1] == -1


def test_numbers_follow_each_other_over_blanks() -> None:
    line = text(" 1.5\t-2e1  .25 \n")
    a, at = number(line, 0)
    b, at = number(line, at)
    c, at = number(line, at)
    assert (a, b, c) == (1.5, -20.0, 0.25)
    assert blanks(line, at) == len(line) - 1 and next_line(line, 0) == len(line)


@pytest.mark.parametrize(("words", "value", "after"), [("12/4/5", 12, 2), (" -3 ", -3, 3), ("+7", 7, 2), ("x", 0, -1)])
def test_whole_numbers_stop_at_what_is_none(words: str, value: int, after: int) -> None:
    assert whole(text(words), 0) == (value, after)


def test_a_number_too_large_to_be_an_index_does_not_wrap_around() -> None:
    value, _ = whole(text("9" * 40), 0)
    assert value == 1 << 40


def test_lines_are_counted_as_editors_count_them() -> None:
    body = b"one\ntwo\nthree"
    assert line_of(body, 0) == "line 1" and line_of(body, body.index(b"three")) == "line 3"


def shoelace(ring: np.ndarray) -> float:
    """Area of a simple ring (Gauss)."""
    x, y = ring.astype(float).T
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)


def star(radii: list[float]) -> np.ndarray:
    """A ring that sees its middle from every corner: simple, and mostly not convex."""
    turn = np.arange(len(radii)) * 2 * np.pi / len(radii)
    return np.array(radii)[:, None] * np.stack([np.cos(turn), np.sin(turn)], axis=1)


@settings(max_examples=120, deadline=None)
@given(st.lists(st.floats(1, 9), min_size=3, max_size=14), st.sampled_from([(0, 1, 2), (1, 2, 0), (2, 0, 1)]))
def test_a_polygon_becomes_triangles_of_its_own_area_and_none_is_turned(
    radii: list[float], axes: tuple[int, int, int]
) -> None:
    ring = star(radii)
    points = np.zeros((len(ring), 3), np.float32)
    points[:, axes[0]], points[:, axes[1]] = ring[:, 0], ring[:, 1]
    faces, first = triangulate(points, np.array([0, len(ring)]), np.arange(len(ring)))
    assert len(faces) == len(ring) - 2 and first.tolist() == [0, len(ring) - 2]
    a, b, c = (points[faces[:, k]].astype(float) for k in range(3))
    along = np.cross(b - a, c - a)[:, axes[2]] / 2
    assert (along > -1e-4).all(), "an ear that was cut lies inside"
    assert along.sum() == pytest.approx(shoelace(ring.astype(np.float32)), rel=1e-5)


def test_a_dart_is_split_along_the_diagonal_that_lies_inside() -> None:
    dart = np.array([[0, 0, 0], [4, 4, 0], [1, 0, 0], [4, -4, 0]], np.float32)[::-1].copy()
    faces, _ = triangulate(dart, np.array([0, 4]), np.arange(4))
    a, b, c = (dart[faces[:, k]].astype(float) for k in range(3))
    assert (np.cross(b - a, c - a)[:, 2] > 0).all()


def test_a_ring_that_crosses_itself_is_still_covered_and_ends() -> None:
    bow = np.array([[0, 0, 0], [2, 2, 0], [2, 0, 0], [0, 2, 0], [1, 5, 0]], np.float32)
    faces, _ = triangulate(bow, np.array([0, 5]), np.arange(5))
    assert len(faces) == 3 and set(faces.ravel().tolist()) == set(range(5))


def test_a_packed_mesh_is_the_mesh_and_a_cut_one_is_refused() -> None:
    stone = knobbly(fineness=2)
    body = pack_whole(stone)
    back = read_whole(body)
    assert (back.faces == stone.faces).all() and back.vertices == pytest.approx(stone.vertices, rel=1e-6)
    for wrong, code in ((body[:-4], "truncated"), (b"TNM2" + body[4:], "bad-packed"), (b"", "bad-packed")):
        with pytest.raises(FormatError) as refused:
            read_whole(wrong)
        assert refused.value.code == code
    broken = bytearray(body)
    broken[-4:] = (10**6).to_bytes(4, "little")
    with pytest.raises(FormatError, match="does not hold together"):
        read_whole(bytes(broken))


def test_limits_name_the_number_they_are_at() -> None:
    limits = Limits(file_bytes=1 << 20, triangles=100, thinned_from=200, entries=3)
    with pytest.raises(FormatError, match="5 MB; the limit is 1 MB"):
        check_size(5 << 20, limits)
    for count, code, offer in (
        (150, "too-many-triangles", "thinner copy"),
        (300, "far-too-many-triangles", "Decimate"),
    ):
        with pytest.raises(FormatError) as refused:
            check_triangles(count, limits)
        assert refused.value.code == code and offer in refused.value.remedy
    with pytest.raises(FormatError, match="no triangles"):
        check_triangles(0, limits)
    with pytest.raises(FormatError, match="more than 3 parts"):
        check_parts(4, limits)
    check_size(1 << 20, limits)
    check_triangles(100, limits)
    check_parts(3, limits)


@given(st.lists(st.sampled_from(["arm", "arm 2", "leg"]), max_size=30))
def test_every_part_of_a_kit_has_a_name_of_its_own(names: list[str]) -> None:
    taken: dict[str, int] = {}
    times: dict[str, int] = {}
    for i, name in enumerate(names):
        taken[unused(name, taken, times)] = i
    assert len(taken) == len(names)


def test_a_zip_gives_its_figures_in_order_and_passes_over_the_rest() -> None:
    held = io.BytesIO()
    stone = stl_bytes(knobbly(fineness=1))
    with zipfile.ZipFile(held, "w") as archive:
        for name in ("b/torso.stl", "readme.txt", "__MACOSX/torso.stl", ".hidden/leg.stl", "a/ARM.STL"):
            archive.writestr(name, stone)
    found = read_kit(held, len(held.getvalue()))
    assert list(found) == ["b/torso.stl", "a/ARM.STL"] and all(body == stone for body in found.values())
