"""A list that is made once for many: how long it holds, what ends it, and that it is the same packed."""

from __future__ import annotations

import gzip
import time
from types import SimpleNamespace

from fastapi import Request

from tenugui.app.recent import KEEP_SECONDS, Recent, changed

APP = SimpleNamespace


def request(app: object, *, packed: bool = False) -> Request:
    headers = [(b"accept-encoding", b"gzip")] if packed else []
    return Request({"type": "http", "headers": headers, "app": app})


def counting(seconds: float):  # type: ignore[no-untyped-def]
    made: list[int] = []

    def make() -> list[int]:
        time.sleep(seconds)
        made.append(len(made))
        return made.copy()

    return made, make


def test_what_took_long_is_made_once_until_something_changes_or_it_is_old() -> None:
    app, recent = APP(state=APP()), Recent(list[int])
    made, make = counting(0.06)
    first = recent.answer(request(app), make)
    assert first.body == b"[0]" and recent.answer(request(app), make).body == b"[0]" and made == [0]
    packed = recent.answer(request(app, packed=True), make)
    assert packed.headers["content-encoding"] == "gzip" and gzip.decompress(packed.body) == b"[0]"
    changed(app)
    assert recent.answer(request(app), make).body == b"[0,1]"
    time.sleep(KEEP_SECONDS)
    assert recent.answer(request(app), make).body == b"[0,1,2]"


def test_what_is_quick_is_always_made_anew() -> None:
    app, recent = APP(state=APP()), Recent(list[int])
    _, make = counting(0.0)
    assert [recent.answer(request(app), make).body for _ in range(3)] == [b"[0]", b"[0,1]", b"[0,1,2]"]
