"""Refusals of files, and the limits past which a file is refused unread."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import CoreError


class FormatError(CoreError):
    """A file that cannot be read as a figure."""


@dataclass(frozen=True)
class Limits:
    """Sizes past which reading is refused: bytes of the file, triangles, bytes of an archive once unpacked."""

    file_bytes: int = 600 * 1024 * 1024
    triangles: int = 8_000_000
    unpacked_bytes: int = 2_000 * 1024 * 1024


DEFAULT_LIMITS = Limits()
