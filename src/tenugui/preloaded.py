"""What is loaded once for all processes that compute: imported by the one that forks them, which has no thread."""

from __future__ import annotations

import gc

import numpy as np

from . import reader, worker
from .core.mesh import weld

# The first call of a compiled loop readies the compiler's tables.
weld(np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]], np.float32)[[0, 2, 1, 0, 1, 3, 1, 2, 3, 0, 3, 2]])
gc.collect()
gc.freeze()  # what is shared is not looked through, and so stays shared

__all__ = ["reader", "worker"]
