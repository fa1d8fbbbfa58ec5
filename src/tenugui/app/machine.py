"""A plan's own file on a simulated machine: a process of its own on loopback, one for each printer of the shelf, spoken to by its doors (docs/machines.md)."""

from __future__ import annotations

import http.client
import json
import subprocess
import sys
import threading
from datetime import datetime
from typing import Any, Literal

import numpy as np
from fastapi import APIRouter, Request

from ..core.contract import PrintFileDoc, TrialDoc
from ..core.plan import kept
from ..store import blobs
from ..store.db import Store, StoreError
from ..work.folds import Standing
from ..work.shelf import StoreShelf
from .models import MachineAsk, MachineState
from .state import store_of
from .workshop import begin

router = APIRouter(prefix="/api/plans", tags=["machine"])
WAITS_S = 120.0
"""For a machine to read a file."""
NONE = StoreError("no-machine", "This plan is on no simulated machine.", "Start it on one.", 404)
AWAY = StoreError(
    "machine-gone", "The simulated machine does not answer.", "Start the print again; nothing of the plan is lost.", 503
)


UNDER_WAY = ("printing", "paused", "out of material")


class _Shed:
    """Machines that are running, one for each printer; they end with this process."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._held: dict[str, tuple[subprocess.Popen[str], int, float]] = {}
        self._of: dict[tuple[int, int], tuple[int, int]] = {}

    def port(self, printer: dict[str, Any], speed: float) -> int:
        """Where the printer's machine listens; started where it is not, and started again at another speed unless it prints."""
        key = json.dumps(printer, sort_keys=True)
        with self._lock:
            held = self._held.get(key)
            if held and held[0].poll() is None:
                if held[2] == speed or _ask(held[1], "GET", "/state")["state"] in UNDER_WAY:
                    return held[1]
                held[0].terminate()
                held[0].wait(10)
            words = ["--printer", json.dumps(printer), "--port", "0", "--speed", str(speed), "--with-parent"]
            process = subprocess.Popen(
                [sys.executable, "-m", "tenugui.machine.serve", *words], stdout=subprocess.PIPE, text=True
            )
            assert process.stdout is not None
            said = process.stdout.readline()
            if "http://" not in said:
                raise AWAY
            port = int(said.rsplit(":", 1)[1].strip("/\n"))
            self._held[key] = (process, port, speed)
            return port

    def remember(self, store: Store, plan: int, port: int, run: int) -> None:
        """Which machine prints a plan, for which run of the log."""
        self._of[id(store), plan] = (port, run)

    def of(self, store: Store, plan: int) -> tuple[int, int]:
        """The port and the run of the plan's last print.

        Raises:
            StoreError: `no-machine`: it has not been put on one since the application was started.
        """
        found = self._of.get((id(store), plan))
        if found is None:
            raise NONE
        return found


_shed = _Shed()


def _ask(port: int, method: str, path: str, body: bytes = b"", name: str = "") -> dict[str, Any]:
    door = http.client.HTTPConnection("127.0.0.1", port, timeout=WAITS_S)
    try:
        door.request(method, path, body, {"X-Name": name} if name else {})
        answer = door.getresponse()
        told: dict[str, Any] = json.loads(answer.read())
    except (OSError, http.client.HTTPException, ValueError) as reason:
        raise AWAY from reason
    finally:
        door.close()
    if answer.status != 200:
        raise StoreError(told.get("code", "refused"), told["what"], told.get("remedy", ""), 409)
    return told


def _fate(trial: TrialDoc | None, run: int) -> dict[str, Any] | None:
    """One of the trial prints, drawn by the run's own number."""
    if trial is None:
        return None
    drawn = int(np.random.default_rng([trial.seed, run]).integers(trial.prints))
    for cause in trial.causes:
        drawn -= cause.count
        if drawn < 0:
            return {"layer": cause.layer + 1, "loss": cause.loss, "why": cause.message}
    return None


def _named(plan: int) -> str:
    """A plan's file as its machine is told."""
    return f"plan {plan}"


def _state(store: Store, plan: int) -> MachineState:
    port, run = _shed.of(store, plan)
    told = _ask(port, "GET", "/state")
    if told["file"] != _named(plan):
        raise NONE  # another plan's file has taken its place
    ended = told["state"] not in UNDER_WAY
    return MachineState.model_validate(told | {"run": run, "seen": _ask(port, "GET", "/look") if ended else None})


@router.post("/{number}/machine")
def print_it(request: Request, number: int, asked: MachineAsk) -> MachineState:
    """Start a run of the accepted plan on its printer's simulated machine, with the very file that was written and the fate of one trial print."""
    store: Store = store_of(request)
    shelf, given = StoreShelf(store), Standing.of(store, number).given("proof")
    made = kept(shelf, "printfile", given, PrintFileDoc)
    if made is None:
        raise StoreError("not-computed", "The machine's file has not been written.", "Write it in the fold Proof.", 409)
    port = _shed.port(given["printer"], asked.speed)
    _ask(port, "PUT", "/file", blobs.get(store, made.sha), _named(number))
    run = begin(store, number, datetime.now(), simulated=True)
    fate = _fate(kept(shelf, "trial", given, TrialDoc), run)
    _ask(port, "POST", "/start", json.dumps({"fate": fate}).encode())
    _shed.remember(store, number, port, run)
    return _state(store, number)


@router.get("/{number}/machine")
def look(request: Request, number: int) -> MachineState:
    """How far it is, and once it has ended what lies on the plate."""
    return _state(store_of(request), number)


@router.post("/{number}/machine/{turn}")
def turn(request: Request, number: int, turn: Literal["pause", "resume", "cancel"]) -> MachineState:
    """Hold it, go on, or give it up."""
    store = store_of(request)
    port, _ = _shed.of(store, number)
    _ask(port, "POST", f"/{turn}")
    return _state(store, number)
