"""A fingerprint of the code that a task runs: its own module and every module of the core that it comes to by imports.

It stands in the key of each result, so that what was computed by other code is computed again, and nobody has to
remember to say so; and what no task of it reads changes nothing.
"""

from __future__ import annotations

import hashlib
import re
from functools import cache
from pathlib import Path

CORE = Path(__file__).resolve().parents[1]
HERE = Path(__file__).resolve().parent
_IMPORTS = re.compile(r"^[ \t]*from (\.+)([\w.]*) import (\([^)]*\)|[^\n]*)", re.M)
_NAMES = re.compile(r"(?<!as )\b(?!as\b)\w+")
PLAIN = "contract"
"""A package whose front only hands on what its modules define: nothing is registered by importing it. Of other
packages all comes that their front imports, since a source of hazards is one by being imported.
"""


@cache
def _handed_on(package: Path) -> dict[str, Path]:
    """Which module defines each name that a package's front hands on."""
    front = (package / "__init__.py").read_text()
    return {
        name: package.parents[len(dots) - 2].joinpath(*module.split(".")).with_suffix(".py")
        if len(dots) > 1
        else package / f"{module}.py"
        for dots, module, names in _IMPORTS.findall(front)
        if module
        for name in _NAMES.findall(names)
    }


@cache
def _read(file: Path) -> tuple[str, frozenset[Path]]:
    """The hash of a source, and the sources that it imports by name."""
    text = file.read_text()
    imported = set[Path]()
    for dots, path, names in _IMPORTS.findall(text):
        at = file.parents[len(dots) - 1].joinpath(*path.split(".")) if path else file.parents[len(dots) - 1]
        if at == CORE / PLAIN:
            from_front = _handed_on(at)
            asked = [from_front.get(name, at / f"{name}.py") for name in _NAMES.findall(names)]
            imported.update(source if source.is_file() else at / "__init__.py" for source in asked)
            continue
        # A name of a package may be a module of it; what a package's own front says comes with each of its modules.
        found = [at.with_suffix(".py"), at / "__init__.py"]
        if at.is_dir():
            found += [at / f"{name}.py" for name in _NAMES.findall(names)]
        elif at.parent != CORE / PLAIN:
            found.append(at.parent / "__init__.py")
        imported.update(source for source in found if source.is_file() and source != file)
    return hashlib.sha256(text.encode()).hexdigest(), frozenset(s for s in imported if CORE in s.parents)


def sources_from(module: str) -> dict[str, str]:
    """Hashes of a module of the pipeline and of all of the core that it comes to, by path; what the pipeline's own
    front imports is no part of it, since that is every task.
    """
    sources: dict[str, str] = {}
    waiting = {HERE / f"{module}.py"}
    while waiting:
        file = waiting.pop()
        name = str(file.relative_to(CORE))
        if name not in sources and file != HERE / "__init__.py":
            sources[name], more = _read(file)
            waiting |= more
    return sources


@cache
def fingerprint(module: str) -> str:
    """Of a module of the pipeline, by its full name; of any other its name."""
    package, _, name = module.rpartition(".")
    if package != __name__.rpartition(".")[0]:
        return module
    whole = hashlib.sha256()
    for path, code in sorted(sources_from(name).items()):
        whole.update(f"{path}\0{code}\n".encode())
    return whole.hexdigest()[:16]
