"""Plates: pieces of proved plans nested on a machine, and what a plate of them takes and risks.

Terms. *Footprint*: the outline of every layer of figure, supports and raft, laid on each other. *Piece*: one copy of a
plan. *Turn*: by how much a piece is turned about the vertical. *Batch*: how many pieces of a kind are printed at once.
"""

from .footprint import Polygon, footprint_of, grown
from .nest import Nested, Shape, nested
from .plates import Piece, Plate, Plates, batch_curve, plates_of

__all__ = [
    "Nested",
    "Piece",
    "Plate",
    "Plates",
    "Polygon",
    "Shape",
    "batch_curve",
    "footprint_of",
    "grown",
    "nested",
    "plates_of",
]
