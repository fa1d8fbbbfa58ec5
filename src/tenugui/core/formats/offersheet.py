"""What somebody who orders a figure is told: one page, as PDF. No names but the figure's own."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import BinaryIO
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.platypus import Image, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from .runsheet import FADED, INDIGO, INK, THREAD

MOST_MM = (80, 96)


@dataclass(frozen=True)
class OfferSheet:
    """Texts only, units included: title, a line below it, (label, value) of what it is, (label, amount) of what it
    costs with the sum last, what is to be known, PNG or none.
    """

    title: str
    subtitle: str
    about: Sequence[tuple[str, str]]
    costs: Sequence[tuple[str, str]]
    known: Sequence[str]
    picture: bytes | None = None


def write_offer(sheet: OfferSheet, handle: BinaryIO) -> None:
    """Lay the sheet out on A4."""
    head = ParagraphStyle("head", fontName="Times-Roman", fontSize=24, leading=29, textColor=INDIGO)
    body = ParagraphStyle("body", fontName="Helvetica", fontSize=10.5, leading=15, textColor=INK)
    right = ParagraphStyle("right", parent=body, alignment=2)
    faint = ParagraphStyle("faint", parent=body, textColor=FADED)
    rule = ("LINEBELOW", (0, 0), (-1, -1), 0.3, THREAD)
    story: list[object] = [Paragraph(escape(sheet.title), head), Paragraph(escape(sheet.subtitle), faint)]
    story.append(Spacer(1, 6 * mm))
    if sheet.picture:
        wide, high = ImageReader(io.BytesIO(sheet.picture)).getSize()
        scale = min(MOST_MM[0] * mm / wide, MOST_MM[1] * mm / high)
        story += [Image(io.BytesIO(sheet.picture), wide * scale, high * scale), Spacer(1, 6 * mm)]
    for rows, last in ((sheet.about, body), (sheet.costs, right)):
        cells = [[Paragraph(escape(k), faint), Paragraph(escape(v), last)] for k, v in rows]
        story += [Table(cells, colWidths=[70 * mm, 96 * mm], style=TableStyle([rule])), Spacer(1, 6 * mm)]
    story += [Paragraph(escape(text), faint, bulletText="\u2022") for text in sheet.known]
    SimpleDocTemplate(
        handle,
        pagesize=A4,
        title=sheet.title,
        leftMargin=22 * mm,
        rightMargin=22 * mm,
        topMargin=20 * mm,
        bottomMargin=18 * mm,
    ).build(story)
