"""Choosing layer heights: what the extra hours buy."""

from . import handling  # its source registers itself
from .bands import Banding, Bands
from .detail import MOST_MM, Detail, detail_of, draws_mm
from .drawn import crosses
from .hands import (
    FIXED_MIN,
    HIDDEN_STEP_MM,
    chances,
    finish_min,
    held_gift,
    mean_lean,
    off_minutes,
    smoothing_min,
    weights_at,
)
from .heights import HeightChoice, Heights, choose_height, height_choice, more_or_less
from .level import Level, level_of
from .places import Seen, telling_places
from .profile import WINDOW_MM, Profile, profile_at
from .purposes import Purpose, for_purposes
from .removal import Removal, locked_in, removal_of
from .steps import cusp_quantiles

__all__ = [
    "FIXED_MIN",
    "HIDDEN_STEP_MM",
    "MOST_MM",
    "WINDOW_MM",
    "Banding",
    "Bands",
    "Detail",
    "HeightChoice",
    "Heights",
    "Level",
    "Profile",
    "Purpose",
    "Removal",
    "Seen",
    "chances",
    "choose_height",
    "crosses",
    "cusp_quantiles",
    "detail_of",
    "draws_mm",
    "finish_min",
    "for_purposes",
    "handling",
    "height_choice",
    "held_gift",
    "level_of",
    "locked_in",
    "mean_lean",
    "more_or_less",
    "off_minutes",
    "profile_at",
    "removal_of",
    "smoothing_min",
    "telling_places",
    "weights_at",
]
