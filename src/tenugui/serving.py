"""The application as it runs: the page is served as soon as it can be; all else are jobs that it shows."""

from __future__ import annotations

import shutil
import threading
import time
from datetime import datetime
from pathlib import Path

import uvicorn

from .app.main import make_app, own_hosts
from .demo.load import ask_for_demo, load_machines
from .demo.season import load_series, load_stock
from .store.db import Store, StoreError, migrate
from .store.nightly import Nightly
from .store.server import Address, DatabaseServer, tell
from .store.tidy import tidy
from .work.crew import Crew
from .work.upkeep import ask_for_upkeep


def until_stopped(database: DatabaseServer, address: Address, state: Path, *, demo: bool, port: int) -> None:
    """Migrations, demo jobs when asked, workers, and the address; until it is interrupted. What it started, it ends."""
    crew = keeper = None
    ending = threading.Event()
    try:
        migrate(address)
        store = Store(address)
        load_machines(store)
        if demo:
            load_series(store)
            load_stock(store, datetime.now())
        if demo and ask_for_demo(store):
            tell("the demo's figures are sculpted and planned as jobs; the bench shows how far they are")
        uploads = _fresh(state / "uploads")
        crew = Crew(address)
        crew.start()
        keeper = threading.Thread(target=_keep_alive, args=(database, address.port, ending))
        keeper.start()
        nightly = Nightly(store, (state / "db").resolve(), (state / "backups").resolve())
        app = make_app(store, own_hosts(port), uploads=uploads, nightly=nightly)
        server = uvicorn.Server(
            uvicorn.Config(
                app, host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=2, server_header=False
            )
        )
        threading.Thread(target=_announce, args=(server, port), daemon=True).start()
        threading.Thread(target=_upkeep, args=(store, ending), daemon=True).start()
        threading.Thread(target=nightly.run, args=(ending,), daemon=True).start()
        server.run()
    finally:
        ending.set()
        if keeper:
            keeper.join()
        if crew:
            crew.stop()


def _fresh(folder: Path) -> Path:
    """An empty folder: what a killed start left of its uploads goes."""
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True, exist_ok=True)
    return folder.resolve()


DAY_SECONDS = 24 * 3600.0


def _upkeep(store: Store, ending: threading.Event) -> None:
    """Ask for what an older engine has left behind; then, and once a day while it runs, free what nothing names."""
    try:
        ask_for_upkeep(store)
    except StoreError as problem:
        tell(f"upkeep waits for the next start: {problem}")
    while True:
        try:
            tidy(store)
        except StoreError as problem:
            tell(f"tidying waits for another day: {problem}")
        if ending.wait(DAY_SECONDS):
            return


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
    while not server.started:
        if server.should_exit:
            return
        time.sleep(0.05)
    print(f"Tenugui is at http://127.0.0.1:{port}/  (Ctrl-C stops it)", flush=True)
