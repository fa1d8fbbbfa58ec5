"""Choosing layer heights: what the extra hours buy."""

from .heights import HeightChoice, Heights, choose_height, height_choice
from .steps import cusp_quantiles

__all__ = ["HeightChoice", "Heights", "choose_height", "cusp_quantiles", "height_choice"]
