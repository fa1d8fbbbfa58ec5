"""A fingerprint of the code that a task runs: its own module, those of the pipeline that it reads, and every room of
the core that these come to.

It stands in the key of each result, so that what was computed by other code is computed again, and nobody has to
remember to say so.
"""

from __future__ import annotations

import hashlib
import re
from functools import cache
from pathlib import Path

CORE = Path(__file__).resolve().parents[1]
HERE = Path(__file__).resolve().parent
_ROOMS = re.compile(r"^\s*from \.\.(\w+)", re.M)
_BESIDE = re.compile(r"^\s*from \.(\w+) import", re.M)


@cache
def _room(name: str) -> tuple[str, frozenset[str]]:
    """A room's (or a single file's) own hash, and the rooms that it imports."""
    folder = CORE / name
    files = sorted(folder.rglob("*.py")) if folder.is_dir() else [folder.with_suffix(".py")]
    digest, named = hashlib.sha256(), set[str]()
    for file in files:
        text = file.read_text()
        digest.update(text.encode())
        named.update(_ROOMS.findall(text) if folder.is_dir() else _BESIDE.findall(text))
    return digest.hexdigest(), frozenset(named - {name})


def rooms_from(names: set[str]) -> dict[str, str]:
    """Hashes of rooms and of all that they come to, by name."""
    rooms: dict[str, str] = {}
    waiting = set(names)
    while waiting:
        name = waiting.pop()
        if name not in rooms:
            rooms[name], more = _room(name)
            waiting |= more
    return rooms


def modules_from(module: str) -> dict[str, str]:
    """Sources of a module of the pipeline and of all beside it that it reads, by name."""
    modules: dict[str, str] = {}
    waiting = {module}
    while waiting:
        name = waiting.pop()
        file = HERE / f"{name}.py"
        if name not in modules and file.exists():
            modules[name] = file.read_text()
            waiting |= set(_BESIDE.findall(modules[name]))
    return modules


@cache
def fingerprint(module: str) -> str:
    """Of a module of the pipeline, by its full name; of any other its name."""
    package, _, name = module.rpartition(".")
    if package != __name__.rpartition(".")[0]:
        return module
    sources = modules_from(name)
    rooms = rooms_from({room for text in sources.values() for room in _ROOMS.findall(text)})
    whole = hashlib.sha256()
    for key, text in sorted({**sources, **{f"../{room}": code for room, code in rooms.items()}}.items()):
        whole.update(f"{key}\0{hashlib.sha256(text.encode()).hexdigest()}\n".encode())
    return whole.hexdigest()[:16]
