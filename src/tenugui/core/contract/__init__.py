"""The headless contract: what each computation returns as a plain document, for the command line and for the application alike."""

from .documents import health_document, layers_document, pose_document, proof_document, supports_document
from .plan import Plan, make_plan, run_sheet_for
from .strip import strip_document

__all__ = [
    "Plan", "health_document", "layers_document", "make_plan", "pose_document", "proof_document", "run_sheet_for", "strip_document",
    "supports_document",
]
