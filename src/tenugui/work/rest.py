"""What an idle worker gives back: the figures that it remembers, and the memory that its allocator keeps."""

from __future__ import annotations

import ctypes
import gc
import os
from pathlib import Path

from ..core.plan import Memory

REST_SECONDS = 8.0
"""A worker that was not asked for anything for so long gives back what is beyond MOST_BYTES."""
MOST_BYTES = 600_000_000


def resident_bytes() -> int:
    """Memory of this process that is in use now, what it shares with others counted too."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")


def rested(memory: Memory, most: int = MOST_BYTES) -> bool:
    """Give back what is beyond `most` bytes; False where it stays beyond, and only a new process is smaller. What is
    below stays as it is, so that the next fold finds its figure at hand.
    """
    if resident_bytes() <= most:
        return True
    memory.clear()
    gc.collect()
    ctypes.CDLL(None).malloc_trim(0)
    return resident_bytes() <= most
