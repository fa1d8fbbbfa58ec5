"""A plan from drop to files, through the real server, workers and database: this checkout, and an older one beside it
where a path to it is given.

`BEFORE=path ./tenugui bench "a plan"`, with `git worktree add path commit`. Both are asked in turn in one run, each on
a bench of its own.
"""

from __future__ import annotations

import io
import json
import os
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from .page import serving

TRIANGLES, SCAN_CELL = 900_000, 0.465
TARGETS = {"pose": 8, "supports": 8, "layers": 10, "proof and files": 5, "opened again": 0.3}
OF_A_SCAN = {
    "dropped and examined": 3, "proposals": 4, "pose": 5, "supports": 8, "layers": 8, "proof and files": 5,
    "opened again": 0.3,
}  # fmt: skip
NOISE_MM = 0.03
FOLDS = ("pose", "supports", "layers", "proof")
PATIENCE_SECONDS = 600
POLL_SECONDS = 0.2
"""As often as the page is told; asking oftener costs the computation a tenth of a core."""


class Client:
    """A page's requests. An older server starts a computation when it is looked at; this one when it is asked to."""

    def __init__(self, address: str, older: bool) -> None:
        self.address, self.older = address, older

    def ask(self, method: str, path: str, body: bytes | dict[str, Any] | None = None) -> Any:
        """One request; JSON, or bytes where the answer is none."""
        data = json.dumps(body).encode() if isinstance(body, dict) else body
        headers = {"Origin": self.address} | ({"Content-Type": "application/json"} if isinstance(body, dict) else {})
        request = urllib.request.Request(self.address + path, data, headers, method=method)
        with urllib.request.urlopen(request, timeout=PATIENCE_SECONDS) as answer:
            held = answer.read()
            return json.loads(held) if "json" in answer.headers["Content-Type"] else held

    def computed(self, path: str) -> Any:
        """A computation's answer, once it is there."""
        if not self.older:
            self.ask("POST", path)
        for _ in range(int(PATIENCE_SECONDS / POLL_SECONDS)):
            try:
                answer = self.ask("GET", path)
            except urllib.error.HTTPError as early:
                if early.code != 409:
                    raise
                answer = {}
            if answer.get("document"):
                return answer
            if answer.get("problem"):
                raise RuntimeError(answer["problem"])
            time.sleep(POLL_SECONDS)
        raise TimeoutError(path)

    def idle(self) -> None:
        """Wait until nothing is under way: what is read ahead while a person chooses the size."""
        while not self.older and self.ask("GET", "/api/jobs"):
            time.sleep(POLL_SECONDS)

    def seen(self, plan: int) -> dict[str, Any]:
        """What a decision must say that the page has seen."""
        return {} if self.older else {"head": self.ask("GET", f"/api/plans/{plan}")["head"]}


def _run(client: Client, body: bytes, tell: Callable[[str, float], None]) -> None:
    def timed(name: str, what: Callable[[], Any]) -> Any:
        began = time.perf_counter()
        found = what()
        tell(name, time.perf_counter() - began)
        return found

    def brought() -> Any:
        made = client.ask("POST", "/api/figures?name=stone.stl", body)
        client.computed(f"/api/figures/{made['figure_id']}/intake")
        return made

    made = timed("dropped and examined", brought)
    plan = made["plan_id"]
    if not client.older:
        timed("proposals", lambda: client.computed(f"/api/figures/{made['figure_id']}/proposals"))
    timed("read ahead", client.idle)
    machine = next(p for p in client.ask("GET", "/api/printers") if p["process"] == "resin")
    material = next(m for m in client.ask("GET", "/api/materials") if m["process"] == "resin")
    size = {"factor": 1.0, "printer_id": machine["id"], "material_id": material["id"]}
    client.ask("POST", f"/api/plans/{plan}/size", size | client.seen(plan))

    def folded(fold: str) -> Any:
        board = client.computed(f"/api/plans/{plan}/compute/{fold}")
        if fold == "proof":
            for kind in ("3mf", "stl", "pdf"):
                client.ask("GET", f"/api/plans/{plan}/files/{kind}")
        return board

    for fold in FOLDS:
        board = timed("proof and files" if fold == "proof" else fold, partial(folded, fold))
        chosen = {"option": board["document"].get("recommended", 0)} | client.seen(plan)
        if not client.older:
            chosen["key"] = board["key"]
        client.ask("POST", f"/api/plans/{plan}/decide/{fold}", chosen)
    timed(
        "opened again",
        lambda: (
            [client.ask("GET", f"/api/plans/{plan}/compute/{f}") for f in FOLDS]
            and client.ask("GET", f"/api/plans/{plan}")
        ),
    )


def _times(source: Path, bodies: list[bytes], older: bool) -> list[dict[str, float]]:
    found: list[dict[str, float]] = []
    with serving(source) as address:
        client = Client(address, older)
        # A small figure first, so that compiled code is loaded from its cache before the clock starts.
        from tests.shapes import knobbly, stl_bytes

        _run(client, stl_bytes(knobbly(fineness=4)), lambda name, seconds: None)
        for body in bodies:
            times: dict[str, float] = {}
            _run(client, body, times.__setitem__)
            found.append(times)
    return found


def _stl(mesh: Any) -> bytes:
    from tenugui.core.formats import write_stl

    body = io.BytesIO()
    write_stl(mesh, body)
    return body.getvalue()


def scan() -> Any:
    """A bust as a scanner gives it: 200,000 triangles, noise in every corner."""
    import numpy as np

    from tenugui.core.mesh import Mesh
    from tenugui.demo.people import ferry_keeper

    bust = ferry_keeper(cell=SCAN_CELL)
    noise = np.random.default_rng(7).normal(0, NOISE_MM, bust.vertices.shape)
    return Mesh(bust.vertices + noise, bust.faces)


def table(stone: Callable[[int], Any]) -> None:
    """Print the table for a figure as people print them, for a stone whose relief starts in mid air in thousands of
    places, and for a scan.
    """
    from tenugui.demo.people import reed_warden

    makes: dict[str, tuple[Callable[[], Any], dict[str, float]]] = {
        "a standing warden": (lambda: reed_warden(cell=0.198), TARGETS),
        "a knobbly stone": (lambda: stone(TRIANGLES), TARGETS),
        "a scanned bust": (scan, OF_A_SCAN),
    }
    only = os.environ.get("ONLY", "")
    meshes = {name: (make(), targets) for name, (make, targets) in makes.items() if only in name}
    bodies = [_stl(mesh) for mesh, _ in meshes.values()]
    here = Path(__file__).resolve().parents[1]
    before = os.environ.get("BEFORE")
    now = _times(here / "src", bodies, older=False)
    was = _times(Path(before) / "src", bodies, older=True) if before else [{} for _ in bodies]
    for (name, (mesh, targets)), ours, theirs in zip(meshes.items(), now, was, strict=True):
        title = f"A plan from drop to files, {name}, {len(mesh.faces):,} triangles"
        print(f"{title}\n{'':28} {'now':>8} {'before':>9} {'ratio':>8} {'target':>8}")
        for fold, seconds in ours.items():
            old = f"{theirs[fold]:9.2f} {theirs[fold] / seconds:7.1f}x" if fold in theirs else f"{'':18}"
            print(f"{fold:28} {seconds:8.2f} {old} {targets.get(fold, ''):>8}")
        print()
