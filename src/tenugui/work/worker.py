"""A worker process: claims a job, computes, reports. Its crew ends it when its job is cancelled or takes too long, and
starts another.
"""

from __future__ import annotations

import math
import multiprocessing
import os
import resource
import signal
import sys
import threading
import time
from typing import Any

import structlog
from pydantic import ValidationError

from ..core.contract import IntakeDoc
from ..core.errors import CoreError
from ..core.plan import computed, key_of, task_names, task_of
from ..core.plan.given import Given, MarkGiven, MeshGiven
from ..store import figures, jobs
from ..store.db import Row, Store, StoreError, address_from_environment
from ..store.room import shortage
from . import kit_size
from .deeds import CHORES
from .folds import want
from .rest import REST_SECONDS, rested
from .shelf import StoreShelf

REPORT_SECONDS = 0.5
SWITCH_SECONDS = 0.0002
"""Two things that are computed side by side call compiled code thousands of times, and wait for the interpreter after
each call: not 5 ms.
"""
MEMORY_BYTES = 14 * 2**30
"""Address space of a worker; beyond it a computation fails by itself and leaves the machine alone."""
log = structlog.get_logger()


class Reporter(threading.Thread):
    """Reports progress while a job runs."""

    def __init__(self, store: Store, job: int, name: str) -> None:
        super().__init__(daemon=True)
        self.store, self.job, self.worker = store, job, name
        self.share, self.doing = 0.0, ""
        self.done = threading.Event()

    def report(self, share: float, doing: str) -> None:
        """Called by the task."""
        self.share, self.doing = share, doing

    def run(self) -> None:
        """Report until done."""
        while not self.done.wait(REPORT_SECONDS):
            try:
                jobs.report(self.store, self.job, self.worker, self.share, self.doing)
            except StoreError as problem:
                log.warning("not reported", job=self.job, problem=problem.code)


def _problem(code: str, what: str, where: str = "", remedy: str = "") -> dict[str, Any]:
    return {"code": code, "what": what, "where": where, "remedy": remedy}


def _run(shelf: StoreShelf, job: Row, reporter: Reporter) -> None:
    kind, asked = job["kind"], job["input"]
    if kind in CHORES:
        CHORES[kind](shelf, asked, reporter.report)
        return
    given = _given(kind, asked)
    if given is None or key_of(kind, given) != job["result_key"]:
        raise CoreError(
            "outdated", "This computation was asked for by another version of the engine.", kind, "Ask for it again."
        )
    document = computed(shelf.about(given.mesh), kind, given, task_of(kind).model, reporter.report)
    if isinstance(document, IntakeDoc) and isinstance(given, MeshGiven):
        figures.examined(shelf.store, given.sha, document.picture_sha, document.ready.sha)
        if document.ready.refused is None:
            kit_size.late(shelf.store, given.sha)
        sha, up = document.ready.sha or given.sha, document.upright.ups[0].up
        _look_around(shelf.store, job, MarkGiven(sha=sha, up=up))


def _given(kind: str, asked: dict[str, Any]) -> Given | None:
    """A job's inputs; None where this engine has no such task, or it takes others."""
    if kind not in task_names():
        return None
    try:
        return task_of(kind).takes.model_validate(asked)
    except ValidationError:
        return None


def _look_around(store: Store, job: Row, given: MarkGiven) -> None:
    """What a figure says of itself is wanted by every later fold, and takes longer than most people take to choose a
    size.
    """
    if job["figure_id"] is not None:
        name = figures.one(store, job["figure_id"])["name"]
        want(store, "proposals", given, f"Looking at {name} from around the table", job["figure_id"])


def compute(store: Store, job: Row, name: str, shelf: StoreShelf | None = None) -> None:
    """Compute one claimed job and leave its result or its problem."""
    reporter = Reporter(store, job["id"], name)
    reporter.start()
    began = time.monotonic()
    problem: dict[str, Any] | None = None
    try:
        _run(shelf or StoreShelf(store), job, reporter)
    except CoreError as refused:
        problem = _problem(refused.code, refused.what, refused.where, refused.remedy)
    except StoreError as refused:
        if refused.code == "database-away":
            reporter.done.set()
            raise
        problem = _problem(refused.code, refused.what, "", refused.remedy)
    except MemoryError:
        problem = _problem(
            "out-of-memory",
            "The figure needs more memory than a computation may take.",
            job["kind"],
            "Bring in a thinner copy of it, or choose a coarser layer height.",
        )
    except Exception as fault:
        log.exception("task failed", job=job["id"], kind=job["kind"])
        problem = _problem(
            "fault",
            f"The computation failed: {type(fault).__name__}: {fault}",
            job["kind"],
            "This is a defect of Tenugui; nothing of yours was changed. The log has the details.",
        )
    reporter.done.set()
    reporter.join()
    if problem is not None and job["kind"] == "intake":
        figures.troubled(store, job["input"]["sha"], problem)
    jobs.end(store, job["id"], name, "done" if problem is None else "failed", problem)
    log.info(
        "job ended",
        job=job["id"],
        kind=job["kind"],
        problem=problem and problem["code"],
        seconds=round(time.monotonic() - began, 2),
    )


def main() -> None:
    """Work until told to stop; survive a database that goes away and comes back. Ends by itself where it holds more
    than an idle worker may, and its crew starts another; and where its crew's process was killed.
    """
    crew = multiprocessing.parent_process()
    signal.signal(signal.SIGTERM, lambda *_: os._exit(0))
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is the launcher's to handle
    sys.setswitchinterval(SWITCH_SECONDS)
    os.nice(10)  # the server and the person's browser come first
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    store = Store(address_from_environment())
    shelf, name = StoreShelf(store), jobs.worker_name(os.getpid())
    unfinished, worked_at = False, math.inf
    while crew is None or crew.is_alive():
        if shortage() is not None:
            time.sleep(1.0)
            continue
        try:
            if unfinished:  # what was under way when the database went away is nobody's now, though its worker lives
                jobs.give_back(store, name)
                unfinished = False
            job = jobs.claim(store, name)
            if job is None:
                if time.monotonic() - worked_at > REST_SECONDS:
                    if not rested(shelf.memory):
                        return
                    worked_at = math.inf
                time.sleep(0.2)
                continue
            compute(store, job, name, shelf)
            worked_at = time.monotonic()
        except StoreError as problem:
            log.warning("waiting for the database", problem=problem.code)
            unfinished = True
            time.sleep(1.0)


if __name__ == "__main__":
    main()
