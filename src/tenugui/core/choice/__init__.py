"""Choosing layer heights: what the extra hours buy."""

from .heights import HeightChoice, Heights, compare_heights
from .steps import cusp_quantiles
from .use import Use, use_of

__all__ = ["HeightChoice", "Heights", "Use", "compare_heights", "cusp_quantiles", "use_of"]
