"""A trial of the doors on loopback: hostile files, a fuzz of every door, a crowd, races, a backup under load restored
and verified, a full disk.

`./tenugui bench trial`; seconds of the fuzz by `FUZZ=300`, kills by `KILLS=50 ./tenugui test
tests/browser/test_kills.py`. `tests/browser/test_trial.py` is its short form.
"""

from __future__ import annotations

import io
import json
import os
import random
import statistics
import struct
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

PATIENCE_SECONDS = 60
WORST_MS = 300
"""The p95 of the list of figures that is wanted with 20 browsers and 1,000 figures."""


@dataclass(frozen=True)
class Answer:
    """A status, the body, and the seconds that it took; status 0 where nothing answered."""

    status: int
    body: bytes
    seconds: float


def ask(address: str, method: str, path: str, body: Any = None, kind: str = "application/json") -> Answer:
    """One request, whatever comes of it."""
    data = body if body is None or isinstance(body, bytes) else json.dumps(body).encode()
    request = urllib.request.Request(
        address + path, data, {"Origin": address, "Content-Type": kind}, method=method.upper()
    )
    began = time.monotonic()
    try:
        with urllib.request.urlopen(request, timeout=PATIENCE_SECONDS) as answer:
            return Answer(answer.status, answer.read(), time.monotonic() - began)
    except urllib.error.HTTPError as refused:
        return Answer(refused.code, refused.read(), time.monotonic() - began)
    except OSError:
        return Answer(0, b"", time.monotonic() - began)


def nested_3mf(deep: int = 10, wide: int = 10) -> bytes:
    """Components that place components: ten to the tenth placements of nothing."""
    objects = ['<object id="1"><mesh><vertices/><triangles/></mesh></object>']
    for k in range(2, deep + 2):
        inner = f'<component objectid="{k - 1}"/>' * wide
        objects.append(f'<object id="{k}"><components>{inner}</components></object>')
    model = (
        '<?xml version="1.0"?><model unit="millimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">'
        f'<resources>{"".join(objects)}</resources><build><item objectid="{deep + 1}"/></build></model>'
    )
    rels = (
        '<?xml version="1.0"?><Relationships '
        'xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship '
        'Id="r" Target="/3D/3dmodel.model"'
        ' Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
    )
    types = (
        '<?xml version="1.0"?><Types '
        'xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels"'
        ' ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model"'
        ' ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
    )
    return zipped(
        {"[Content_Types].xml": types.encode(), "_rels/.rels": rels.encode(), "3D/3dmodel.model": model.encode()}
    )


