"""The crew: keeps a set number of worker processes alive."""

from __future__ import annotations

import os
import subprocess
import sys
import threading

from ..store.db import address_to_environment
from ..store.server import Address, die_with_parent

WORKERS = 2


class Crew(threading.Thread):
    """Starts workers and starts another for each that ends, until stopped."""

    def __init__(self, address: Address, count: int = WORKERS) -> None:
        super().__init__(daemon=True)
        self._environment = {**os.environ, **address_to_environment(address)}
        self._count = count
        self._workers: list[subprocess.Popen[bytes]] = []
        self._ending = threading.Event()

    def run(self) -> None:
        """Look after the workers twice a second."""
        while not self._ending.is_set():
            self._workers = [w for w in self._workers if w.poll() is None]
            while len(self._workers) < self._count and not self._ending.is_set():
                self._workers.append(
                    subprocess.Popen(
                        [sys.executable, "-m", "tenugui.work.worker"],
                        env=self._environment,
                        start_new_session=True,
                        preexec_fn=die_with_parent,
                    )
                )
            self._ending.wait(0.5)

    def stop(self) -> None:
        """End all workers; what they were doing is taken up again at the next start."""
        self._ending.set()
        self.join()
        for worker in self._workers:
            worker.terminate()
        for worker in self._workers:
            worker.wait(10)
