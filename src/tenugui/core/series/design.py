"""Cells of a series, those that are missing, and factors that move together."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .spec import Spec

F8 = NDArray[np.float64]
I8 = NDArray[np.int64]
MOST_TOGETHER = 3
"""So many factors are looked at together: who confounds more has no design."""


@dataclass(frozen=True)
class Cell:
    """By which level of each factor it is, and how many specimens it has."""

    levels: tuple[int, ...]
    runs: int


def every(spec: Spec) -> list[tuple[int, ...]]:
    """All cells that there could be, in the order of the factors."""
    return list(itertools.product(*(range(len(levels)) for levels in spec.factors.values())))


def planned(spec: Spec) -> list[tuple[int, ...]]:
    """The cells that are to be printed."""
    if spec.cells is None:
        return every(spec)
    return [tuple(spec.index(name, cell[name]) for name in spec.factors) for cell in spec.cells]


def cells_of(spec: Spec, rows: I8 | None) -> list[Cell]:
    """Planned cells with their runs: as many as are to be made, or as there are `rows` (n, factors) of levels; and
    cells that nobody planned and somebody printed.
    """
    if rows is None:
        return [Cell(levels, spec.repeats) for levels in planned(spec)]
    counted: dict[tuple[int, ...], int] = dict.fromkeys(planned(spec), 0)
    for row in rows.tolist():
        counted[tuple(row)] = counted.get(tuple(row), 0) + 1
    return [Cell(levels, runs) for levels, runs in counted.items()]


def missing(spec: Spec, cells: Sequence[Cell]) -> list[tuple[int, ...]]:
    """Cells of the whole grid that have no specimen."""
    there = {cell.levels for cell in cells if cell.runs}
    return [levels for levels in every(spec) if levels not in there]


def columns(levels: I8, many: Sequence[int]) -> F8:
    """Indicator columns (n, sum of many - 1) of rows (n, factors): of each factor all levels but the first."""
    parts = [(levels[:, k, None] == np.arange(1, count)).astype(float) for k, count in enumerate(many)]
    return np.concatenate(parts, axis=1)


def aliased(spec: Spec, cells: Sequence[Cell]) -> list[tuple[str, ...]]:
    """Sets of factors whose effects nobody can tell apart in these cells, the smallest first: their columns together
    have less rank than each by itself. None that holds a smaller one.
    """
    rows = np.array([cell.levels for cell in cells if cell.runs], np.int64).reshape(-1, len(spec.factors))
    names, many = list(spec.factors), [len(v) for v in spec.factors.values()]
    if not len(rows):
        return []

    def rank(chosen: Sequence[int]) -> int:
        told = columns(rows[:, list(chosen)], [many[k] for k in chosen])
        return int(np.linalg.matrix_rank(np.column_stack([np.ones(len(rows)), told]))) - 1

    varied = [k for k in range(len(names)) if len(np.unique(rows[:, k])) > 1]
    alone = {k: rank([k]) for k in varied}
    found: list[tuple[int, ...]] = []
    for size in range(2, min(MOST_TOGETHER, len(varied)) + 1):
        for chosen in itertools.combinations(varied, size):
            if any(set(known) <= set(chosen) for known in found):
                continue
            if rank(chosen) < sum(alone[k] for k in chosen):
                found.append(chosen)
    return [tuple(names[k] for k in chosen) for chosen in found]
