"""The vat: time and material of a resin print, the pull on each layer, and what it wears."""

from .archive import ArchiveError, Manifest, ReadBack, layer_image, read_archive, write_archive
from .pull import Peak, film_wear, peaks, slower
from .resin import ResinUse, exposures, layer_exposure, layer_pull, layer_seconds, print_through_mm, resin_use

__all__ = [
    "ArchiveError",
    "Manifest",
    "Peak",
    "ReadBack",
    "ResinUse",
    "exposures",
    "film_wear",
    "layer_exposure",
    "layer_image",
    "layer_pull",
    "layer_seconds",
    "peaks",
    "print_through_mm",
    "read_archive",
    "resin_use",
    "slower",
    "write_archive",
]
