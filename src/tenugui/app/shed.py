"""Simulated machines and stations that are running: processes of their own on loopback, spoken to by their doors
(docs/machines.md).
"""

from __future__ import annotations

import subprocess
import sys
import threading
from collections.abc import Hashable
from typing import Any

import httpx

from ..store.db import Store, StoreError

WAITS_S = 120.0
"""For a machine to read a file."""
NONE = StoreError("no-machine", "This plan is on no simulated machine.", "Start it on one.", 404)
AWAY = StoreError(
    "machine-gone", "The simulated machine does not answer.", "Start it again; nothing of the plan is lost.", 503
)
UNDER_WAY = ("printing", "paused", "out of material", "running")


class Shed:
    """What runs, one process for each printer and each kind of station; they end with this process."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._held: dict[str, tuple[subprocess.Popen[str], int, float]] = {}
        self._of: dict[tuple[int, Hashable], tuple[int, int]] = {}

    def port(self, which: tuple[str, str], speed: float) -> int:
        """Where a machine (`--printer`, its JSON) or a station (`--station`, its kind) listens; started where it is
        not, and started again at another speed unless it is at work.
        """
        with self._lock:
            machine = self._held.get(which[1])
            if machine and machine[0].poll() is None:
                if machine[2] == speed or ask(machine[1], "GET", "/state")["state"] in UNDER_WAY:
                    return machine[1]
                machine[0].terminate()
                machine[0].wait(10)
            words = [*which, "--port", "0", "--speed", str(speed), "--with-parent"]
            process = subprocess.Popen(
                [sys.executable, "-m", "tenugui.machine.serve", *words], stdout=subprocess.PIPE, text=True
            )
            assert process.stdout is not None
            said = process.stdout.readline()
            if "http://" not in said:
                raise AWAY
            port = int(said.rsplit(":", 1)[1].strip("/\n"))
            self._held[which[1]] = (process, port, speed)
            return port

    def running(self, name: str) -> int | None:
        """Where a station listens that has been started; None where none has."""
        with self._lock:
            machine = self._held.get(name)
            return machine[1] if machine and machine[0].poll() is None else None

    def remember(self, store: Store, plan: Hashable, port: int, run: int) -> None:
        """Which machine prints a plan, or anything else that is named so, for which run or batch of the log."""
        self._of[id(store), plan] = (port, run)

    def plans(self, store: Store) -> list[int]:
        """Plans that have been put on a machine."""
        return [plan for machine, plan in self._of if machine == id(store) and isinstance(plan, int)]

    def of(self, store: Store, plan: Hashable) -> tuple[int, int]:
        """The port of the plan's last print and what it is in the log.

        Raises:
            StoreError: `no-machine`: it has not been put on one since the application was started.
        """
        place = self._of.get((id(store), plan))
        if place is None:
            raise NONE
        return place


shed = Shed()


def ask(port: int, method: str, path: str, body: bytes = b"", name: str = "") -> dict[str, Any]:
    """One request at a door, and its answer.

    Raises:
        StoreError: `machine-gone`, or what it refuses.
    """
    heads = {"X-Name": name} if name else {}
    try:
        # Loopback, whatever proxy the environment names.
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=WAITS_S, trust_env=False) as door:
            answer = door.request(method, path, content=body, headers=heads)
        reply: dict[str, Any] = answer.json()
    except (httpx.HTTPError, ValueError) as reason:
        raise AWAY from reason
    if answer.status_code != 200:
        raise StoreError(reply.get("code", "refused"), reply["what"], reply.get("remedy", ""), 409)
    return reply
