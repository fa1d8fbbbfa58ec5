"""Taking supports off: from where a cutter reaches, what it may break, and the minutes that it and the finish take."""

from . import handling  # its source registers itself
from .cutter import Removal, locked_in, removal_of
from .hands import (
    HIDDEN_STEP_MM,
    chances,
    finish_min,
    held_gift,
    mean_lean,
    off_minutes,
    smoothing_min,
    weights_at,
)

__all__ = [
    "HIDDEN_STEP_MM",
    "Removal",
    "chances",
    "finish_min",
    "handling",
    "held_gift",
    "locked_in",
    "mean_lean",
    "off_minutes",
    "removal_of",
    "smoothing_min",
    "weights_at",
]
