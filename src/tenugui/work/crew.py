"""The crew: keeps worker processes alive, beats for them from outside, and ends the one whose job is cancelled or takes
too long.

A computation cannot be asked to stop inside a compiled loop or a library that holds the interpreter's lock, so its
process is ended.
"""

from __future__ import annotations

import signal
import threading
from multiprocessing.context import ForkServerProcess

import structlog

from ..store import jobs
from ..store.db import Store, StoreError, address_to_environment
from ..store.server import Address
from .forked import started
from .worker import main

WORKERS = 2
STOPPED = (0, -signal.SIGTERM)
"""How a worker ends that was told to."""
LIMIT_SECONDS = 1800
"""A computation that takes longer is ended and says so."""
log = structlog.get_logger()


class Crew(threading.Thread):
    """Starts workers and starts another for each that ends, until stopped."""

    def __init__(self, address: Address, count: int = WORKERS, limit: float = LIMIT_SECONDS) -> None:
        super().__init__(daemon=True)
        self._environment = address_to_environment(address)
        self._store = Store(address)
        self._count, self._limit = count, limit
        self._workers: list[ForkServerProcess] = []
        self._names: dict[int, str] = {}
        self._ending = threading.Event()

    def run(self) -> None:
        """Look after the workers twice a second."""
        try:
            jobs.take_back(self._store)
        except StoreError as problem:
            log.warning("the crew waits for the database", problem=problem.code)
        while not self._ending.is_set():
            try:
                self._let_go()
            except StoreError as problem:
                log.warning("the crew waits for the database", problem=problem.code)
            while len(self._workers) < self._count and not self._ending.is_set():
                self._start_one()
            try:
                for worker in self._workers:
                    self._look_after(worker)
            except StoreError as problem:
                log.warning("the crew waits for the database", problem=problem.code)
            self._ending.wait(0.5)

    def _let_go(self) -> None:
        """Workers that have ended: one that was told to stop gives its job back, one that ended by itself is held
        against its job.
        """
        for worker in [w for w in self._workers if not w.is_alive()]:
            name = self._called(worker)
            (jobs.give_back if worker.exitcode in STOPPED else jobs.died)(self._store, name)
            self._workers.remove(worker)
            del self._names[worker.pid or 0]

    def _called(self, worker: ForkServerProcess) -> str:
        """Its name, which nobody can tell any more once it has ended."""
        return self._names[worker.pid or 0]

    def _start_one(self) -> None:
        worker = started(main, "tenugui-worker", env=self._environment)
        assert worker.pid is not None  # it has been started
        self._workers.append(worker)
        self._names[worker.pid] = jobs.worker_name(worker.pid)

    def _look_after(self, worker: ForkServerProcess) -> None:
        name = self._called(worker)
        job = jobs.running_by(self._store, name)
        if job is None:
            return
        too_long = (job["seconds"] or 0) > self._limit
        if not job["cancel_wanted"] and not too_long:
            if worker.is_alive():
                jobs.alive(self._store, name)
            return
        worker.kill()
        worker.join(10)
        if job["cancel_wanted"]:
            jobs.end(self._store, job["id"], name, "cancelled")
            return
        problem = {
            "code": "too-long",
            "what": f"The computation took more than {self._limit / 60:.0f} minutes and was ended.",
            "where": "",
            "remedy": "Bring in a thinner copy of the figure, make it smaller, or choose a coarser layer height.",
        }
        jobs.end(self._store, job["id"], name, "failed", problem)

    def stop(self) -> None:
        """End all workers; what they were doing waits for the next start."""
        self._ending.set()
        self.join()
        for worker in self._workers:
            worker.terminate()
        for worker in self._workers:
            worker.join(5)
            if worker.is_alive():
                worker.kill()
                worker.join()
        try:
            for worker in self._workers:
                jobs.give_back(self._store, self._called(worker))
        except StoreError as problem:  # the next start takes it back
            log.warning("jobs are not given back", problem=problem.code)
        self._store.close()
