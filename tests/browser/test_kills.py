"""Worker, database and server killed in the middle of the work: nothing that was acknowledged is lost, and no
computation hangs.

`KILLS=60 ./tenugui test tests/browser/test_kills.py` tries longer.
"""

from __future__ import annotations

import json
import os
import random
import signal
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

from tests.browser.conftest import Running, free_port, start, workers
from tests.shapes import knobbly, stl_bytes

KILLS = int(os.environ.get("KILLS", "2"))
PATIENCE_SECONDS = 60


def ask(server: Running, method: str, path: str, body: Any = None) -> Any:
    """One request as the page sends it."""
    data = body if body is None or isinstance(body, bytes) else json.dumps(body).encode()
    headers = {"Origin": server.address, "Content-Type": "application/json"}
    request = urllib.request.Request(server.address + path, data, headers, method=method)
    with urllib.request.urlopen(request, timeout=20) as answer:
        return json.loads(answer.read())


def patiently(server: Running, method: str, path: str, body: Any = None) -> Any:
    """The same, as often as it takes for the server to be back."""
    end = time.monotonic() + PATIENCE_SECONDS
    while True:
        try:
            return ask(server, method, path, body)
        except (OSError, urllib.error.HTTPError) as away:
            refused = isinstance(away, urllib.error.HTTPError) and away.code < 500
            if refused or time.monotonic() > end:
                raise
            time.sleep(0.1)


def killed(server: Running, what: str) -> Running:
    """Kill a part; the server itself is started again, as a person would."""
    if what == "worker":
        for pid in workers(server)[:1]:
            os.kill(pid, signal.SIGKILL)
    elif what == "database":
        os.kill(int((server.state / "db" / "pid").read_text()), signal.SIGKILL)
    else:
        left = workers(server)
        server.process.kill()
        server.process.wait(10)
        end = time.monotonic() + PATIENCE_SECONDS
        while any(Path(f"/proc/{pid}").exists() for pid in left):
            assert time.monotonic() < end, "its workers outlive a server that was killed"
            time.sleep(0.1)
        return start(server.state, int(server.address.rsplit(":", 1)[1]))
    return server


def test_kills_lose_nothing_and_hang_nothing(tmp_path: Path) -> None:
    chance = random.Random(7)
    server = start(tmp_path, free_port())
    try:
        made = ask(server, "POST", "/api/figures?name=stone.stl", stl_bytes(knobbly(fineness=4)))
        plan, figure = made["plan_id"], made["figure_id"]
        while not patiently(server, "GET", f"/api/figures/{figure}/intake")["document"]:
            time.sleep(0.2)
        printer = next(p["id"] for p in ask(server, "GET", "/api/printers") if p["process"] == "resin")
        material = next(m["id"] for m in ask(server, "GET", "/api/materials") if m["process"] == "resin")
        size = {"printer_id": printer, "material_id": material}
        acknowledged: dict[int, float] = {}
        head: int | None = None
        for kill in range(KILLS):
            for step in range(12):
                factor = 1 + (12 * kill + step) / 1000
                if step == 6:
                    # Something is under way whenever something dies.
                    patiently(server, "POST", f"/api/plans/{plan}/compute/pose")
                    time.sleep(chance.uniform(0, 1.5))
                    server = killed(server, chance.choice(["worker", "database", "server", "worker", "database"]))
                try:
                    state = ask(server, "POST", f"/api/plans/{plan}/size", size | {"head": head, "factor": factor})
                    acknowledged[state["head"]] = factor
                except (OSError, urllib.error.HTTPError):
                    # Not acknowledged: it may have been taken or not. A person looks again.
                    state = patiently(server, "GET", f"/api/plans/{plan}")
                head = state["head"]
                assert head is not None and head >= max(acknowledged, default=0), "an acknowledged decision is gone"
                if head in acknowledged:
                    assert state["folds"][0]["choice"]["factor"] == acknowledged[head]
        assert len(acknowledged) > 8 * KILLS
        # Undo walks back over every one of them.
        for number, factor in sorted(acknowledged.items(), reverse=True)[:20]:
            state = patiently(server, "GET", f"/api/plans/{plan}")
            while state["head"] != number:
                state = patiently(server, "POST", f"/api/plans/{plan}/undo", {"head": state["head"]})
            assert state["folds"][0]["choice"]["factor"] == factor
        patiently(server, "POST", f"/api/plans/{plan}/compute/pose")
        end = time.monotonic() + 120
        while not (held := patiently(server, "GET", f"/api/plans/{plan}/compute/pose"))["document"]:
            assert time.monotonic() < end and not held["problem"], held
            time.sleep(0.3)
        while patiently(server, "GET", "/api/jobs"):
            assert time.monotonic() < end, "a job hangs"
            time.sleep(0.5)
        # A bath goes on, whatever becomes of the computer beside it.
        patiently(server, "POST", f"/api/plans/{plan}/timers", {"step": "first bath", "minutes": 30})
        (before,) = patiently(server, "GET", "/api/timers")
        server = killed(server, "server")
        (after,) = patiently(server, "GET", "/api/timers")
        assert after["id"] == before["id"] and 0 < after["left_s"] < before["left_s"]
    finally:
        server.process.terminate()
        server.process.wait(30)
