"""Choosing layer heights: what the extra hours buy."""

from .detail import MOST_MM, Detail, detail_of, draws_mm
from .hands import FIXED_MIN, chances, finish_min, held_gift, mean_lean, off_minutes, weights_at
from .heights import HeightChoice, Heights, choose_height, height_choice, more_or_less
from .places import Seen, telling_places
from .profile import WINDOW_MM, Profile, profile_at
from .removal import Removal, locked_in, removal_of
from .steps import cusp_quantiles

__all__ = [
    "FIXED_MIN",
    "MOST_MM",
    "WINDOW_MM",
    "Detail",
    "HeightChoice",
    "Heights",
    "Profile",
    "Removal",
    "Seen",
    "chances",
    "choose_height",
    "cusp_quantiles",
    "detail_of",
    "draws_mm",
    "finish_min",
    "height_choice",
    "held_gift",
    "locked_in",
    "mean_lean",
    "more_or_less",
    "off_minutes",
    "profile_at",
    "removal_of",
    "telling_places",
    "weights_at",
]
