"""The vat: time and material of a resin print, and the pull on each layer."""

from .resin import ResinUse, layer_exposure, layer_pull, layer_seconds, penetration, resin_use

__all__ = ["ResinUse", "layer_exposure", "layer_pull", "layer_seconds", "penetration", "resin_use"]
