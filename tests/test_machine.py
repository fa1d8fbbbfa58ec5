"""Simulated machines: a job read from its file, its state by a set clock, and a real process on loopback over its
doors.
"""

from __future__ import annotations

import http.client
import io
import json
import subprocess
import sys
import time
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest

from tenugui.app import shed
from tenugui.core.errors import CoreError
from tenugui.core.machines import FilamentPrinter, ResinPrinter, programmes
from tenugui.core.paths import planned, write_gcode
from tenugui.core.vat import write_archive
from tenugui.machine.job import Job, job_of
from tenugui.machine.nature import Fate, Nature
from tenugui.machine.run import Machine
from tenugui.machine.station import LASTS, Kind, Station, steps_of
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import box

assert isinstance(KESTREL, FilamentPrinter) and isinstance(HERON, ResinPrinter)


def archive(layers: int = 20) -> bytes:
    out = io.BytesIO()
    write_archive(box((0, 0, layers / 20), (6, 5, layers / 10)), HERON, RESIN, height=0.1, handle=out)
    return out.getvalue()


def test_a_machine_runs_the_file_for_as_long_and_with_as_much_as_the_file_says() -> None:
    made = job_of("a.zip", archive(), HERON)
    assert made.material.sum() == pytest.approx(6 * 5 * 2 / 1000, rel=0.01) and len(made.layers_s) == 20
    path = planned(box((0, 0, 2), (12, 8, 4)), {}, KESTREL, 0.2)
    drawn = job_of("a.gcode", write_gcode(path, KESTREL, FILAMENT).encode(), KESTREL)
    took = KESTREL.start_s + path.seconds.sum() + KESTREL.layer_change_s * path.layers
    assert drawn.time_s == pytest.approx(took, rel=0.02) and len(drawn.layers_s) == path.layers
    assert drawn.layers_s[5] == pytest.approx(path.by_layer()[5] + KESTREL.layer_change_s, rel=0.05)
    with pytest.raises(CoreError, match="lays nothing"):
        job_of("b.gcode", b"G28\nG0 X1 Y1 F600\n", KESTREL)
    with pytest.raises(CoreError, match="no text"):
        job_of("b.gcode", b"\xff\x00", KESTREL)


class Clock:
    """Seconds that a test sets."""

    now = 0.0

    def __call__(self) -> float:
        return self.now


def machine() -> tuple[Machine, Clock]:
    return machine_with(None)


def machine_with(nature: Nature | None) -> tuple[Machine, Clock]:
    clock = Clock()
    made = Machine("heron", 10.0, nature, clock=clock)
    made.take(Job("job", 100.0, np.full(50, 20.0), 30.0, np.full(50, 0.1), "ml"))
    return made, clock


def test_time_passes_as_many_times_as_fast_and_layers_with_it() -> None:
    made, clock = machine()
    made.start(None)
    assert (made.state()["state"], made.state()["layer"]) == ("printing", 0)
    clock.now = 10 + 2 * 10.5
    assert made.state()["layer"] == 11 and made.state()["used"] == pytest.approx(1.1)
    made.pause()
    clock.now += 1000
    assert made.state()["layer"] == 11 and made.state()["state"] == "paused"
    made.resume()
    clock.now += 2 * 10
    assert made.state()["layer"] == 21
    clock.now += 1000
    assert made.state()["state"] == "done" and made.state()["done_s"] == made.state()["of_s"] == 1130
    assert made.look() == {"loss": "good", "layer": None, "why": ""}


def test_who_looks_at_the_plate_sees_what_is_lost_and_the_machine_does_not() -> None:
    made, clock = machine()
    made.start(Fate(30, "part lost", "the spear"))
    clock.now = 10 + 2 * 20
    assert made.look()["loss"] == "good", "not yet"
    clock.now = 1000
    assert made.state()["state"] == "done" and made.look() == {"loss": "part lost", "layer": 30, "why": "the spear"}


def test_material_runs_out_where_it_is_spent_and_the_print_goes_on_with_more() -> None:
    made, clock = machine()
    made.load(2.05)
    made.start(None)
    clock.now = 1000
    told = made.state()
    assert told["state"] == "out of material" and told["used"] == pytest.approx(2.0, abs=0.11)
    made.load(100)
    clock.now += 1000
    assert made.state()["state"] == "done" and made.state()["used"] == pytest.approx(5.0)


def test_power_and_cancelling_end_a_print_and_what_is_not_possible_is_refused() -> None:
    made, clock = machine()
    for wrong in (made.pause, made.resume, made.cancel):
        with pytest.raises(CoreError):
            wrong()
    made.start(None)
    clock.now = 30
    with pytest.raises(CoreError, match="prints 'job'"):
        made.take(Job("other", 0, np.ones(1), 0, np.ones(1), "ml"))
    made.power(False)
    clock.now = 500
    made.power(True)
    assert made.state()["state"] == "failed" and made.look()["loss"] == "print lost" and made.state()["layer"] == 11
    made.start(None)
    made.cancel()
    assert made.state()["state"] == "cancelled"


def station(kind: Kind = "wash") -> tuple[Station, Clock]:
    clock = Clock()
    return Station(kind, 10.0, clock=clock), clock


