"""Tables and lists that come as the body of a request, no larger than somebody would type."""

from __future__ import annotations

from fastapi import Request

from ..store.db import StoreError


async def body_within(request: Request, most: int) -> bytes:
    """A request's body, refused as soon as it is larger, announced or not.

    Raises:
        StoreError: `too-large`.
    """
    announced = request.headers.get("content-length", "")
    parts, size = list[bytes](), int(announced) if announced.isdecimal() else 0
    if size <= most:
        size = 0
        async for part in request.stream():
            size += len(part)
            if size > most:
                break
            parts.append(part)
    if size > most:
        raise StoreError("too-large", f"It is larger than {most >> 20} MB.", "Bring it in parts.", 413)
    return b"".join(parts)
