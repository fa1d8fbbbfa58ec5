"""A list that many browsers ask for at the same time is made once for all of them, and anew after every change."""

from __future__ import annotations

import gzip
import threading
import time
from collections.abc import Callable
from typing import Any

from fastapi import Request, Response
from pydantic import TypeAdapter

KEEP_SECONDS, KEEP_TIMES, QUICK_SECONDS = 0.5, 5.0, 0.03
"""An answer holds so many times as long as it took to make, at most so long, and not at all where it is made as
quickly: what workers change is seen that much later, what a page changes at once.
"""


class Recent:
    """The last answer, as bytes and packed, as long as it holds."""

    def __init__(self, kind: Any) -> None:
        self._write = TypeAdapter(kind).dump_json
        self._lock = threading.Lock()
        self._changes, self._until = -1, 0.0
        self._plain, self._packed = b"", b""

    def answer(self, request: Request, make: Callable[[], Any]) -> Response:
        """What `make` gives, or gave since the last change and not long ago."""
        changes: int = getattr(request.app.state, "changes", 0)
        with self._lock:
            began = time.monotonic()
            if self._changes != changes or began > self._until:
                self._plain = self._write(make())
                self._packed = gzip.compress(self._plain, 4)
                now = time.monotonic()
                quick = now - began < QUICK_SECONDS
                self._changes, self._until = (
                    changes,
                    now + (0 if quick else min(KEEP_SECONDS, KEEP_TIMES * (now - began))),
                )
            plain, packed = self._plain, self._packed
        if "gzip" in request.headers.get("accept-encoding", ""):
            headers = {"Content-Encoding": "gzip", "Vary": "Accept-Encoding"}
            return Response(packed, media_type="application/json", headers=headers)
        return Response(plain, media_type="application/json")


def changed(app: Any) -> None:
    """Something may have been changed: what was kept holds no longer."""
    if app is not None:
        app.state.changes = getattr(app.state, "changes", 0) + 1