def test_a_station_runs_its_programme_step_by_step() -> None:
    made, clock = station()
    with pytest.raises(CoreError, match="nothing in it"):
        made.cancel()
    made.start("plan 3", steps_of([["first bath", 3], ["cleaner fluid", 2]]))
    clock.now = 10.0
    told = made.state()
    assert (told["state"], told["step"], told["done_s"], told["of_s"]) == ("running", "first bath", 100.0, 300.0)
    with pytest.raises(CoreError, match="'plan 3' is in it"):
        made.start("plan 4", steps_of([["first bath", 3]]))
    made.pause()
    clock.now = 500.0
    made.resume()
    clock.now += 10.0
    assert made.state()["step"] == "cleaner fluid"
    clock.now += 100.0
    assert (made.state()["state"], made.state()["done_s"]) == ("done", 300.0)
    made.start("plan 4", steps_of([["first bath", 3]]))
    made.cancel()
    assert made.state()["state"] == "taken out"


def test_a_bath_is_spent_after_its_loads_and_a_lamp_never() -> None:
    for kind, refuses in (("wash", True), ("cure", False)):
        made, clock = station(kind)  # type: ignore[arg-type]
        for _ in range(LASTS):
            made.start("load", steps_of([["turn", 1]]))
            clock.now += 60
            assert made.state()["state"] == "done"
        if refuses:
            with pytest.raises(CoreError, match="30 loads"):
                made.start("load", steps_of([["turn", 1]]))
            made.fresh()
        made.start("load", steps_of([["turn", 1]]))
        with pytest.raises(CoreError, match="is in it"):
            made.fresh()


@pytest.mark.parametrize("told", [[], [["a", 0]], [["a", float("nan")]], [["a", 1]] * 21, [["a", 1e9]], [["a"]], 3])
def test_a_programme_that_is_none_is_refused(told: Any) -> None:
    with pytest.raises((ValueError, TypeError)):
        steps_of(told)


def test_what_prints_go_through_is_in_order_and_a_hollow_one_is_cured_inside() -> None:
    assert [p.station for p in programmes("resin")] == ["wash", "dry", "cure"]
    assert [s for s, _ in programmes("resin", hollow=True)[-1].steps][-1] == "the cavity"
    (spool,) = programmes("filament")
    assert spool.station == "dry" and steps_of(spool.steps)


@pytest.fixture(scope="module")
def door() -> Iterator[http.client.HTTPConnection]:
    words = [sys.executable, "-m", "tenugui.machine.serve", "--printer", "heron", "--speed", "100000", "--with-parent"]
    process = subprocess.Popen(words, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    port = int(process.stdout.readline().rsplit(":", 1)[1].strip("/\n"))
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
    yield connection
    connection.close()
    process.terminate()
    process.wait(10)


def ask(door: http.client.HTTPConnection, method: str, path: str, body: Any = None) -> tuple[int, dict[str, Any]]:
    raw = body if isinstance(body, bytes) else b"" if body is None else json.dumps(body).encode()
    door.request(method, path, raw, {"X-Name": "egg.zip"})
    answer = door.getresponse()
    return answer.status, json.loads(answer.read())


def test_a_process_takes_a_file_prints_it_and_shows_the_plate(door: http.client.HTTPConnection) -> None:
    assert ask(door, "GET", "/state")[1]["state"] == "idle"
    assert ask(door, "POST", "/start")[0] == 409
    status, told = ask(door, "PUT", "/file", archive())
    assert status == 200 and (told["file"], told["layers"]) == ("egg.zip", 20)
    status, told = ask(door, "POST", "/start", {"fate": {"layer": 7, "loss": "part lost", "why": "an ear"}})
    assert status == 200 and told["state"] in ("printing", "done")
    for _ in range(200):
        if ask(door, "GET", "/state")[1]["state"] == "done":
            break
        time.sleep(0.05)
    assert ask(door, "GET", "/state")[1]["done_s"] == told["of_s"]
    assert ask(door, "GET", "/look")[1] == {"loss": "part lost", "layer": 7, "why": "an ear"}


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("GET", "/other", None, 404),
        ("POST", "/other", None, 404),
        ("PUT", "/start", b"", 404),
        ("PUT", "/file", b"not a zip", 409),
        ("POST", "/start", b"{", 400),
        ("POST", "/start", {"fate": {"layer": "x"}}, 400),
        ("POST", "/material", {"amount": -1}, 400),
        ("POST", "/material", {"amount": "nan"}, 400),
        ("POST", "/material", {}, 400),
        ("POST", "/pause", b"x" * 70_000, 413),
    ],
)
def test_doors_refuse_what_they_cannot_do(
    door: http.client.HTTPConnection, method: str, path: str, body: Any, status: int
) -> None:
    got, told = ask(door, method, path, body)
    assert got == status and told["what"]
    assert ask(door, "GET", "/state")[0] == 200, "and it is still there"


def test_a_file_of_no_told_length_is_not_read(door: http.client.HTTPConnection) -> None:
    door.request("PUT", "/file", iter([b"x" * 1000] * 3), {"X-Name": "egg.zip"}, encode_chunked=True)
    answer = door.getresponse()
    assert answer.status == 413 and "how many" in json.loads(answer.read())["what"]
    assert ask(door, "GET", "/state")[0] == 200


def test_loopback_is_asked_whatever_proxy_is_named(
    door: http.client.HTTPConnection, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("http_proxy", "HTTP_PROXY", "all_proxy"):
        monkeypatch.setenv(name, "http://127.0.0.1:9")
    assert shed.ask(door.port, "GET", "/state")["state"]
