"""Photos of prints, as they are kept: turned as they were taken, small enough, and without what a camera writes besides
(where and when, whose). Decoded and packed anew by the imaging library, so that nothing but pixels stays.
"""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from .problems import FormatError

MOST_BYTES = 25 * 2**20
MOST_PIXELS = 80_000_000
LONGEST, SMALL = 2400, 360
"""Pixels of the longer side, of what is kept and of what is shown in rows."""
KINDS = ("JPEG", "PNG", "WEBP")
REMEDY = "Give a photo as JPEG, PNG or WebP."


@dataclass(frozen=True)
class Photo:
    """JPEG, whole and small, and its size in pixels."""

    whole: bytes
    small: bytes
    width: int
    height: int


def read_photo(data: bytes, where: str = "photo") -> Photo:
    """A photo from a file.

    Raises:
        FormatError: `no-photo`, `photo-too-large`.
    """
    if len(data) > MOST_BYTES:
        raise FormatError("photo-too-large", f"The photo is larger than {MOST_BYTES >> 20} MB.", where, REMEDY)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(io.BytesIO(data), formats=KINDS) as image:
                wide, high = image.size
                if wide * high > MOST_PIXELS or min(wide, high) < 1:
                    raise _too_large(f"The photo has {wide:,} x {high:,} pixels", where)
                image.draft("RGB", (2 * LONGEST, 2 * LONGEST))
                turned = ImageOps.exif_transpose(image).convert("RGB")
    except FormatError:
        raise
    except Image.DecompressionBombError as reason:
        raise _too_large("The photo has far too many pixels", where) from reason
    except UnidentifiedImageError as reason:
        raise FormatError("no-photo", "This is no photo that can be read.", where, REMEDY) from reason
    except (OSError, ValueError, SyntaxError, EOFError, MemoryError) as reason:
        raise FormatError("no-photo", f"The photo is broken: {str(reason)[:80]}.", where, REMEDY) from reason
    whole = _fitted(turned, LONGEST)
    return Photo(_packed(whole), _packed(_fitted(turned, SMALL)), *whole.size)


def _too_large(said: str, where: str) -> FormatError:
    what = f"{said}; {MOST_PIXELS // 10**6} million are read."
    return FormatError("photo-too-large", what, where, "Make it smaller first.")


def _fitted(image: Image.Image, longest: int) -> Image.Image:
    return ImageOps.contain(image, (longest, longest)) if max(image.size) > longest else image


def _packed(image: Image.Image) -> bytes:
    # A new image holds pixels and nothing else.
    bare = Image.new("RGB", image.size)
    bare.paste(image)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=86, optimize=True)
    return out.getvalue()
