"""A ZIP of figure files as a kit, and a 3MF told from it. Names are only names: nothing is ever unpacked to a path."""

from __future__ import annotations

import io
import lzma
import struct
import zipfile
import zlib
from pathlib import PurePosixPath
from typing import BinaryIO

from .problems import AGAIN, DEFAULT_LIMITS, FormatError, Limits, check_size

ENDINGS = (".stl", ".obj", ".ply", ".3mf", ".glb", ".gltf")
BLOCK = 1 << 20
FAULTS = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    struct.error,
    OSError,
    EOFError,
    ValueError,
    NotImplementedError,
    RuntimeError,
)
"""What the standard library raises on a damaged archive."""


def is_3mf(handle: BinaryIO) -> bool:
    """Whether a ZIP is a 3MF package: it holds a model.

    Raises:
        FormatError: `bad-zip`.
    """
    handle.seek(0)
    try:
        with zipfile.ZipFile(handle) as archive:
            names = {name.lower() for name in archive.namelist()[:10_000]}
    except FAULTS as reason:
        raise FormatError("bad-zip", f"The archive cannot be opened: {reason}.", remedy=AGAIN) from reason
    finally:
        handle.seek(0)
    return any(name.endswith(".model") for name in names)


def _sound_name(name: str) -> str:
    path = PurePosixPath(name.replace("\\", "/"))
    if (
        not path.parts
        or path.is_absolute()
        or ".." in path.parts
        or ":" in path.parts[0]
        or any(ord(c) < 32 for c in name)
    ):
        raise FormatError(
            "bad-path",
            f"The archive names a file outside itself: '{name[:80]}'.",
            "ZIP directory",
            "Do not trust this archive; ask for another.",
        )
    return str(path)


def _unpack(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, room: int) -> bytes:
    """One entry's bytes, read block by block: what an archive says of its sizes proves nothing."""
    unpacked = io.BytesIO()
    with archive.open(entry) as source:
        while block := source.read(BLOCK):
            unpacked.write(block)
            if unpacked.tell() > room:
                raise FormatError(
                    "too-large",
                    "The archive unpacks to more than the limit.",
                    entry.filename[:80],
                    "Send the parts one by one.",
                )
    return unpacked.getvalue()


def read_kit(handle: BinaryIO, size: int, limits: Limits = DEFAULT_LIMITS) -> dict[str, bytes]:
    """The figure files of a ZIP by their path inside it, in its order. Folders, hidden files and other endings are
    passed over.

    Raises:
        FormatError: `too-many-files`, `locked`, `bad-zip`, `no-figure`.
    """
    check_size(size, limits)
    files: dict[str, bytes] = {}
    room = limits.unpacked_bytes
    try:
        with zipfile.ZipFile(handle) as archive:
            entries = archive.infolist()
            if len(entries) > 20 * limits.entries:
                raise FormatError(
                    "too-many-files", f"The archive holds {len(entries):,} files.", remedy="Send the parts one by one."
                )
            for entry in entries:
                name = _sound_name(entry.filename)
                hidden = any(part.startswith((".", "__MACOSX")) for part in PurePosixPath(name).parts)
                if entry.is_dir() or hidden or not name.lower().endswith(ENDINGS):
                    continue
                if entry.flag_bits & 1:
                    raise FormatError("locked", "The archive is locked with a password.", name, "Unlock it first.")
                files[name] = _unpack(archive, entry, min(room, limits.file_bytes))
                room -= len(files[name])
                if len(files) > limits.entries:
                    raise FormatError(
                        "too-many-files",
                        f"The archive holds more than {limits.entries} figures.",
                        remedy="Send the parts one by one.",
                    )
    except FAULTS as reason:
        raise FormatError("bad-zip", f"The archive cannot be read: {reason}.", remedy=AGAIN) from reason
    if not files:
        raise FormatError(
            "no-figure", f"The archive holds no {', '.join(ENDINGS)} file.", remedy="Put the figures' files into it."
        )
    return files
