"""The run sheet: one page to take to the machine, as PDF."""

from __future__ import annotations

import io
from dataclasses import dataclass, field
from typing import BinaryIO
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.platypus import Image, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

INDIGO, INK, FADED, THREAD, PERSIMMON = (HexColor(c) for c in ("#20375f", "#1d2b45", "#5e6880", "#cfc6b0", "#a84e1d"))


@dataclass(frozen=True)
class RunSheet:
    """Texts only, units included: title, a line below it, (label, value) settings, hazards (severity, text, remedy),
    cautions, PNG or none.
    """

    title: str
    subtitle: str
    settings: list[tuple[str, str]]
    hazards: list[tuple[str, str, str]]
    cautions: list[str]
    picture: bytes | None = None
    notes: list[str] = field(default_factory=list)


def write_run_sheet(sheet: RunSheet, handle: BinaryIO) -> None:
    """Lay the sheet out on A4."""
    head = ParagraphStyle("head", fontName="Times-Roman", fontSize=22, leading=26, textColor=INDIGO)
    section = ParagraphStyle(
        "section", fontName="Times-Roman", fontSize=14, leading=18, textColor=INDIGO, spaceBefore=8, spaceAfter=3
    )
    body = ParagraphStyle("body", fontName="Helvetica", fontSize=9.5, leading=13, textColor=INK)
    faint = ParagraphStyle("faint", parent=body, textColor=FADED)
    story: list[object] = [
        Paragraph(escape(sheet.title), head),
        Paragraph(escape(sheet.subtitle), faint),
        Spacer(1, 4 * mm),
    ]
    table = Table(
        [[Paragraph(escape(k), faint), Paragraph(escape(v), body)] for k, v in sheet.settings],
        colWidths=[38 * mm, 66 * mm],
        style=TableStyle(
            [
                ("LINEBELOW", (0, 0), (-1, -1), 0.3, THREAD),
                ("TOPPADDING", (0, 0), (-1, -1), 2),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
            ]
        ),
    )
    if sheet.picture:
        wide, high = ImageReader(io.BytesIO(sheet.picture)).getSize()
        scale = min(62 * mm / wide, 90 * mm / high)
        story.append(
            Table(
                [[table, Image(io.BytesIO(sheet.picture), wide * scale, high * scale)]],
                colWidths=[108 * mm, 66 * mm],
                style=TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (0, 0), 0)]),
            )
        )
    else:
        story.append(table)
    for note in sheet.notes:
        story.append(Paragraph(escape(note), body))
    story.append(Paragraph("Hazards", section))
    if not sheet.hazards:
        story.append(Paragraph("The ledger holds no hazard. All chances are priors until your log has runs.", body))
    for severity, text, remedy in sheet.hazards:
        style = ParagraphStyle(
            "h", parent=body, leftIndent=10, bulletIndent=0, textColor=PERSIMMON if severity == "severe" else INK
        )
        story.append(
            Paragraph(f"{escape(text)} <font color='#5e6880'>{escape(remedy)}</font>", style, bulletText="\u2022")
        )
    story.append(
        KeepTogether(
            [Paragraph("Cautions", section), *[Paragraph(escape(c), body, bulletText="\u2022") for c in sheet.cautions]]
        )
    )
    story.append(Spacer(1, 4 * mm))
    story.append(
        Paragraph(
            "Started ____________   Lifted off ____________   Washed "
            "/ cleaned ____________   Outcome ________________________",
            faint,
        )
    )
    SimpleDocTemplate(
        handle,
        pagesize=A4,
        leftMargin=18 * mm,
        rightMargin=18 * mm,
        topMargin=16 * mm,
        bottomMargin=14 * mm,
        title=sheet.title,
        author="Tenugui",
    ).build(story)
