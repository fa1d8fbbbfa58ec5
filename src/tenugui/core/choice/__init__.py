"""Choosing layer heights: what the extra hours buy."""

from .hands import FIXED_MIN, chances, costs_at, finish_min, held_gift, mean_lean
from .heights import HeightChoice, Heights, choose_height, height_choice
from .steps import cusp_quantiles

__all__ = [
    "FIXED_MIN",
    "HeightChoice",
    "Heights",
    "chances",
    "choose_height",
    "costs_at",
    "cusp_quantiles",
    "finish_min",
    "height_choice",
    "held_gift",
    "mean_lean",
]
