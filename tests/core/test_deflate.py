"""Deflate run by run, held to the reader and the writer that everybody has."""

from __future__ import annotations

import zlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tenugui.core.formats.deflate import LENGTHS, begin, canonical, end, more
from tenugui.core.formats.inflate import BAD, CHECK, CUT, FILTERED, GOOD, LONG, SHORT, rows_of

stretch = st.tuples(st.one_of(st.sampled_from([0, 255]), st.integers(0, 255)), st.integers(1, 3000))


def written(stretches: list[tuple[int, int]]) -> bytes:
    state = np.zeros(7, np.int64)
    out = np.empty(1024 + sum(64 + n // 200 for _, n in stretches), np.uint8)
    begin(state, out)
    for value, count in stretches:
        more(state, out, value, count)
    return out[: end(state, out)].tobytes()


def read(data: bytes, wide: int, size: int) -> tuple[int, int]:
    return rows_of(np.frombuffer(data, np.uint8), wide, size)


@settings(max_examples=150, deadline=None)
@given(st.lists(stretch, max_size=40))
def test_what_is_written_is_read_by_everybody(stretches: list[tuple[int, int]]) -> None:
    plain = b"".join(bytes([v]) * n for v, n in stretches)
    assert zlib.decompress(written(stretches)) == plain


def test_thirty_million_dark_bytes_take_three_bits_for_every_258() -> None:
    body = written([(0, 33_000_000)])
    assert len(body) == pytest.approx(33e6 / 258 * 3 / 8, rel=0.01) and len(zlib.decompress(body)) == 33_000_000


def test_the_code_is_whole_and_no_word_begins_another() -> None:
    assert (0.5 ** LENGTHS.astype(float)).sum() == 1.0
    words = {f"{w:0{n}b}"[::-1] for w, n in zip(canonical(LENGTHS).tolist(), LENGTHS.tolist(), strict=True)}
    assert len(words) == len(LENGTHS)
    assert not any(word[:k] in words for word in words for k in range(1, len(word)))


pieces = st.lists(
    st.one_of(
        st.tuples(st.integers(0, 255), st.integers(1, 700)).map(lambda p: bytes([p[0]]) * p[1]),
        st.binary(max_size=400),
        st.just(b"heron courier " * 20),
    ),
    max_size=30,
)


@settings(max_examples=200, deadline=None)
@given(
    pieces, st.integers(0, 9), st.sampled_from([zlib.Z_DEFAULT_STRATEGY, zlib.Z_FIXED, zlib.Z_HUFFMAN_ONLY, zlib.Z_RLE])
)
def test_any_writers_stream_is_read_with_its_sum(parts: list[bytes], level: int, strategy: int) -> None:
    """Stored, fixed and dynamic blocks, copies from near and far."""
    plain = b"".join(b"\0" + part for part in parts)
    packer = zlib.compressobj(level, zlib.DEFLATED, 15, 9, strategy)
    body = packer.compress(plain) + packer.flush()
    wide = len(plain) + 1
    assert read(body, wide, len(plain)) == (GOOD, sum(plain))


@settings(max_examples=100, deadline=None)
@given(st.integers(2, 40), st.integers(1, 30), st.integers(0, 2**32 - 1), st.booleans())
def test_a_rows_filter_is_seen_wherever_it_stands(wide: int, rows: int, seed: int, ours: bool) -> None:
    draw = np.random.default_rng(seed)
    grey = draw.choice([0, 0, 0, 255, 90], (rows, wide)).astype(np.uint8)
    grey[:, 0] = 0
    row = int(draw.integers(rows))
    for filter_, ended in ((0, GOOD), (2, FILTERED)):
        grey[row, 0] = filter_
        body = written([(int(v), 1) for v in grey.ravel()]) if ours else zlib.compress(grey.tobytes(), 6)
        assert read(body, wide, grey.size)[0] == ended


@settings(max_examples=300, deadline=None)
@given(st.integers(0, 10**6), st.integers(0, 255), st.booleans())
def test_a_spoilt_stream_is_never_taken_for_a_good_one_and_never_hangs(at: int, byte: int, ours: bool) -> None:
    draw = np.random.default_rng(7)
    plain = np.where(draw.random(4000) < 0.9, 0, draw.integers(0, 256, 4000)).astype(np.uint8)
    stretches = [(int(v), 1) for v in plain]
    body = bytearray(written(stretches) if ours else zlib.compress(plain.tobytes(), 9))
    place = at % len(body)
    changed = body[place] != byte
    body[place] = byte
    ended, total = read(bytes(body), 5000, 4000)
    try:
        other = zlib.decompress(bytes(body)) == plain.tobytes()
    except zlib.error:
        other = False
    assert (ended == GOOD) == (other or not changed)
    assert ended != GOOD or total == int(plain.astype(int).sum())


def test_how_a_reading_ends_is_told() -> None:
    body = written([(0, 900), (7, 50), (0, 50)])
    assert read(body, 1001, 1000) == (GOOD, 350)
    assert read(body, 1001, 999)[0] == LONG and read(body, 1001, 1001)[0] == SHORT
    assert read(body[:-5], 1001, 1000)[0] == CUT and read(b"PK\3\4....", 9, 9)[0] == BAD
    assert read(body[:-1] + bytes([body[-1] ^ 1]), 1001, 1000)[0] == CHECK
