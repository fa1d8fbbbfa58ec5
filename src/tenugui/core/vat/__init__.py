"""The vat: time and material of a resin print, the pull on each layer, and what it wears."""

from .pull import Peak, film_wear, peaks, slower
from .resin import ResinUse, layer_exposure, layer_pull, layer_seconds, penetration, resin_use

__all__ = [
    "Peak",
    "ResinUse",
    "film_wear",
    "layer_exposure",
    "layer_pull",
    "layer_seconds",
    "peaks",
    "penetration",
    "resin_use",
    "slower",
]
