"""Every moment at which a body is pulled, laid out once for all trial prints.

Terms. *Node*: a body from one joining to the next; nodes form a tree, the later one above. *Moment*: one layer of a
node, with the force and its middle. All holds of a node at a moment lie side by side in one order (those of what it
joined first, then its own by when they came), so that a print walks a range.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..compiled import njit
from ..mesh.shells import find
from ..supports import Carrying
from ..supports.holds import Layout

F8 = NDArray[np.float64]
I4 = NDArray[np.int32]
I8 = NDArray[np.int64]
B1 = NDArray[np.bool_]


class Moments(NamedTuple):
    """`layer`, `node`, `force` N, `x`, `y` mm, and the range `low`, `high` of holds, each (m,), in the order of layers;
    of every node (k,) the one above it (`parent`, -1 none) and the area sum it ends with, those below included
    (`volume`); of every hold its place and strength (h, 3), which tip it is (`tip`, -1 for the plate), and the node of
    every component (n,).
    """

    layer: I4
    node: I4
    force: F8
    x: F8
    y: F8
    low: I4
    high: I4
    parent: I4
    volume: F8
    holds: F8
    tip: I4
    of: I4


class Grown(NamedTuple):
    """What a walk writes: of components (n,) their root's node and their own; of nodes parent and volume; the node of
    every hold; of moments layer, node, force, its moments x and y, and the holds of its own that a node has by then.
    """

    node: I4
    parent: I4
    volume: F8
    hold_node: I4
    of: I4
    m_layer: I4
    m_node: I4
    force: F8
    x: F8
    y: F8
    own: I4


@njit()
def _walk(laid: Layout, body: I4, grown: Grown) -> tuple[int, int]:
    """Nodes and moments of a walk up the layers; `own` (m,): how many holds of its own a node has by then. Returns how
    many nodes and how many moments.
    """
    layer, area, centre, pull = laid.layer, laid.area, laid.centre, laid.pull
    link_start, links, hold_start = laid.link_start, laid.links, laid.hold_start
    node, parent, volume, hold_node, of, m_layer, m_node, force, x, y, own = grown
    n = len(layer)
    size, count = np.zeros(n), np.zeros(2 * n, np.int32)
    stamp, at = np.full(n, -1, np.int32), np.full(n, -1, np.int32)
    nodes, moments, a = 0, 0, 0
    while a < n:
        b = a
        while b < n and layer[b] == layer[a]:
            b += 1
        for c in range(a, b):
            for q in range(link_start[c], link_start[c + 1]):
                root, top = find(body, links[q, 1]), find(body, c)
                if root == top:
                    continue
                if size[root] > 0 and size[top] > 0:
                    # Two that were bodies go on as a new one; one that joined in this very layer goes on as it is.
                    parent[node[root]], parent[node[top]] = nodes, nodes
                    volume[nodes] = volume[node[root]] + volume[node[top]]
                    body[root] = top
                    size[top] += size[root]
                    node[top] = nodes
                    nodes += 1
                elif size[root] > 0:
                    body[top] = root
                else:
                    body[root] = top
            root = find(body, c)
            if size[root] <= 0:
                node[root] = nodes
                nodes += 1
            size[root] += area[c]
            volume[node[root]] += area[c]
        for c in range(a, b):
            root = find(body, c)
            of[c] = node[root]
            for h in range(hold_start[c], hold_start[c + 1]):
                hold_node[h] = node[root]
                count[node[root]] += 1
        for c in range(a, b):
            root = find(body, c)
            if stamp[root] != layer[a]:
                stamp[root], at[root] = layer[a], moments
                m_layer[moments], m_node[moments] = layer[a], node[root]
                moments += 1
            m = at[root]
            force[m] += pull[c]
            x[m] += pull[c] * centre[c, 0]
            y[m] += pull[c] * centre[c, 1]
            own[m] = count[node[root]]
        a = b
    return nodes, moments


@njit()
def _laid_out(parent: I4, hold_node: I4, first: I4, start: I4, place: I4) -> None:
    """Where each node's holds begin (`first`), where its own do (`start`), and the place of each hold in that order."""
    nodes = len(parent)
    within = np.zeros(nodes, np.int32)
    mine = np.zeros(nodes, np.int32)
    for h in range(len(hold_node)):
        mine[hold_node[h]] += 1
    for k in range(nodes):  # what is below comes before what is above it
        within[k] += mine[k]
        if parent[k] >= 0:
            within[parent[k]] += within[k]
    given = np.zeros(nodes, np.int32)
    roots = 0
    for k in range(nodes - 1, -1, -1):
        if parent[k] < 0:
            first[k] = roots
            roots += within[k]
        else:
            first[k] = first[parent[k]] + given[parent[k]]
            given[parent[k]] += within[k]
        start[k] = first[k] + within[k] - mine[k]
    filled = np.zeros(nodes, np.int32)
    for h in range(len(hold_node)):
        k = hold_node[h]
        place[h] = start[k] + filled[k]
        filled[k] += 1


def moments_of(carrying: Carrying, on: I4, points: F8, strength: F8) -> Moments:
    """Of a figure with tips at `points` (t, 3) on components `on` (t,), -1 for none, each of `strength` (t,) N.
    O(components + holds).
    """
    laid = carrying.laid(on, points, strength)
    n, many_holds = len(laid.layer), len(laid.holds)
    body, node = np.arange(n, dtype=np.int32), np.full(n, -1, np.int32)
    parent, volume = np.full(2 * n, -1, np.int32), np.zeros(2 * n)
    hold_node, of = np.zeros(many_holds, np.int32), np.zeros(n, np.int32)
    m_layer, m_node, own = (np.zeros(n, np.int32) for _ in range(3))
    force, x, y = (np.zeros(n) for _ in range(3))
    grown = Grown(node, parent, volume, hold_node, of, m_layer, m_node, force, x, y, own)
    nodes, many = _walk(laid, body, grown)
    first, start, place = np.zeros(nodes, np.int32), np.zeros(nodes, np.int32), np.zeros(many_holds, np.int32)
    _laid_out(parent[:nodes], hold_node, first, start, place)
    holds, tips = np.empty((many_holds, 3)), np.empty(many_holds, np.int32)
    holds[place], tips[place] = laid.holds, laid.tip
    at, safe = m_node[:many], np.maximum(force[:many], 1e-300)
    high = (start[at] + own[:many]).astype(np.int32)
    return Moments(
        m_layer[:many],
        at,
        force[:many],
        x[:many] / safe,
        y[:many] / safe,
        first[at],
        high,
        parent[:nodes],
        volume[:nodes],
        holds,
        tips,
        of,
    )
