"""A process that reads one file and ends, so that its time, its memory and its faults stay its own.

It is told where the file lies, where to leave what was read, and the limits. One JSON document comes out: what was
read, or why it was refused.
"""

from __future__ import annotations

import json
import os
import resource
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from .core.errors import CoreError
from .core.formats import FormatError, Limits, pack_whole, read
from .core.formats.preview import SIGHT_FACES, pack_labels, pack_mesh
from .core.mesh import Mesh, cluster, fit_for_work
from .core.repair import thin

MEMORY_BYTES = 12 * 2**30


def read_file(asked: dict[str, Any]) -> dict[str, Any]:
    """Every part with a first sight: the intake's finer preview takes its place. A part of several, or a thinner copy,
    carries its own mesh.
    """
    out = Path(asked["out"])
    with open(asked["path"], "rb") as handle:
        read_in = read(handle, Limits(**asked["limits"]))
    alone = len(read_in.parts) == 1
    parts = []
    for index, (name, mesh) in enumerate(read_in.parts.items()):
        parts.append(
            _part(out / str(index), name, mesh, labels=read_in.marks.get(name), alone=alone, thin_to=asked["thin_to"])
        )
    if read_in.settings is not None and alone and not parts[0]["thinned"]:
        (out / "0-settings").write_bytes(_settings(read_in.settings))
        parts[0]["files"].append("settings")
    return {"unit": read_in.unit, "placed": read_in.placed, "parts": parts}


def _settings(text: str) -> bytes:
    """A plan's settings, checked.

    Raises:
        FormatError: `bad-settings`.
    """
    # Seldom wanted, and long to load.
    from .core.contract import SettingsDoc, check_came

    try:
        settings = SettingsDoc.loaded(text.encode())
        check_came(settings.supports)
        return settings.dumped()
    except ValueError as reason:
        raise FormatError(
            "bad-settings",
            "The file says that it was written from a plan, and the plan's settings in it cannot be read.",
            "the 3MF's settings",
            "Export it again from the plan, or bring the figure in as STL.",
        ) from reason


def _part(stem: Path, name: str, mesh: Mesh, *, labels: Any, alone: bool, thin_to: int | None) -> dict[str, Any]:
    copy = None if thin_to is None else thin(mesh, thin_to)
    if copy is not None and copy.mesh is mesh:
        copy = None
    kept = mesh if copy is None else copy.mesh
    thinned = None if copy is None else {"before": copy.before, "deviation": copy.deviation, "usual": copy.usual}
    files = {"sight": pack_mesh(cluster(fit_for_work(kept).mesh, SIGHT_FACES))}
    if not alone or copy is not None:
        files["whole"] = pack_whole(kept)
    if labels is not None and copy is None:
        files["marks"] = pack_labels(labels)
    for kind, data in files.items():
        stem.with_name(f"{stem.name}-{kind}").write_bytes(data)
    return {"name": name, "triangles": len(kept.faces), "thinned": thinned, "files": sorted(files)}


def main(pipe: Connection, asked: dict[str, Any]) -> None:
    """Read what is asked for, and send what was read down the pipe; it ends with that."""
    os.nice(10)  # the server and the person's browser come first
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    try:
        answer: dict[str, Any] = {"read": read_file(asked)}
    except CoreError as refused:
        answer = {
            "refused": {"code": refused.code, "what": refused.what, "where": refused.where, "remedy": refused.remedy}
        }
    except MemoryError:
        remedy = "Decimate the figure first, or bring in a thinner copy."
        what = f"Reading the file takes more than {MEMORY_BYTES / 2**30:.0f} GB of memory."
        answer = {"refused": {"code": "out-of-memory", "what": what, "where": "", "remedy": remedy}}
    pipe.send_bytes(json.dumps(answer).encode())
