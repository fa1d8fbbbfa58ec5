"""The headless contract: what each computation returns as a plain document, for the command line and for the application alike."""

from .documents import (
    cuts_document,
    health_document,
    layers_document,
    map_document,
    pose_document,
    proof_document,
    repair_document,
    supports_document,
)
from .folds import DECIDED, FOLDS, Decision, Fold, folds_of, next_of
from .plan import Plan, make_plan, run_sheet_for
from .preview import PREVIEW_FACES, SIGHT_FACES, pack_labels, pack_mesh, pack_values, unpack_labels, unpack_mesh, unpack_values
from .strip import strip_document

__all__ = [
    "DECIDED",
    "FOLDS",
    "PREVIEW_FACES",
    "SIGHT_FACES",
    "Decision",
    "Fold",
    "Plan",
    "cuts_document",
    "folds_of",
    "health_document",
    "layers_document",
    "make_plan",
    "map_document",
    "next_of",
    "pack_labels",
    "pack_mesh",
    "pack_values",
    "pose_document",
    "proof_document",
    "repair_document",
    "run_sheet_for",
    "strip_document",
    "supports_document",
    "unpack_labels",
    "unpack_mesh",
    "unpack_values",
]
