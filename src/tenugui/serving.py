"""The application as it runs: the page is served as soon as it can be; all else are jobs that it shows."""

from __future__ import annotations

import shutil
import threading
import time
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any, ClassVar

import uvicorn

from .app.main import make_app, own_hosts
from .demo.load import ask_for_demo, load_machines
from .demo.season import load_series, load_stock
from .store import people
from .store.certificate import certificate
from .store.db import Store, StoreError, migrate
from .store.nightly import Nightly
from .store.server import Address, DatabaseServer, tell
from .store.tidy import tidy
from .work.crew import Crew
from .work.upkeep import ask_for_upkeep


@dataclass(frozen=True)
class OnLoopback:
    """A bench for whoever sits at the computer: its own browser alone reaches it."""

    port: int
    asks: ClassVar[bool] = False

    @property
    def hosts(self) -> frozenset[str]:
        """The names that it answers to."""
        return own_hosts(self.port)

    @property
    def address(self) -> str:
        """What a browser is given."""
        return f"http://127.0.0.1:{self.port}"

    def config(self) -> dict[str, Any]:
        """Where and how the server listens."""
        return {"host": "127.0.0.1", "port": self.port}

    def ready(self, store: Store) -> None:
        """Nothing to tell before anybody comes."""


@dataclass(frozen=True)
class Opened:
    """A bench that is open to the house at `name`, an address of this computer: encrypted, and asking who comes."""

    port: int
    name: str
    folder: Path
    invited: str | None
    asks: ClassVar[bool] = True

    @property
    def _shown(self) -> str:
        return f"[{self.name}]" if ":" in self.name else self.name

    @property
    def hosts(self) -> frozenset[str]:
        """The names that it answers to."""
        return frozenset({f"{self._shown}:{self.port}", *((self._shown,) if self.port == HTTPS else ())})

    @property
    def address(self) -> str:
        """What a browser is given."""
        return f"https://{self._shown}:{self.port}"

    def config(self) -> dict[str, Any]:
        """Where and how the server listens."""
        held = certificate(self.folder, self.name)
        tell(f"the certificate's SHA-256 is {held.fingerprint}")
        return {
            "host": self.name,
            "port": self.port,
            "ssl_certfile": str(held.path),
            "ssl_keyfile": str(held.key),
            "proxy_headers": False,
        }

    def ready(self, store: Store) -> None:
        """Print an invitation where nobody keeps the bench yet, and where one was asked for.

        Raises:
            StoreError: `no-person`.
        """
        person = None
        if self.invited:
            there = [p["id"] for p in people.every(store) if p["name"] == self.invited and p["left_at"] is None]
            if not there:
                raise StoreError("no-person", f"Nobody here is called {self.invited}.", "See the page of people.", 404)
            person = int(there[0])
        if self.invited is not None or not people.has_keeper(store):
            token = people.invite(store, "keeper", datetime.now(), person=person)
            print(f"Works once, within three days: {self.address}/invited#{token}", flush=True)


HTTPS = 443
Place = OnLoopback | Opened


def until_stopped(database: DatabaseServer, address: Address, state: Path, *, demo: bool, place: Place) -> None:
    """Migrations, demo jobs when asked, workers, and the address; until it is interrupted. What it started, it ends."""
    crew = keeper = None
    ending = threading.Event()
    try:
        migrate(address)
        store = Store(address)
        load_machines(store)
        place.ready(store)
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
        app = make_app(store, place.hosts, uploads=uploads, nightly=nightly, open_to_the_house=place.asks)
        server = uvicorn.Server(
            uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=2, server_header=False, **place.config())
        )
        threading.Thread(target=_announce, args=(server, place), daemon=True).start()
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


def _announce(server: uvicorn.Server, place: Place) -> None:
    while not server.started:
        if server.should_exit:
            return
        time.sleep(0.05)
    print(f"Tenugui is at {place.address}/  (Ctrl-C stops it)", flush=True)
