"""`tenugui/printed@1`: what a machine's file from anywhere would do on a printer, and what is wrong with it."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from .base import Document


class FaultDoc(Document):
    """Something wrong with a file: how much of it, and where first."""

    code: str
    severity: Literal["severe", "warning", "notice"]
    count: int
    message: str


class PrintedDoc(Document):
    """A file as it reads: its layers, what it takes, and for how long on this printer."""

    schema_: Literal["tenugui/printed@1"] = Field("tenugui/printed@1", alias="schema")
    kind: Literal["layers", "gcode"]
    printer: str
    layers: int
    layer_height_mm: float | None
    tall_mm: float
    volume_ml: float
    time_s: float
    findings: list[FaultDoc]
