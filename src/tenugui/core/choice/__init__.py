"""Choosing layer heights: what the extra hours buy."""

from .hands import FIXED_MIN, chances, finish_min, held_gift, mean_lean, off_minutes, weights_at
from .heights import HeightChoice, Heights, choose_height, height_choice
from .removal import Removal, locked_in, removal_of
from .steps import cusp_quantiles

__all__ = [
    "FIXED_MIN",
    "HeightChoice",
    "Heights",
    "Removal",
    "chances",
    "choose_height",
    "cusp_quantiles",
    "finish_min",
    "height_choice",
    "held_gift",
    "locked_in",
    "mean_lean",
    "off_minutes",
    "removal_of",
    "weights_at",
]
