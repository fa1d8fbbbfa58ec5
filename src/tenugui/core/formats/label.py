"""The label of a run: small enough for the underside of a base or a bag, with a plain number and a code to scan."""

from __future__ import annotations

from dataclasses import dataclass
from typing import BinaryIO

import segno
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from ..names import plain
from .runsheet import FADED, INDIGO, INK

WIDE_MM, HIGH_MM, EDGE_MM = 50.0, 19.0, 1.5
FONT, SERIF = "Helvetica", "Times-Roman"


@dataclass(frozen=True)
class Label:
    """A run's number, what is printed, lines below it, and what its code holds."""

    number: int
    name: str
    lines: tuple[str, ...]
    code: str


def write_labels(labels: list[Label], handle: BinaryIO) -> None:
    """A page a label, so that a label printer cuts them and a sheet printer sets them side by side."""
    page = Canvas(handle, pagesize=(WIDE_MM * mm, HIGH_MM * mm), pageCompression=1)
    page.setTitle("Labels" if len(labels) != 1 else f"Run {labels[0].number}")
    page.setAuthor("Tenugui")
    for label in labels:
        _draw(page, label)
        page.showPage()
    page.save()


def _draw(page: Canvas, label: Label) -> None:
    side = (HIGH_MM - 2 * EDGE_MM) * mm
    modules = [list(row) for row in segno.make(label.code, error="m", micro=False).matrix]
    cell = side / len(modules)
    page.setFillColor(INK)
    for row, bits in enumerate(modules):
        for column, dark in enumerate(bits):
            if dark:
                at = (EDGE_MM * mm + column * cell, EDGE_MM * mm + side - (row + 1) * cell)
                page.rect(*at, cell, cell, stroke=0, fill=1)
    left, room = EDGE_MM * mm * 2 + side, (WIDE_MM - 3 * EDGE_MM) * mm - side
    page.setFillColor(INDIGO)
    page.setFont(SERIF, 13)
    page.drawString(left, (HIGH_MM - 6) * mm, f"Run {label.number}")
    page.setFillColor(INK)
    for k, line in enumerate((label.name, *label.lines)):
        page.setFont(FONT, 6.2)
        page.setFillColor(INK if k == 0 else FADED)
        page.drawString(left, (HIGH_MM - 9.4 - 2.7 * k) * mm, _cut(plain(line), room, 6.2))


def _cut(text: str, room: float, size: float) -> str:
    """As much of a line as there is room for."""
    if stringWidth(text, FONT, size) <= room:
        return text
    while text and stringWidth(text + "…", FONT, size) > room:
        text = text[:-1]
    return text.rstrip() + "…"