def zipped(files: dict[str, bytes]) -> bytes:
    """A ZIP of these files."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def crossed_obj(polygons: int = 50, corners: int = 4000) -> bytes:
    """Polygons of many corners that cross themselves."""
    rng = random.Random(3)
    lines = [f"v {rng.uniform(-9, 9):.3f} {rng.uniform(-9, 9):.3f} 0" for _ in range(corners)]
    order = list(range(1, corners + 1))
    for _ in range(polygons):
        rng.shuffle(order)
        lines.append("f " + " ".join(map(str, order)))
    return "\n".join(lines).encode()


def _stl(triangles: list[tuple[float, ...]], said: int | None = None) -> bytes:
    head = bytes(80) + struct.pack("<I", len(triangles) if said is None else said)
    return head + b"".join(struct.pack("<12fH", 0, 0, 0, *t, 0) for t in triangles)


def hostile_files() -> dict[str, bytes]:
    """Files that mean harm, or nothing, by what is wrong with them."""
    flat = (0.0, 0, 0, 1, 0, 0, 0, 1, 0)
    return {
        "nothing.stl": b"",
        "three bytes.stl": b"abc",
        "a head that lies.stl": _stl([flat], 4_000_000_000),
        "one triangle.stl": _stl([flat]),
        "beyond all numbers.stl": _stl([(3e38, 3e38, 3e38, -3e38, 0, 0, 0, 3e38, 0)] * 12),
        "not numbers.stl": _stl([(float("nan"),) * 9] * 12),
        "components of components.3mf": nested_3mf(),
        "crossed polygons.obj": crossed_obj(),
        "a dot.zip": zipped({".": b"x", "..": b"y"}),
        "climbing.zip": zipped({"../../etc/marsh.stl": _stl([flat] * 4)}),
        "of zeros.zip": zipped({"zeros.stl": bytes(60_000_000)}),
        "a zip in a zip.zip": zipped({"inner.zip": zipped({"inner.zip": zipped({"a.stl": b""})})}),
        "promises.ply": b"ply\nformat binary_little_endian 1.0\nelement vertex 4000000000\nproperty "
        b"float x\nproperty float y\nproperty float z\nend_header\n",
        "promises.glb": b"glTF" + struct.pack("<II", 2, 4_000_000_000) + b"\0" * 40,
        "deep.gltf": b'{"asset":{"version":"2.0"},"x":' + b"[" * 100_000 + b"]" * 100_000 + b"}",
    }


def hostile(address: str) -> dict[str, Answer]:
    """Each hostile file brought in; all are to be refused in words, and the server is to answer afterwards."""
    found = {}
    for name, data in hostile_files().items():
        path = "/api/figures?name=" + urllib.request.quote(name)  # type: ignore[attr-defined]
        found[name] = ask(address, "post", path, data, "application/octet-stream")
    found["(the server after them)"] = ask(address, "get", "/api/health")
    return found


ODD: tuple[Any, ...] = (
    None,
    True,
    -1,
    0,
    1,
    2**31,
    10**30,
    -0.0,
    1e308,
    3.5,
    "",
    "x",
    "\0",
    "é" * 300,
    "../../x",
    "' OR 1=1 --",
    [],
    {},
    [1, 2, 3],
    [0, 0, 0],
    [1e308, 0, 0],
    {"a": [1]},
    [[]] * 5,
    "0" * 64,
)


def _made_up(schema: dict[str, Any], parts: dict[str, Any], chance: random.Random, depth: int = 0) -> Any:
    """A value that may fit a schema, or not."""
    if "$ref" in schema:
        return _made_up(parts[schema["$ref"].rsplit("/", 1)[1]], parts, chance, depth)
    if depth > 6 or chance.random() < 0.2:
        return chance.choice(ODD)
    for either in ("anyOf", "oneOf"):
        if either in schema:
            return _made_up(chance.choice(schema[either]), parts, chance, depth + 1)
    if "enum" in schema:
        return chance.choice(schema["enum"])
    kind = schema.get("type")
    if kind == "object":
        fields = schema.get("properties", {})
        return {name: _made_up(one, parts, chance, depth + 1) for name, one in fields.items() if chance.random() < 0.8}
    if kind == "array":
        items = schema.get("items") or {}
        many = chance.choice((0, 1, 3, 3, schema.get("maxItems", 5)))
        return [_made_up(items, parts, chance, depth + 1) for _ in range(min(many, 50))]
    if kind in ("number", "integer"):
        low, high = schema.get("minimum", -10), schema.get("maximum", 10)
        value = chance.uniform(low, high)
        return round(value) if kind == "integer" else value
    if kind == "boolean":
        return chance.random() < 0.5
    return chance.choice(("reed", "0" * 64, "size", "pose", "stl"))


def fuzz(address: str, schema: dict[str, Any], seconds: float, seed: int = 0, *, least: int = 0) -> dict[int, int]:
    """Every door with made-up paths, questions and bodies, for so long and so many at `least`: how many answers of each
    status. A 500 is raised with what brought it about.
    """
    chance = random.Random(seed)
    doors = [
        (path, method, one)
        for path, methods in schema["paths"].items()
        for method, one in methods.items()
        if not path.endswith("/events")
    ]
    parts = schema["components"]["schemas"]
    found: dict[int, int] = {}
    end = time.monotonic() + seconds
    while time.monotonic() < end or sum(found.values()) < least:
        path, method, one = chance.choice(doors)
        query = []
        for told in one.get("parameters", []):
            value = chance.choice((1, 2, 3, _made_up(told.get("schema", {}), parts, chance)))
            text = urllib.request.quote(str(value), safe="")  # type: ignore[attr-defined]
            if told["in"] == "path":
                path = path.replace("{" + told["name"] + "}", text or "x")
            elif chance.random() < 0.8:
                query.append(f"{told['name']}={text}")
        content = (one.get("requestBody") or {}).get("content", {})
        body: Any = None
        kind = "application/json"
        if "application/json" in content:
            body = _made_up(content["application/json"]["schema"], parts, chance)
            body = chance.choice((body, body, body, b"{", b"\xff\xfe"))
        elif method != "get":
            body, kind = chance.choice((b"", b"solid x", b"PK\3\4" + bytes(60))), "application/octet-stream"
        answer = ask(address, method, path + ("?" + "&".join(query) if query else ""), body, kind)
        if answer.status in (0, 500):
            raise AssertionError(f"{answer.status} from {method} {path} {query} {body!r:.400}: {answer.body[:300]!r}")
        found[answer.status] = found.get(answer.status, 0) + 1
    return dict(sorted(found.items()))


def crowd(address: str, browsers: int, seconds: float, path: str = "/api/figures") -> tuple[int, float, float]:
    """So many browsers that ask for the list as often as they can: requests, and their median and 95th percentile in
    ms.
    """
    took: list[float] = []
    end = time.monotonic() + seconds

    def one() -> None:
        while time.monotonic() < end:
            answer = ask(address, "get", path)
            assert answer.status == 200, answer
            took.append(1000 * answer.seconds)
            time.sleep(0.25)  # a person's page asks four times a second at most

    threads = [threading.Thread(target=one) for _ in range(browsers)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return len(took), statistics.median(took), statistics.quantiles(took, n=20)[18]


def races(address: str, plan: int, size: dict[str, Any], many: int) -> dict[str, int]:
    """Two clients that decide another size with the same head at once: exactly one is taken, the other is told."""
    found = {"one taken": 0, "both told": 0, "both taken": 0}
    for k in range(many):
        head = json.loads(ask(address, "get", f"/api/plans/{plan}").body)["head"]
        statuses: list[int] = []

        def decide(factor: float, head: Any = head, statuses: list[int] = statuses) -> None:
            statuses.append(
                ask(address, "post", f"/api/plans/{plan}/size", size | {"head": head, "factor": factor}).status
            )

        pair = [threading.Thread(target=decide, args=(1 + (2 * k + i) / 1000,)) for i in range(2)]
        for thread in pair:
            thread.start()
        for thread in pair:
            thread.join()
        taken = sum(s == 200 for s in statuses)
        found[("both told", "one taken", "both taken")[taken]] += 1
    return found


def plan_with_machine(address: str) -> tuple[int, dict[str, Any]]:
    """A plan of a stone on the first resin machine, and what its size is decided with."""
    from tests.shapes import knobbly, stl_bytes

    made = json.loads(
        ask(
            address, "post", "/api/figures?name=stone.stl", stl_bytes(knobbly(fineness=4)), "application/octet-stream"
        ).body
    )
    until(lambda: json.loads(ask(address, "get", f"/api/figures/{made['figure_id']}/intake").body)["document"])
    machines = {kind: json.loads(ask(address, "get", f"/api/{kind}").body) for kind in ("printers", "materials")}
    ids = {kind: next(m["id"] for m in rows if m["process"] == "resin") for kind, rows in machines.items()}
    return made["plan_id"], {"printer_id": ids["printers"], "material_id": ids["materials"]}


def until(done: Callable[[], Any], seconds: float = PATIENCE_SECONDS) -> None:
    """Wait for something."""
    end = time.monotonic() + seconds
    while not done():
        if time.monotonic() > end:
            raise AssertionError("it took too long")
        time.sleep(0.1)


def fill(state: Path, figures_wanted: int) -> None:
    """So many figures on a running bench, straight into its database."""
    from tests.shapes import ball, stl_bytes

    from tenugui.store import blobs, figures, plans
    from tenugui.store.db import Store
    from tenugui.store.server import DatabaseServer

    address = DatabaseServer(state / "db").running()
    assert address is not None
    store = Store(address)
    sha = blobs.put_bytes(store, stl_bytes(ball(2)))
    for k in range(figures_wanted):
        plans.create(store, figures.add(store, figures.NewFigure(f"Reed warden {k}", f"warden-{k}.stl", sha, 320)))
    store.close()


def first_starts(folder: Path, many: int, seed: int = 5) -> int:
    """So many benches killed at a random moment of their first start: how many start afterwards. One that does not is
    raised.
    """
    from tests.browser.conftest import free_port, start

    chance = random.Random(seed)
    for k in range(many):
        state = folder / f"first-{k}"
        state.mkdir()
        words = [sys.executable, "-m", "tenugui.cli", "serve", "--port", str(free_port())]
        begun = subprocess.Popen(words, env={**os.environ, "TENUGUI_STATE": str(state)}, start_new_session=True)
        time.sleep(chance.uniform(1.0, 4.0))
        begun.kill()
        begun.wait()
        again = start(state, free_port())
        again.process.terminate()
        again.process.wait(30)
    return many


def table() -> None:
    """Run all and print what came of it."""
    from tests.browser.conftest import free_port, start

    from tenugui.app.main import make_app
    from tenugui.store.copy import backup, restore

    schema = make_app(None).openapi()  # type: ignore[arg-type]
    with tempfile.TemporaryDirectory() as folder:
        state = Path(folder) / "state"
        state.mkdir()
        running = start(state, free_port())
        address = running.address
        print("\nHostile files")
        for name, answer in hostile(address).items():
            said = "" if answer.status == 200 else json.loads(answer.body)["code"]
            print(f"  {name:34} {answer.status}  {answer.seconds:6.2f} s  {said}")
        left = list((state / "uploads").iterdir())
        print(f"  files left in the uploads: {len(left)}")
        plan, size = plan_with_machine(address)
        print(f"\nRaces of two sizes: {races(address, plan, size, 100)}")
        seconds = float(os.environ.get("FUZZ", "60"))
        print(f"Fuzz of every door for {seconds:.0f} s: {fuzz(address, schema, seconds)}")
        fill(state, 1000)
        many, half, most = crowd(address, 20, 10.0)
        print(f"20 browsers, 1,000 figures: {many} lists, median {half:.0f} ms, p95 {most:.0f} ms (wanted {WORST_MS})")
        file = Path(folder) / "live.sql"
        busy = threading.Thread(target=crowd, args=(address, 5, 5.0))
        busy.start()
        rows = backup(state / "db", file)
        busy.join()
        running.process.terminate()
        running.process.wait(30)
        other = Path(folder) / "other"
        other.mkdir()
        restore(other / "db", file)
        print(f"Backup under load: {rows:,} rows, restored elsewhere and verified")
        os.environ["TENUGUI_LEAST_MB"] = "1e12"
        try:
            full = start(state, free_port(), well=False)
            told = ask(full.address, "get", "/api/health")
            wrote = ask(full.address, "post", f"/api/plans/{plan}/undo", {"head": 1})
            print(
                f"A full disk: health {told.status}, reading "
                f"{ask(full.address, 'get', '/api/figures').status}, writing {wrote.status}"
            )
            full.process.terminate()
            full.process.wait(30)
        finally:
            del os.environ["TENUGUI_LEAST_MB"]
        print(f"First starts killed and started again: {first_starts(Path(folder), 10)} of 10")
