"""A simulated machine or station as a process: `python -m tenugui.machine.serve --printer heron --speed 600`, or
`--station wash` (docs/machines.md).
"""

from __future__ import annotations

import argparse
import json
import math
import os
import sys
from http.server import ThreadingHTTPServer
from typing import Any, get_args

from ..core.errors import CoreError
from ..core.machines import Printer, load_printer
from .doors import Doors, end_with
from .job import job_of
from .run import Fate, Machine
from .station import Kind, Station, steps_of

MOST_BYTES = 1 << 30


class PrinterDoors(Doors):
    """A printer's, which takes files besides."""

    machine: Machine
    printer: Printer

    def do_PUT(self) -> None:
        """`/file`: the body is the file, its name in the header X-Name."""
        if self.path != "/file":
            return self._nowhere()
        body = self._body(MOST_BYTES)
        if body is None:
            return None
        name = self.headers.get("X-Name", "file")[:120]
        return self._tried(lambda: self.machine.take(job_of(name, body, self.printer)))


def _fate(asked: Any) -> Fate | None:
    return None if asked is None else Fate(int(asked["layer"]), str(asked["loss"]), str(asked["why"])[:400])


def _amount(asked: Any) -> float:
    amount = float(asked)
    if not math.isfinite(amount) or amount < 0:
        raise ValueError("an amount is a number of 0 or more")
    return amount


def serve(printer: Printer, port: int, speed: float) -> ThreadingHTTPServer:
    """A printer's server on loopback, not yet running; port 0 for any."""
    machine = Machine(printer.name, speed)
    tasks = {
        "/start": lambda told: machine.start(_fate(told.get("fate"))),
        "/pause": lambda told: machine.pause(),
        "/resume": lambda told: machine.resume(),
        "/cancel": lambda told: machine.cancel(),
        "/material": lambda told: machine.load(_amount(told["amount"])),
        "/power": lambda told: machine.power(bool(told["on"])),
    }
    asks = {"/state": machine.state, "/look": machine.look}
    parts = {"machine": machine, "printer": printer, "asks": asks, "tasks": tasks}
    return ThreadingHTTPServer(("127.0.0.1", port), type("DoorsOf", (PrinterDoors,), parts))


def serve_station(kind: Kind, port: int, speed: float) -> ThreadingHTTPServer:
    """A station's server on loopback, not yet running; port 0 for any."""
    station = Station(kind, speed)
    tasks = {
        "/start": lambda told: station.start(str(told["load"])[:120], steps_of(told["steps"])),
        "/pause": lambda told: station.pause(),
        "/resume": lambda told: station.resume(),
        "/cancel": lambda told: station.cancel(),
        "/fresh": lambda told: station.fresh(),
    }
    parts = {"asks": {"/state": station.state}, "tasks": tasks}
    return ThreadingHTTPServer(("127.0.0.1", port), type("DoorsOf", (Doors,), parts))


def main() -> None:
    """Run until it is ended, or until who started it is gone."""
    said = argparse.ArgumentParser(prog="tenugui machine", description="A simulated machine on loopback.")
    which = said.add_mutually_exclusive_group(required=True)
    which.add_argument("--printer", help="a preset, or a JSON file or text")
    which.add_argument("--station", choices=get_args(Kind))
    said.add_argument("--port", type=int, default=0)
    said.add_argument("--speed", type=float, default=60.0, help="times as fast as a real one")
    said.add_argument("--with-parent", action="store_true", help="end when the process that started it does")
    given = said.parse_args()
    if not 0 < given.speed <= 1e6:
        said.error("--speed is more than 0 and at most a million")
    try:
        if given.station:
            server, name = serve_station(given.station, given.port, given.speed), str(given.station)
        else:
            printer = load_printer(json.loads(given.printer) if given.printer.startswith("{") else given.printer)
            server, name = serve(printer, given.port, given.speed), printer.name
    except CoreError as reason:
        print(str(reason), file=sys.stderr)
        raise SystemExit(2) from reason
    print(f"{name} is at http://127.0.0.1:{server.server_address[1]}/", flush=True)
    if given.with_parent:
        end_with(os.getppid())
    server.serve_forever()


if __name__ == "__main__":
    main()
