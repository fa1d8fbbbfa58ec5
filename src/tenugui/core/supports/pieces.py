"""How many pieces of a support set stand by themselves: each is taken in hand once, whatever it carries."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from .tip import Brace, Tip

I8 = NDArray[np.int64]


def pieces(tips: Sequence[Tip], braces: Sequence[Brace] = ()) -> int:
    """Feet that stand alone: branches belong to their trunk, columns of a block that overlap are one, and so is what
    braces or interfaces join.
    """
    feet = [tip for tip in tips if not tip.branch]
    if not feet:
        return 0
    pairs = np.concatenate([_blocks(feet), _capped(feet), _braced(feet, braces)])
    one = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), (len(feet), len(feet)))
    return int(connected_components(one, directed=False)[0])


def _blocks(feet: list[Tip]) -> I8:
    square = np.flatnonzero([tip.square for tip in feet])
    if len(square) < 2:
        return np.empty((0, 2), np.int64)
    at = np.array([feet[k].joints[0][:2] for k in square])
    half = np.array([feet[k].widths[0] for k in square]) / np.sqrt(2) / 2
    near = cKDTree(at).query_pairs(2 * float(half.max()), p=np.inf, output_type="ndarray")
    meet = np.abs(at[near[:, 0]] - at[near[:, 1]]).max(axis=1) <= half[near].sum(axis=1)
    return np.asarray(square[near[meet]])


def _capped(feet: list[Tip]) -> I8:
    capped = np.flatnonzero([tip.cap > 0 for tip in feet])
    if len(capped) < 2:
        return np.empty((0, 2), np.int64)
    at = np.array([[feet[k].x, feet[k].y, feet[k].z] for k in capped])
    half, pad = np.array([feet[k].cap for k in capped]) / 2, max(feet[k].pad for k in capped)
    near = cKDTree(at[:, :2]).query_pairs(2 * float(half.max()), output_type="ndarray")
    away = np.linalg.norm(at[near[:, 0], :2] - at[near[:, 1], :2], axis=1)
    meet = (away < half[near].sum(axis=1)) & (np.abs(at[near[:, 0], 2] - at[near[:, 1], 2]) < pad)
    return np.asarray(capped[near[meet]])


def _braced(feet: list[Tip], braces: Sequence[Brace]) -> I8:
    if not braces:
        return np.empty((0, 2), np.int64)
    tree = cKDTree(np.array([tip.joints[0][:2] for tip in feet]))
    ends = np.array([[b.start[:2], b.end[:2]] for b in braces])
    return np.asarray(tree.query(ends)[1], np.int64)
