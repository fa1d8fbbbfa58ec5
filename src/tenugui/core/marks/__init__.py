"""Marks: which surfaces matter.

Terms. *Kind*: what a mark says of a face: `show` (seen, keep it clean), `hidden` (nobody sees it), `fit` (must meet
another part), `keep_out` (no support may touch), `hold` (support here). *Stroke*: one deed of the user, in the file's
frame, so that it can be done again on any mesh of the figure: a repaired, a thinner, a coarser one. *Labels*: one kind
a face, 0 for none.
"""

from .kinds import KEPT_FREE, KINDS, MarkError, labels_from_lists, lists_of, scar_weights, to_hold
from .mirror import Plane, mirror_plane
from .propose import PROPOSALS, Proposal, propose, soft_weights, underside
from .strokes import Stroke, gathered, nearest_faces, replay, strokes_from, transfer

__all__ = [
    "KEPT_FREE",
    "KINDS",
    "PROPOSALS",
    "MarkError",
    "Plane",
    "Proposal",
    "Stroke",
    "gathered",
    "labels_from_lists",
    "lists_of",
    "mirror_plane",
    "nearest_faces",
    "propose",
    "replay",
    "scar_weights",
    "soft_weights",
    "strokes_from",
    "to_hold",
    "transfer",
    "underside",
]
