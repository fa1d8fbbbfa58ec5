"""Whether the disk has room left: a database that fills it up stops in the middle of somebody's work, so nothing new is
begun before that.
"""

from __future__ import annotations

import os
import shutil
from pathlib import Path

from .db import StoreError

LEAST_MB = 300
"""Less free than this and no work is taken, no file let in. `TENUGUI_LEAST_MB` sets another, for trials."""


def shortage() -> StoreError | None:
    """What to say where the disk that holds the bench is nearly full; None where there is room."""
    folder = Path(os.environ.get("TENUGUI_STATE", "."))
    least = float(os.environ.get("TENUGUI_LEAST_MB", LEAST_MB))
    try:
        free = shutil.disk_usage(folder).free / 2**20
    except OSError:
        return None  # what cannot be read is the database's to tell
    if free >= least:
        return None
    return StoreError(
        "disk-full",
        f"The disk of the bench has {free:.0f} MB left, less than the {least:.0f} MB that it wants.",
        "Free some: nothing of yours is lost, nothing new is begun, and waiting work goes on by itself.",
        507,
    )
