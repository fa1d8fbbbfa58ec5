"""A worker process: claims a job, computes, reports; lets go at once when the job is cancelled."""

from __future__ import annotations

import os
import signal
import socket
import sys
import threading
import time

import structlog

from ..core.errors import CoreError
from ..store import jobs
from ..store.db import Row, Store, StoreError, address_from_environment
from .tasks import TASKS

BEAT_SECONDS = 0.5
CANCELLED_EXIT = 17
log = structlog.get_logger()


class Heart(threading.Thread):
    """Beats while a job runs. A cancelled computation cannot be asked to stop inside a compiled loop, so its process ends and the crew starts another."""

    def __init__(self, store: Store, job: int, name: str) -> None:
        super().__init__(daemon=True)
        self.store, self.job, self.worker = store, job, name
        self.share, self.doing = 0.0, ""
        self.done = threading.Event()

    def report(self, share: float, doing: str) -> None:
        """Called by the task."""
        self.share, self.doing = share, doing

    def run(self) -> None:
        """Beat until done."""
        while not self.done.wait(BEAT_SECONDS):
            try:
                wanted = jobs.beat(self.store, self.job, self.worker, self.share, self.doing)
            except StoreError as problem:
                log.warning("no heartbeat", job=self.job, problem=problem.code)
                continue
            if not wanted and not self.done.is_set():
                jobs.end(self.store, self.job, self.worker, "cancelled")
                os._exit(CANCELLED_EXIT)


def compute(store: Store, job: Row, name: str) -> None:
    """Compute one claimed job and leave its result or its problem."""
    heart = Heart(store, job["id"], name)
    heart.start()
    began = time.monotonic()
    try:
        if jobs.result(store, job["result_key"]) is None:
            jobs.keep_result(store, job["result_key"], job["kind"], TASKS[job["kind"]](store, job["input"], heart.report))
        state, problem = "done", None
    except CoreError as refused:
        state, problem = "failed", {"code": refused.code, "what": refused.what, "where": refused.where, "remedy": refused.remedy}
    except StoreError as refused:
        if refused.code == "database-away":
            heart.done.set()
            raise
        state, problem = "failed", {"code": refused.code, "what": refused.what, "where": "", "remedy": refused.remedy}
    except MemoryError:
        state, problem = (
            "failed",
            {
                "code": "out-of-memory",
                "what": "The figure needs more memory than this machine has.",
                "where": "",
                "remedy": "Decimate it, or choose a coarser layer height.",
            },
        )
    except Exception as fault:
        log.exception("task failed", job=job["id"], kind=job["kind"])
        state, problem = (
            "failed",
            {
                "code": "fault",
                "what": f"The computation failed: {type(fault).__name__}: {fault}",
                "where": job["kind"],
                "remedy": "This is a defect of Tenugui; nothing of yours was changed. The log has the details.",
            },
        )
    heart.done.set()
    heart.join()
    jobs.end(store, job["id"], name, state, problem)
    log.info("job ended", job=job["id"], kind=job["kind"], state=state, seconds=round(time.monotonic() - began, 2))


def main() -> None:
    """Work until told to stop; survive a database that goes away and comes back."""
    signal.signal(signal.SIGTERM, lambda *_: os._exit(0))
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is the launcher's to handle
    os.nice(10)  # the server and the person's browser come first
    store = Store(address_from_environment())
    name = f"{socket.gethostname()}-{os.getpid()}"
    while True:
        try:
            job = jobs.claim(store, name)
            if job is None:
                time.sleep(0.25)
                continue
            compute(store, job, name)
        except StoreError as problem:
            log.warning("waiting for the database", problem=problem.code)
            time.sleep(1.0)


if __name__ == "__main__":
    sys.exit(main())
