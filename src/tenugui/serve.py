"""Start everything, in order, and stop everything, in reverse."""

from __future__ import annotations

import os
import signal
import sys
import threading
from datetime import datetime
from pathlib import Path

import numpy as np
import uvicorn

from .app.main import make_app
from .core.mesh import cluster, weld
from .demo.load import load_demo, load_machines
from .store.db import Store, migrate
from .store.server import DatabaseServer
from .work.crew import Crew


def tell(text: str) -> None:
    """A line for the person at the terminal."""
    print(text, file=sys.stderr, flush=True)


def warm_up() -> None:
    """Load the compiled loops that an upload needs, so that the first figure does not wait for them."""
    corners = np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]])[[0, 2, 1, 0, 1, 3, 1, 2, 3, 0, 3, 2]]
    cluster(weld(corners), 2)


def serve(demo: bool, port: int) -> int:
    """Database, migrations, demo data when asked and empty, workers, and the address; until Ctrl-C or SIGTERM."""
    state = Path(os.environ.get("TENUGUI_STATE", ".state"))
    signal.signal(signal.SIGTERM, lambda *_: signal.raise_signal(signal.SIGINT))
    database = DatabaseServer(state / "db")
    crew = keeper = None
    ending = threading.Event()
    try:
        address = database.start()
        migrate(address)
        store = Store(address)
        load_machines(store)
        if demo:
            load_demo(store, state / "demo", datetime.now(), tell)
        crew = Crew(address)
        crew.start()
        keeper = threading.Thread(target=_keep_alive, args=(database, address.port, ending))
        keeper.start()
        server = uvicorn.Server(
            uvicorn.Config(make_app(store), host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=2)
        )
        threading.Thread(target=warm_up, daemon=True).start()
        threading.Thread(target=_announce, args=(server, port), daemon=True).start()
        server.run()
    except KeyboardInterrupt:
        pass
    finally:
        ending.set()
        if keeper:
            keeper.join()
        if crew:
            crew.stop()
        database.stop()
    return 0


def _keep_alive(database: DatabaseServer, port: int, ending: threading.Event) -> None:
    """Start the database again, on its port, when it has gone away; pages and workers go on by themselves."""
    while not ending.wait(2.0):
        if database.ended():
            tell("the database went away; starting it again")
            try:
                database.start(port)
            except (RuntimeError, OSError) as problem:
                tell(f"it does not start: {problem}")
                ending.wait(10.0)


def _announce(server: uvicorn.Server, port: int) -> None:
    import time

    while not server.started:
        if server.should_exit:
            return
        time.sleep(0.05)
    print(f"Tenugui is at http://127.0.0.1:{port}/  (Ctrl-C stops it)", flush=True)
