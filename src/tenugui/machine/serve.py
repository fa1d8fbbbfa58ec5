"""The machine's doors: a small HTTP interface on loopback (docs/machines.md). `python -m tenugui.machine.serve --printer heron --port 0 --speed 600`."""

from __future__ import annotations

import argparse
import json
import math
import os
import sys
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

from ..core.errors import CoreError
from ..core.machines import Printer, load_printer
from .job import job_of
from .run import Fate, Machine

MOST_BYTES = 1 << 30
MOST_WORDS, DRAINED = 1 << 16, 1 << 20


class Doors(BaseHTTPRequestHandler):
    """One request: the machine and its printer are the server's."""

    protocol_version = "HTTP/1.1"
    machine: Machine
    printer: Printer

    def log_message(self, format: str, *args: Any) -> None:
        """Nothing is logged a request: the state can be asked for."""

    def do_GET(self) -> None:
        """`/state` and `/look`."""
        told = {"/state": self.machine.state, "/look": self.machine.look}.get(self.path)
        self._answer(200, told()) if told else self._answer(404, {"what": "There is no such door."})

    def do_PUT(self) -> None:
        """`/file`: the body is the file, its name in the header X-Name."""
        if self.path != "/file":
            return self._answer(404, {"what": "There is no such door."})
        body = self._body(MOST_BYTES)
        if body is None:
            return None
        return self._tried(
            lambda: self.machine.take(job_of(self.headers.get("X-Name", "file")[:120], body, self.printer))
        )

    def do_POST(self) -> None:
        """`/start`, `/pause`, `/resume`, `/cancel`, `/material`, `/power`."""
        body = self._body(MOST_WORDS)
        if body is None:
            return None
        try:
            told = json.loads(body) if body else {}
            task = {
                "/start": lambda: self.machine.start(_fate(told.get("fate"))),
                "/pause": self.machine.pause,
                "/resume": self.machine.resume,
                "/cancel": self.machine.cancel,
                "/material": lambda: self.machine.load(_amount(told["amount"])),
                "/power": lambda: self.machine.power(bool(told["on"])),
            }.get(self.path)
        except (ValueError, AttributeError) as reason:
            return self._answer(400, {"what": f"This cannot be read: {reason}."})
        if task is None:
            return self._answer(404, {"what": "There is no such door."})
        return self._tried(task)

    def _tried(self, task: Any) -> None:
        try:
            task()
        except CoreError as reason:
            return self._answer(409, {"code": reason.code, "what": reason.what, "remedy": reason.remedy})
        except (KeyError, TypeError, ValueError) as reason:
            return self._answer(400, {"what": f"This cannot be read: {reason}."})
        return self._answer(200, self.machine.state())

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

    def _answer(self, status: int, told: dict[str, Any]) -> None:
        data = json.dumps(told).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data)))
        if self.close_connection:
            self.send_header("Connection", "close")
        self.end_headers()
        self.wfile.write(data)


def _fate(told: Any) -> Fate | None:
    return None if told is None else Fate(int(told["layer"]), str(told["loss"]), str(told["why"])[:400])


def _amount(told: Any) -> float:
    amount = float(told)
    if not math.isfinite(amount) or amount < 0:
        raise ValueError("an amount is a number of 0 or more")
    return amount


def serve(printer: Printer, port: int, speed: float) -> ThreadingHTTPServer:
    """A server on loopback, not yet running; port 0 for any."""
    doors = type("DoorsOf", (Doors,), {"machine": Machine(printer.name, speed), "printer": printer})
    return ThreadingHTTPServer(("127.0.0.1", port), doors)


def main() -> None:
    """Run until it is ended, or until who started it is gone."""
    said = argparse.ArgumentParser(prog="tenugui machine", description="A simulated machine on loopback.")
    said.add_argument("--printer", required=True, help="a preset, or a JSON file or text")
    said.add_argument("--port", type=int, default=0)
    said.add_argument("--speed", type=float, default=60.0, help="times as fast as a real one")
    said.add_argument("--with-parent", action="store_true", help="end when the process that started it does")
    given = said.parse_args()
    if not 0 < given.speed <= 1e6:
        said.error("--speed is more than 0 and at most a million")
    try:
        printer = load_printer(json.loads(given.printer) if given.printer.startswith("{") else given.printer)
    except CoreError as reason:
        print(str(reason), file=sys.stderr)
        raise SystemExit(2) from reason
    server = serve(printer, given.port, given.speed)
    print(f"{printer.name} is at http://127.0.0.1:{server.server_address[1]}/", flush=True)
    if given.with_parent:
        threading.Thread(target=_until_alone, args=(os.getppid(),), daemon=True).start()
    server.serve_forever()


def _until_alone(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(1)
    os._exit(0)


if __name__ == "__main__":
    main()
