"""A small HTTP interface on loopback, whatever stands behind it: JSON in, JSON out, and what cannot be done said in
words (docs/machines.md).
"""

from __future__ import annotations

import json
import os
import threading
import time
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler
from typing import Any

from ..core.errors import CoreError

MOST_WORDS, DRAINED = 1 << 16, 1 << 20
Task = Callable[[], None]


class Doors(BaseHTTPRequestHandler):
    """One request: what it asks for is looked up in what the server has behind it."""

    protocol_version = "HTTP/1.1"
    asks: dict[str, Callable[[], dict[str, Any]]]
    """What can be looked at, by its path; `/state` always."""
    tasks: dict[str, Callable[[dict[str, Any]], None]]
    """What can be done with a JSON object."""

    def log_message(self, format: str, *args: Any) -> None:
        """Nothing is logged a request: the state can be asked for."""

    def do_GET(self) -> None:
        """Look."""
        answer = self.asks.get(self.path)
        self._answer(200, answer()) if answer else self._nowhere()

    def do_POST(self) -> None:
        """Do."""
        body = self._body(MOST_WORDS)
        if body is None:
            return None
        try:
            asked = json.loads(body) if body else {}
        except ValueError as reason:
            return self._answer(400, {"what": f"This cannot be read: {reason}."})
        task = self.tasks.get(self.path)
        if task is None:
            return self._nowhere()
        return self._tried(lambda: task(asked))

    def _nowhere(self) -> None:
        self._answer(404, {"what": "There is no such door."})

    def _tried(self, task: Task) -> None:
        try:
            task()
        except CoreError as reason:
            return self._answer(409, {"code": reason.code, "what": reason.what, "remedy": reason.remedy})
        except (KeyError, TypeError, ValueError, AttributeError) as reason:
            return self._answer(400, {"what": f"This cannot be read: {reason}."})
        return self._answer(200, self.asks["/state"]())

    def _body(self, most: int) -> bytes | None:
        try:
            long = int(self.headers.get("Content-Length", "0"))
        except ValueError:
            long = -1
        if not 0 <= long <= most:
            self.close_connection = True
            self.rfile.read(min(max(long, 0), DRAINED))  # so that the answer is heard
            self._answer(413, {"what": f"It takes at most {most:,} bytes, and wants to know how many."})
            return None
        return self.rfile.read(long)

    def _answer(self, status: int, document: dict[str, Any]) -> None:
        data = json.dumps(document).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data)))
        if self.close_connection:
            self.send_header("Connection", "close")
        self.end_headers()
        self.wfile.write(data)


def end_with(parent: int) -> None:
    """End this process when that one has."""

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()
