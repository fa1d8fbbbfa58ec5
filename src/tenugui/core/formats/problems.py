"""Refusals of files, and the limits past which a file is refused unread."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass

from ..errors import CoreError

AGAIN = "Export or download the file again."


class FormatError(CoreError):
    """A file that cannot be read as a figure."""


@dataclass(frozen=True)
class Limits:
    """Sizes past which reading is refused: bytes of the file, triangles, bytes of an archive once unpacked, files in an
    archive.

    Between `triangles` and `thinned_from` a file is read only to be thinned.
    """

    file_bytes: int = 1200 * 1024 * 1024
    triangles: int = 5_000_000
    thinned_from: int = 20_000_000
    unpacked_bytes: int = 2_000 * 1024 * 1024
    entries: int = 500


DEFAULT_LIMITS = Limits()
NO_LIMITS = Limits(*[2**40] * 5)
"""For what has come in already."""


def check_size(size: int, limits: Limits) -> None:
    """Refuse an empty file and one past the limit.

    Raises:
        FormatError: `empty-file`, `too-large`.
    """
    if size == 0:
        raise FormatError("empty-file", "The file is empty.", remedy=AGAIN)
    if size > limits.file_bytes:
        raise FormatError(
            "too-large",
            f"The file is {size / 2**20:.0f} MB; the limit is {limits.file_bytes / 2**20:.0f} MB.",
            remedy="Decimate the figure first, or raise the limit in the settings.",
        )


def check_triangles(count: int, limits: Limits) -> None:
    """Refuse no triangles and too many.

    Raises:
        FormatError: `no-triangles`.
    """
    if count <= 0:
        raise FormatError("no-triangles", "The file holds no triangles.", remedy="Export the figure again as a mesh.")
    if count > limits.triangles:
        fewer = "Bring in a thinner copy" if count <= limits.thinned_from else "Decimate the figure first"
        raise FormatError(
            "too-many-triangles" if count <= limits.thinned_from else "far-too-many-triangles",
            f"{count:,} triangles; the limit is {limits.triangles:,}.",
            remedy=f"{fewer}, or raise the limit in the settings.",
        )


def check_parts(count: int, limits: Limits) -> None:
    """Refuse more parts than a kit may have.

    Raises:
        FormatError: `too-many-parts`.
    """
    if count > limits.entries:
        raise FormatError(
            "too-many-parts",
            f"The file holds more than {limits.entries:,} parts.",
            remedy="Join parts that belong together.",
        )


def unused(name: str, taken: Container[str], times: dict[str, int]) -> str:
    """A name that is not taken: the second of a kind is called 2. `times` counts, so that a thousand of one name take
    no longer than a thousand.
    """
    if name not in taken:
        return name
    times[name] = times.get(name, 1) + 1
    return unused(f"{name} {times[name]}", taken, times)
