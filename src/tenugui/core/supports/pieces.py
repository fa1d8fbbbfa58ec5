"""How many pieces of a support set stand by themselves: each is taken in hand once, whatever it carries."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from .make import Tip


def pieces(tips: Sequence[Tip]) -> int:
    """Feet that stand alone: branches belong to their trunk, columns of a block that overlap are one."""
    feet = [tip for tip in tips if not tip.branch]
    square = [tip for tip in feet if tip.square]
    if not square:
        return len(feet)
    at = np.array([tip.joints[0][:2] for tip in square])
    side = max(tip.widths[0] for tip in square) / np.sqrt(2)
    pairs = cKDTree(at).query_pairs(side, p=np.inf, output_type="ndarray")
    one = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), (len(at), len(at)))
    blocks, _ = connected_components(one, directed=False)
    return len(feet) - len(square) + int(blocks)
