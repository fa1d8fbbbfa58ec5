"""Processes that are ready at once: one that has everything loaded waits, and forks.

A worker or a reader of its own takes three seconds to load what it computes with; forked it takes a few hundredths, and
shares what was loaded with all others. The one that forks has a single thread and does nothing else (Python's
`forkserver`).
"""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable, Mapping
from multiprocessing import forkserver
from multiprocessing.context import ForkServerProcess
from typing import Any

from ..store.server import die_with_parent, named

LOADS = "tenugui.preloaded"
"""The module that the one that forks imports."""
context = multiprocessing.get_context("forkserver")
context.set_forkserver_preload([LOADS])


def begin() -> None:
    """Have the one that forks load; it takes seconds, and nobody waits for it."""
    forkserver.ensure_running()


def started(run: Callable[..., Any], name: str, *given: Any, env: Mapping[str, str] | None = None) -> ForkServerProcess:
    """A process of its own, in its own session, that runs `run(*given)` and dies with us; `env`: what it is told
    besides our own environment.
    """
    process = context.Process(target=_live, args=(run, name, {**os.environ, **(env or {})}, given), daemon=False)
    process.start()
    return process


def _live(run: Callable[..., Any], name: str, env: dict[str, str], given: tuple[Any, ...]) -> None:
    """What the newborn does first; it leaves without taking down what it shares."""
    os.setsid()
    die_with_parent()
    named(name)
    os.environ.clear()
    os.environ.update(env)
    run(*given)
    os._exit(0)
