"""Answers that are files, and cells of their tables."""

from __future__ import annotations

from typing import Any

from fastapi import Response


def cell(value: Any) -> str:
    """A cell of a table: what a table calculator would take for a formula is text."""
    if value is None:
        return ""
    text = f"{value:%Y-%m-%d %H:%M:%S}" if hasattr(value, "strftime") else str(value)
    return f"'{text}" if text[:1] in "=+-@\t\r" and not _is_number(text) else text


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def download(data: bytes, kind: str, name: str) -> Response:
    """A file under a name."""
    return Response(data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})
