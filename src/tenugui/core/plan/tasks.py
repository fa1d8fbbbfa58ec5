"""Tasks: what is computed, from which inputs, by which code, on what other tasks it rests.

A result is kept under the hash of the task's own inputs and of the code that it rests on (`code`): what was computed by
other code is computed again.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar, cast

import orjson

from ..contract import Document
from .code import fingerprint
from .given import Given
from .shelf import Shelf

Progress = Callable[[float, str], None]
D = TypeVar("D", bound=Document)
G = TypeVar("G", bound=Given)


def quiet(share: float, doing: str) -> None:
    """Nobody listens."""


def within(progress: Progress, low: float, high: float) -> Progress:
    """The progress of a part, told as that of the whole."""
    return lambda share, doing: progress(low + (high - low) * share, doing)


@dataclass(frozen=True)
class Task:
    """`takes`: the model of the inputs that its result depends on; `model`: of its result. `code`: a fingerprint of
    what it runs; `rests_on`: tasks whose results it reads.
    """

    name: str
    code: str
    takes: type[Given]
    model: type[Document]
    run: Callable[[Shelf, Any, Progress], Document]
    rests_on: tuple[str, ...] = ()


_TASKS: dict[str, Task] = {}


def task(
    name: str, takes: type[G], model: type[D], rests_on: tuple[str, ...] = ()
) -> Callable[[Callable[[Shelf, G, Progress], D]], Callable[[Shelf, G, Progress], D]]:
    """Register a function as the task `name`."""

    def register(run: Callable[[Shelf, G, Progress], D]) -> Callable[[Shelf, G, Progress], D]:
        _TASKS[name] = Task(name, fingerprint(run.__module__), takes, model, run, rests_on)
        return run

    return register


def task_of(name: str) -> Task:
    """A task by its name."""
    return _TASKS[name]


def task_names() -> list[str]:
    """All tasks."""
    return sorted(_TASKS)


def _versions(name: str) -> list[Any]:
    task = _TASKS[name]
    return [name, task.code, *[_versions(other) for other in task.rests_on]]


def engine_of(name: str) -> str:
    """SHA-256 of a task's code and of that it rests on."""
    return hashlib.sha256(orjson.dumps(_versions(name))).hexdigest()


def narrowed(name: str, given: Given) -> Given:
    """The inputs that the task takes, of those given."""
    return given.to(_TASKS[name].takes)


def key_of(name: str, given: Given) -> str:
    """SHA-256 of a task, its code and its inputs.

    >>> from .given import MeshGiven, SizedGiven
    >>> key_of("preview", SizedGiven(sha="a", factor=2)) == key_of("preview", MeshGiven(sha="a"))
    True
    """
    whole = [_versions(name), narrowed(name, given).plain()]
    return hashlib.sha256(orjson.dumps(whole, option=orjson.OPT_SORT_KEYS)).hexdigest()


def kept(shelf: Shelf, name: str, given: Given, model: type[D]) -> D | None:
    """The result of a task where it is on the shelf."""
    data = shelf.kept(key_of(name, given))
    return None if data is None else model.loaded(data)


DRAFT = "draft"
"""The kind under which drafts are kept."""


def draft_key(key: str) -> str:
    """Where the draft of a result is kept."""
    return hashlib.sha256(f"{DRAFT} {key}".encode()).hexdigest()


def draft(shelf: Shelf, name: str, given: Given, document: Document) -> None:
    """Put what is known so far of a task's result on the shelf: whoever waits for it may look at that."""
    shelf.keep(draft_key(key_of(name, given)), DRAFT, document.dumped())


def computed(shelf: Shelf, name: str, given: Given, model: type[D], progress: Progress = quiet) -> D:
    """The result of a task, computed and kept where it is not on the shelf; its draft goes with that."""
    result = kept(shelf, name, given, model)
    if result is None:
        result = cast(D, _TASKS[name].run(shelf, narrowed(name, given), progress))
        key = key_of(name, given)
        shelf.keep(key, name, result.dumped())
        shelf.forget(draft_key(key))
    return result
