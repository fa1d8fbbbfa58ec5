"""A simulated machine or station as a process: `python -m tenugui.machine.serve --printer heron --speed 600`, or
`--station wash` (docs/machines.md).
"""

from __future__ import annotations

import argparse
import json
import os
import socket
import sys
from typing import get_args

import uvicorn

from ..core.errors import CoreError
from ..core.machines import load_printer
from .doors import end_with, printer_doors, station_doors
from .nature import Nature
from .run import Machine
from .station import Kind, Station


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
            doors = station_doors(Station(given.station, given.speed))
        else:
            printer = load_printer(json.loads(given.printer) if given.printer.startswith("{") else given.printer)
            nature = Nature.of(f"{printer.process} {printer.name}")
            doors = printer_doors(printer, Machine(printer.name, given.speed, nature))
    except CoreError as reason:
        print(str(reason), file=sys.stderr)
        raise SystemExit(2) from reason
    if given.with_parent:
        end_with(os.getppid())
    with socket.socket() as listening:
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        listening.bind(("127.0.0.1", given.port))
        listening.listen()
        print(f"{doors.title} is at http://127.0.0.1:{listening.getsockname()[1]}/", flush=True)
        uvicorn.Server(uvicorn.Config(doors, log_level="warning", timeout_keep_alive=30)).run(sockets=[listening])


if __name__ == "__main__":
    main()
