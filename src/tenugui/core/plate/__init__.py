"""Plates: pieces of proved plans nested on a machine, and what a plate of them takes and risks.

Terms. *Footprint*: the outline of every layer of figure, supports and raft, laid on each other. *Piece*: one copy of a
plan. *Turn*: by how much a piece is turned about the vertical. *Batch*: how many pieces of a kind are printed at once.
"""

from .between import CUTTER_MM, Between, between
from .by_hand import Trespass, trespasses
from .card import READY, Look, Threat, looks
from .cost import Dear, Spent, spent_on
from .footprint import Polygon, footprint_of, grown
from .in_turn import TAKES_LATER, InTurn, in_turn
from .nest import Box, Nested, Shape, nested
from .plates import VAT_ML, Piece, Plate, Plates, batch_curve, plate_of, plates_of
from .support_sets import SetOnPlate, SupportSet, sets_on_plate

__all__ = [
    "CUTTER_MM",
    "READY",
    "TAKES_LATER",
    "VAT_ML",
    "Between",
    "Box",
    "Dear",
    "InTurn",
    "Look",
    "Nested",
    "Piece",
    "Plate",
    "Plates",
    "Polygon",
    "SetOnPlate",
    "Shape",
    "Spent",
    "SupportSet",
    "Threat",
    "Trespass",
    "batch_curve",
    "between",
    "footprint_of",
    "grown",
    "in_turn",
    "looks",
    "nested",
    "plate_of",
    "plates_of",
    "sets_on_plate",
    "spent_on",
    "trespasses",
]
