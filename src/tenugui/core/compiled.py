"""How the core compiles its loops: cached on disk, free of the interpreter lock, with exact floating point but
where a loop says otherwise."""

from __future__ import annotations

import itertools
import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import TypeVar

import numba

T = TypeVar("T")
CORES = max(1, len(os.sched_getaffinity(0)))

njit = partial(numba.njit, cache=True, nogil=True, error_model="numpy", no_cfunc_wrapper=True)
loose = partial(njit, fastmath={"contract", "reassoc", "nsz", "arcp"})
"""Sums may be reordered here, so that several of their terms are added at once: where each stands for an area or a mean
on a mesh, not for a bit pattern.
"""


def both_cores(task: Callable[..., T], parts: Sequence[tuple[object, ...]]) -> list[T]:
    """Run `task(*part)` for every part on threads; compiled loops release the lock, so they truly run side by side."""
    if len(parts) < 2:
        return [task(*part) for part in parts]
    with ThreadPoolExecutor(min(CORES, len(parts))) as pool:
        return list(pool.map(lambda part: task(*part), parts))


def stretches(count: int) -> list[tuple[int, int]]:
    """[0, count) in stretches for the cores, twice as many as there are, since some take longer.

    >>> stretches(0), stretches(1)
    ([], [(0, 1)])
    """
    marks = [count * k // (2 * CORES) for k in range(2 * CORES + 1)]
    return [(a, b) for a, b in itertools.pairwise(marks) if b > a]
